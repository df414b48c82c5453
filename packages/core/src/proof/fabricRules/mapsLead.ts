import { carriagesOf, gatewaysOf } from '../../config/carriage.ts';
import type { Finding } from '../../finding.ts';
import type { OutsideNeighbour } from '../../intent/intent.ts';
import { familyWith, linkSubnet, neighbourKey, placeWords } from '../../intent/neighbourPlace.ts';
import { policiesBehind, policyKey } from '../../intent/policies.ts';
import { holdsAddress } from '../../numbers/address.ts';
import { hostPart, parseIpv4, type Ipv4 } from '../../numbers/ipv4.ts';
import { holdsAny, hostPrefix, networkOfAny, parseAnyCidr } from '../../numbers/prefix.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

/** Next hops that a map, or one that it calls, sets, with the map that does. */
function hopsOf({ intent }: JudgedFabric, map: string | undefined): { readonly name: string; readonly hop: Ipv4 }[] {
  if (map === undefined) return [];
  return policiesBehind(intent.policies, [policyKey({ is: 'route-map', name: map })]).flatMap((p) =>
    p.is !== 'route-map'
      ? []
      : p.entries.flatMap(({ permit, set }) => {
          const hop = set?.nextHop;
          return permit && hop !== undefined && parseIpv4(hop) !== null ? { name: p.name, hop } : [];
        }),
  );
}

type IsThere = (hop: Ipv4) => 'near' | 'own' | 'away';
/** Of routes that a router outside tells: what an address is to the switch, in the tenant. */
function toSwitch({ intent, values }: JudgedFabric, n: OutsideNeighbour): IsThere {
  const beside = intent.neighbours.filter(
    (o) => o.rack === n.rack && o.side === n.side && o.vrf === n.vrf && familyWith(o) === 4,
  );
  const networks = carriagesOf(intent, values, undefined).get(n.rack)?.networks ?? [];
  const gateways = networks.flatMap((w) => (w.vrf === n.vrf ? gatewaysOf(w) : []));
  return (hop) => {
    if ([...beside.map((o) => o.address), ...gateways].some((own) => hostPart(own) === hop)) return 'own';
    const alone = hostPrefix(hop)!;
    const near =
      beside.some((o) => holdsAddress(linkSubnet(o), hop)) ||
      gateways.some((own) => holdsAny(networkOfAny(parseAnyCidr(own)!), alone));
    return near ? 'near' : 'away';
  };
}
/** Of routes that it is told: what an address is to the router. */
const toRouter =
  (n: OutsideNeighbour): IsThere =>
  (hop) => {
    if (hop === n.far) return 'own';
    return holdsAddress(linkSubnet(n), hop) ? 'near' : 'away';
  };

/** Maps of sessions that set a next hop which whoever hears of it does not use. */
function strayHops(fabric: JudgedFabric): Finding[] {
  const at = new Map<
    string,
    { readonly name: string; readonly why: string; readonly places: string[]; keys: string[] }
  >();
  for (const n of fabric.intent.neighbours) {
    // What is behind a link is looked up in routes that are not known here.
    if (familyWith(n) !== 4 || n.loopback !== undefined) continue;
    const asked = [
      [hopsOf(fabric, n.mapIn), toSwitch(fabric, n), 'the switch'],
      [hopsOf(fabric, n.mapOut), toRouter(n), n.far],
    ] as const;
    for (const [hops, isThere, who] of asked)
      for (const { name, hop } of hops) {
        const there = isThere(hop);
        if (there === 'near') continue;
        const why =
          there === 'own'
            ? `${name} leads routes to ${hop}, which is an address of ${who} itself`
            : `${name} leads routes to ${hop}, which lies in no subnet that ${who} has in ${n.vrf}`;
        const known = at.get(why) ?? { name, why, places: [], keys: [] };
        at.set(why, known);
        known.places.push(placeWords(n));
        known.keys.push(neighbourKey(n));
      }
  }
  return [...at.values()].map(({ name, why, places, keys }) => ({
    rule: 'map-next-hop',
    severity: 'error',
    message: `${why} (${places.join(', ')}): it uses none of them.`,
    cure: `Say an address next door in ${name}, neighbour, or give the session another map.`,
    subjects: [
      `policy:${policyKey({ is: 'route-map', name })}`,
      ...keys.map((k): `neighbour:${string}` => `neighbour:${k}`),
    ],
  }));
}

export const mapsLead: FabricRule = {
  id: 'map-next-hop',
  title: 'Next hops that route maps set lie next door to whoever is told',
  severity: 'error',
  source: 'RFC 4271 §5.1.3: a next hop of eBGP shares a subnet with who hears of it, and is not its own address',
  scope: 'intent',
  judge: strayHops,
};
