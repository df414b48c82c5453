import type { BgpConfig, BgpFamily, BgpVrf, EvpnVni, Redistribution } from '../../config/bgp.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { neighbourLines, readNeighbour } from './bgpNeighbour.ts';
import { readTargets, targetField, targetLines } from './bgpTargets.ts';
import { AS_IPV4, failed, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { BgpDraft, BgpVrfDraft, FamilyDraft, VniDraft } from './draft.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { whole } from './words.ts';

const redistributionLine = (r: Redistribution | undefined): string =>
  r === undefined ? '' : `\n  redistribute connected${r.routeMap === undefined ? '' : ` route-map ${r.routeMap}`}`;
const pathsLine = (n: number | undefined): string => (n === undefined ? '' : `\n  maximum-paths ${n}`);
const routerIdLine = (id: string | undefined): string => (id === undefined ? '' : `\n bgp router-id ${id}`);

function familyLines({ active, inactive, ownAsAllowed }: BgpFamily): string {
  let out = '';
  for (const a of active) out += `\n  neighbor ${a} activate`;
  for (const a of inactive ?? []) out += `\n  no neighbor ${a} activate`;
  for (const a in ownAsAllowed) out += `\n  neighbor ${a} allowas-in ${ownAsAllowed[a]}`;
  return out;
}

const vniBlock = (v: EvpnVni): string => `\n  vni ${v.vni}${targetLines(v, '   ')}\n  exit-vni`;

const vrfBlock = (v: BgpVrf): string =>
  `\nrouter bgp ${v.asn} vrf ${v.vrf}${routerIdLine(v.routerId)}\n !\n address-family ipv4 unicast` +
  redistributionLine(v.connected) +
  pathsLine(v.maximumPaths) +
  '\n exit-address-family\n !\n address-family l2vpn evpn' +
  (v.advertiseIpv4 ? '\n  advertise ipv4 unicast' : '') +
  targetLines(v, '  ') +
  '\n exit-address-family\nexit\n!';

const PLAIN = '-';

export function writeBgp(b: BgpConfig, sheet: Sheet): void {
  let out = `\nrouter bgp ${b.asn}${routerIdLine(b.routerId)}`;
  if (!b.defaultIpv4) out += '\n no bgp default ipv4-unicast';
  if (b.multipathRelax) out += '\n bgp bestpath as-path multipath-relax';
  // What people wrote of a neighbour, and names that are more than a word.
  let words = '';
  for (const p of b.peers) {
    const lines = neighbourLines(p);
    out += lines;
    const named = isPlain(p.name) && isPlain(p.group ?? PLAIN) && isPlain(p.bfdProfile ?? PLAIN);
    if (!named || p.description !== undefined || p.password !== undefined) words += lines;
  }
  out += '\n !\n address-family ipv4 unicast';
  out += redistributionLine(b.ipv4.connected) + familyLines(b.ipv4) + pathsLine(b.ipv4.maximumPaths);
  out += '\n exit-address-family\n !\n address-family l2vpn evpn';
  out += familyLines(b.evpn);
  if (b.evpn.advertiseAllVni) out += '\n  advertise-all-vni';
  const named = [
    ...b.ipv4.active,
    ...b.evpn.active,
    ...Object.keys(b.ipv4.ownAsAllowed),
    ...Object.keys(b.evpn.ownAsAllowed),
  ];
  sheet.say(out, named.every(isPlain) ? words : out);
  for (const v of b.evpn.vnis) sheet.count(vniBlock(v));
  sheet.count('\n exit-address-family\nexit\n!');
  for (const v of b.vrfs) {
    const block = vrfBlock(v);
    sheet.say(block, isPlain(v.vrf) && isPlain(v.connected?.routeMap ?? PLAIN) ? '' : block);
  }
}

/** Reads `redistribute` and `maximum-paths`, which the global IPv4 family and that of a VRF have alike. */
function readShared(w: readonly string[], into: Pick<FamilyDraft, 'connected' | 'maximumPaths'>): Answer {
  if (w[0] === 'maximum-paths') {
    const n = whole(w[1], 1, 256);
    if (n === null) return 'maximum-paths takes 1–256';
    into.maximumPaths = n;
    return true;
  }
  if (w[0] !== 'redistribute') return false;
  if (w[1] !== 'connected') return unmodelled(`redistribution of ${w[1] ?? 'nothing'} is not modelled`);
  if (w.length === 2) into.connected = {};
  else if (w[2] === 'route-map' && w[3] !== undefined) into.connected = { routeMap: w[3] };
  else return 'after connected stands route-map and its name';
  return true;
}
const sharedField = (w: readonly string[]): 'maximumPaths' | 'connected' =>
  w[0] === 'maximum-paths' ? 'maximumPaths' : 'connected';

/** Lines of an address family that a router takes without one, and then means IPv4 unicast (seen on FRR 8.4.4). */
const isOfIpv4 = (w: readonly string[]): boolean =>
  w[0] === 'redistribute' ||
  w[0] === 'maximum-paths' ||
  (w[0] === 'neighbor' && (w[2] === 'activate' || w[2] === 'allowas-in')) ||
  (w[0] === 'no' && w[1] === 'neighbor' && w[3] === 'activate');

const vni: Block<VniDraft> = {
  name: 'vni',
  exit: 'exit-vni',
  evpn: true,
  read: (w, _line, about, reading) => {
    const r = readTargets(w, about, 1);
    return r === true ? reading.at(['bgp', 'evpn', 'vnis', String(about.vni), targetField(w)]) : r;
  },
};

function leaveOut(family: FamilyDraft, name: string): void {
  const left = family.inactive?.filter((n) => n !== name) ?? [];
  if (left.length > 0) family.inactive = left;
  else delete family.inactive;
}

/** Which neighbours speak a family, and what of it is allowed them. */
function readMembers(w: readonly string[], b: BgpDraft, which: 'ipv4' | 'evpn', reading: FrrReading): Answer {
  const family: FamilyDraft = b[which];
  if (w[0] === 'no') {
    const name = w[2];
    if (w[1] !== 'neighbor' || name === undefined || w[3] !== 'activate') return false;
    family.active = family.active.filter((a) => a !== name);
    // Of a group it takes back what was said; of a neighbour it says that it has not got what its group has.
    if (b.peers.get(name)?.kind !== 'group' && !family.inactive?.includes(name))
      family.inactive = [...(family.inactive ?? []), name];
    return reading.at(['bgp', which, 'active']);
  }
  if (w[1] === undefined) return false;
  if (w[2] === 'activate') {
    if (!b.peers.has(w[1])) return failed(`${w[1]} is not defined above as a neighbour or group`);
    if (!family.active.includes(w[1])) family.active.push(w[1]);
    if (family.inactive?.includes(w[1])) leaveOut(family, w[1]);
    return reading.at(['bgp', which, 'active']);
  }
  // What else is said of a neighbour is the router's, or nobody's.
  if (w[2] !== 'allowas-in') return false;
  const n = w[3] === undefined ? 3 : whole(w[3], 1, 10);
  if (n === null) return 'allowas-in takes 1–10';
  family.ownAsAllowed[w[1]] = n;
  return reading.at(['bgp', which, 'ownAsAllowed']);
}

const ipv4Family: Block<BgpDraft> = {
  name: 'address-family ipv4 unicast',
  exit: 'exit-address-family',
  read: (w, _line, b, reading) => {
    if (w[0] === 'neighbor' || w[0] === 'no') return readMembers(w, b, 'ipv4', reading);
    const r = readShared(w, b.ipv4);
    return r === true ? reading.at(['bgp', 'ipv4', sharedField(w)]) : r;
  },
};

const evpnFamily: Block<BgpDraft> = {
  name: 'address-family l2vpn evpn',
  exit: 'exit-address-family',
  evpn: true,
  read: (w, line, b, reading) => {
    switch (w[0]) {
      case 'neighbor':
      case 'no':
        return readMembers(w, b, 'evpn', reading);
      case 'advertise-all-vni':
        b.evpn.advertiseAllVni = true;
        return reading.at(['bgp', 'evpn', 'advertiseAllVni']);
      case 'vni': {
        const number = whole(w[1], 1, 16777215);
        if (number === null) return 'a VNI is 1–16777215';
        let v = b.evpn.vnis.get(number);
        if (!v) b.evpn.vnis.set(number, (v = { vni: number, imports: [], exports: [] }));
        return reading.open(vni, v, ['bgp', 'evpn', 'vnis', w[1]!]);
      }
      // In the family itself they are of the default VRF.
      case 'advertise':
      case 'rd':
      case 'route-target':
        return unmodelled(`“${line}” is not modelled outside of a VNI or a VRF`);
      default:
        return false;
    }
  },
};

const VRF_POLICY = 'FRR takes it for “vrf-policy”, which is not modelled; a VRF’s own block stands outside';

const router: Block<BgpDraft> = {
  name: 'router bgp',
  read: (w, line, b, reading) => {
    if (isOfIpv4(w)) {
      const r = ipv4Family.read(w, line, b, reading);
      return r === true ? AS_IPV4 : r;
    }
    if (w[0] === 'neighbor') return readNeighbour(b, w, reading);
    if (line.startsWith('address-family ipv4 unicast') || line === 'address-family ipv4')
      return reading.open(ipv4Family, b, ['bgp', 'ipv4']);
    if (line === 'address-family l2vpn evpn') return reading.open(evpnFamily, b, ['bgp', 'evpn']);
    if (w[0] === 'bgp' && w[1] === 'router-id') {
      if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
      b.routerId = w[2]!;
      return reading.at(['bgp', 'routerId']);
    }
    if (line === 'no bgp default ipv4-unicast') {
      b.defaultIpv4 = false;
      return reading.at(['bgp', 'defaultIpv4']);
    }
    if (line === 'bgp bestpath as-path multipath-relax') {
      b.multipathRelax = true;
      return reading.at(['bgp', 'multipathRelax']);
    }
    if (line === 'no bgp ebgp-requires-policy' || line === 'bgp ebgp-requires-policy') {
      b.policySaid = w[0] !== 'no';
      return reading.at(['bgp', 'policyRequired']);
    }
    if (line === 'bgp log-neighbor-changes' || line.startsWith('bgp graceful-restart')) return reading.at(['bgp']);
    return w[0] === 'vrf' ? failed(VRF_POLICY) : false;
  },
};

const vrfIpv4Family: Block<BgpVrfDraft> = {
  name: 'address-family ipv4 unicast',
  exit: 'exit-address-family',
  read: (w, _line, v, reading) => {
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
    if (line === 'advertise ipv4 unicast') {
      v.advertiseIpv4 = true;
      return reading.at(['bgp', 'vrfs', v.vrf, 'advertiseIpv4']);
    }
    if (w[0] === 'vni' && whole(w[1], 1, 16777215) !== null)
      return {
        ...reading.open(strayVni, null, ['bgp', 'vrfs', v.vrf]),
        lost: 'a VNI belongs to EVPN outside of the VRFs',
      };
    if (w[2] === 'activate' || w[2] === 'allowas-in')
      return readTenantRouter(w, line, tenantNeighbours(reading, v.vrf));
    const r = readTargets(w, v, Infinity);
    return r === true ? reading.at(['bgp', 'vrfs', v.vrf, targetField(w)]) : r;
  },
};

const vrfRouter: Block<BgpVrfDraft> = {
  name: 'router bgp … vrf',
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
      if (r !== false) return r === true ? AS_IPV4 : r;
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
  if (w[0] === 'bgp' || (w[0] === 'no' && w[1] === 'bgp')) return unmodelled(why);
  const name = w[0] === 'no' ? w[2] : w[1];
  if ((w[0] === 'no' ? w[1] : w[0]) !== 'neighbor' || name === undefined) return false;
  const opens = w[2] === 'remote-as' || w[2] === 'interface' || (w[2] === 'peer-group' && w.length === 3);
  if (opens) neighbours.add(name);
  return neighbours.has(name) ? unmodelled(why) : failed(`${name} is not defined above as a neighbour or group`);
}

function openRouter(w: readonly string[], reading: FrrReading): Answer {
  const { draft } = reading;
  const asn = whole(w[2], 1, 4294967295);
  if (w[1] !== 'bgp') return unmodelled(`router ${w[1] ?? ''} is not modelled`);
  if (asn === null) return 'an AS number is 1–4294967295';
  if (w[3] === 'vrf' && w[4] !== undefined) {
    if (!draft.bgp) return 'the global BGP block must stand above the VRF’s';
    const v: BgpVrfDraft = { vrf: w[4], asn, advertiseIpv4: false, imports: [], exports: [] };
    draft.bgp.vrfs.push(v);
    return reading.open(vrfRouter, v, ['bgp', 'vrfs', v.vrf]);
  }
  if (draft.bgp && draft.bgp.asn !== asn) return failed(`BGP already runs as ${draft.bgp.asn} above`);
  draft.bgp ??= {
    asn,
    defaultIpv4: true,
    policyRequired: true,
    policySaid: null,
    multipathRelax: false,
    peers: new Map(),
    ipv4: { active: [], ownAsAllowed: {} },
    evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: new Map() },
    vrfs: [],
    tenantNeighbours: new Map(),
    firstMembers: new Map(),
  };
  return reading.open(router, draft.bgp, ['bgp']);
}

export const bgpLines: TopLines = {
  router: (w, _line, reading) => openRouter(w, reading),
  frr: (w, _line, reading) => {
    if (w[1] === 'defaults') reading.draft.policyDefault = w[2] !== 'datacenter';
    return w[1] === 'defaults' || w[1] === 'version' ? reading.at(['bgp', 'policyRequired']) : false;
  },
};
