import type { IpFamily } from '../numbers/address.ts';
import { onceFor } from '../onceFor.ts';
import type { NetworkModel } from './networkModel.ts';
import type { OspfNetwork } from './ospf.ts';
import { ospf6Of } from './ospf6.ts';

/** What OSPF of IPv4 (RFC 2328) and of IPv6 (RFC 5340) are called. */
export type OspfName = 'OSPF' | 'OSPFv3';

/** OSPF of one family, as far as some switch runs it. */
interface OspfOf {
  readonly by: OspfName;
  readonly family: IpFamily;
  readonly ospf: OspfNetwork;
}
/** OSPF of either family that switches of a model run. */
export const ospfIn = onceFor((model: NetworkModel): readonly OspfOf[] => {
  const six = ospf6Of(model);
  return [
    ...(model.ospf ? [{ by: 'OSPF', family: 4, ospf: model.ospf } as const] : []),
    ...(six ? [{ by: 'OSPFv3', family: 6, ospf: six } as const] : []),
  ];
});
