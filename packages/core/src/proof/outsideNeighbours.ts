import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { neighbourKey } from '../intent/neighbourPlace.ts';
import { formatNetwork, networkOfPrefix, overlap, parseInterfaceAddress, parseNetwork } from '../numbers/address.ts';
import { subnet6Key, subnetKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** Links to routers outside whose subnet is also that of a network of the same tenant, drawn or chosen. */
export function linksOverNetworks(intent: FabricIntent, values: Values): Finding[] {
  return intent.neighbours.flatMap((n) => {
    const link = networkOfPrefix(parseInterfaceAddress(n.address)!);
    const keyOf = link.family === 4 ? subnetKey : subnet6Key;
    return intent.networks.flatMap((w): Finding[] => {
      const subnet = w.vrf === n.vrf ? parseNetwork(values.get(keyOf(w.name)) ?? '') : null;
      if (subnet === null || !overlap(subnet, link)) return [];
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

/** Routers outside with an AS number that switches of the fabric have: these drop what it tells (RFC 4271 §9.1.2), or take it for one of theirs. */
export function asNumbersOutside(intent: FabricIntent, { switches }: CompiledFabric): Finding[] {
  return intent.neighbours.flatMap((n): Finding[] => {
    const of = (asn: number | undefined): string | null => {
      const same = switches.filter((s) => s.config.bgp?.asn === asn).map((s) => s.seat.host);
      return same.length === 0 ? null : `${same[0]!}${same.length > 1 ? ` and ${same.length - 1} more` : ''}`;
    };
    const shown = n.localAs === undefined ? null : of(n.localAs);
    const seen: Finding[] =
      shown === null
        ? []
        : [
            {
              rule: 'outside-as',
              severity: 'error',
              message: `AS ${n.localAs}, which ${n.far} sees, is that of ${shown}: what is heard of it is dropped there.`,
              cure: 'Choose a number that no switch of the fabric has.',
              subjects: [`neighbour:${neighbourKey(n)}`],
            },
          ];
    const who = of(n.asn);
    if (who === null) return seen;
    return [
      ...seen,
      {
        rule: 'outside-as',
        severity: 'error',
        message: `AS ${n.asn} of ${n.far} is that of ${who}: what it tells is dropped there, or taken for the fabric’s own.`,
        cure: 'Write the AS number the router has; if it is that, draw those of the fabric from another pool.',
        subjects: [`neighbour:${neighbourKey(n)}`],
      },
    ];
  });
}
