import { sameContent } from '../numbers/content.ts';
import { naturally } from '../numbers/order.ts';
import type { SwitchConfig } from './switchConfig.ts';

/** Where in a SwitchConfig: names of parts, and of members of lists by what they are called (`ports`, `p7`, `mtu`). */
export type Place = readonly string[];

/** One thing in which two configurations of a switch differ. */
export interface ConfigDifference {
  readonly place: Place;
  /** What is meant; undefined = nothing there. */
  readonly meant: unknown;
  /** What runs; undefined = nothing there. */
  readonly runs: unknown;
}

/** What members of a list are called by; lists that are not named here are compared whole. */
const NAMES: Readonly<Record<string, string>> = {
  ports: 'name',
  lags: 'name',
  vxlans: 'name',
  vrfs: 'name',
  svis: 'name',
  bfdProfiles: 'name',
  prefixLists: 'name',
  entries: 'seq',
  routeMaps: 'name',
  peers: 'name',
  vnis: 'vni',
};
const nameOf = (list: string, item: object): string => {
  const by = list === 'vrfs' && 'vrf' in item ? 'vrf' : NAMES[list]!;
  return String((item as Record<string, unknown>)[by]);
};

const isPlain = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isNamedList = (key: string, value: unknown): value is readonly object[] =>
  key in NAMES && Array.isArray(value) && value.every((x) => typeof x === 'object');

function walk(place: Place, meant: unknown, runs: unknown, out: ConfigDifference[]): void {
  if (sameContent(meant, runs)) return;
  const key = place.at(-1) ?? '';
  if (
    (isNamedList(key, meant) || meant === undefined) &&
    (isNamedList(key, runs) || runs === undefined) &&
    key in NAMES
  ) {
    const left = new Map(((meant ?? []) as readonly object[]).map((x) => [nameOf(key, x), x]));
    const right = new Map(((runs ?? []) as readonly object[]).map((x) => [nameOf(key, x), x]));
    for (const name of new Set([...left.keys(), ...right.keys()])) {
      const [a, b] = [left.get(name), right.get(name)];
      if (a === undefined || b === undefined) out.push({ place: [...place, name], meant: a, runs: b });
      else walk([...place, name], a, b, out);
    }
    return;
  }
  if (isPlain(meant) && isPlain(runs)) {
    for (const part of new Set([...Object.keys(meant), ...Object.keys(runs)]))
      walk([...place, part], meant[part], runs[part], out);
    return;
  }
  out.push({ place, meant, runs });
}

/** In what a switch differs from what is meant, place by place, in natural order of the places. */
export function configDifferences(meant: SwitchConfig, runs: SwitchConfig): ConfigDifference[] {
  const out: ConfigDifference[] = [];
  walk([], meant, runs, out);
  return out.sort((a, b) => naturally(a.place.join(' '), b.place.join(' ')));
}

/** A kind of member of a list, as people call it. */
const MEMBERS: Readonly<Record<string, string>> = {
  ports: 'port',
  lags: 'LAG',
  vxlans: 'VXLAN interface',
  vrfs: 'VRF',
  svis: 'VLAN interface',
  bfdProfiles: 'BFD profile',
  prefixLists: 'prefix list',
  entries: 'entry',
  routeMaps: 'route map',
  peers: 'BGP neighbour',
  vnis: 'EVPN block of VNI',
};
const FIELDS: Readonly<Record<string, string>> = {
  hostname: 'host name',
  loopbacks: 'loopback addresses',
  description: 'description',
  mtu: 'MTU',
  addresses: 'addresses',
  tagged: 'tagged VLANs',
  untagged: 'untagged VLAN',
  bridging: 'VLANs',
  members: 'members',
  vlans: 'VLANs',
  tracked: 'uplink tracking',
  localAddress: 'VTEP address',
  learning: 'address learning',
  arpSuppression: 'ARP suppression',
  l3Vni: 'L3 VNI',
  mac: 'MAC address',
  asn: 'AS number',
  routerId: 'router id',
  remoteAs: 'remote AS',
  keepalive: 'keep-alive time',
  hold: 'hold time',
  connect: 'connect time',
  bfd: 'BFD',
  bfdProfile: 'BFD profile',
  shutdown: 'shutdown',
  password: 'password',
  policyRequired: 'need for a policy',
  multipathRelax: 'multipath over different AS numbers',
  maximumPaths: 'number of equal paths',
  advertiseAllVni: 'announcing of its VNIs',
  rd: 'RD',
  imports: 'imported route targets',
  exports: 'exported route targets',
  connected: 'announcing of connected routes',
  active: 'activated neighbours',
  vni: 'VNI',
  vlan: 'VLAN',
  segment: 'Ethernet segment',
  systemMac: 'system MAC',
  transmit: 'transmit interval',
  receive: 'receive interval',
  multiplier: 'multiplier',
  permit: 'permission',
  prefix: 'prefix',
};
const SECTIONS: Readonly<Record<string, string>> = { bgp: 'BGP', ipv4: 'IPv4', evpn: 'EVPN', bridge: 'the bridge' };

/** `mtu of port p7`, in words. */
function placeWords(place: Place): { readonly field: string; readonly of: string } {
  const of: string[] = [];
  let field = '';
  for (let i = 0; i < place.length; i++) {
    const part = place[i]!;
    if (part in MEMBERS && i + 1 < place.length) {
      of.unshift(`${MEMBERS[part]} ${place[i + 1]}`);
      i++;
      field = '';
    } else if (part in SECTIONS && i < place.length - 1) of.unshift(SECTIONS[part]!);
    else field = FIELDS[part] ?? SECTIONS[part] ?? part;
  }
  if (of[0]?.startsWith('BGP neighbour')) return { field, of: of[0] };
  return { field, of: of.join(' of ') };
}

function valueWords(value: unknown): string {
  if (value === undefined) return 'nothing';
  if (value === true) return 'on';
  if (value === false) return 'off';
  if (Array.isArray(value)) {
    if (value.length === 0) return 'none';
    const shown = value.slice(0, 8).map((v) => (typeof v === 'object' ? '…' : String(v)));
    return `${shown.join(', ')}${value.length > 8 ? ` and ${value.length - 8} more` : ''}`;
  }
  if (isPlain(value)) {
    const said = Object.entries(value).flatMap(([k, v]) =>
      v === undefined || (Array.isArray(v) && v.length === 0) ? [] : [`${FIELDS[k] ?? k} ${valueWords(v)}`],
    );
    return said.join(', ') || 'nothing more';
  }
  return String(value);
}

const cap = (text: string): string => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;

/** The difference as a sentence for people: “p7 is shut by hand, meant open”. */
export function sayDifference({ place, meant, runs }: ConfigDifference): string {
  if (place[0] === 'ports' && place[2] === 'shut')
    return runs === true ? `${place[1]} is shut by hand, meant open` : `${place[1]} is open by hand, meant shut`;
  const { field, of } = placeWords(place);
  if (field === '') return meant === undefined ? `${cap(of)} was added` : `${cap(of)} is missing`;
  const what = cap(of === '' ? field : `${field} of ${of}`);
  return `${what}: runs ${valueWords(runs)}, meant ${valueWords(meant)}`;
}
