import {
  FRR_TRIALS,
  legReach,
  linux,
  modelNetwork,
  readIntentFile,
  type FrrLandings,
  type SwitchFolder,
} from '@anthemion/core';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { describe, expect, test } from 'vitest';
import { runByBird } from './bird.ts';
import { fuzzTogether } from './fuzz.ts';
import { folderOf, generated, ledByOspf, withFilters, withIpv6, withOutside, ofKind } from './generate.ts';
import { landingsOn } from './landings.ts';
import { planSwitch, plugHosts } from './kernel.ts';
import { findPrograms, type Programs } from './programs.ts';
import { placed } from './readBack.ts';
import { agrees, onlySwitches, rehearse, type HeldHow, type Rehearsed } from './rehearse.ts';

const programs = findPrograms();
if (typeof programs === 'string') process.stdout.write(`Nothing is rehearsed here. ${programs}\n`);
/** 12 mistakes in each of two fabrics. */
const ROUNDS = 3;
const SEED = Number(process.env['ANTHEMION_SEED'] ?? 20261126);

const example = readFileSync(new URL('../../../docs/examples/skerry.yaml', import.meta.url), 'utf8');
const read = readIntentFile(example);
if ('findings' in read) throw new Error(read.findings[0]!.message);
const skerry = folderOf(read.file.fabric);
const FIVE = onlySwitches(skerry, new Set(['sk-sp-01', 'sk-sp-02', 'sk-lf-01', 'sk-lf-02', 'sk-lf-03']));

/** A folder whose daemons run another text than the one the model is asked about. */
const running = (folder: SwitchFolder, host: string, change: (text: string) => string): SwitchFolder => {
  const files = folder.files.get(host)!;
  const text = change(files['frr.conf']!);
  expect(text).not.toBe(files['frr.conf']);
  return { ...folder, files: new Map([...folder.files, [host, { ...files, 'frr.conf': text }]]) };
};
/** The model is asked about the text that runs. */
const readAnew = (folder: SwitchFolder): SwitchFolder => ({
  ...folder,
  switches: folder.switches.map(({ host }) => ({ host, ...linux.parse(folder.files.get(host)!) })),
});
const said = (r: Rehearsed): string[] => r.differences.map((d) => `${d.host}: ${d.about}`);

describe.skipIf(typeof programs === 'string')('on real daemons', () => {
  /** Large packets, which take long, where they are asked for. */
  const held = (folder: SwitchFolder, how: HeldHow = {}): Promise<Rehearsed> =>
    rehearse(folder, programs as Programs, { sizes: false, ...how });
  /** What is refused brings sessions down for good: nobody waits for them. */
  const REFUSED: HeldHow = { mostSeconds: 5 };

  test(`the model agrees in every answer: five switches of Skerry, a fabric of each shape, two of them with filters, one that OSPF leads, two with IPv6, two with routers outside, one whose servers speak, seed ${SEED}`, async () => {
    const filtered = withFilters(5, SEED);
    // Of five stages, and with a router outside.
    const [, stages, border] = withIpv6(3, SEED);
    const shapes = generated(5, SEED).map((f, i) => (i === 0 || i === 3 ? filtered[i]! : i === 1 ? stages! : f));
    const folders = [
      FIVE,
      ...shapes,
      ...ledByOspf(1, SEED),
      ...ofKind('one-as', 1, SEED),
      ...ofKind('families', 1, SEED),
      ...ofKind('neighbours', 1, SEED),
      ...ofKind('speakers', 1, SEED),
      ...ofKind('leaks', 1, SEED),
      ...withOutside(1, SEED),
      border!,
    ];
    // Large packets in a fabric that is routed and one that is not: they take long.
    const large = new Set([shapes[2], shapes[4]]);
    // Three at once, the next as one is done: most of it is waiting.
    const results: Rehearsed[] = [];
    const left = [...folders];
    const work = async (): Promise<void> => {
      for (let f = left.shift(); f; f = left.shift()) results.push(await held(f, { bird: true, sizes: large.has(f) }));
    };
    await Promise.all([work(), work(), work()]);
    expect(folders.map((f) => runByBird(f).size).reduce((a, b) => a + b)).toBeGreaterThan(0);
    for (const r of results) expect([r.refused, r.strays, r.differences], 'what differs').toEqual([[], [], []]);
    expect(results.every(agrees)).toBe(true);
    const total = (kind: keyof Rehearsed['compared']): number => results.reduce((n, r) => n + r.compared[kind], 0);
    // Something was compared of every kind.
    for (const kind of [
      'sessions',
      'adjacencies',
      'routes',
      'vteps',
      'evpnRoutes',
      'vrfRoutes',
      'ipv6Routes',
      'ipv6Pings',
      'pings',
      'largePings',
      'calls',
      'counters',
    ] as const)
      expect([kind, total(kind) > (kind === 'counters' ? 1 : 4)]).toEqual([kind, true]);
  });

  test.concurrent('it is not blind: what runs otherwise than the model was told is found, where it is', async () => {
    const four = onlySwitches(FIVE, new Set(['sk-sp-01', 'sk-sp-02', 'sk-lf-01', 'sk-lf-02']));
    // A VNI of a network that both leaves carry.
    const vni = four.switches
      .find((x) => x.host === 'sk-lf-01')!
      .config.vxlans.find(
        (x) =>
          four.switches.filter(({ config }) =>
            config.svis.some(
              (v) => v.vlan === x.vlan && v.addresses.length > 0 && config.vxlans.some((y) => y.vni === x.vni),
            ),
          ).length === 2,
      )!.vni;
    const [wrongTarget, stray] = await Promise.all([
      held(
        running(four, 'sk-lf-02', (t) => t.replace(`route-target import 65000:${vni}`, 'route-target import 65000:1')),
      ),
      held(
        readAnew(
          running(four, 'sk-lf-02', (t) =>
            t.replace(
              '  exit-vni\n exit-address-family',
              '  exit-vni\n  maximum-paths 2\n  no neighbor FABRIC activate\n exit-address-family',
            ),
          ),
        ),
      ),
    ]);
    expect(said(wrongTarget).filter((d) => d.includes(`VNI ${vni}`))).toEqual([`sk-lf-02: VTEPs heard in VNI ${vni}`]);
    // FRR takes the line without a word and puts it elsewhere, and the line after it goes there as well.
    expect(stray.strays.map((x) => [x.host, x.text, x.landed?.split(' › ').at(-1)])).toContainEqual([
      'sk-lf-02',
      'maximum-paths 2',
      'address-family ipv4 unicast',
    ]);
    // The reader knows that: the model of such a text says what the daemons do.
    expect(stray.differences).toEqual([]);
    expect(stray.compared.sessions).toBeGreaterThan(0);
  });

  type Mistake = readonly [host: string, file: 'interfaces' | 'frr.conf' | 'daemons', from: RegExp, to: string];
  /** What was planted runs, and the model is asked about it. */
  const planted = (mistakes: readonly Mistake[]): SwitchFolder => {
    const files = new Map([...FIVE.files].map(([host, of]) => [host, { ...of } as Record<string, string>]));
    for (const [host, file, from, to] of mistakes) {
      const text = files.get(host)![file]!;
      const changed = text.replace(from, to);
      expect(changed, `${host} ${from}`).not.toBe(text);
      files.get(host)![file] = changed;
    }
    return readAnew({ ...FIVE, files });
  };
  const P49 = / neighbor p49 interface remote-as external\n/;
  test.concurrent.each<[string, readonly Mistake[], { readonly sure: boolean }]>([
    [
      'automatic targets, a member out of its group’s family, the AS number of a group, a list without numbers',
      [
        ['sk-lf-01', 'frr.conf', /(  vni 10006\n   rd .*\n)(?:   route-target .*\n)+/, '$1'],
        [
          'sk-lf-02',
          'frr.conf',
          /(  neighbor FABRIC activate\n  advertise-all-vni\n)/,
          '$1  no neighbor p49 activate\n',
        ],
        ['sk-lf-03', 'frr.conf', /( neighbor FABRIC peer-group\n)/, '$1 neighbor FABRIC remote-as 65999\n'],
        ['sk-sp-02', 'frr.conf', /ip prefix-list LOOPBACKS seq \d+ /, 'ip prefix-list LOOPBACKS '],
      ],
      { sure: true },
    ],
    [
      'lines that are not understood',
      [
        ['sk-lf-01', 'frr.conf', P49, '$& neighbor p49 capability dynamic\n'],
        [
          'sk-lf-02',
          'frr.conf',
          / neighbor p50 interface remote-as external\n/,
          '$& neighbor p50 override-capability\n',
        ],
      ],
      { sure: false },
    ],
    [
      'a list that is refused, and what is lost with it',
      [
        [
          'sk-lf-02',
          'frr.conf',
          /(ip prefix-list LOOPBACKS seq 10 .*\n)/,
          '$1ip prefix-list X seq 5 permit 10.0.0.0/24 ge 12\n',
        ],
      ],
      { sure: false },
    ],
    [
      'daemons that are not started',
      [
        ['sk-lf-03', 'daemons', /bgpd=yes/, 'bgpd="no"'],
        ['sk-lf-01', 'daemons', /bfdd=yes/, 'bfdd=yes\nbfdd='],
      ],
      { sure: true },
    ],
    ['one VTEP on two switches', [['sk-lf-02', 'interfaces', /10\.255\.1\.1(?!\d)/g, '10.255.1.0']], { sure: false }],
  ])('planted, the model is right of it or says that it is not sure: %s', async (_what, mistakes, { sure }) => {
    const r = await held(planted(mistakes));
    expect(r.differences).toEqual([]);
    expect(r.compared.unsure > 0).toBe(!sure);
    // Most of it stays certain.
    expect(r.compared.sessions + r.compared.routes).toBeGreaterThan(40);
  });

  test.concurrent.each([
    ['five switches of Skerry', () => FIVE],
    ['a fabric with a router outside', () => withOutside(1, SEED)[0]!],
  ] as const)(
    'random mistakes, four switches at once: the model is right of all that it is sure of: %s',
    async (_what, folder) => {
      const rounds = await fuzzTogether(folder(), ROUNDS, 4, SEED, programs as Programs);
      for (const { mistakes, differences } of rounds)
        expect([mistakes.map((m) => `${m.host}:${m.line} ${m.what}`), differences]).toEqual([expect.anything(), []]);
      // What differs until it is started anew is rare, or it is no race.
      const once = rounds.filter((r) => r.differedOnce.length > 0);
      for (const r of once) process.stderr.write(`differed once: ${JSON.stringify(r)}\n`);
      expect(once.length).toBeLessThanOrEqual(1);
      const sure = rounds.map(({ compared: c }) => c.sessions + c.routes + c.vteps + c.vrfRoutes + c.pings);
      const unsure = rounds.map(({ compared: c }) => c.unsure);
      const sum = (of: readonly number[]): number => of.reduce((a, b) => a + b, 0);
      // It does not get off by being sure of nothing.
      expect(sum(sure)).toBeGreaterThan(2 * sum(unsure));
    },
  );

  test.concurrent('a VLAN that is missing on a trunk cuts servers off, as the model says', async () => {
    const switched = generated(5, SEED)[4]!;
    const [first] = switched.hosts;
    const other = switched.hosts.find((h) => h.switch !== first!.switch && h.vlan === first!.vlan)!;
    const cut = (host: string, from: RegExp, to: string): SwitchFolder => {
      const files = switched.files.get(host)!;
      const text = files['interfaces']!.replace(from, to);
      expect(text).not.toBe(files['interfaces']);
      return readAnew({ ...switched, files: new Map([...switched.files, [host, { ...files, interfaces: text }]]) });
    };
    // Every line of this VLAN on ports and on the bridge, but that of the server.
    const word = new RegExp(`(bridge-vids.*?) ?\\b${first!.vlan}\\b`, 'g');
    const folder = cut(other.switch, word, '$1');
    const reach = legReach(modelNetwork(folder.switches, folder.cables, folder.hosts), first!, other);
    expect(reach).toMatchObject({ ok: false });
    const r = await held(folder);
    expect([r.refused, r.differences]).toEqual([[], []]);
    expect(r.compared.pings).toBeGreaterThan(0);
  });

  test.concurrent(
    `lines land where the table says that they do: 24 of ${FRR_TRIALS.length}, seed ${SEED}`,
    async () => {
      const { landings } = JSON.parse(
        readFileSync(new URL('../../core/src/dialects/linux/frrLandings.json', import.meta.url), 'utf8'),
      ) as FrrLandings;
      const some = fc.sample(fc.shuffledSubarray([...FRR_TRIALS], { minLength: 24, maxLength: 24 }), {
        seed: SEED,
        numRuns: 1,
      })[0]!;
      const seen = await landingsOn(programs as Programs, some);
      expect(some.map((t, i) => [t.block.path, t.line, seen[i]])).toEqual(
        some.map((t) => [t.block.path, t.line, landings[t.block.path]![t.line]]),
      );
    },
  );

  test.concurrent('a line that no daemon takes is refused by name', async () => {
    const two = onlySwitches(FIVE, new Set(['sk-sp-01', 'sk-lf-01']));
    const r = await held(
      running(two, 'sk-lf-01', (t) => `${t}\nrouter bgp sixty\n`),
      REFUSED,
    );
    expect(r.refused).toEqual([
      { host: 'sk-lf-01', document: 'frr.conf', said: expect.stringContaining('router bgp sixty') as string },
    ]);
    expect(agrees(r)).toBe(false);
  });

  test
    .skipIf(typeof programs !== 'string' && programs.ifupdown === null)
    .concurrent('ifupdown2 looks at interfaces too: what it refuses is said by its name, with its words', async () => {
      const two = onlySwitches(FIVE, new Set(['sk-sp-01', 'sk-lf-01']));
      const files = two.files.get('sk-lf-01')!;
      const interfaces = files['interfaces']!.replace(/vxlan-id \d+/, 'vxlan-id 16777215');
      expect(interfaces).not.toBe(files['interfaces']);
      const r = await held({ ...two, files: new Map([...two.files, ['sk-lf-01', { ...files, interfaces }]]) }, REFUSED);
      expect(r.refused).toEqual([
        { host: 'sk-lf-01', document: 'interfaces', said: expect.stringContaining('16777215') as string },
      ]);
    });

  test('nothing is left behind, also where the kernel refuses a command', async () => {
    const one = onlySwitches(FIVE, new Set(['sk-lf-01']));
    const [sw] = one.switches;
    const broken = { ...one, switches: [{ ...sw!, config: { ...sw!.config, loopbacks: ['300.1.1.1/32'] } }] };
    await expect(held(broken)).rejects.toThrow(/sk-lf-01 could not be made: .*300\.1\.1\.1/);
    await new Promise((go) => setTimeout(go, 300));
    const own = process.pid;
    const links = spawnSync('ip', ['-o', 'link'], { encoding: 'utf8' }).stdout;
    expect(links).not.toContain(`rh${own.toString(36)}`);
    expect(spawnSync('pgrep', ['-P', String(own), 'unshare'], { encoding: 'utf8' }).stdout).toBe('');
    expect(readdirSync(tmpdir()).filter((f) => f.startsWith(`rehearsal-${own}-`))).toEqual([]);
  });
});

test('lines are placed in their blocks, with and without exits', () => {
  const text =
    'vrf red\n vni 5\nexit-vrf\nrouter bgp 1\n address-family l2vpn evpn\n  vni 7\n   rd 1:1\n  exit-vni\n exit-address-family\nexit\nip route 10.0.0.0/8 blackhole\n';
  expect(placed(text).map((p) => [p.line, p.text, p.block])).toEqual([
    [1, 'vrf red', ''],
    [2, 'vni 5', 'vrf red'],
    [4, 'router bgp 1', ''],
    [5, 'address-family l2vpn evpn', 'router bgp 1'],
    [6, 'vni 7', 'router bgp 1 › address-family l2vpn evpn'],
    [7, 'rd 1:1', 'router bgp 1 › address-family l2vpn evpn › vni 7'],
    [11, 'ip route 10.0.0.0/8 blackhole', ''],
  ]);
});

test('what this kernel cannot show is counted, and nothing of it is plugged', () => {
  const pair = skerry.switches.find((s) => s.config.lags.length > 0)!;
  const { notShown } = planSwitch(pair.host, pair.config);
  expect(notShown.length).toBe(pair.config.lags.filter((l) => l.segment).length);
  const [sw] = FIVE.switches.filter((s) => s.config.lags.length === 0 && s.config.bridge);
  const tagged = {
    ...FIVE,
    switches: [
      {
        ...sw!,
        config: {
          ...sw!.config,
          ports: sw!.config.ports.map((p) => ({
            ...p,
            ...(p.bridging ? { bridging: { tagged: [p.bridging.untagged!] } } : {}),
          })),
        },
      },
    ],
    hosts: FIVE.hosts.filter((h) => h.switch === sw!.host),
  };
  const plug = plugHosts(tagged);
  expect([plug.plugged, plug.notShown.length]).toEqual([[], tagged.hosts.length]);
});
