import type { FilterRule, FilterTable } from '../config/filters.ts';
import type { Traffic } from '../network/traffic.ts';
import { filtersAnywhere } from '../network/filters.ts';
import { mayAsk, type Reach } from '../network/hostReach.ts';
import { hostReach, meetsFilters, reachOver, waysBetween } from '../network/multihoming.ts';
import { ospfIn } from '../network/ospfIn.ts';
import { hostPart } from '../numbers/ipv4.ts';
import { familyOfText, networkOfAny, parseAnyCidr } from '../numbers/prefix.ts';
import { loopbackPaths } from '../network/tenants.ts';
import { vtepsHeard, type NetworkModel } from '../network/networkModel.ts';
import { l3ImportsOf } from '../network/targets.ts';
import { adjacencyDoubt, sessionDoubt } from '../network/modelDoubts.ts';
import { naturally } from '../numbers/order.ts';
import type { DifferenceRow } from './answer.ts';
import { routeTo } from './routesOf.ts';

/** Pairs of servers that are asked about; more take too long to be asked one by one. */
const MOST_SERVERS = 150;

/** Of more, paths are counted by what they lead to. */
const MOST_SWITCHES = 60;

/** Of more calls none is asked about: pings only. */
const MOST_CALLS = 60_000;
const PORTS = { from: 1, to: 65535 };

/** Calls that filters tell apart: those of one class fare alike everywhere. */
interface CallClass {
  readonly words: string;
  readonly traffic: Traffic;
}
/** Where ranges of ports begin, and where what comes after them does, in a rule for which a protocol may matter. */
function borders({ matches }: FilterRule, { sets }: FilterTable): number[] {
  return matches.flatMap((m) => {
    if (m.field !== 'targetPort') return [];
    const { ranges = [] } = m.set === undefined ? m : (sets.find((s) => s.name === m.set) ?? {});
    return ranges.flatMap((r) => [r.from, r.to + 1]);
  });
}
/** Classes of calls by TCP and UDP, where any of the networks filters; else pings tell all. */
function callClasses(models: readonly NetworkModel[]): CallClass[] {
  if (!models.some(filtersAnywhere)) return [];
  const tables = models.flatMap((m) => m.switches.flatMap((s) => s.config.filters ?? []));
  const all = tables.flatMap((t) => t.chains.flatMap((c) => c.rules.flatMap((r) => borders(r, t))));
  const starts = [...new Set([PORTS.from, ...all])]
    .filter((p) => p >= PORTS.from && p <= PORTS.to)
    .sort((a, b) => a - b);
  return (['tcp', 'udp'] as const).flatMap((protocol) =>
    starts.map((port, i): CallClass => {
      const last = (starts[i + 1] ?? PORTS.to + 1) - 1;
      const ports = last === port ? `${port}` : `${port}–${last}`;
      return { words: `${protocol} ${ports}`, traffic: { protocol, port } };
    }),
  );
}

interface Answered {
  readonly kind: DifferenceRow['kind'];
  readonly about: string;
  readonly answer: string;
  /** What it goes without saying beside, where both change alike: a call fares as a ping does. */
  readonly beside?: string;
}
type Answers = ReadonlyMap<string, Answered>;

function answersIn(model: NetworkModel, calls: readonly CallClass[]): Answers {
  const out = new Map<string, Answered>();
  const say = (kind: DifferenceRow['kind'], about: string, answer: string, beside?: string): string => {
    const key = `${kind} ${about}`;
    out.set(key, { kind, about, answer, ...(beside === undefined ? {} : { beside }) });
    return key;
  };
  for (const s of model.sessions) {
    const families = (['ipv4', 'ipv6', 'evpn'] as const).filter((f) => s[f]).join(' and ');
    const unsure = sessionDoubt(model, s) !== null;
    say(
      'session',
      `session of ${s.host} over ${s.peer}${s.vrf === undefined ? '' : ` in ${s.vrf}`}`,
      unsure ? 'uncertain' : s.up ? `up, ${families}` : `down: ${s.reason}`,
    );
  }
  const near = ospfIn(model).flatMap(({ by, family, ospf }) => ospf.adjacencies.map((a) => ({ a, by, family })));
  for (const { a, by, family } of near) {
    const unsure = adjacencyDoubt(model, a, family === 6) !== null;
    const answer = unsure
      ? 'uncertain'
      : a.reason === null
        ? 'up'
        : `${a.up ? 'up, and leads nowhere' : 'down'}: ${a.reason}`;
    say('neighbour', `${by} of ${a.host} over ${a.port}`, answer);
  }
  const each = model.switches.length <= MOST_SWITCHES;
  for (const [owner, view] of model.views)
    for (const address of view.announced) {
      const widths = new Map<number, number>();
      for (const { host } of model.switches) {
        const paths = host === owner ? 0 : loopbackPaths(model, host, owner, address);
        if (paths === 0) continue;
        widths.set(paths, (widths.get(paths) ?? 0) + 1);
        if (each) say('paths', `paths of ${host} to ${address} of ${owner}`, String(paths));
      }
      const words = [...widths].sort(([a], [b]) => b - a).map(([paths, n]) => `${paths} on ${n} switches`);
      if (!each) say('paths', `paths to ${address} of ${owner}`, words.join(', '));
    }
  // A table of IPv6 is settled prefix by prefix: in large networks one asks for it.
  for (const [owner, view] of each ? model.views : [])
    for (const loopback of view.config.ipv6Loopbacks ?? [])
      for (const { host } of model.switches) {
        const route = host === owner ? undefined : routeTo(model, host, networkOfAny(parseAnyCidr(loopback)!));
        const answer = route && (route.unsure === null ? String(route.ways.length) : 'uncertain');
        if (answer) say('paths', `paths of ${host} to ${hostPart(loopback)} of ${owner}`, answer);
      }
  for (const [vni, carriers] of model.carriers)
    for (const host of carriers) say('vni', `${host} hears in VNI ${vni}`, list(vtepsHeard(model, host, vni)));
  for (const carriers of model.l3Carriers.values())
    for (const { host, vrf } of carriers)
      say('vrf', `routes ${host} takes into ${vrf} from`, list(l3ImportsOf(model, host, vrf)));
  const many = model.hosts.length ** 2 * calls.length > MOST_CALLS;
  if (model.hosts.length <= MOST_SERVERS)
    for (const a of model.hosts)
      for (const b of model.hosts) {
        if (!mayAsk(a, b)) continue;
        const about = `${a.host} reaches ${b.host}${familyOfText(a.ip) === 6 ? ' by IPv6' : ''}`;
        const ways = waysBetween(model, a, b);
        const answer = answered(reachOver(model, ways));
        const ping = say('reach', about, answer);
        const alike = !meetsFilters(ways);
        for (const { words, traffic } of many ? [] : calls)
          say('reach', `${about} by ${words}`, alike ? answer : answered(hostReach(model, a, b, traffic)), ping);
      }
  return out;
}
const answered = ({ ok, how, unsure }: Reach): string =>
  unsure !== null ? `uncertain: ${unsure}` : ok ? 'yes' : `no: ${how}`;
const list = (words: readonly string[]): string => [...words].sort(naturally).join(' ') || 'nobody';

function rowsBetween(before: Answers, after: Answers): Map<string, DifferenceRow> {
  const out = new Map<string, DifferenceRow>();
  for (const [key, { kind, about, answer: was }] of before) {
    const is = after.get(key)?.answer ?? '';
    if (is !== was) out.set(key, { kind, about, was, is });
  }
  for (const [key, { kind, about, answer: is }] of after)
    if (!before.has(key)) out.set(key, { kind, about, was: '', is });
  for (const [key, { was, is }] of out) {
    const beside = out.get((after.get(key) ?? before.get(key))?.beside ?? '');
    if (beside?.was === was && beside.is === is) out.delete(key);
  }
  return out;
}

/** What a second network answers otherwise than a first, in the order of the kinds of answers. */
export function networkDifferences(before: NetworkModel, after: NetworkModel): DifferenceRow[] {
  const calls = callClasses([before, after]);
  return [...rowsBetween(answersIn(before, calls), answersIn(after, calls)).values()];
}

/** A network after a step, and what the step was. */
export interface Step {
  readonly by: string;
  readonly network: NetworkModel;
}
/** The same for several steps: every row names the last step that changed its answer. */
export function differencesByStep(before: NetworkModel, steps: readonly Step[]): DifferenceRow[] {
  const calls = callClasses([before, ...steps.map((s) => s.network)]);
  let last = answersIn(before, calls);
  const first = last;
  const by = new Map<string, string>();
  for (const step of steps) {
    const now = answersIn(step.network, calls);
    for (const key of rowsBetween(last, now).keys()) by.set(key, step.by);
    last = now;
  }
  return [...rowsBetween(first, last)].map(([key, row]) => ({ ...row, by: by.get(key)! }));
}
