import type { FabricIntent, SeatId, ServerPort, Snippet } from '../intent/intent.ts';
import type { Duty } from '../patterns/patterns.ts';

/** Floors of a fabric, from the servers up. */
export const TIERS = ['leaf', 'spine', 'super-spine'] as const;
export type Tier = (typeof TIERS)[number];

/** A logical position with all that follows from where it is. */
export interface Seat {
  readonly id: SeatId;
  readonly tier: Tier;
  /** Name of the switch that sits here, e.g. `sk-lf-07a`. */
  readonly host: string;
  readonly model: string;
  /** Where there are pods: the one it stands in; absent on the tier above them. */
  readonly pod?: number;
  /** Where the tiers above the leaves are split into planes: the one it joins. */
  readonly plane?: number;
  /** Where servers are: the rack, the side in a pair, and the seat on the other side. */
  readonly rack?: number;
  readonly side?: 'a' | 'b';
  readonly peer?: SeatId;
  /** Seats of one word share an AS number; absent = it has one of its own, or shares its rack's. */
  readonly asGroup?: string;
  /** What it does besides serving its rack; absent = nothing. */
  readonly duties?: readonly Duty[];
}

/** Are there servers on it? Then it has a VTEP, and carries networks. */
export const hasServers = (seat: Seat): boolean => seat.rack !== undefined;
/** Which half of its rack a seat is; a leaf alone is `a`. */
export const sideOf = (seat: Pick<Seat, 'side'>): 'a' | 'b' => seat.side ?? 'a';
/** Is a server of its rack joined to this seat? */
export const isOn = (p: Pick<ServerPort, 'side'>, seat: Pick<Seat, 'side'>): boolean =>
  p.side === 'both' || p.side === sideOf(seat);

/** How many floors it stands above the servers: 0 = they are on it. */
export const floorOf = (seat: Pick<Seat, 'tier'>): number => TIERS.indexOf(seat.tier);

/**
 * Seats of one word stand in for one another: the spines of a pod or of a fabric without pods, the super-spines of a plane.
 * Undefined where servers are: a pair stands in for itself.
 */
export const standsWith = (seat: Seat): string | undefined =>
  hasServers(seat) ? undefined : `${seat.tier} ${seat.tier === 'spine' ? (seat.pod ?? '') : (seat.plane ?? '')}`.trim();

/**
 * Every word under which others stand in for a seat: those of its tier, and those of each of its duties. Of no word may all be
 * touched at once.
 */
export const groupsOf = (seat: Seat): readonly string[] => [standsWith(seat) ?? [], seat.duties ?? []].flat();

/** How many seats there are of each word. */
export function standingOf(seats: readonly Seat[]): Map<string, number> {
  const out = new Map<string, number>();
  for (const word of seats.flatMap(groupsOf)) out.set(word, (out.get(word) ?? 0) + 1);
  return out;
}

/** What switches of a tier are called together. */
export const TIER_WORDS: Readonly<Record<Tier, string>> = {
  leaf: 'leaves',
  spine: 'spines',
  'super-spine': 'super-spines',
};

/** Is it one of those that a snippet goes on? */
export const isAmong = (seat: Seat, on: Snippet['on']): boolean =>
  on === 'all' || on === (hasServers(seat) ? 'leaves' : 'spines');

/** How many seats of each tier. */
export function countTiers(seats: readonly Seat[]): {
  readonly leaves: number;
  readonly spines: number;
  readonly superSpines: number;
} {
  const of = (tier: Tier): number => seats.filter((s) => s.tier === tier).length;
  return { leaves: of('leaf'), spines: of('spine'), superSpines: of('super-spine') };
}

/** Who an AS number is drawn for: `fabric`, `leaves`, `spines`, `rack-7`, or the seat itself. */
export function asOwner(seat: Seat, scheme: FabricIntent['settings']['asnScheme']): string {
  if (scheme === 'single') return 'fabric';
  if (scheme === 'two' && hasServers(seat)) return 'leaves';
  if (seat.asGroup !== undefined) return seat.asGroup;
  return scheme === 'per-rack' && seat.rack !== undefined ? `rack-${seat.rack}` : seat.id;
}

/** A seat of a fabric as it was, of which its name is all that is left. */
export function seatOfName(id: SeatId, host: string): Seat {
  const tier = TIERS.toReversed().find((t) => id.startsWith(`${t}-`)) ?? 'leaf';
  const [, rack, side] = /^leaf-(\d+)([ab])?$/.exec(id) ?? [];
  const [, first] = /-(\d+)\.\d+$/.exec(id) ?? [];
  return {
    id,
    host,
    tier,
    model: '',
    ...(first === undefined ? {} : { [tier === 'spine' ? 'pod' : 'plane']: Number(first) }),
    ...(rack === undefined ? {} : { rack: Number(rack) }),
    ...(side === undefined ? {} : { side: side as 'a' | 'b', peer: `leaf-${rack}${side === 'a' ? 'b' : 'a'}` }),
  };
}
