import { hostReach } from '../network/hostReach.ts';
import { loopbackPaths } from '../network/tenants.ts';
import { vtepsHeard, type NetworkModel } from '../network/networkModel.ts';
import { l3ImportsOf } from '../network/targets.ts';
import { adjacencyDoubt, sessionDoubt } from '../network/modelDoubts.ts';
import { naturally } from '../numbers/order.ts';

/** One answer that two networks give otherwise; empty = there is none. */
export interface DifferenceRow {
  readonly kind: 'session' | 'neighbour' | 'paths' | 'vni' | 'vrf' | 'reach';
  /** What is asked: `paths of sk-lf-01 to 10.255.0.5 of sk-lf-02`. */
  readonly about: string;
  readonly was: string;
  readonly is: string;
  /** What of several steps did it, where they are known. */
  readonly by?: string;
}

/** Pairs of servers that are asked about; more take too long to be asked one by one. */
const MOST_SERVERS = 150;

/** Of more, paths are counted by what they lead to. */
const MOST_SWITCHES = 60;

type Answers = ReadonlyMap<string, readonly [kind: DifferenceRow['kind'], about: string, answer: string]>;

function answersIn(model: NetworkModel): Answers {
  const out = new Map<string, readonly [DifferenceRow['kind'], string, string]>();
  const say = (kind: DifferenceRow['kind'], about: string, answer: string): void =>
    void out.set(`${kind} ${about}`, [kind, about, answer]);
  for (const s of model.sessions) {
    const families = (['ipv4', 'evpn'] as const).filter((f) => s[f]).join(' and ');
    const unsure = sessionDoubt(model, s) !== null;
    say(
      'session',
      `session of ${s.host} over ${s.peer}${s.vrf === undefined ? '' : ` in ${s.vrf}`}`,
      unsure ? 'uncertain' : s.up ? `up, ${families}` : `down: ${s.reason}`,
    );
  }
  for (const a of model.ospf?.adjacencies ?? []) {
    const unsure = adjacencyDoubt(model, a) !== null;
    const answer = unsure
      ? 'uncertain'
      : a.reason === null
        ? 'up'
        : `${a.up ? 'up, and leads nowhere' : 'down'}: ${a.reason}`;
    say('neighbour', `OSPF of ${a.host} over ${a.port}`, answer);
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
  for (const [vni, carriers] of model.carriers)
    for (const host of carriers) say('vni', `${host} hears in VNI ${vni}`, list(vtepsHeard(model, host, vni)));
  for (const carriers of model.l3Carriers.values())
    for (const { host, vrf } of carriers)
      say('vrf', `routes ${host} takes into ${vrf} from`, list(l3ImportsOf(model, host, vrf)));
  if (model.hosts.length <= MOST_SERVERS)
    for (const a of model.hosts)
      for (const b of model.hosts) {
        if (a === b) continue;
        const { ok, how } = hostReach(model, a, b);
        say('reach', `${a.host} reaches ${b.host}`, ok ? 'yes' : `no: ${how}`);
      }
  return out;
}
const list = (words: readonly string[]): string => [...words].sort(naturally).join(' ') || 'nobody';

function rowsBetween(before: Answers, after: Answers): Map<string, DifferenceRow> {
  const out = new Map<string, DifferenceRow>();
  for (const [key, [kind, about, was]] of before) {
    const is = after.get(key)?.[2] ?? '';
    if (is !== was) out.set(key, { kind, about, was, is });
  }
  for (const [key, [kind, about, is]] of after) if (!before.has(key)) out.set(key, { kind, about, was: '', is });
  return out;
}

/** What a second network answers otherwise than a first, in the order of the kinds of answers. */
export const networkDifferences = (before: NetworkModel, after: NetworkModel): DifferenceRow[] => [
  ...rowsBetween(answersIn(before), answersIn(after)).values(),
];

/** A network after a step, and what the step was. */
export interface Step {
  readonly by: string;
  readonly network: NetworkModel;
}
/** The same for several steps: every row names the last step that changed its answer. */
export function differencesByStep(before: NetworkModel, steps: readonly Step[]): DifferenceRow[] {
  let last = answersIn(before);
  const first = last;
  const by = new Map<string, string>();
  for (const step of steps) {
    const now = answersIn(step.network);
    for (const key of rowsBetween(last, now).keys()) by.set(key, step.by);
    last = now;
  }
  return [...rowsBetween(first, last)].map(([key, row]) => ({ ...row, by: by.get(key)! }));
}
