import { hasFamily, type Network } from '../intent/intent.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { familyOfText } from '../numbers/prefix.ts';
import { subnet6Key, subnetKey } from './demands.ts';
import type { Values } from './drawValues.ts';

/** Subnets of a network of one family, the first one first, then those beside it; empty = it has none, or none is drawn yet. */
export function subnetsOfFamily(network: Network, values: Values, family: IpFamily): readonly Cidr[] {
  const first = hasFamily(network, family)
    ? values.get((family === 4 ? subnetKey : subnet6Key)(network.name))
    : undefined;
  return first === undefined
    ? []
    : [first, ...(network.furtherSubnets ?? []).filter((s) => familyOfText(s) === family)];
}
