import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { neighbourKey } from '../intent/neighbourPlace.ts';
import { formatNetwork, networkOfPrefix, overlap, parseInterfaceAddress, parseNetwork } from '../numbers/address.ts';
import { groupBy } from '../numbers/order.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';

/** Links to routers outside whose subnet is also that of a network of the same tenant, drawn or chosen. */
export function linksOverNetworks(intent: FabricIntent, values: Values): Finding[] {
  return intent.neighbours.flatMap((n) => {
    const link = networkOfPrefix(parseInterfaceAddress(n.address)!);
    return intent.networks.flatMap((w): Finding[] => {
      const subnets = w.vrf === n.vrf ? subnetsOfFamily(w, values, link.family) : [];
      const subnet = subnets.map((s) => parseNetwork(s)!).find((s) => overlap(s, link));
      if (!subnet) return [];
      return [
        {
          rule: 'subnet-overlap',
          severity: 'error',
          message: `The link to ${n.far} (${formatNetwork(link)}) overlaps network ${w.name} (${formatNetwork(subnet)}) in VRF ${n.vrf}.`,
          cure: 'Give the link a subnet of its own.',
          subjects: [`neighbour:${neighbourKey(n)}`, `network:${w.name}`],
        },
      ];
    });
  });
}

/** Whose an AS number is of the switches of a fabric, in words; null = nobody’s. */
export function ownersOfAsn({ switches }: CompiledFabric): (asn: number | undefined) => string | null {
  const hostsOf = groupBy(switches, (s) => s.config.bgp?.asn);
  return (asn) => {
    const [first, ...more] = (asn === undefined ? undefined : hostsOf.get(asn)) ?? [];
    return first ? `that of ${first.seat.host}${more.length > 0 ? ` and ${more.length} more` : ''}` : null;
  };
}

/** Routers outside with an AS number that switches of the fabric have: these drop what it tells (RFC 4271 §9.1.2), or take it for one of theirs. */
export function asNumbersOutside(intent: FabricIntent, compiled: CompiledFabric): Finding[] {
  const ownerOf = ownersOfAsn(compiled);
  return intent.neighbours.flatMap((n) => {
    const clash = (asn: number | undefined, message: (whose: string) => string, cure: string): Finding[] => {
      const whose = ownerOf(asn);
      if (whose === null) return [];
      const subjects = [`neighbour:${neighbourKey(n)}`] as const;
      return [{ rule: 'outside-as', severity: 'error', message: message(whose), cure, subjects }];
    };
    return [
      ...clash(
        n.localAs,
        (whose) => `AS ${n.localAs}, which ${n.far} sees, is ${whose}: what is heard of it is dropped there.`,
        'Choose a number that no switch of the fabric has.',
      ),
      ...clash(
        n.asn,
        (whose) =>
          `AS ${n.asn} of ${n.far} is ${whose}: what it tells is dropped there, or taken for the fabric’s own.`,
        'Write the AS number the router has; if it is that, draw those of the fabric from another pool.',
      ),
    ];
  });
}
