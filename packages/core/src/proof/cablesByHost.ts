import { cablesSpokenOver, type Cable } from '../network/cablePlan.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { groupBy } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';

const plain = onceFor((cables: readonly Cable[]) => groupBy(cables, (c) => c.a.host));
const asSpokenOver = onceFor(({ views, cables }: NetworkModel) =>
  groupBy(cablesSpokenOver(views, cables), (c) => c.a.host),
);

/** Cables by the switch that is named first. */
export const cablesFrom = (network: NetworkModel, host: string): readonly Cable[] =>
  plain(network.cables).get(host) ?? [];
/** And LAGs of them, and VLANs of both, that are routed by themselves. */
export const linksFrom = (network: NetworkModel, host: string): readonly Cable[] =>
  asSpokenOver(network).get(host) ?? [];
