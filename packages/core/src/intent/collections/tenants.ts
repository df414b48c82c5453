import { subjectParts } from '../../subject.ts';
import { portOfKey, serverPortKey, type Network, type ServerPort, type Vrf } from '../intent.ts';
import { mapsOfVrf, policyKey } from '../policies.ts';
import { racksOf, racksText } from '../racksText.ts';
import { networkSchema, serverPortSchema, vrfSchema } from '../schemas/objects.ts';
import { driven, listOf, open, whole, words } from './collection.ts';

/** Subnets as they are written one after the other; undefined = there are none. */
export function subnetsOf(text: string): string[] | undefined {
  const all = text.split(/[\s,;]+/).filter((t) => t !== '');
  return all.length === 0 || (all.length === 1 && /^none$/i.test(all[0]!)) ? undefined : all;
}

export const vrfs = listOf('vrfs', (v) => v.name, {
  kind: 'vrf',
  word: 'VRF',
  schema: vrfSchema,
  freeing: 'Remove that VRF first.',
  fields: [
    words<Vrf, 'name'>('name', 'VRF'),
    whole<Vrf, 'transitVlan'>('transitVlan', 'L3 VNI’s VLAN'),
    whole<Vrf, 'vni'>('vni', 'L3 VNI', 'drawn'),
    words<Vrf, 'connectedMap'>('connectedMap', 'map of its subnets', 'none'),
    words<Vrf, 'staticMap'>('staticMap', 'map of its static routes', 'none'),
    whole<Vrf, 'mostRoutes'>('mostRoutes', 'most routes', 'any number'),
  ],
  refers: (v) =>
    mapsOfVrf(v).map((name) => ({ to: `policy:${policyKey({ is: 'route-map', name })}`, ends: 'holds' }) as const),
});

/** How a network without a VRF is written. */
const BRIDGED_ONLY = 'bridged only';

export const networks = listOf('networks', (n) => n.name, {
  kind: 'network',
  word: 'network',
  schema: networkSchema,
  freeing: 'Remove its networks first.',
  fields: [
    words<Network, 'name'>('name', 'network'),
    {
      ...words<Network, 'vrf'>('vrf', 'VRF'),
      text: (n) => n.vrf || BRIDGED_ONLY,
      read: (text) => (text.toLowerCase() === BRIDGED_ONLY || text === '-' ? '' : text),
    },
    whole<Network, 'vlan'>('vlan', 'VLAN'),
    whole<Network, 'vni'>('vni', 'VNI', 'drawn'),
    words<Network, 'subnet'>('subnet', 'subnet', 'drawn'),
    whole<Network, 'subnetLength'>('subnetLength', 'subnet length'),
    {
      key: 'families',
      label: 'families',
      value: (n) => n.families,
      text: ({ families }) => (families === undefined ? 'IPv4' : families === 'ipv6' ? 'IPv6' : 'both'),
      read: (text) =>
        /^both$/i.test(text) ? 'both' : /^ipv6$/i.test(text) ? 'ipv6' : /^ipv4$/i.test(text) ? undefined : null,
      form: 'Write IPv4, IPv6 or both.',
    },
    words<Network, 'subnet6'>('subnet6', 'IPv6 subnet', 'drawn'),
    {
      key: 'furtherSubnets',
      label: 'further subnets',
      value: (n) => n.furtherSubnets,
      text: (n) => (n.furtherSubnets ?? []).join(', '),
      read: (text) => subnetsOf(text),
    },
    whole<Network, 'mtu'>('mtu', 'MTU', 'default'),
    {
      key: 'racks',
      label: 'racks',
      value: (n) => n.racks,
      text: (n) => racksText(n.racks) || 'none',
      read: (text) => (/^none$/i.test(text) ? [] : racksOf(text)),
      form: 'Write them as 1-3, 7, or none.',
    },
  ],
  refers: (n) => [
    ...(n.vrf === '' ? [] : [{ to: `vrf:${n.vrf}`, ends: 'holds' } as const]),
    ...n.racks.map((rack) => ({ to: `rack:${rack}`, ends: 'forgets' }) as const),
  ],
  forget: (n, gone) => ({ ...n, racks: n.racks.filter((r) => String(r) !== subjectParts(gone).key) }),
});

export const ports = listOf('ports', serverPortKey, {
  kind: 'port',
  word: 'server port',
  schema: serverPortSchema,
  named: (key, p) => {
    const { rack, port } = portOfKey(key);
    return p ? `server ${p.server} on rack ${p.rack} ${p.port}` : `port ${port} of rack ${rack}`;
  },
  freeing: 'Free its ports first.',
  fields: [
    words<ServerPort, 'server'>('server', 'server'),
    whole<ServerPort, 'rack'>('rack', 'rack'),
    words<ServerPort, 'port'>('port', 'port'),
    {
      key: 'side',
      label: 'leaf',
      value: (p) => p.side,
      text: (p) => p.side,
      read: sideOf,
      form: 'Write a, b or both.',
    },
    words<ServerPort, 'untagged'>('untagged', 'untagged network'),
    {
      key: 'tagged',
      label: 'tagged networks',
      value: (p) => p.tagged,
      text: (p) => p.tagged.join(', '),
      read: (text) => text.split(/[\s,;]+/).filter((t) => t !== ''),
    },
    open<ServerPort>(),
    ...driven<ServerPort>(),
  ],
  refers: (p) => [
    { to: `rack:${p.rack}`, ends: 'goes' },
    ...[...(p.untagged === undefined ? [] : [p.untagged]), ...p.tagged].map(
      (name) => ({ to: `network:${name}`, ends: 'holds' }) as const,
    ),
  ],
});

/** `leaf a`, `a` → a; `both leaves, ESI LAG`, `both`, `a, b` → both. */
function sideOf(text: string): ServerPort['side'] | null {
  const word = text.toLowerCase().replace(/^leaf /, '');
  if (word === 'a' || word === 'b') return word;
  return word.startsWith('both') || word === 'a, b' ? 'both' : null;
}
