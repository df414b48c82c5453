import type { BgpConfig, BgpFamily, EvpnVni } from '../../config/bgp.ts';
import { hostPart } from '../../numbers/ipv4.ts';
import { neighbourLines, readNeighbour, readNoNeighbour } from './bgpNeighbour.ts';
import { policyLines, readPolicy, readSources, sourceLines } from './bgpPolicy.ts';
import { readRouterWord, routerWordLines } from './bgpRouter.ts';
import { inIpv4, isOfIpv4, NO_NETWORK, pathsLine, readShared, routerIdLine, sharedField } from './bgpShared.ts';
import { readTargets, targetField, targetLines } from './bgpTargets.ts';
import { VRF_POLICY, vrfBlock, vrfRouter } from './bgpVrf.ts';
import { failed, harmless, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { BgpDraft, BgpVrfDraft, ConfigDraft, FamilyDraft, VniDraft } from './draft.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { whole } from './words.ts';

function familyLines({ active, inactive, ownAsAllowed, policies }: BgpFamily): string {
  let out = '';
  for (const a of active) out += `\n  neighbor ${a} activate`;
  for (const a of inactive ?? []) out += `\n  no neighbor ${a} activate`;
  for (const a in ownAsAllowed) out += `\n  neighbor ${a} allowas-in ${ownAsAllowed[a]}`;
  return out + policyLines(policies);
}

const vniBlock = (v: EvpnVni): string => `\n  vni ${v.vni}${targetLines(v, '   ')}\n  exit-vni`;

const PLAIN = '-';

export function writeBgp(b: BgpConfig, sheet: Sheet): void {
  let out = `\nrouter bgp ${b.asn}${routerIdLine(b.routerId)}`;
  if (!b.defaultIpv4) out += '\n no bgp default ipv4-unicast';
  if (b.multipathRelax) out += '\n bgp bestpath as-path multipath-relax';
  out += routerWordLines(b);
  // What people wrote of a neighbour, and names that are more than a word.
  let words = '';
  for (const p of b.peers) {
    const lines = neighbourLines(p);
    out += lines;
    const named = isPlain(p.name) && isPlain(p.group ?? PLAIN) && isPlain(p.bfdProfile ?? PLAIN);
    if (!named || p.description !== undefined || p.password !== undefined) words += lines;
  }
  out += '\n !\n address-family ipv4 unicast';
  out += sourceLines(b.ipv4) + familyLines(b.ipv4) + pathsLine(b.ipv4);
  out += '\n exit-address-family\n !\n address-family l2vpn evpn';
  out += familyLines(b.evpn);
  if (b.evpn.advertiseAllVni) out += '\n  advertise-all-vni';
  const named = [
    ...b.ipv4.active,
    ...b.evpn.active,
    ...Object.keys(b.ipv4.ownAsAllowed),
    ...Object.keys(b.evpn.ownAsAllowed),
  ];
  const said = b.ipv4.policies !== undefined || b.evpn.policies !== undefined;
  sheet.say(out, !said && named.every(isPlain) ? words : out);
  for (const v of b.evpn.vnis) sheet.count(vniBlock(v));
  sheet.count('\n exit-address-family\nexit\n!');
  for (const v of b.vrfs) {
    const block = vrfBlock(v);
    sheet.say(block, isPlain(v.vrf) && isPlain(v.connected?.routeMap ?? PLAIN) ? '' : block);
  }
}

const vni: Block<VniDraft> = {
  name: 'vni',
  exit: 'exit-vni',
  evpn: true,
  read: (w, _line, about, reading) => {
    if (w[0] === 'network') return failed(NO_NETWORK);
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
function readMembers(
  w: readonly string[],
  line: string,
  b: BgpDraft,
  which: 'ipv4' | 'evpn',
  reading: FrrReading,
): Answer {
  const family: FamilyDraft = b[which];
  const taken = w[0] === 'no';
  const [kind, name, word, count] = taken ? w.slice(1) : w;
  if (kind !== 'neighbor' || name === undefined) return false;
  if (word === 'activate' && taken) {
    family.active = family.active.filter((a) => a !== name);
    // Of a group it takes back what was said; of a neighbour it says that it has not got what its group has.
    if (b.peers.get(name)?.kind !== 'group' && !family.inactive?.includes(name))
      family.inactive = [...(family.inactive ?? []), name];
    return reading.at(['bgp', which, 'active']);
  }
  if (word === 'activate') {
    if (!b.peers.has(name)) return failed(`${name} is not defined above as a neighbour or group`);
    if (!family.active.includes(name)) family.active.push(name);
    if (family.inactive?.includes(name)) leaveOut(family, name);
    return reading.at(['bgp', which, 'active']);
  }
  // What else is said of a neighbour is its policy, or the router's, or nobody's.
  if (word !== 'allowas-in') return readPolicy(w, line, b, which, reading);
  if (taken) {
    delete family.ownAsAllowed[name];
    return reading.at(['bgp', which, 'ownAsAllowed']);
  }
  if (count === 'origin') return unmodelled(`“${line}” is not modelled`);
  const n = count === undefined ? 3 : whole(count, 1, 10);
  if (n === null) return 'allowas-in takes 1–10';
  family.ownAsAllowed[name] = n;
  return reading.at(['bgp', which, 'ownAsAllowed']);
}

/** `distance`: how BGP’s routes stand to those of others, of which static ones are nearer anyway. */
function readDistance(w: readonly string[], line: string): Answer {
  const numbers = w.slice(1).filter((t) => /^\d+$/.test(t));
  return numbers.includes('255') || w[1] !== 'bgp'
    ? unmodelled(`“${line}” is not modelled`)
    : harmless('static routes are nearer all the same, and other protocols are not modelled');
}

const ipv4Family: Block<BgpDraft> = {
  name: 'address-family ipv4 unicast',
  exit: 'exit-address-family',
  read: (w, line, b, reading) => {
    const first = w[0] === 'no' ? w[1] : w[0];
    switch (first) {
      case 'neighbor':
        return readMembers(w, line, b, 'ipv4', reading);
      case 'network':
      case 'aggregate-address':
        return readSources(w, line, b, reading);
      case 'distance':
        return w[0] === 'no' ? harmless('it takes back how near BGP’s routes are') : readDistance(w, line);
      case 'table-map':
        return unmodelled(`“${line}” is not modelled`);
      case 'redistribute':
        if (w[0] !== 'no') break;
        if (w[2] === 'connected' || w[2] === 'static') delete b.ipv4[w[2]];
        return reading.at(['bgp', 'ipv4', w[2] === 'static' ? 'static' : 'connected']);
      case 'maximum-paths':
        if (w[0] !== 'no') break;
        delete b.ipv4[w[2] === 'ibgp' ? 'maximumPathsInternal' : 'maximumPaths'];
        return reading.at(['bgp', 'ipv4', 'maximumPaths']);
      default:
        return false;
    }
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
      case 'no':
        if (line === 'no advertise-all-vni') {
          b.evpn.advertiseAllVni = false;
          return reading.at(['bgp', 'evpn', 'advertiseAllVni']);
        }
        return w[1] === 'neighbor' ? readMembers(w, line, b, 'evpn', reading) : evpnWord(w, line);
      case 'neighbor':
        return readMembers(w, line, b, 'evpn', reading);
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
      case 'network':
        return failed(NO_NETWORK);
      // In the family itself they are of the default VRF.
      case 'rd':
      case 'route-target':
        return harmless('it is of the default VRF, whose routes EVPN does not tell');
      case 'advertise':
        return unmodelled(`“${line}” is not modelled outside of a VRF`);
      default:
        return evpnWord(w, line);
    }
  },
};

const EVPN_HARMLESS: Readonly<Record<string, string>> = {
  'dup-addr-detection': 'it counts where one address shows up in two places',
  'use-es-l3nhg': 'it says how next hops of pairs are kept',
  'ead-es-frag': 'it says how routes of Ethernet segments are told',
  'disable-ead-evi-rx': 'it says what is asked of routes of Ethernet segments',
  'disable-ead-evi-tx': 'it says how routes of Ethernet segments are told',
  'ead-es-route-target': 'it says how routes of Ethernet segments are told',
  'advertise-svi-ip': 'it tells addresses of VLAN interfaces besides',
};
const EVPN_UNMODELLED = /^(advertise-default-gw|flooding|default-originate|autort|mac-vrf|advertise|rd|route-target)$/;
/** A word of the family itself that makes no part of a configuration here. */
function evpnWord(w: readonly string[], line: string): Answer {
  const word = (w[0] === 'no' ? w[1] : w[0]) ?? '';
  if (Object.hasOwn(EVPN_HARMLESS, word)) return harmless(EVPN_HARMLESS[word]!);
  return EVPN_UNMODELLED.test(word) ? unmodelled(`“${line}” is not modelled`) : false;
}

const router: Block<BgpDraft> = {
  name: 'router bgp',
  routes: true,
  read: (w, line, b, reading) => {
    if (isOfIpv4(w)) {
      return inIpv4(ipv4Family.read(w, line, b, reading));
    }
    if (w[0] === 'neighbor') return readNeighbour(b, w, reading);
    if (w[0] === 'no' && w[1] === 'neighbor') return readNoNeighbour(b, w, reading);
    if (line.startsWith('address-family ipv4 unicast') || line === 'address-family ipv4')
      return reading.open(ipv4Family, b, ['bgp', 'ipv4']);
    if (line === 'address-family l2vpn evpn') return reading.open(evpnFamily, b, ['bgp', 'evpn']);
    if (w[0] === 'address-family' && /^(ipv4|ipv6)$/.test(w[1] ?? '')) return reading.open(otherFamily, null, ['bgp']);
    return w[0] === 'vrf' ? failed(VRF_POLICY) : readRouterWord(w, line, b, reading);
  },
};

/** A family that is not modelled: what is said in it changes nothing in those that are. */
const otherFamily: Block<null> = {
  name: 'address-family',
  exit: 'exit-address-family',
  read: (w) => (w[0] === 'address-family' || w[0] === 'vrf' ? false : harmless('nothing is computed of that family')),
};

/** Addresses of the interfaces of a switch outside of VRFs, which were read before its routing. */
function ownAddresses({ loopbacks, ports, svis }: ConfigDraft): ReadonlySet<string> {
  const out = new Set(loopbacks.map(hostPart));
  for (const { addresses } of ports) for (const a of addresses) out.add(hostPart(a));
  for (const { vrf, addresses } of svis) if (vrf === undefined) for (const a of addresses) out.add(hostPart(a));
  return out;
}

function openRouter(w: readonly string[], reading: FrrReading): Answer {
  const { draft } = reading;
  const asn = whole(w[2], 1, 4294967295);
  if (w[1] !== 'bgp') return unmodelled(`router ${w[1] ?? ''} is not modelled`);
  if (asn === null) return 'an AS number is 1–4294967295';
  if (w[3] === 'vrf' && w[4] !== undefined) {
    if (!draft.bgp) return 'the global BGP block must stand above the VRF’s';
    const hasVni = draft.vrfs.some((x) => x.name === w[4] && x.l3Vni !== undefined);
    // FRR starts BGP in it by itself for the VNI, as what the switch is (seen on FRR 8.4.4).
    if (asn !== draft.bgp.asn && hasVni && draft.bgp.evpn.advertiseAllVni)
      return failed(`BGP already runs in ${w[4]} as ${draft.bgp.asn}, for its VNI`);
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
    own: ownAddresses(draft),
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
