import type { Cable } from '../network/cablePlan.ts';
import { cablesSpokenOver } from '../network/spokenCables.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { groupBy } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';

const byHost = onceFor((cables: readonly Cable[]) => groupBy(cables, (c) => c.a.host));
const spokenOver = onceFor(({ views, cables }: NetworkModel) => cablesSpokenOver(views, cables));

/** Cables by the switch that is named first. */
export const cablesFrom = (network: NetworkModel, host: string): readonly Cable[] =>
  byHost(network.cables).get(host) ?? [];
/** And LAGs of them, and VLANs of both, that are routed by themselves. */
export const linksFrom = (network: NetworkModel, host: string): readonly Cable[] =>
  byHost(spokenOver(network)).get(host) ?? [];
