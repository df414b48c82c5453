import type { BgpConfig, BgpVrf } from '../../config/bgp.ts';
import { peerName } from './bgpNeighbour.ts';
import { IN_EVPN } from './bgpPolicy.ts';
import { NO_NETWORK } from './bgpShared.ts';
import { familyIsPlain, PLAIN, readSpeaker, speakerLines } from './bgpSpeaker.ts';
import { readTargets, targetField, targetLines } from './bgpTargets.ts';
import { failed, unmodelled, type Answer, type Block, type FrrReading } from './blocks.ts';
import type { BgpVrfDraft } from './draft.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { whole } from './words.ts';

/** The router of a tenant. Whether policies are wanted is said where it is not as the profile of the file has it. */
export function writeTenant(v: BgpVrf, { policyRequired }: Pick<BgpConfig, 'policyRequired'>, sheet: Sheet): void {
  const { lines, words } = speakerLines(v);
  const wanted =
    v.policyRequired === policyRequired ? '' : `\n ${v.policyRequired ? '' : 'no '}bgp ebgp-requires-policy`;
  const evpn =
    (v.advertiseIpv4 ? advertiseLine('ipv4', v.advertiseIpv4Map) : '') +
    (v.advertiseIpv6 ? advertiseLine('ipv6', v.advertiseIpv6Map) : '') +
    (v.defaultRoute ? '\n  default-originate ipv4' : '') +
    (v.defaultIpv6Route ? '\n  default-originate ipv6' : '') +
    targetLines(v, '  ');
  const block =
    `\nrouter bgp ${v.asn} vrf ${v.vrf}${wanted}${lines}` +
    (evpn === '' ? '' : `\n address-family l2vpn evpn${evpn}\n exit-address-family`) +
    '\nexit\n!';
  const plain =
    isPlain(v.vrf) &&
    familyIsPlain(v.ipv4) &&
    v.ipv6 === undefined &&
    isPlain(v.advertiseIpv4Map ?? PLAIN) &&
    [v.ipv4.connected, v.ipv4.static].every((r) => isPlain(r?.routeMap ?? PLAIN));
  sheet.say(block, plain ? words : block);
}

const advertiseLine = (family: 'ipv4' | 'ipv6', map: string | undefined): string =>
  `\n  advertise ${family} unicast${map === undefined ? '' : ` route-map ${map}`}`;
/** Reads it; of two lines the last counts, also where it names no map. */
function readAdvertise(said: string, taken: boolean, v: BgpVrfDraft, { at }: FrrReading): Answer {
  const [, which, map] = /^advertise (ipv[46]) unicast(?: route-map (\S+))?$/.exec(said) ?? [];
  if (which === undefined) return unmodelled(`“${said}” is not modelled in a VRF`);
  if (which === 'ipv4') {
    v.advertiseIpv4 = !taken;
    delete v.advertiseIpv4Map;
    if (!taken && map !== undefined) v.advertiseIpv4Map = map;
    return at(['bgp', 'vrfs', v.vrf, 'advertiseIpv4']);
  }
  delete v.advertiseIpv6;
  delete v.advertiseIpv6Map;
  if (!taken) v.advertiseIpv6 = true;
  if (!taken && map !== undefined) v.advertiseIpv6Map = map;
  return at(['bgp', 'vrfs', v.vrf, 'advertiseIpv6']);
}

/** A VNI in the family of a VRF: FRR takes it, and lines after it are of it. */
const strayVni: Block<null> = {
  name: 'vni',
  exit: 'exit-vni',
  evpn: true,
  read: (w, line) =>
    w[0] === 'rd' || w[0] === 'route-target' ? failed(`“${line}” is of a VNI that stands in a VRF, and lost`) : false,
};

const tenantEvpn: Block<BgpVrfDraft> = {
  name: 'address-family l2vpn evpn',
  exit: 'exit-address-family',
  evpn: true,
  read: (w, line, v, reading) => {
    if (w[0] === 'network') return failed(NO_NETWORK);
    const taken = w[0] === 'no';
    const said = taken ? line.slice(3) : line;
    if (said.startsWith('advertise ')) return readAdvertise(said, taken, v, reading);
    if (said === 'default-originate ipv4') {
      if (taken) delete v.defaultRoute;
      else v.defaultRoute = true;
      return reading.at(['bgp', 'vrfs', v.vrf, 'defaultRoute']);
    }
    if (said === 'default-originate ipv6') {
      if (taken) delete v.defaultIpv6Route;
      else v.defaultIpv6Route = true;
      return reading.at(['bgp', 'vrfs', v.vrf, 'defaultIpv6Route']);
    }
    if (w[0] === 'default-originate') return unmodelled(`“${line}” is not modelled in a VRF`);
    if (w[0] === 'vni' && whole(w[1], 1, 16777215) !== null)
      return {
        ...reading.open(strayVni, null, ['bgp', 'vrfs', v.vrf]),
        lost: 'a VNI belongs to EVPN outside of the VRFs',
      };
    if (w[2] === 'activate' || w[2] === 'allowas-in' || IN_EVPN.test(w[2] ?? '')) return ofNeighbour(w, line, v);
    const r = readTargets(w, v, Infinity);
    return r === true ? reading.at(['bgp', 'vrfs', v.vrf, targetField(w)]) : r;
  },
};

/** A neighbour of a tenant speaks no EVPN that is computed. */
function ofNeighbour(w: readonly string[], line: string, { peers }: BgpVrfDraft): Answer {
  const [kind, said = ''] = w[0] === 'no' ? w.slice(1) : w;
  if (kind !== 'neighbor') return false;
  const name = peerName(said);
  return peers.has(name)
    ? unmodelled(`“${line}” is not modelled in a VRF`)
    : failed(`${name} is not defined above as a neighbour or group`);
}

export const tenantRouter: Block<BgpVrfDraft> = {
  name: 'router bgp … vrf',
  routes: true,
  read: (w, line, v, reading) => {
    if (line === 'address-family l2vpn evpn') return reading.open(tenantEvpn, v, ['bgp', 'vrfs', v.vrf]);
    if (w[0] === 'address-family' && !/^address-family ipv[46] unicast$/.test(line)) return false;
    return readSpeaker(w, line, v, reading);
  },
};
