import { groupBy } from '../numbers/order.ts';

/** A switch a rollout is going to touch. */
export interface RolloutTarget {
  readonly host: string;
  readonly seat: string;
  /** Floors above the servers: 0 = they are on it. */
  readonly floor: number;
  /** What switches of its floor are called together. */
  readonly called: string;
  /** Switches of one word stand in for one another, or have one duty: no wave takes more than its share of them. */
  readonly groups: readonly string[];
  readonly model: string;
  readonly dialect: string;
  readonly side?: 'a' | 'b';
  readonly peer?: string;
  /** The switch gets its first configuration, or loses its last. */
  readonly fate: 'new' | 'changed' | 'gone';
  /** It is drained by what it is sent, or brought back; absent = neither. */
  readonly turn?: 'back' | 'drained';
  /** Servers on it: the least loaded makes the canary. */
  readonly load: number;
}

/** A host that may be touched only once another is as it is meant. */
export interface WaitsFor {
  readonly host: string;
  readonly other: string;
}

export interface RolloutWave {
  readonly name: string;
  readonly why: string;
  readonly hosts: readonly string[];
  /** All are loaded at once, and confirmed only when every one of them has settled; else all go back. */
  readonly together?: true;
  /** Hosts of it that are left alone unless another is as meant by then: one that stands in for them, which was to be brought back. */
  readonly after?: readonly WaitsFor[];
  /** Of such a wave: the fabric is carried by links that it does not touch. Absent = it may stand still meanwhile. */
  readonly carried?: true;
}

export interface WaveOptions {
  /** Most of those that stand in for one another that one wave may take, 0–1; at least one always may. */
  readonly share: number;
  /** How many there are of each word, touched or not. */
  readonly standing: ReadonlyMap<string, number>;
  /** Most switches with servers in one wave. */
  readonly servedPerWave: number;
  /** Hosts that must be sent together, set by set, because both ends of a session change what they must share. */
  readonly together?: readonly (readonly string[])[];
  /** Do other links carry the fabric while they are sent to? */
  readonly carried?: boolean;
}

/**
 * Parts of a list, in order, each no longer than `size` and allowed as a wave: each switch goes into the first part that can
 * take it.
 */
function partsOf(targets: readonly RolloutTarget[], size: number, options: WaveOptions): RolloutTarget[][] {
  const parts: RolloutTarget[][] = [];
  for (const t of targets) {
    const part = parts.find((p) => p.length < size && allowed([...p, t], options));
    if (part) part.push(t);
    else parts.push([t]);
  }
  return parts;
}

type Unnamed = Pick<RolloutWave, 'why' | 'hosts' | 'after'>;

/** Waves of one floor above the servers: of each group that stands in for one another a part, the groups side by side. */
function wavesAbove(targets: readonly RolloutTarget[], options: WaveOptions): Unnamed[] {
  const what = targets[0]!.called;
  const parts = partsOf(targets, Infinity, options);
  return parts.map((part, i) => ({
    why:
      parts.length === 1
        ? what
        : `${what}, ${i + 1} of ${parts.length}; never more than ${Math.round(options.share * 100)} %`,
    hosts: part.map((t) => t.host),
  }));
}
const mostOf = (group: string, { share, standing }: WaveOptions): number =>
  Math.max(1, Math.floor((standing.get(group) ?? 0) * share));

/**
 * Orders a rollout by redundancy: a canary for each model, dialect, floor and duty (the least loaded), then waves that never
 * take both halves of a pair nor more than the share of those that stand in for one another or have one duty. New parts go from the top down,
 * removals from the bottom up.
 *
 * Switches that must change together come before all others, each set as a wave of its own, whatever of pairs and shares is in it: between two
 * waves their sessions would be down.
 *
 * Who is brought back is so before any other is touched, and who is drained is so after: of a pair that takes turns one half
 * carries all the while.
 */
export function planWaves(all: readonly RolloutTarget[], options: WaveOptions): RolloutWave[] {
  const here = new Set(all.map((t) => t.host));
  const sets = (options.together ?? []).map((set) => set.filter((h) => here.has(h))).filter((set) => set.length > 1);
  const together = sets.map((hosts, i): RolloutWave => ({
    name: sets.length === 1 ? 'Together' : `Together ${i + 1}`,
    why: 'sessions between them come up only where both ends have their new text',
    hosts,
    together: true,
    ...(options.carried === true ? { carried: true as const } : {}),
  }));
  const targets = all.filter((t) => !sets.some((set) => set.includes(t.host)));
  const turning = (turn: 'back' | 'drained', why: string): Unnamed[] =>
    wavesOf(
      targets.filter((t) => t.turn === turn),
      options,
    ).map(({ hosts }) => ({ hosts, why }));
  const others = targets.filter((t) => t.turn === undefined);
  const canaries = canariesOf(others, options);
  const canary: RolloutWave = {
    name: 'Canary',
    why: canaries.length === 1 ? 'one of its kind, the least loaded' : 'one of each kind, the least loaded',
    hosts: canaries.map((t) => t.host),
  };
  const back = turning('back', 'brought back, before others are touched');
  const last = turning('drained', 'drained, when all others are as they shall be').map((w) => {
    const after = targets
      .filter((t) => w.hosts.includes(t.host))
      .flatMap((t) =>
        targets.flatMap((o): WaitsFor[] =>
          o.turn === 'back' && standIn(t, o) ? [{ host: t.host, other: o.host }] : [],
        ),
      );
    return after.length > 0 ? { ...w, after } : w;
  });
  const numbered = (waves: readonly Unnamed[], from: number): RolloutWave[] =>
    waves.map((w, i) => ({ name: `Wave ${from + i + 1}`, ...w }));
  return [
    ...together,
    ...numbered(back, 0),
    ...(canaries.length > 0 ? [canary] : []),
    ...numbered([...wavesOf(others, options, canaries), ...last], back.length),
  ];
}

/** One of each kind, the least loaded, where there are more of them. */
function canariesOf(targets: readonly RolloutTarget[], options: WaveOptions): readonly RolloutTarget[] {
  const kinds = new Map<string, RolloutTarget>();
  for (const t of targets) {
    const kind = `${t.model}|${t.dialect}|${t.floor}|${t.floor === 0 ? t.groups.join(' ') : ''}`;
    const best = kinds.get(kind);
    if (!best || t.load < best.load || (t.load === best.load && t.host < best.host)) kinds.set(kind, t);
  }
  return targets.length > kinds.size ? (partsOf([...kinds.values()], Infinity, options)[0] ?? []) : [];
}

/** The waves of those that are no canaries, floor by floor. */
function wavesOf(
  targets: readonly RolloutTarget[],
  options: WaveOptions,
  canaries: readonly RolloutTarget[] = [],
): Unnamed[] {
  const rest = targets.filter((t) => !canaries.includes(t));
  const onServers = rest.filter((t) => t.floor === 0);
  const served = onServers[0]?.called ?? '';
  const canaryHosts = new Set(canaries.map((t) => t.host));
  // The first half holds singles and one half of each pair; the partner of a canary comes in the second half.
  const second = onServers.filter(
    (t) => t.side === 'b' && (onServers.some((x) => x.seat === t.peer) || canaryHosts.has(hostOf(targets, t.peer))),
  );
  const first = onServers.filter((t) => !second.includes(t));
  const floors = [
    ...groupBy(
      rest.filter((t) => t.floor > 0),
      (t) => t.floor,
    ),
  ].sort(([x], [y]) => y - x);
  const upperWaves = floors.map(([, group]) => wavesAbove(group, options));
  const servedWaves = [
    ...partsOf(first, options.servedPerWave, options).map((part) => ({
      why: second.length > 0 ? 'single switches and one of each pair' : served,
      hosts: part.map((t) => t.host),
    })),
    ...partsOf(second, options.servedPerWave, options).map((part) => ({
      why: 'the other halves of the pairs',
      hosts: part.map((t) => t.host),
    })),
  ];
  const removing = targets.length > 0 && targets.every((t) => t.fate === 'gone');
  return removing ? [...servedWaves, ...upperWaves.toReversed().flat()] : [...upperWaves.flat(), ...servedWaves];
}

const hostOf = (targets: readonly RolloutTarget[], seat: string | undefined): string =>
  targets.find((t) => t.seat === seat)?.host ?? '';

/** Does one carry what the other does, as the other half of its pair or as one of its group? */
const standIn = (t: RolloutTarget, other: RolloutTarget): boolean =>
  other.seat === t.peer || other.groups.some((g) => t.groups.includes(g));

/** May these be in one wave? */
function allowed(targets: readonly RolloutTarget[], options: WaveOptions): boolean {
  const seats = new Set(targets.map((t) => t.seat));
  const taken = new Map<string, number>();
  for (const t of targets) {
    for (const group of t.groups) taken.set(group, (taken.get(group) ?? 0) + 1);
    if (t.peer !== undefined && seats.has(t.peer)) return false;
  }
  return [...taken].every(([group, n]) => n <= mostOf(group, options));
}
