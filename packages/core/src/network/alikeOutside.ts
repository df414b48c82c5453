import { classesOf, type Alike } from './alike.ts';
import type { BgpRouter } from './bestRoute.ts';
import type { BgpEdge } from './bgpRoutes.ts';

/** Which routers may change places, and who else does where two of them do. */
export interface AlikeRouters {
  readonly classes: Alike;
  /** Pairs of indices that change places where two of a class do. */
  readonly swaps: (one: number, other: number) => readonly (readonly [number, number])[];
}

/** What is said of a session, but between whom it is; null = it may know its ends, or those far away. */
function wordsOf(e: BgpEdge, sender: BgpRouter): string | null {
  if (e.internal || e.closed || e.out || e.in || e.carry || e.leak || e.overridden !== null || e.heardAs !== null)
    return null;
  if (e.sentAs.length !== 1 || e.sentAs[0] !== sender.asn) return null;
  return `${Number(e.tellsDefault)}${Number(e.overRoutes)}${Number(e.favoured)} ${e.ownAsAllowed} ${e.weight}`;
}
const wordsOfRouter = ({ routerId: _, asn: __, ...rest }: BgpRouter): string => JSON.stringify(rest);

/** Above so many of one AS number only those of it change places. */
const MOST_TOGETHER = 4;

/**
 * Routers that speak eBGP alone and can change places without anything else being otherwise, as class numbers: they have the
 * same neighbours, over sessions of which the same is said, and the same number of routers beside them that share their AS
 * number, which are alike as well and change places with them. Whoever is next to one of them is next to each, so hears of
 * what it announces from itself: no other way is as short, and ties fall elsewhere, by router ids that stay. (As with
 * `alikeRouters`, which knows no local preference; Beckett et al., SIGCOMM 2018.) Where any session of the network goes
 * through policies, or paths may be of any length, nobody is like anybody.
 */
export function alikeOutside(routers: readonly BgpRouter[], edges: readonly BgpEdge[]): AlikeRouters {
  const nobody: AlikeRouters = { classes: classesOf(routers.map(() => null)), swaps: () => [] };
  if (routers.some((r) => r.asPathIgnored)) return nobody;
  const around: string[][] = routers.map(() => []);
  const near: Set<number>[] = routers.map(() => new Set());
  for (const e of edges) {
    const words = wordsOf(e, routers[e.from]!);
    if (words === null) return nobody;
    around[e.from]!.push(`>${e.to} ${words}`);
    around[e.to]!.push(`<${e.from} ${words}`);
    near[e.from]!.add(e.to);
    near[e.to]!.add(e.from);
  }
  const said = routers.map((r, i) => `${wordsOfRouter(r)}\n${around[i]!.sort().join('\n')}`);
  const ofNear = near.map((n) => [...n].sort((a, b) => a - b).join());
  const sharing = new Map<number, number[]>();
  routers.forEach((r, i) => sharing.set(r.asn, [...(sharing.get(r.asn) ?? []), i]));
  /** Who shares its AS number, where they may change places together with others. */
  const mates = (i: number): readonly number[] | null => {
    const all = sharing.get(routers[i]!.asn)!;
    return all.length <= MOST_TOGETHER && all.every((m) => ofNear[m] === ofNear[i]) ? all : null;
  };
  const classes = classesOf(
    routers.map((r, i) => {
      if (around[i]!.length === 0) return null;
      const together = mates(i);
      const beside = together
        ? together
            .map((m) => said[m]!)
            .sort()
            .join('\n')
        : `AS ${r.asn}`;
      return `${said[i]}\n${beside}`;
    }),
  );
  const inOrder = (group: readonly number[], without: number): number[] =>
    group.filter((m) => m !== without).sort((a, b) => (said[a]! < said[b]! ? -1 : said[a]! > said[b]! ? 1 : a - b));
  return {
    classes,
    swaps: (one, other) => {
      const own = [[one, other]] as const;
      if (routers[one]!.asn === routers[other]!.asn) return own;
      const theirs = inOrder(sharing.get(routers[other]!.asn)!, other);
      return [...own, ...inOrder(sharing.get(routers[one]!.asn)!, one).map((m, n) => [m, theirs[n]!] as const)];
    },
  };
}
