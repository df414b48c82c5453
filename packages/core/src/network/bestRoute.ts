import type { Ipv4 } from '../numbers/ipv4.ts';
import { groupBy } from '../numbers/order.ts';
import { lengthOf, type AsPath, type Attributes } from './routes.ts';

/** Which of the routes that a router has to a prefix it uses (RFC 4271 §9.1.2). */

/** A router as route selection sees it. */
export interface BgpRouter {
  readonly asn: number;
  readonly routerId: number;
  /** Widths of multipath. */
  readonly maximumPaths: number;
  readonly maximumPathsInternal: number;
  readonly multipathRelax: boolean;
  readonly asPathIgnored: boolean;
  readonly medAlways: boolean;
  /** Of routes that say none. */
  readonly localPreference: number;
  readonly gracefulShutdown: boolean;
}

/** A route as one router has it. */
export interface HeldRoute {
  readonly attributes: Attributes;
  /** The edge it came over; −1 = its own. */
  readonly over: number;
  readonly internal: boolean;
  /** Router id by which ties are settled: of who told it, or of who brought it into the AS. */
  readonly teller: number;
  /** It came over a favoured edge somewhere. */
  readonly favoured: boolean;
  /** Its next hop is not next door, here or at one who told it: iBGP told it on, or it came over routes. It may not be known, or lead over several. */
  readonly handedOn: boolean;
  /** Where it leads, where that is not who told it, but an address that a map says. */
  readonly via?: Ipv4;
  /** Router ids of the reflectors that told it on, the last foremost: its cluster list (RFC 4456 §8). */
  readonly clusters?: AsPath;
  /** It came out of EVPN, with a VNI as its label. */
  readonly labelled?: boolean;
  /** What it is in the table that it leaked from. */
  readonly leaked?: HeldRoute;
  /** Of the best: others from outside the AS, as good, that would be used in its place, had they been heard earlier. */
  readonly chances?: readonly HeldRoute[];
}

const ORIGIN_RANK = { igp: 0, egp: 1, incomplete: 2 } as const;

/** Which of two routes comes first, and whether both may be used at once; `tied`: only ties were left to decide. */
interface Order {
  readonly order: number;
  readonly equal: boolean;
  readonly tied: boolean;
}
/**
 * Which of two routes is better (RFC 4271 §9.1.2.2, as FRR 8.4 goes): below 0 = the first.
 * `equal` where only ties were left, so that both may be used at once.
 */
function rank(r: BgpRouter, a: HeldRoute, b: HeldRoute): Order {
  const decided = (order: number): Order => ({ order, equal: false, tied: false });
  if (a.favoured !== b.favoured) return decided(a.favoured ? -1 : 1);
  const [x, y] = [a.attributes, b.attributes];
  if (x.weight !== y.weight) return decided(y.weight - x.weight);
  if (x.localPreference !== y.localPreference) return decided(y.localPreference - x.localPreference);
  if (a.over < 0 !== b.over < 0) return decided(a.over < 0 ? -1 : 1);
  if (!r.asPathIgnored && lengthOf(x.path) !== lengthOf(y.path)) return decided(lengthOf(x.path) - lengthOf(y.path));
  if (x.origin !== y.origin) return decided(ORIGIN_RANK[x.origin] - ORIGIN_RANK[y.origin]);
  const [first, second] = [x.path?.as ?? 0, y.path?.as ?? 0];
  if ((r.medAlways || first === second) && x.med !== y.med) return decided(x.med - y.med);
  if (a.internal !== b.internal) return decided(a.internal ? 1 : -1);
  // One with a label and one without do not share load (FRR 8.4.4).
  const alike = (a.labelled ?? false) === (b.labelled ?? false);
  const equal = alike && (r.multipathRelax || (a.internal ? x.path === y.path : first === second));
  // The fewer reflectors the better (RFC 4456 §9), among those that are equal in all else.
  const reflectors = lengthOf(a.clusters ?? null) - lengthOf(b.clusters ?? null);
  return { order: a.teller - b.teller || reflectors || a.over - b.over, equal, tied: true };
}

/**
 * Is a route that was never told better than all that come of others, wherever these go on their way? They get no nearer and no
 * dearer on it.
 */
export const standsBefore = (
  { path, localPreference, origin, med }: Attributes,
  others: Iterable<Attributes>,
): boolean => {
  if (path !== null) return false;
  for (const o of others)
    if (o.localPreference > localPreference || ORIGIN_RANK[o.origin] < ORIGIN_RANK[origin] || o.med < med) return false;
  return true;
};

/** Best first, with those used beside it. */
export function select(r: BgpRouter, candidates: readonly HeldRoute[]): readonly HeldRoute[] {
  let best = candidates[0];
  if (best === undefined) return [];
  for (let i = 1; i < candidates.length; i++) if (rank(r, candidates[i]!, best).order < 0) best = candidates[i]!;
  if (best.over < 0 || candidates.length === 1) return [best];
  const width = Math.max(1, best.internal ? r.maximumPathsInternal : r.maximumPaths);
  const out = [best];
  let chances: HeldRoute[] | null = null;
  for (const c of candidates) {
    if (c === best || c.over < 0) continue;
    const { equal, tied } = rank(r, best, c);
    if (equal && out.length < width) out.push(c);
    // Of those from outside that are as good the one stays that was there first (FRR 8.4.4).
    else if (!equal && tied && !best.internal) (chances ??= []).push(c);
  }
  if (chances) out[0] = { ...best, chances };
  return out;
}

/**
 * The sets of routes of which a router uses one, by what it heard first: what it is taken to use, then the others, by the
 * AS number they come from.
 */
export function chancesOf(held: readonly HeldRoute[]): readonly (readonly HeldRoute[])[] {
  const others = groupBy(held[0]?.chances ?? [], (h) => `${h.labelled ?? false} ${h.attributes.path?.as ?? 0}`);
  return [held, ...others.values()];
}
