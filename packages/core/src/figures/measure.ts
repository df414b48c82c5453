import { compileFabric, compileMemo } from '../compile/compileFabric.ts';
import { deriveConfigs } from '../config/deriveConfigs.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { linux } from '../dialects/linux/linux.ts';
import type { SwitchModel } from '../hardware/switchModel.ts';
import { applyEdit, applyEdits } from '../intent/edits/index.ts';
import type { Edit } from '../intent/edits/index.ts';
import { emptyIntent, type FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { cablesOf } from '../layout/links.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { upTo } from '../numbers/order.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, holdingsOf, NOTHING_HELD, poolsToDraw } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { proveChange, type ProofMemo } from '../proof/proveChange.ts';
import { SKERRY_POOLS } from '../demo/skerry.ts';

/**
 * One measurement in a process of its own: a numbered fabric of so many leaves and spines with 100 networks in 10 VRFs
 * on every leaf and one server a leaf. Prints times in ms by stage, peak memory, and the floor as JSON. With `spread` after
 * the numbers: 3,790 networks in 200 VRFs, each on 20 racks (a VLAN means the same everywhere, so there are no more), and
 * the proof alone. With `single`: of one AS, led by OSPF. With `both` behind it, or `per-leaf both`: with IPv6 between switches.
 */
const [leaves = 32, spines = 8] = process.argv.slice(2, 4).map(Number);
const isSpread = process.argv[4] === 'spread';
const asnScheme = process.argv[4] === 'single' ? 'single' : 'per-leaf';
const underlayFamilies = process.argv[5] === 'both' ? 'both' : 'ipv4';
const vrfs = isSpread ? 200 : 10;
const model = (name: string, blocks: SwitchModel['blocks']): SwitchModel => ({
  name,
  maker: 'Brightwater Works',
  dialect: 'linux',
  blocks,
  maxMtu: 9216,
});
const pools: Pool[] = [
  { name: 'spine-as', kind: 'asn', ranges: ['4200000000'] },
  { name: 'leaf-as', kind: 'asn', ranges: ['4200000001-4200009999'] },
  { name: 'loopbacks', kind: 'ipv4', ranges: ['10.255.0.0/20'] },
  { name: 'vteps', kind: 'ipv4', ranges: ['10.254.0.0/20'] },
  { name: 'fabric-links', kind: 'ipv4', ranges: ['10.252.0.0/15'] },
  { name: 'loopbacks-6', kind: 'ipv6', ranges: ['2001:db8:ff::/112'] },
  { name: 'fabric-links-6', kind: 'ipv6', ranges: ['2001:db8:fe::/108'] },
  { name: 'overlay', kind: 'vni', ranges: ['10000-20000'] },
  { name: 'skerry-tenants', kind: 'ipv4', ranges: ['10.0.0.0/10'] },
];
const racks = upTo(leaves);
const edits: Edit[] = [
  {
    kind: 'layFabric',
    pattern: {
      name: 'bench',
      description: '',
      spines: { count: spines, model: 'BW-S' },
      parallel: 1,
      racks: [{ pattern: 'one', count: leaves }],
      settings: { underlay: 'numbered', underlayFamilies, asnScheme },
    },
    models: [
      model('BW-L', [
        { ports: 'p1-p48', speed: 25 },
        { ports: 'p49-p80', speed: 100 },
      ]),
      model('BW-S', [{ ports: 'p1-p1024', speed: 100 }]),
    ],
    rackPatterns: [{ name: 'one', kind: 'single', leafModel: 'BW-L', serverPorts: 'p1-p48', uplinkPorts: 'p49-p80' }],
  },
  { kind: 'choosePools', pools: SKERRY_POOLS },
  ...upTo(vrfs).map((i): Edit => ({ kind: 'addVrf', vrf: { name: `vrf${i}`, transitVlan: 3800 + i } })),
  ...upTo(isSpread ? 3790 : 100).map((i): Edit => ({
    kind: 'addNetwork',
    network: {
      name: `net${i}`,
      vrf: `vrf${1 + (i % vrfs)}`,
      vlan: 1 + i,
      subnetLength: 24,
      racks: isSpread ? upTo(20).map((k) => 1 + ((i * 7 + k * 51) % leaves)) : racks,
    },
  })),
];

let peak = 0;
const stages: Record<string, number> = {};
let last = performance.now();
const lap = (stage: string): void => {
  stages[stage] = performance.now() - last;
  peak = Math.max(peak, process.memoryUsage().rss);
  last = performance.now();
};
const intent = applyEdits(emptyIntent('bench', 'bw'), edits).intent;
lap('intent');
const layout = layOut(intent);
lap('layout');
const drawn = drawValues(demandsOf(intent, layout), pools, NOTHING_HELD, { fabric: intent.name, change: null });
if (drawn.findings.length > 0) throw new Error(drawn.findings[0]!.message);
lap('draw');
/** Milliseconds of a piece of work. */
function timed<T>(work: () => T): [T, number] {
  const from = performance.now();
  const made = work();
  return [made, performance.now() - from];
}
const middle = (times: readonly number[]): number => [...times].sort((a, b) => a - b)[times.length >> 1]!;

// Text and its floor by turns, seven times each, since what the machine gives changes within seconds. Text is flattened
// into bytes, as it would be to leave the process; the floor is the very same bytes, line by line, joined as plain strings.
const derived: number[] = [];
const rendered: number[] = [];
const floors: number[] = [];
let configs: SwitchConfig[] = [];
let texts: (readonly (readonly [string, Buffer])[])[] = [];
let [bytes, lines] = [0, 0];
for (let turn = 0; turn < 7; turn++) {
  texts = [];
  let ms: number;
  [configs, ms] = timed(() => [...deriveConfigs(intent, layout, drawn.values, pools).values()]);
  derived.push(ms);
  [texts, ms] = timed(() =>
    configs.map((c) => Object.entries(linux.render(c).files).map(([name, text]) => [name, Buffer.from(text)] as const)),
  );
  rendered.push(ms);
  let joined = 0;
  const kept: Buffer[] = [];
  [bytes, lines] = [0, 0];
  // One document at a time, so that nothing but the joining is counted; what is made is kept, as the texts are.
  for (const [, made] of texts.flat()) {
    const own = made.toString().split('\n');
    lines += own.length;
    const [size, took] = timed(() => {
      let out = '';
      for (const line of own) out += `${line}\n`;
      kept.push(Buffer.from(out));
      return kept.at(-1)!.length;
    });
    bytes += size;
    joined += took;
  }
  floors.push(joined);
}
stages['derive'] = middle(derived);
stages['render'] = middle(rendered);
const floor = middle(floors);
const toText = Object.values(stages).reduce((a, b) => a + b, 0);
const documents = texts.map((files) => Object.fromEntries(files.map(([name, made]) => [name, made.toString()])));
last = performance.now();
const switches = documents.map((files, i) => ({ host: configs[i]!.hostname, ...linux.parse(files) }));
lap('parse');
const cables = cablesOf(layout);
const network = modelNetwork(switches, cables);
lap('model');
const judged = judgeNetwork(network);
lap('judge');
if (judged.findings.length > 0) throw new Error(judged.findings[0]!.message);
const toProof = stages['parse']! + stages['model']! + stages['judge']!;
texts = [];

/** One server on one port: the text of the fabric again, and read again; the median of fifteen, all on other ports. */
function measureRewrite(): number {
  const memo = compileMemo();
  compileFabric(intent, drawn.values, pools, memo);
  const times = upTo(15).map((n) => {
    const next = applyEdit(intent, {
      kind: 'connectServer',
      port: { rack: 6, side: 'a', port: `p${n}`, server: 'one', untagged: 'net1', tagged: [] },
    }).intent;
    return timed(() => compileFabric(next, drawn.values, pools, memo))[1];
  });
  return middle(times);
}
if (isSpread) {
  process.stdout.write(JSON.stringify({ leaves, spines, stages, toText, toProof, peakMiB: peak / 2 ** 20 }));
  process.exit(0);
}
const rewrite = measureRewrite();

/** One server on one port of a fabric that was proved before: the median of fifteen proofs, all with another port. */
function measureEdit(): number {
  const memo: ProofMemo = {};
  const before = { intent, values: drawn.values };
  proveChange(before, before, pools, [], memo);
  const times: number[] = [];
  for (const port of upTo(15).map((n) => `p${n}`)) {
    const from = performance.now();
    const next = applyEdit(intent, {
      kind: 'connectServer',
      port: { rack: 5, side: 'a', port, server: 'one', untagged: 'net1', tagged: [] },
    }).intent;
    const owner = { fabric: intent.name, change: 'c' };
    const demands = demandsOf(next, layOut(next));
    // As the server does: only of pools that something is drawn from is it asked what is taken.
    const own = [...drawn.entries];
    const taken = poolsToDraw(demands, own, owner).size === 0 ? NOTHING_HELD.taken : holdingsOf(own, owner).taken;
    const { values } = drawValues(demands, pools, { own, taken }, owner);
    const { report } = proveChange(before, { intent: next, values }, pools, [], memo);
    if (!report.clean || report.switches.filter((x) => x.fate === 'changed').length !== 1)
      throw new Error('the edit should touch one switch');
    times.push(performance.now() - from);
  }
  return middle(times);
}
const edit = measureEdit();

/** A route map that every leaf tells its subnets by, changed: the median of three proofs, each with another metric. */
function measurePolicyEdit(): number {
  const told = (metric: number): Edit => ({
    kind: 'putPolicy',
    policy: { is: 'route-map', name: 'told', entries: [{ seq: 10, permit: true, set: { metric } }] },
  });
  const of = (from: FabricIntent, ...more: readonly Edit[]) => {
    const { intent: made, findings } = applyEdits(from, more);
    if (findings.length > 0) throw new Error(findings[0]!.message);
    return { intent: made, values: drawn.values };
  };
  const before = of(
    intent,
    told(1),
    ...intent.vrfs.map((vrf): Edit => ({ kind: 'changeVrf', name: vrf.name, vrf: { ...vrf, connectedMap: 'told' } })),
  );
  const memo: ProofMemo = {};
  proveChange(before, before, pools, [], memo);
  const times = [2, 3, 4].map((metric) => {
    const [{ report }, took] = timed(() => proveChange(before, of(before.intent, told(metric)), pools, [], memo));
    if (!report.clean || report.switches.filter((x) => x.fate === 'changed').length !== leaves)
      throw new Error('the edit should touch every leaf');
    return took;
  });
  return middle(times);
}
const policyEdit = measurePolicyEdit();
process.stdout.write(
  JSON.stringify({
    leaves,
    spines,
    stages,
    toText,
    toProof,
    peakMiB: peak / 2 ** 20,
    floor,
    bytes,
    lines,
    rewrite,
    edit,
    policyEdit,
  }),
);
