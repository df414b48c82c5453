import { outsideKey, portOfKey, type OutsideNeighbour } from '../intent.ts';
import { neighbourKey, neighbourPlace, placeWords, spokenTo } from '../neighbourPlace.ts';
import { policyKey } from '../policies.ts';
import { neighbourSchema } from '../schemas/objects.ts';
import { listOf, whole, words } from './collection.ts';
import { onOff, prefixes } from './told.ts';

/** Routers outside that tenants speak BGP to: one of each family on an outside link, and on each VLAN of one. */
export const neighbours = listOf('neighbours', neighbourKey, {
  kind: 'neighbour',
  word: 'neighbour',
  schema: neighbourSchema,
  lately: true,
  named: (key, n) => {
    const { rack, side, port } = portOfKey(key);
    return n
      ? `neighbour ${spokenTo(n)} on ${placeWords(neighbourPlace(n))}`
      : `neighbour on port ${port} of rack ${rack} (${side})`;
  },
  freeing: 'Change its neighbours outside, or take them away, first.',
  fields: [
    whole<OutsideNeighbour, 'rack'>('rack', 'rack'),
    words<OutsideNeighbour, 'side'>('side', 'leaf'),
    words<OutsideNeighbour, 'port'>('port', 'port'),
    whole<OutsideNeighbour, 'vlan'>('vlan', 'VLAN', 'untagged'),
    words<OutsideNeighbour, 'vrf'>('vrf', 'VRF'),
    words<OutsideNeighbour, 'address'>('address', 'our address'),
    words<OutsideNeighbour, 'far'>('far', 'its address'),
    words<OutsideNeighbour, 'loopback'>('loopback', 'address it speaks from', 'that on the link'),
    whole<OutsideNeighbour, 'hops'>('hops', 'hops to it', 'two'),
    whole<OutsideNeighbour, 'asn'>('asn', 'AS number'),
    prefixes('takes', 'takes from it', 'a default route', []),
    prefixes('tells', 'tells it', 'the subnets of the tenant', []),
    whole<OutsideNeighbour, 'limit'>('limit', 'most prefixes', 'no limit'),
    words<OutsideNeighbour, 'password'>('password', 'password', 'none'),
    onOff('bfd', 'BFD'),
    onOff('originate', 'default route told'),
    onOff('ttlSecurity', 'TTL security'),
    whole<OutsideNeighbour, 'hold'>('hold', 'hold time', 'default'),
    whole<OutsideNeighbour, 'localAs'>('localAs', 'AS number it sees', 'that of the switch'),
    whole<OutsideNeighbour, 'ownAs'>('ownAs', 'own AS allowed', 'never'),
    onOff('asOverride', 'AS override'),
    onOff('closed', 'closed on purpose'),
    prefixes('aggregates', 'aggregates', 'none'),
    words<OutsideNeighbour, 'mapIn'>('mapIn', 'map in', 'none'),
    words<OutsideNeighbour, 'mapOut'>('mapOut', 'map out', 'none'),
  ],
  refers: (n) => [
    { to: `outside:${outsideKey(n)}`, ends: 'goes' },
    { to: `vrf:${n.vrf}`, ends: 'holds' },
    ...[n.mapIn, n.mapOut].flatMap((name) =>
      name === undefined ? [] : ({ to: `policy:${policyKey({ is: 'route-map', name })}`, ends: 'holds' } as const),
    ),
    ...(n.password === undefined ? [] : [{ to: `secret:${n.password}`, ends: 'holds' } as const]),
  ],
});
