import { linux, type ConfigFiles } from '@anthemion/core';
import { existsSync, readFileSync } from 'node:fs';
import { SwitchTrouble, type SshLine } from './sshLine.ts';

const HELPER = [
  new URL('../../helper/anthemion-apply', import.meta.url),
  new URL('./anthemion-apply', import.meta.url),
].find((u) => existsSync(u));
const HOME = '/var/lib/anthemion';
const APPLY = `sh ${HOME}/anthemion-apply`;

export type ApplyState = 'none' | 'loading' | 'pending' | 'confirmed' | 'undone';
export interface ApplyStatus {
  readonly state: ApplyState;
  readonly id: string;
  /** Seconds since 1970. */
  readonly deadline: number;
}
/** State of one BGP peer per family as the switch says it. */
export type PeerStates = ReadonlyMap<string, { readonly ipv4?: string; readonly evpn?: string }>;
export interface Neighbour {
  readonly port: string;
  readonly host: string;
  readonly farPort: string;
}
export interface Identity {
  readonly serial: string;
  readonly model: string;
  readonly version: string;
}

/** What can be asked of and done to a Linux switch over an open line. */
export class LinuxDriver {
  private readonly line: SshLine;
  constructor(line: SshLine) {
    this.line = line;
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
    const files: Record<string, string> = {};
    for (const [name, path] of Object.entries(linux.paths)) files[name] = (await this.line.get(path)) ?? '';
    return files;
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
    const said = await this.json<Record<string, { peers?: Record<string, { state: string }> }>>(
      "vtysh -c 'show bgp summary json'",
    );
    const out = new Map<string, { ipv4?: string; evpn?: string }>();
    for (const [family, key] of [
      ['ipv4Unicast', 'ipv4'],
      ['l2VpnEvpn', 'evpn'],
    ] as const)
      for (const [peer, { state }] of Object.entries(said[family]?.peers ?? {}))
        out.set(peer, { ...out.get(peer), [key]: state });
    return out;
  }

  async neighbours(): Promise<Neighbour[]> {
    interface Lldp {
      lldp: { interface?: Record<string, { chassis: Record<string, object>; port: { id: { value: string } } }>[] };
    }
    const said = await this.json<Lldp>('lldpcli -f json show neighbors');
    return (said.lldp.interface ?? []).flatMap((entry) =>
      Object.entries(entry).map(([port, n]) => ({
        port,
        host: Object.keys(n.chassis)[0] ?? '',
        farPort: n.port.id.value,
      })),
    );
  }

  /** Puts the text beside what runs, under an id, together with the helper that will load it. */
  async stage(id: string, files: ConfigFiles): Promise<void> {
    if (!HELPER) throw new Error('the apply helper is not beside the server');
    const helper = readFileSync(HELPER, 'utf8');
    if ((await this.line.get(`${HOME}/anthemion-apply`)) !== helper)
      await this.line.put(`${HOME}/anthemion-apply`, helper);
    await this.line.exec(`mkdir -p ${HOME}/${id}`);
    for (const [name, text] of Object.entries(files)) await this.line.put(`${HOME}/${id}/${name}`, text);
  }

  private async helper(command: string): Promise<{ ok: boolean; code: number; text: string }> {
    const done = await this.line.exec(`${APPLY} ${command}`);
    return { ok: done.code === 0, code: done.code, text: `${done.stdout}${done.stderr}`.trim() };
  }
  check(id: string): Promise<{ ok: boolean; code: number; text: string }> {
    return this.helper(`check ${id}`);
  }
  apply(id: string, seconds: number): Promise<{ ok: boolean; code: number; text: string }> {
    return this.helper(`apply ${id} ${seconds}`);
  }
  confirm(id: string): Promise<{ ok: boolean; code: number; text: string }> {
    return this.helper(`confirm ${id}`);
  }
  undo(id: string): Promise<{ ok: boolean; code: number; text: string }> {
    return this.helper(`undo ${id}`);
  }
  async status(): Promise<ApplyStatus> {
    if ((await this.line.get(`${HOME}/anthemion-apply`)) === null) return { state: 'none', id: '-', deadline: 0 };
    const [state = 'none', id = '-', deadline = '0'] = (await this.helper('status')).text.split(' ');
    return { state: state as ApplyState, id, deadline: Number(deadline) };
  }
}
