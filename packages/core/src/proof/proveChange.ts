import {
  compileFabric,
  compileMemo,
  copyMemo,
  type CompiledFabric,
  type CompileMemo,
} from '../compile/compileFabric.ts';
import type { ConfigFiles } from '../dialects/documents.ts';
import type { Finding, FindingSubject } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { seatIds } from '../intent/seatIds.ts';
import { demandsOf } from '../pools/demands.ts';
import type { FamilyPaths } from '../network/familyRows.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { HostPort, NetworkModel } from '../network/networkModel.ts';
import { onceFor } from '../onceFor.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import { bothEnds } from './bothEnds.ts';
import { judgeNetwork, type Judged, type RuleVerdict } from './judgeNetwork.ts';
import { documentCounts } from './lineCounts.ts';
import { outsideAgrees } from './outsideAgrees.ts';
import { placeFindings } from './placeFindings.ts';
import { gatewaysGo } from './gatewaysGo.ts';
import { reachAnew } from './reachAnew.ts';
import { sessionsAnew } from './sessionsAnew.ts';
import { FABRIC_RULES } from './fabricRules/index.ts';
import { judgeFabric } from './judgeFabric.ts';
import { DESIGN_RULES } from './rules/index.ts';
import { waive } from './waive.ts';
import { startsAnew } from './startsAnew.ts';
import { toldAnew } from './toldAnew.ts';

/** A fabric's intent with the values that were drawn for it. */
export interface FabricState {
  readonly intent: FabricIntent;
  readonly values: Values;
}

export interface SwitchChange {
  readonly seat: string;
  readonly host: string;
  /** Lines added and removed against the state before. */
  readonly added: number;
  readonly removed: number;
  readonly fate: 'new' | 'changed' | 'gone' | 'same';
}

/** Counts read from the network model, for comparing before and after. */
export interface NetworkFigures {
  readonly sessionsUp: number;
  readonly sessions: number;
  readonly routes: number;
  readonly l2Vnis: number;
  readonly vtepPairs: number;
  readonly l3Vnis: number;
}

/** One run of all judgements over a change. */
export interface ProofReport {
  readonly clean: boolean;
  /** The last day on which its waivers let through what they let through; null = they let nothing through. */
  readonly waivedUntil: string | null;
  readonly findings: readonly Finding[];
  readonly rules: readonly RuleVerdict[];
  readonly values: { readonly needed: number; readonly drawn: number };
  readonly seats: { readonly filled: number; readonly total: number };
  readonly switches: readonly SwitchChange[];
  readonly before: NetworkFigures;
  readonly after: NetworkFigures;
}

/**
 * The network a compiled fabric's text would make, routers outside with it.
 * @param last a model of nearly the same, to take over from
 * @param hosts servers that are asked about
 */
export const modelFabric = (
  fabric: CompiledFabric,
  last?: NetworkModel | null,
  hosts: readonly HostPort[] = [],
): NetworkModel =>
  modelNetwork(
    [
      ...fabric.switches.map((s) => ({ host: s.seat.host, config: s.parsed.config, unread: s.parsed.unread })),
      ...fabric.outside.switches,
    ],
    [...fabric.cables, ...fabric.outside.cables],
    hosts,
    last,
    fabric.legs,
  );

/** What was compiled and modelled last of the two states of a fabric, kept between proofs by whoever proves. */
export interface ProofMemo {
  before?: StateMemo;
  after?: StateMemo;
}
interface StateMemo {
  readonly compile: CompileMemo;
  network: NetworkModel | null;
  judged?: Judged;
}

/** How many routes there are to what others announce. */
const routesIn = onceFor(({ size, counts }: FamilyPaths): number => {
  let routes = 0;
  for (let o = 0; o < size; o++) for (let r = 0; r < size; r++) if (o !== r && counts[o * size + r]! > 0) routes++;
  return routes;
});

export function figuresOf(network: NetworkModel): NetworkFigures {
  let vtepPairs = 0;
  for (const hosts of network.carriers.values()) vtepPairs += hosts.length * (hosts.length - 1);
  return {
    sessionsUp: network.sessions.filter((s) => s.up).length,
    sessions: network.sessions.length,
    routes: routesIn(network.underlay),
    l2Vnis: network.carriers.size,
    vtepPairs: vtepPairs - network.unheard.length,
    l3Vnis: network.l3Carriers.size,
  };
}

/** By seat: a switch that gets another name is the switch it was. */
function compareSwitches(before: CompiledFabric, after: CompiledFabric, sent: SentTexts): SwitchChange[] {
  const old = new Map(
    before.switches.map((s) => {
      const files = sent.get(s.seat.host);
      return [s.seat.id, files ? { ...s, files } : s];
    }),
  );
  const out: SwitchChange[] = [];
  for (const now of after.switches) {
    const was = old.get(now.seat.id);
    old.delete(now.seat.id);
    const counts = was === now ? { added: 0, removed: 0 } : documentCounts(was?.files ?? null, now.files);
    const fate = !was ? 'new' : counts.added + counts.removed > 0 ? 'changed' : 'same';
    out.push({ seat: now.seat.id, host: now.seat.host, ...counts, fate });
  }
  for (const [seat, was] of old)
    out.push({
      seat,
      host: was.seat.host,
      ...documentCounts(was.files, null),
      fate: 'gone',
    });
  return out;
}

/** `vlan:210`, `vrf:tides` as rules say it → the intent objects people know. */
function nameSubjects(finding: Finding, intent: FabricIntent): Finding {
  if (!finding.subjects) return finding;
  const subjects = finding.subjects.map((s): FindingSubject => {
    if (!s.startsWith('vlan:')) return s;
    const vlan = Number(s.slice(5));
    const network = intent.networks.find((n) => n.vlan === vlan);
    const vrf = intent.vrfs.find((v) => v.transitVlan === vlan);
    return network ? `network:${network.name}` : vrf ? `vrf:${vrf.name}` : s;
  });
  return { ...finding, subjects };
}

/** Does somebody sit there in this state of the intent? */
function seatedIn(intent: FabricIntent, { switches }: CompiledFabric): (host: string) => boolean {
  const seats = new Map(switches.map((s) => [s.seat.host, s.seat.id]));
  return (host) => intent.seating[seats.get(host) ?? ''] !== undefined;
}

const RULE_IDS: ReadonlySet<string> = new Set([...FABRIC_RULES, ...DESIGN_RULES].map((r) => r.id));

/** By host: texts that were sent where they are not what this release writes for the same state. */
export type SentTexts = ReadonlyMap<string, ConfigFiles>;

export interface Proven {
  readonly report: ProofReport;
  readonly compiled: CompiledFabric;
  readonly compiledBefore: CompiledFabric;
  readonly network: NetworkModel;
}

/**
 * Proves a change: compiles the state after it, reads the text back, models the network, judges it by every rule and
 * compares it with the state before. `drawFindings` are what drawing values had to say (a pool too small, …); lines are
 * counted against what was sent, where an older release wrote that otherwise. `today` (ISO day, UTC) ends waivers;
 * where nobody says it, none has ended.
 */
export function proveChange(
  before: FabricState,
  after: FabricState,
  pools: readonly Pool[],
  drawFindings: readonly Finding[] = [],
  memo: ProofMemo = {},
  sent: SentTexts = new Map(),
  today = '',
): Proven {
  memo.before ??= { compile: compileMemo(), network: null };
  const compiledBefore = compileFabric(before.intent, before.values, pools, memo.before.compile);
  const networkBefore = modelFabric(compiledBefore, memo.before.network);
  memo.before.network = networkBefore;
  // Unchanged switches are taken over from the state before, so they are neither rendered nor read twice.
  memo.after ??= { compile: copyMemo(memo.before.compile), network: networkBefore };
  const compiled = compileFabric(after.intent, after.values, pools, memo.after.compile);
  const network = modelFabric(compiled, memo.after.network);
  memo.after.network = network;
  const judged = judgeNetwork(network, memo.after.judged);
  memo.after.judged = judged;
  const meant = judgeFabric({ ...after, compiled });
  const raw = [
    ...drawFindings,
    ...meant.findings,
    ...compiled.switches.flatMap((s) => s.findings),
    // What is wrong between a router outside and us is said at our end.
    ...judged.findings.filter((f) => !compiled.outside.switches.some((s) => s.host === f.host)),
    ...bothEnds(
      { ...networkBefore, network: () => networkBefore, intent: before.intent },
      { ...network, network: () => network, intent: after.intent },
      seatedIn(before.intent, compiled),
    ),
    ...startsAnew(compiled, compiledBefore),
    ...sessionsAnew(compiled, compiledBefore, seatedIn(before.intent, compiled)),
    ...toldAnew(compiled, compiledBefore, seatedIn(before.intent, compiled)),
    ...gatewaysGo(after, before),
    ...reachAnew({ ...after, network }, { ...before, network: networkBefore }),
    ...outsideAgrees(before.intent, after.intent),
  ];
  const byHost = new Map(compiled.switches.map((s) => [s.seat.host, s]));
  const named = placeFindings(raw, (host) => byHost.get(host)).map((f) => nameSubjects(f, after.intent));
  const waived = waive(named, after.intent.waivers, RULE_IDS, today);
  const { findings } = waived;
  const needed = demandsOf(after.intent, compiled.layout);
  const seats = seatIds(after.intent);
  return {
    compiled,
    compiledBefore,
    network,
    report: {
      clean: findings.every((f) => f.severity !== 'error'),
      waivedUntil: waived.until,
      findings,
      rules: [...meant.rules, ...judged.rules],
      values: { needed: needed.length, drawn: needed.filter((d) => after.values.has(d.key)).length },
      seats: { filled: seats.filter((s) => after.intent.seating[s] !== undefined).length, total: seats.length },
      switches: compareSwitches(compiledBefore, compiled, sent),
      before: figuresOf(networkBefore),
      after: figuresOf(network),
    },
  };
}
