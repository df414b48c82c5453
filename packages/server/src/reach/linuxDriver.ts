import {
  filesFrom,
  heardHosts,
  hideSaid,
  MarksTrouble,
  ownedOf,
  seenAdjacent,
  seenPeer,
  type BridgeEntry,
  type ConfigFiles,
  type Dialect,
  type DocumentKind,
  type HeardHost,
  type NeighbourEntry,
  type OspfName,
  type PeerWords,
  type Octets,
} from '@anthemion/core';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import {
  SwitchTrouble,
  type AdjacentStates,
  type ApplyState,
  type ApplyStatus,
  type Driver,
  type Identity,
  type Neighbour,
  type PeerStates,
  type Verdict,
} from './driver.ts';
import { SealTrouble, type Opened, type Sealing } from '../store/sealing.ts';
import type { Transport } from './transport.ts';

const HELPER_FILE = [
  new URL('../../helper/anthemion-apply', import.meta.url),
  new URL('./anthemion-apply', import.meta.url),
].find((u) => existsSync(u));
const HOME = '/var/lib/anthemion';
const APPLY = `sh ${HOME}/anthemion-apply`;

let helperText: string | undefined;
function helper(): string {
  if (!HELPER_FILE) throw new Error('the apply helper is not beside the server');
  return (helperText ??= readFileSync(HELPER_FILE, 'utf8'));
}
const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
/** Words that may stand on the helper's command line without quotes. */
const wordsOnly = (text: string): string => text.replaceAll(/[^A-Za-z0-9_-]+/g, '-').slice(0, 200);

/** What can be asked of and done to a Linux switch over an open line. */
export class LinuxDriver implements Driver {
  private readonly dialect: Dialect;
  private readonly line: Transport;
  private readonly sealing: Sealing;
  /** Hides what was sent from what the switch says about it. */
  private scrub: Opened['scrub'] = (said) => said;
  constructor(dialect: Dialect, line: Transport, sealing: Sealing) {
    this.dialect = dialect;
    this.line = line;
    this.sealing = sealing;
  }

  async identity(): Promise<Identity> {
    const read = async (path: string): Promise<string> => (await this.line.exec(`cat ${path}`)).stdout.trim();
    const os = await read('/etc/os-release');
    const field = (name: string): string => new RegExp(`^${name}="?([^"\\n]*)`, 'm').exec(os)?.[1] ?? '';
    return {
      serial: await read('/sys/class/dmi/id/product_serial'),
      model: await read('/sys/class/dmi/id/product_name'),
      version: `${field('NAME')} ${field('VERSION_ID')}`.trim(),
    };
  }

  async runningText(): Promise<ConfigFiles> {
    const ours = new Map<string, string>();
    for (const kind of this.dialect.documents)
      ours.set(kind.name, this.owned(kind, (await this.line.get(kind.path)) ?? ''));
    return this.sealing.mask(filesFrom(this.dialect.documents, (kind) => ours.get(kind.name)!));
  }

  private owned(kind: DocumentKind, text: string): string {
    try {
      return ownedOf(kind, text);
    } catch (error) {
      throw error instanceof MarksTrouble ? new SwitchTrouble(error.message) : error;
    }
  }

  async textStamp(): Promise<string> {
    const stamps: string[] = [];
    for (const { path } of this.dialect.documents) stamps.push(await this.line.stampOf(path));
    return stamps.join(' ');
  }

  async signals(): Promise<ReadonlyMap<string, boolean>> {
    const said = await this.json<{ ifname: string; operstate: string }[]>('ip -j link show');
    return new Map(said.map((l) => [this.label(l.ifname), l.operstate === 'UP']));
  }

  async octets(): Promise<ReadonlyMap<string, Octets>> {
    interface Counted {
      readonly ifname: string;
      readonly stats64?: { readonly rx?: { readonly bytes?: number }; readonly tx?: { readonly bytes?: number } };
    }
    const said = await this.json<Counted[]>('ip -j -s link show');
    return new Map(
      said.flatMap(({ ifname, stats64 }) => {
        const [into, out] = [stats64?.rx?.bytes, stats64?.tx?.bytes];
        return into === undefined || out === undefined ? [] : [[this.label(ifname), { in: into, out }] as const];
      }),
    );
  }

  /** Ports go by their labels in all that is told on. */
  private label(name: string): string {
    return this.dialect.ports.labelOf(name);
  }

  private async json<T>(command: string): Promise<T> {
    const done = await this.line.exec(command);
    if (done.code !== 0) throw new SwitchTrouble(`“${command}” ended with ${done.code}: ${done.stderr.trim()}`);
    try {
      return JSON.parse(done.stdout) as T;
    } catch {
      throw new SwitchTrouble(`“${command}” did not answer in JSON`);
    }
  }

  async peers(): Promise<PeerStates> {
    type Family = { readonly peers?: Record<string, { state: string }> } | undefined;
    const said = await this.json<Record<string, Record<string, Family>>>("vtysh -c 'show bgp vrf all summary json'");
    const out = new Map<string, PeerWords>();
    for (const [vrf, families] of Object.entries(said))
      for (const [family, key] of [
        ['ipv4Unicast', 'ipv4'],
        ['ipv6Unicast', 'ipv6'],
        ['l2VpnEvpn', 'evpn'],
      ] as const)
        for (const [name, { state }] of Object.entries(families[family]?.peers ?? {})) {
          const peer = seenPeer(vrf === 'default' ? undefined : vrf, this.label(name));
          out.set(peer, { ...out.get(peer), [key]: state });
        }
    return out;
  }

  speaksOspf(files: ConfigFiles): boolean {
    return Object.values(files).some((text) => text.includes('router ospf'));
  }

  async adjacent(): Promise<AdjacentStates> {
    const out = new Map<string, string>();
    type V2 = { readonly neighbors?: Record<string, readonly { nbrState?: string; ifaceName?: string }[]> };
    type V3 = { readonly neighbors?: readonly { state?: string; interfaceName?: string }[] };
    const put = (by: OspfName, port: string | undefined, state: string | undefined): void => {
      // The word is “Full/-” or “Full/DR”, the port “p49:10.0.0.1”.
      if (port !== undefined) out.set(seenAdjacent(by, this.label(port.split(':')[0]!)), (state ?? '').split('/')[0]!);
    };
    for (const n of Object.values(
      (await this.told<V2>("vtysh -c 'show ip ospf neighbor json'"))?.neighbors ?? {},
    ).flat())
      put('OSPF', n.ifaceName, n.nbrState);
    for (const n of (await this.told<V3>("vtysh -c 'show ipv6 ospf6 neighbor json'"))?.neighbors ?? [])
      put('OSPFv3', n.interfaceName, n.state);
    return out;
  }
  /** What a daemon says; null = it does not run, or has nothing to say. */
  private async told<T>(command: string): Promise<T | null> {
    const done = await this.line.exec(command);
    if (done.code !== 0 || done.stdout.trim() === '') return null;
    try {
      return JSON.parse(done.stdout) as T;
    } catch {
      throw new SwitchTrouble(`“${command}” did not answer in JSON`);
    }
  }

  async neighbours(): Promise<Neighbour[]> {
    interface Lldp {
      lldp: { interface?: Record<string, { chassis: Record<string, object>; port: { id: { value: string } } }>[] };
    }
    const said = await this.json<Lldp>('lldpcli -f json show neighbors');
    return (said.lldp.interface ?? []).flatMap((entry) =>
      Object.entries(entry).map(([port, n]) => ({
        port: this.label(port),
        host: Object.keys(n.chassis)[0] ?? '',
        farPort: n.port.id.value,
      })),
    );
  }

  async heard(): Promise<HeardHost[]> {
    const heard = heardHosts(
      await this.json<BridgeEntry[]>('bridge -j fdb show'),
      await this.json<NeighbourEntry[]>('ip -j neigh show'),
    );
    return heard.map((h) => ({ ...h, port: this.label(h.port) }));
  }

  private async run(command: string): Promise<Verdict> {
    const done = await this.line.exec(`${APPLY} ${command}`);
    return { ok: done.code === 0, code: done.code, text: hideSaid(this.scrub(`${done.stdout}${done.stderr}`.trim())) };
  }

  async equip(): Promise<Verdict> {
    if ((await this.line.get(`${HOME}/anthemion-apply`)) !== helper()) {
      // Put beside and moved over by the helper itself, so that a line that is lost leaves the old one whole.
      await this.line.put(`${HOME}/anthemion-apply.new`, helper());
      const put = await this.line.exec(`sh ${HOME}/anthemion-apply.new adopt ${sha256(helper())}`);
      if (put.code !== 0) return { ok: false, code: put.code, text: `${put.stdout}${put.stderr}`.trim() };
    }
    return this.run('equip');
  }

  /** The one place where secrets leave: into the files that are put on the switch. */
  async stage(id: string, masked: ConfigFiles): Promise<void> {
    const { files: meant, scrub } = await this.sealing.open(masked).catch((error: unknown) => {
      throw error instanceof SealTrouble ? new SwitchTrouble(error.message) : error;
    });
    this.scrub = scrub;
    // A document that is not meant to be there leaves nothing of ours.
    const none = this.dialect.documents.flatMap((d) =>
      d.optional && !(d.name in meant) ? [[d.name, ''] as const] : [],
    );
    const files: ConfigFiles = { ...meant, ...Object.fromEntries(none) };
    await this.line.makeFolder(`${HOME}/${id}`);
    for (const [name, text] of Object.entries(files)) await this.line.put(`${HOME}/${id}/${name}`, text);
    const sent = this.dialect.documents.filter((d) => d.name in files);
    const documents = sent.map((d) => `${[d.name, d.path, ...(d.region ? [d.comment] : [])].join(' ')}\n`).join('');
    await this.line.put(`${HOME}/${id}/documents`, documents);
    const sums = Object.entries({ ...files, documents }).map(([name, text]) => `${sha256(text)}  ${name}\n`);
    await this.line.put(`${HOME}/${id}/sums`, sums.join(''));
  }

  check(id: string): Promise<Verdict> {
    return this.run(`check ${id}`);
  }
  apply(id: string, seconds: number): Promise<Verdict> {
    return this.run(`apply ${id} ${seconds}`);
  }
  confirm(id: string): Promise<Verdict> {
    return this.run(`confirm ${id}`);
  }
  undo(id: string): Promise<Verdict> {
    return this.run(`undo ${id}`);
  }
  cancel(id: string): Promise<Verdict> {
    return this.run(`cancel ${id}`);
  }
  release(id: string, reason: string): Promise<Verdict> {
    return this.run(`release ${id} ${wordsOnly(reason)}`);
  }

  async status(): Promise<ApplyStatus> {
    if ((await this.line.get(`${HOME}/anthemion-apply`)) === null) return { state: 'none', id: '-', secondsLeft: 0 };
    const { text } = await this.run('status');
    const [state = 'none', id = '-', left = '0'] = text.split(' ');
    return { state: state as ApplyState, id, secondsLeft: Number(left) };
  }
}
