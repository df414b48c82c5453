import { onceFor } from '../onceFor.ts';
import { adjacencyDoubt, doubtsIn } from './modelDoubts.ts';
import type { NetworkModel } from './networkModel.ts';
import { ospfNetwork, type OspfNetwork } from './ospf.ts';

/** OSPF of IPv6 (RFC 5340) of a model; null = no switch runs it. No session and no tunnel hangs on it. */
export const ospf6Of = onceFor((model: NetworkModel): OspfNetwork | null =>
  ospfNetwork(model.views, model.index, model.plan, undefined, 'ospf6'),
);

/** Why its routes may be otherwise; null = they are certain. */
export const ospf6Doubt = onceFor((model: NetworkModel): string | null => {
  const ospf = ospf6Of(model);
  if (!ospf) return null;
  const near = ospf.adjacencies.map((a) => adjacencyDoubt(model, a, true)).find((d) => d !== null);
  // What a router brings in may be doubted though it has no neighbour.
  const own = model.switches.flatMap(({ host }) => {
    const doubts = model.views.get(host)!.ospf6 ? doubtsIn(model).get(host) : undefined;
    return (doubts?.ipv6 ?? doubts?.routing)?.words ?? [];
  });
  return near ?? own[0] ?? [...ospf.doubts.values()][0] ?? null;
});
