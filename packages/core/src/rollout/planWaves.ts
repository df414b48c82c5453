import { groupBy } from '../numbers/order.ts';

/** A switch a rollout is going to touch. */
export interface RolloutTarget {
  readonly host: string;
  readonly seat: string;
  /** Floors above the servers: 0 = they are on it. */
  readonly floor: number;
  /** Switches of one word stand in for one another: no wave takes more than its share of them. Absent on floor 0. */
  readonly stands?: string;
  readonly model: string;
  readonly dialect: string;
  readonly side?: 'a' | 'b';
  readonly peer?: string;
  /** The switch gets its first configuration, or loses its last. */
  readonly fate: 'new' | 'changed' | 'gone';
  /** Servers on it: the least loaded makes the canary. */
  readonly load: number;
}

export interface RolloutWave {
  readonly name: string;
  readonly why: string;
  readonly hosts: readonly string[];
}

export interface WaveOptions {
  /** Most of those that stand in for one another that one wave may take, 0–1; at least one always may. */
  readonly share: number;
  /** How many there are of each word, touched or not. */
  readonly standing: ReadonlyMap<string, number>;
  /** Most switches with servers in one wave. */
  readonly leavesPerWave: number;
  /** Hosts that must be sent together because both ends of a session change what they must share. */
  readonly together?: readonly (readonly [string, string])[];
}

const chunk = <T>(items: readonly T[], size: number): T[][] => {
  const out: T[][] = [];
  for (let i = 0; i < items.length; i += size) out.push(items.slice(i, i + size));
  return out;
};

/** What switches of a floor are called in a rollout. */
const FLOOR_WORDS = ['leaves', 'spines', 'super-spines'];

/** Waves of one floor above the servers: of each group that stands in for one another a part, the groups side by side. */
function wavesAbove(targets: readonly RolloutTarget[], options: WaveOptions): { why: string; hosts: string[] }[] {
  const what = FLOOR_WORDS[targets[0]!.floor]!;
  const parts = [...groupBy(targets, (t) => t.stands ?? '').entries()].map(([stands, group]) =>
    chunk(group, mostOf(stands, options)),
  );
  const count = Math.max(...parts.map((p) => p.length));
  return Array.from({ length: count }, (_, i) => ({
    why: count === 1 ? what : `${what}, ${i + 1} of ${count}; never more than ${Math.round(options.share * 100)} %`,
    hosts: parts.flatMap((p) => p[i] ?? []).map((t) => t.host),
  }));
}
const mostOf = (stands: string, { share, standing }: WaveOptions): number =>
  Math.max(1, Math.floor((standing.get(stands) ?? 0) * share));

/**
 * Orders a rollout by redundancy: a canary for each model, dialect and floor (the least loaded), then waves that never
 * take both leaves of a pair nor more than the share of those that stand in for one another. New parts go from the top down,
 * removals from the bottom up.
 *
 * Switches that must change together are sent in the wave of the first of them, as far as pairs and the share allow; where
 * they do not, order stays and the session drops between the waves.
 */
export function planWaves(targets: readonly RolloutTarget[], options: WaveOptions): RolloutWave[] {
  const waves: RolloutWave[] = [];
  const kinds = new Map<string, RolloutTarget>();
  for (const t of targets) {
    const kind = `${t.model}|${t.dialect}|${t.floor}`;
    const best = kinds.get(kind);
    if (!best || t.load < best.load || (t.load === best.load && t.host < best.host)) kinds.set(kind, t);
  }
  const canaries = targets.length > kinds.size ? [...kinds.values()] : [];
  if (canaries.length > 0)
    waves.push({
      name: 'Canary',
      why: canaries.length === 1 ? 'one of its kind, the least loaded' : 'one of each kind, the least loaded',
      hosts: canaries.map((t) => t.host),
    });
  const rest = targets.filter((t) => !canaries.includes(t));
  const leaves = rest.filter((t) => t.floor === 0);
  const canaryHosts = new Set(canaries.map((t) => t.host));
  // The first half holds singles and one leaf of each pair; the partner of a canary comes in the second half.
  const second = leaves.filter(
    (t) => t.side === 'b' && (leaves.some((x) => x.seat === t.peer) || canaryHosts.has(hostOf(targets, t.peer))),
  );
  const first = leaves.filter((t) => !second.includes(t));
  const floors = [
    ...groupBy(
      rest.filter((t) => t.floor > 0),
      (t) => t.floor,
    ),
  ].sort(([x], [y]) => y - x);
  const upperWaves = floors.map(([, group]) => wavesAbove(group, options));
  const leafWaves = [
    ...chunk(first, options.leavesPerWave).map((part) => ({
      why: second.length > 0 ? 'single leaves and one of each pair' : 'leaves',
      hosts: part.map((t) => t.host),
    })),
    ...chunk(second, options.leavesPerWave).map((part) => ({
      why: 'the other halves of the pairs',
      hosts: part.map((t) => t.host),
    })),
  ];
  const removing = targets.length > 0 && targets.every((t) => t.fate === 'gone');
  const ordered = removing ? [...leafWaves, ...upperWaves.toReversed().flat()] : [...upperWaves.flat(), ...leafWaves];
  ordered.forEach((w, i) => waves.push({ name: `Wave ${i + 1}`, ...w }));
  return joinTogether(waves, targets, options);
}

const hostOf = (targets: readonly RolloutTarget[], seat: string | undefined): string =>
  targets.find((t) => t.seat === seat)?.host ?? '';

/** May these hosts be in one wave? */
function allowed(hosts: readonly string[], byHost: ReadonlyMap<string, RolloutTarget>, options: WaveOptions): boolean {
  const seats = new Set(hosts.map((h) => byHost.get(h)!.seat));
  const taken = new Map<string, number>();
  for (const h of hosts) {
    const t = byHost.get(h)!;
    if (t.stands !== undefined) taken.set(t.stands, (taken.get(t.stands) ?? 0) + 1);
    if (t.peer !== undefined && seats.has(t.peer)) return false;
  }
  return [...taken].every(([stands, n]) => n <= mostOf(stands, options));
}

function joinTogether(
  waves: readonly RolloutWave[],
  targets: readonly RolloutTarget[],
  options: WaveOptions,
): RolloutWave[] {
  const byHost = new Map(targets.map((t) => [t.host, t]));
  const hosts = waves.map((w) => [...w.hosts]);
  for (const [a, b] of options.together ?? []) {
    const at = hosts.findIndex((w) => w.includes(a) || w.includes(b));
    const late = hosts[at]?.includes(a) ? b : a;
    const from = hosts.findIndex((w) => w.includes(late));
    if (at < 0 || from < 0 || from === at || !allowed([...hosts[at]!, late], byHost, options)) continue;
    hosts[at]!.push(late);
    hosts[from] = hosts[from]!.filter((h) => h !== late);
  }
  return waves.map((w, i) => ({ ...w, hosts: hosts[i]! })).filter((w) => w.hosts.length > 0);
}
