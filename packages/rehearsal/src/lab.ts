import { linux, viewOf, cablesSpokenOver, vlanPort, type SwitchConfig, type SwitchFolder } from '@anthemion/core';
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Box } from './box.ts';
import { counted, counting, filtersFor, filtersNotShown } from './filters.ts';
import {
  FORWARDING,
  lagDevices,
  planSwitch,
  plugHosts,
  taggedPorts,
  type NotShown,
  type PluggedHost,
} from './kernel.ts';
import { IFUPDOWN, type Programs } from './programs.ts';
import { Servers } from './servers.ts';
import { unsafeWord } from './safeWords.ts';

/** A document that a daemon did not take whole. */
export interface Refused {
  readonly host: string;
  readonly document: 'interfaces' | 'frr.conf' | 'nftables.conf';
  readonly said: string;
}

/** Two runs on one machine do not meet: what is made outside of a box bears the process it is of. */
const RUN = `rh${process.pid.toString(36)}`;
/** Its look at a file advises against a bridge’s MTU; bringing the bridge up, it gives 1500 to one that says none. */
const NEEDED_ALL_THE_SAME = /bridge inherits mtu from its ports\. There is no need to assign mtu on a bridge/;
/** What is said while a file is loaded, and refuses nothing. */
const SAID_ON_THE_WAY =
  /Waiting for children|Processing|\[\d+\|\w+\]|^Graceful restart configuration changed, reset all peers to take effect/;
/** What daemons that were ended have left in the kernel: neighbours, addresses behind tunnels, routes. */
const FORGET = `for n in "" $(ls /run/netns); do
  ip \${n:+-n $n} neigh flush all; ip \${n:+-n $n} route flush proto bgp; ip -6 \${n:+-n $n} route flush proto bgp
  for v in $(ip \${n:+-n $n} -o link show type vxlan | cut -d : -f 2); do bridge \${n:+-n $n} fdb flush dev \${v%@*}; done
done 2>/dev/null`;
/** The daemons that a text asks for, where a switch is not told what to start; OSPF’s takes a while to. */
const askedFor = (frrConf: string): string[] => [
  'bgpd',
  'bfdd',
  ...(/^ *(router ospf|ip ospf)\b/m.test(frrConf) ? ['ospfd'] : []),
  ...(/^ *(router ospf6|ipv6 ospf6)\b/m.test(frrConf) ? ['ospf6d'] : []),
];

const within = (vrf: string | undefined, what: string): string =>
  vrf === undefined ? what : `ip netns exec ${vrf} ${what}`;

/** Switches on real daemons, cabled as the folder says, with their servers. Ended, it leaves nothing behind. */
export class Lab {
  private readonly folder: SwitchFolder;
  private readonly programs: Programs;
  private readonly boxes = new Map<string, Box>();
  private serverBox: Box | null = null;
  private ofServers: Servers | null = null;
  /** Switches that BIRD runs, with what it is told. */
  private readonly birds: ReadonlyMap<string, string>;
  private readonly etc = mkdtempSync(join(tmpdir(), `rehearsal-${process.pid}-`));
  readonly plugged: readonly PluggedHost[];
  readonly notShown: NotShown[] = [];
  readonly refused: Refused[] = [];
  private readonly checks: Promise<void>[] = [];

  /**
   * @param birds switches that BIRD runs, with its text, where there is one; all others are FRR’s
   * @throws where a name of the folder is more than a name
   */
  constructor(folder: SwitchFolder, programs: Programs, birds: ReadonlyMap<string, string> = new Map()) {
    const unsafe = unsafeWord(folder);
    if (unsafe !== null) {
      rmSync(this.etc, { recursive: true, force: true });
      throw new Error(unsafe);
    }
    this.folder = folder;
    this.programs = programs;
    this.birds = programs.bird === null ? new Map() : birds;
    if (programs.bird === null)
      for (const host of birds.keys()) this.notShown.push({ host, what: 'BIRD is not here: FRR runs it' });
    const { plugged, notShown } = plugHosts(folder);
    this.plugged = plugged;
    this.notShown.push(...notShown);
    // Also where somebody ends the run: the boxes die with this process, their folder goes here.
    process.once('exit', this.atExit);
  }
  private readonly atExit = (): void => this.down();

  /** Its servers, once it is up. */
  get servers(): Servers {
    return this.ofServers!;
  }
  /** Is a switch another hand’s, and FRR’s questions have no answer there? */
  isBird(host: string): boolean {
    return this.birds.has(host);
  }
  /** Prefixes that BIRD has put into the kernel’s table of a switch, as text. */
  async birdRoutes(host: string): Promise<ReadonlySet<string>> {
    const { out } = await this.boxes.get(host)!.run('ip -4 -j route show proto bird');
    const routes = JSON.parse(out.trim() || '[]') as { readonly dst: string; readonly type?: string }[];
    const all = (dst: string): string => (dst === 'default' ? '0.0.0.0/0' : dst.includes('/') ? dst : `${dst}/32`);
    return new Set(routes.map((r) => all(r.dst)));
  }

  /** Brings everything up; texts that are refused are noted, commands of the kernel that fail are errors. */
  async up(): Promise<void> {
    const environment = { ...process.env, ...this.programs.environment };
    const { switches, cables } = this.folder;
    await Promise.all(switches.map(async (s) => this.boxes.set(s.host, await Box.make(environment))));
    this.serverBox = await Box.make(environment);
    const plugged = cables.filter((c) => this.boxes.has(c.a.host) && this.boxes.has(c.b.host));
    const views = new Map(switches.map((s) => [s.host, viewOf(s.config)]));
    this.plug(cablesSpokenOver(views, plugged), this.plugged);
    await Promise.all(switches.map((s) => this.bringUp(s.host)));
    this.ofServers = new Servers({
      box: this.serverBox,
      plugged: this.plugged,
      configOf: (host) => this.configOf(host),
      ping: this.programs.ping,
      etc: this.etc,
    });
    await this.ofServers.up();
  }

  /** Cables are pairs of interfaces, one end in each namespace. */
  private plug(cables: SwitchFolder['cables'], servers: readonly PluggedHost[]): void {
    const lines = [
      ...cables.flatMap(({ a, b }, i) => [
        `link add ${RUN}a${i} type veth peer name ${RUN}b${i}`,
        `link set ${RUN}a${i} netns ${this.boxes.get(a.host)!.id} name ${a.port}`,
        `link set ${RUN}b${i} netns ${this.boxes.get(b.host)!.id} name ${b.port}`,
        ...this.vlansOver(a, b).flatMap((vlan) => [
          `link add ${RUN}a${i} type veth peer name ${RUN}b${i}`,
          `link set ${RUN}a${i} netns ${this.boxes.get(a.host)!.id} name ${vlanPort(a.port, vlan)}`,
          `link set ${RUN}b${i} netns ${this.boxes.get(b.host)!.id} name ${vlanPort(b.port, vlan)}`,
        ]),
      ]),
      ...servers
        .filter((s, i) => servers.findIndex((o) => o.n === s.n) === i)
        .flatMap(({ of, n }) => [
          `link add ${RUN}c${n} type veth peer name ${RUN}d${n}`,
          `link set ${RUN}c${n} netns ${this.boxes.get(of.switch)!.id} name ${of.port}`,
          `link set ${RUN}d${n} netns ${this.serverBox!.id} name s${n}`,
        ]),
    ];
    const done = spawnSync('ip', ['-batch', '-'], { input: `${lines.join('\n')}\n`, encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`cables could not be plugged: ${done.stderr.split('\n')[0]}`);
  }

  private configOf(host: string): SwitchConfig {
    return this.folder.switches.find((s) => s.host === host)!.config;
  }
  /** VLANs that either end of a cable sends with a tag. */
  private vlansOver(...ends: readonly { readonly host: string; readonly port: string }[]): number[] {
    const vlans = ends.flatMap(({ host, port }) => taggedPorts(this.configOf(host)).get(port) ?? []);
    return [...new Set(vlans)];
  }

  private async bringUp(host: string): Promise<void> {
    const box = this.boxes.get(host)!;
    const trunks = new Set(
      this.folder.cables.flatMap(({ a, b }) =>
        this.boxes.has(a.host) && this.boxes.has(b.host)
          ? [a, b].filter((e) => e.host === host).map((e) => e.port)
          : [],
      ),
    );
    const plan = planSwitch(host, this.configOf(host), trunks);
    this.notShown.push(...plan.notShown);
    const etc = join(this.etc, host);
    mkdirSync(etc, { recursive: true });
    writeFileSync(join(etc, 'frr.conf'), this.folder.files.get(host)!['frr.conf']!);
    writeFileSync(join(etc, 'vtysh.conf'), 'service integrated-vtysh-config\n');
    // The daemons run as root in here; they want to find their user and groups all the same.
    const named = (list: string, lines: readonly string[]): void => {
      const others = readFileSync(`/etc/${list}`, 'utf8')
        .split('\n')
        .filter((l) => l !== '' && !/^frr(vty)?:/.test(l));
      writeFileSync(join(etc, list), `${[...others, ...lines].join('\n')}\n`);
    };
    named('passwd', ['frr:x:9201:9201::/:/bin/false']);
    named('group', ['frr:x:9201:', 'frrvty:x:9202:root,frr']);
    const bird = this.birds.get(host);
    if (bird !== undefined) writeFileSync(join(etc, 'bird.conf'), bird);
    const script = [
      'set -e',
      `hostname ${host}`,
      `mount --bind ${join(etc, 'passwd')} /etc/passwd && mount --bind ${join(etc, 'group')} /etc/group`,
      `[ -d /etc/frr ] || mkdir -p /etc/frr`,
      `mount --bind ${etc} /etc/frr`,
      'mkdir -p /var/tmp/frr /var/log/frr /run/frr && chmod 777 /run/frr',
      FORWARDING,
      'ip link set lo up',
      plan.script,
      ...(bird === undefined
        ? this.starts(host, this.folder.files.get(host)!['frr.conf']!)
        : [`${this.programs.bird} -c /etc/frr/bird.conf -s /run/bird.ctl`]),
    ].join('\n');
    const made = await box.run(script);
    if (!made.ok) throw new Error(`${host} could not be made: ${made.err.trim() || made.out.trim()}`);
    const filters = await this.filter(host, this.folder.files.get(host)!['nftables.conf']);
    if (filters !== null) this.refused.push({ host, document: 'nftables.conf', said: filters });
    const complaints = bird === undefined ? await this.loadWhole(host) : null;
    if (complaints !== null) this.refused.push({ host, document: 'frr.conf', said: complaints });
    // Beside what follows: nothing waits for it but the end.
    this.checks.push(this.checkInterfaces(host, etc));
  }

  /**
   * ifupdown2's own look at `interfaces`, with its settings, in the private /run of the box: its lock is machine-wide. It
   * reads every stanza and judges keywords and values; what it says of them counts, also where it ends well.
   */
  private async checkInterfaces(host: string, etc: string): Promise<void> {
    const root = this.programs.ifupdown;
    if (root === null) {
      this.notShown.push({ host, what: 'ifupdown2 is not here to look at interfaces' });
      return;
    }
    writeFileSync(join(etc, 'interfaces'), this.folder.files.get(host)!['interfaces']!);
    const checked = await this.boxes.get(host)!.run(
      [
        'mkdir -p /run/network /etc/network/ifupdown2',
        `mount --bind ${join(root, IFUPDOWN.settings)} /etc/network/ifupdown2`,
        // It wants to be called by that name.
        `ln -sfn ${join(root, IFUPDOWN.program)} /run/ifup`,
        `python3 /run/ifup --syntax-check -a -i ${join(etc, 'interfaces')} 2>&1`,
      ].join(' && '),
    );
    const said = checked.out
      .split('\n')
      .map((l) => l.trim())
      .filter((l) => l !== '' && !NEEDED_ALL_THE_SAME.test(l));
    if (!checked.ok && checked.out.trim() === '') said.push(checked.err.trim() || 'it is refused without a word');
    if (said.length > 0) this.refused.push({ host, document: 'interfaces', said: said.join('; ') });
  }

  /**
   * Takes the filters of a switch away and loads others, in each of its namespaces; what nft has against them, or null.
   * @param text undefined = none
   */
  async filter(host: string, text: string | undefined): Promise<string | null> {
    const { nft } = this.programs;
    const files = { ...this.folder.files.get(host)!, ...(text === undefined ? {} : { 'nftables.conf': text }) };
    const config = text === undefined ? null : linux.parse(files).config;
    if (nft === null) {
      if (text !== undefined) this.notShown.push({ host, what: 'nft is not here to load filters' });
      return null;
    }
    const etc = join(this.etc, host);
    const box = this.boxes.get(host)!;
    const vrfs = this.spacesOf(host);
    await box.run(vrfs.map((v) => within(v, `${nft} flush ruleset`)).join('; '));
    if (text === undefined) return null;
    this.notShown.push(...filtersNotShown(config!).map((what) => ({ host, what })));
    // Where nft refuses it as it stands, nothing of it counts.
    writeFileSync(join(etc, 'nftables.conf'), text);
    const whole = await box.run(`unshare --net ${nft} -f /etc/frr/nftables.conf 2>&1`);
    if (!whole.ok) return whole.out.split('\n')[0]!;
    for (const [i, vrf] of vrfs.entries()) {
      writeFileSync(join(etc, `nftables.${i}`), filtersFor(counting(files), this.configOf(host), vrf));
      const loaded = await box.run(within(vrf, `${nft} -f /etc/frr/nftables.${i} 2>&1`));
      if (!loaded.ok) throw new Error(`filters of ${host} could not be loaded: ${loaded.out.split('\n')[0]}`);
    }
    return null;
  }

  /** Namespaces of a switch: undefined = outside of VRFs. */
  private spacesOf(host: string): (string | undefined)[] {
    return [undefined, ...this.configOf(host).vrfs.map((v) => v.name)];
  }
  /** Packets that each line of the filters of a switch stopped so far. */
  async counted(host: string): Promise<ReadonlyMap<number, number>> {
    const { nft } = this.programs;
    if (nft === null) return new Map();
    const lists = this.spacesOf(host).map((v) => within(v, `${nft} list ruleset`));
    return counted((await this.boxes.get(host)!.run(lists.join('; '))).out);
  }

  /** Commands that start the daemons of a switch: what its `daemons` switches on, read as FRR’s own start does, by a shell. */
  private starts(host: string, frrConf: string): string[] {
    const start = (daemon: string): string => `${this.programs.daemons}/${daemon} -d -u root -g root -A 127.0.0.1`;
    const always = [start('zebra -n'), start('staticd')];
    const text = this.folder.files.get(host)!['daemons'];
    if (text === undefined) return [...always, ...askedFor(frrConf).map(start)];
    writeFileSync(join(this.etc, host, 'daemons'), text);
    const asked = 'eval on=\\$$d; case "$on" in ""|no|0) ;; *) ' + start('$d') + ' ;; esac';
    return [...always, `( . /etc/frr/daemons; for d in bgpd bfdd ospfd ospf6d; do ${asked}; done )`];
  }

  /** Loads the configuration that lies there; what the daemons have against it, or null. */
  private async loadWhole(host: string): Promise<string | null> {
    const lags = lagDevices(this.configOf(host));
    const loaded = await this.boxes.get(host)!.run(`${lags.off}\n${this.programs.vtysh} -b 2>&1\n${lags.on}`);
    const complaints = loaded.out.split('\n').filter((l) => l.trim() !== '' && !SAID_ON_THE_WAY.test(l));
    return complaints.length > 0 ? complaints.join('; ') : null;
  }

  /** Ends the daemons of one switch and starts them with another text; its interfaces stay. Answers their complaints. */
  async restart(host: string, frrConf: string): Promise<string | null> {
    writeFileSync(join(this.etc, host, 'frr.conf'), frrConf);
    const started = await this.boxes
      .get(host)!
      .run(
        [
          'kill -9 $(cat /run/frr/*.pid) 2>/dev/null; sleep 0.3; rm -f /run/frr/*',
          FORGET,
          ...this.starts(host, frrConf),
        ].join('\n'),
      );
    if (!started.ok) throw new Error(`${host} could not be started again: ${started.err.trim()}`);
    return this.loadWhole(host);
  }

  /** Loads lines into the daemons of a switch, beside what runs; answers what they say of them. */
  async load(host: string, text: string): Promise<string> {
    const file = join(this.etc, host, 'more.conf');
    writeFileSync(file, text);
    return (await this.boxes.get(host)!.run(`${this.programs.vtysh} -f /etc/frr/more.conf 2>&1`)).out;
  }

  /** What a switch answers to a question of FRR's shell. */
  async ask(host: string, question: string): Promise<string> {
    return (await this.boxes.get(host)!.run(`${this.programs.vtysh} -c ${JSON.stringify(question)}`)).out;
  }

  async askJson<T>(host: string, question: string): Promise<T | null> {
    try {
      return JSON.parse(await this.ask(host, `${question} json`)) as T;
    } catch {
      return null;
    }
  }

  /** Every document was looked at when this is done. */
  async checked(): Promise<void> {
    await Promise.all(this.checks);
  }

  /** Takes everything down, whatever state it is in. */
  down(): void {
    process.off('exit', this.atExit);
    for (const box of this.boxes.values()) box.end();
    this.serverBox?.end();
    rmSync(this.etc, { recursive: true, force: true });
  }
}
