import { classesOf, type Alike } from './alike.ts';
import type { BgpRouter } from './bestRoute.ts';
import type { BgpEdge } from './bgpRoutes.ts';

/** What is said of an edge, but between whom it is; null = policies or other networks come in, which may know its ends. */
function wordsOf(e: BgpEdge): string | null {
  if (!e.internal || e.closed || e.out || e.in || e.carry) return null;
  const flags = [e.toClient, e.fromClient, e.tellsDefault, e.overRoutes, e.favoured].map(Number).join('');
  return `${flags} ${e.sentAs.join()} ${e.heardAs} ${e.ownAsAllowed} ${e.weight} ${e.overridden} ${e.nextHopSelf}`;
}
const wordsOfRouter = ({ routerId: _, ...rest }: BgpRouter): string => JSON.stringify(rest);

/**
 * Routers that speak iBGP alone and can change places two by two without anything else being otherwise, as class numbers:
 * they have the same neighbours, over sessions of which the same is said, and a router id that nobody else has. What one of
 * them announces is told on with its own router id wherever it goes within the AS (RFC 4456 §8), so ties fall alike for each.
 * −1 = nobody is like it. (Control-plane compression: Beckett et al., SIGCOMM 2018.)
 */
export function alikeWithin(routers: readonly BgpRouter[], edges: readonly BgpEdge[]): Alike {
  const around: (string[] | null)[] = routers.map(() => []);
  for (const e of edges) {
    const words = wordsOf(e);
    for (const [router, other, direction] of [
      [e.from, e.to, '>'],
      [e.to, e.from, '<'],
    ] as const)
      if (words === null) around[router] = null;
      else around[router]?.push(`${direction}${other} ${words}`);
  }
  const ids = new Map<number, number>();
  for (const { routerId } of routers) ids.set(routerId, (ids.get(routerId) ?? 0) + 1);
  return classesOf(
    around.map((own, i) => {
      const router = routers[i]!;
      if (own === null || own.length === 0 || ids.get(router.routerId)! > 1) return null;
      return `${wordsOfRouter(router)}\n${own.sort().join('\n')}`;
    }),
  );
}
