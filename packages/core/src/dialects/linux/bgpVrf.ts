import type { BgpVrf } from '../../config/bgp.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { IN_EVPN, sourceLines } from './bgpPolicy.ts';
import { inIpv4, isOfIpv4, NO_NETWORK, pathsLine, readShared, routerIdLine, sharedField } from './bgpShared.ts';
import { readTargets, targetField, targetLines } from './bgpTargets.ts';
import { failed, unmodelled, type Answer, type Block, type FrrReading } from './blocks.ts';
import type { BgpVrfDraft } from './draft.ts';
import { whole } from './words.ts';

export const vrfBlock = (v: BgpVrf): string =>
  `\nrouter bgp ${v.asn} vrf ${v.vrf}${routerIdLine(v.routerId)}\n !\n address-family ipv4 unicast` +
  sourceLines(v) +
  pathsLine(v) +
  '\n exit-address-family\n !\n address-family l2vpn evpn' +
  (v.advertiseIpv4 ? '\n  advertise ipv4 unicast' : '') +
  targetLines(v, '  ') +
  '\n exit-address-family\nexit\n!';

/** What FRR makes of a line that begins with `vrf` in a router. */
export const VRF_POLICY = 'FRR takes it for “vrf-policy”, which is not modelled; a VRF’s own block stands outside';

const vrfIpv4Family: Block<BgpVrfDraft> = {
  name: 'address-family ipv4 unicast',
  exit: 'exit-address-family',
  read: (w, _line, v, reading) => {
    if (w[0] === 'network' && w[2] === 'area') return failed('a network with an area is one of OSPF');
    if (w[0] === 'network' || w[0] === 'aggregate-address')
      return unmodelled(`“${w.join(' ')}” is not modelled in a VRF`);
    const r = readShared(w, v);
    return r === true ? reading.at(['bgp', 'vrfs', v.vrf, sharedField(w)]) : r;
  },
};

/** A VNI in the family of a VRF: FRR takes it, and lines after it are of it. */
const strayVni: Block<null> = {
  name: 'vni',
  exit: 'exit-vni',
  evpn: true,
  read: (w, line) =>
    w[0] === 'rd' || w[0] === 'route-target' ? failed(`“${line}” is of a VNI that stands in a VRF, and lost`) : false,
};

const vrfEvpnFamily: Block<BgpVrfDraft> = {
  name: 'address-family l2vpn evpn',
  exit: 'exit-address-family',
  evpn: true,
  read: (w, line, v, reading) => {
    if (w[0] === 'network') return failed(NO_NETWORK);
    if (line === 'advertise ipv4 unicast') {
      v.advertiseIpv4 = true;
      return reading.at(['bgp', 'vrfs', v.vrf, 'advertiseIpv4']);
    }
    if (w[0] === 'vni' && whole(w[1], 1, 16777215) !== null)
      return {
        ...reading.open(strayVni, null, ['bgp', 'vrfs', v.vrf]),
        lost: 'a VNI belongs to EVPN outside of the VRFs',
      };
    if (w[2] === 'activate' || w[2] === 'allowas-in' || IN_EVPN.test(w[2] ?? ''))
      return readTenantRouter(w, line, tenantNeighbours(reading, v.vrf));
    const r = readTargets(w, v, Infinity);
    return r === true ? reading.at(['bgp', 'vrfs', v.vrf, targetField(w)]) : r;
  },
};

export const vrfRouter: Block<BgpVrfDraft> = {
  name: 'router bgp … vrf',
  routes: true,
  read: (w, line, v, reading) => {
    if (w[0] === 'bgp' && w[1] === 'router-id') {
      if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
      v.routerId = w[2]!;
      return reading.at(['bgp', 'vrfs', v.vrf, 'routerId']);
    }
    if (line === 'address-family ipv4 unicast') return reading.open(vrfIpv4Family, v, ['bgp', 'vrfs', v.vrf]);
    if (line === 'address-family l2vpn evpn') return reading.open(vrfEvpnFamily, v, ['bgp', 'vrfs', v.vrf]);
    if (isOfIpv4(w)) {
      const r = vrfIpv4Family.read(w, line, v, reading);
      if (r !== false) return inIpv4(r);
    }
    return readTenantRouter(w, line, tenantNeighbours(reading, v.vrf));
  },
};

function tenantNeighbours({ draft }: FrrReading, vrf: string): Set<string> {
  const all = draft.bgp!.tenantNeighbours;
  const own = all.get(vrf) ?? new Set();
  all.set(vrf, own);
  return own;
}

/** What FRR takes in the router of a VRF and nothing here has a place for. */
function readTenantRouter(w: readonly string[], line: string, neighbours: Set<string>): Answer {
  if (w[0] === 'vrf') return failed(VRF_POLICY);
  const why = `“${line}” is not modelled in a VRF`;
  if (w[0] === 'bgp' && /^(community-list|large-community-list|extcommunity-list|as-path)$/.test(w[1] ?? ''))
    return false;
  if (w[0] === 'bgp' || (w[0] === 'no' && w[1] === 'bgp')) return unmodelled(why);
  const name = w[0] === 'no' ? w[2] : w[1];
  if ((w[0] === 'no' ? w[1] : w[0]) !== 'neighbor' || name === undefined) return false;
  const opens = w[2] === 'remote-as' || w[2] === 'interface' || (w[2] === 'peer-group' && w.length === 3);
  if (opens) neighbours.add(name);
  return neighbours.has(name) ? unmodelled(why) : failed(`${name} is not defined above as a neighbour or group`);
}
