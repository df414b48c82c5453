import type { BgpConfig, EvpnVni } from '../../config/bgp.ts';
import { hostPart } from '../../numbers/ipv4.ts';
import { NO_NETWORK } from './bgpShared.ts';
import { familyIsPlain, familyLines, readMembers, readSpeaker, speakerLines } from './bgpSpeaker.ts';
import { alikeByTargets, readTargets, targetField, targetLines } from './bgpTargets.ts';
import { tenantRouter, writeTenant } from './bgpVrf.ts';
import { failed, harmless, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { BgpDraft, BgpVrfDraft, ConfigDraft, SpeakerDraft, VniDraft } from './draft.ts';
import type { Sheet } from './sheet.ts';
import { whole } from './words.ts';

/** A block but for its RD, by the targets, which switches share: a VNI has the same on all of them. */
const halves = new WeakMap<
  readonly string[],
  { readonly vni: number; readonly before: string; readonly after: string }
>();

function vniBlock(v: EvpnVni): string {
  if (v.rd === undefined || v.imports !== v.exports) return `\n  vni ${v.vni}${targetLines(v, '   ')}\n  exit-vni`;
  let known = halves.get(v.imports);
  if (known?.vni !== v.vni) {
    const after = `${targetLines({ imports: v.imports, exports: v.exports }, '   ')}\n  exit-vni`;
    halves.set(v.imports, (known = { vni: v.vni, before: `\n  vni ${v.vni}\n   rd `, after }));
  }
  return known.before + v.rd + known.after;
}

export function writeBgp(b: BgpConfig, sheet: Sheet): void {
  const { lines, words } = speakerLines(b);
  let out = `\nrouter bgp ${b.asn}${lines}`;
  const evpn = familyLines(b.evpn) + (b.evpn.advertiseAllVni ? '\n  advertise-all-vni' : '');
  // A family of which nothing is said is none.
  const speaksEvpn = evpn !== '' || b.evpn.vnis.length > 0;
  if (speaksEvpn) out += `\n address-family l2vpn evpn${evpn}`;
  sheet.say(out, familyIsPlain(b.ipv4) && b.ipv6 === undefined && familyIsPlain(b.evpn) ? words : out);
  for (const v of b.evpn.vnis) sheet.count(vniBlock(v));
  sheet.count(speaksEvpn ? '\n exit-address-family\nexit\n!' : '\nexit\n!');
  for (const v of b.vrfs) writeTenant(v, b, sheet);
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
  alike: alikeByTargets,
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
  'advertise-svi-ip': 'it tells addresses of VLAN interfaces besides',
};
/** By which ends of segments are known, or not. */
const OF_SEGMENTS = /^(disable-ead-evi-rx|disable-ead-evi-tx|ead-es-route-target)$/;
const EVPN_UNMODELLED = /^(advertise-default-gw|flooding|default-originate|autort|mac-vrf|advertise|rd|route-target)$/;
/** A word of the family itself that makes no part of a configuration here. */
function evpnWord(w: readonly string[], line: string): Answer {
  const word = (w[0] === 'no' ? w[1] : w[0]) ?? '';
  if (Object.hasOwn(EVPN_HARMLESS, word)) return harmless(EVPN_HARMLESS[word]!);
  if (OF_SEGMENTS.test(word)) return { ...unmodelled(`“${line}” is not modelled`), doubts: ['lags'] };
  return EVPN_UNMODELLED.test(word) ? unmodelled(`“${line}” is not modelled`) : false;
}

const router: Block<BgpDraft> = {
  name: 'router bgp',
  routes: true,
  read: (w, line, b, reading) => {
    if (line === 'address-family l2vpn evpn') return reading.open(evpnFamily, b, ['bgp', 'evpn']);
    const answer = readSpeaker(w, line, b, reading);
    return answer === false && w[0] === 'address-family' && /^(ipv4|ipv6)$/.test(w[1] ?? '')
      ? reading.open(otherFamily, null, ['bgp'])
      : answer;
  },
};

/** A family that is not modelled: what is said in it changes nothing in those that are. */
const otherFamily: Block<null> = {
  name: 'address-family',
  exit: 'exit-address-family',
  read: (w) => (w[0] === 'address-family' || w[0] === 'vrf' ? false : harmless('nothing is computed of that family')),
};

/** Addresses of the interfaces of a switch in a VRF, which were read before its routing; undefined = the default VRF. */
function ownAddresses({ loopbacks, ipv6Loopbacks = [], ports, svis }: ConfigDraft, vrf?: string): ReadonlySet<string> {
  const out = new Set(vrf === undefined ? [...loopbacks, ...ipv6Loopbacks].map(hostPart) : []);
  for (const of of [...ports, ...svis])
    if (of.vrf === vrf) for (const a of [...of.addresses, ...(of.ipv6Addresses ?? [])]) out.add(hostPart(a));
  return out;
}
/** A router of which nothing is said yet but its number. */
function newSpeaker(asn: number, draft: ConfigDraft, vrf?: string): SpeakerDraft {
  let own: ReadonlySet<string> | undefined;
  return {
    asn,
    defaultIpv4: true,
    policySaid: null,
    multipathRelax: false,
    peers: new Map(),
    ipv4: { active: [], ownAsAllowed: {} },
    place: vrf === undefined ? ['bgp'] : ['bgp', 'vrfs', vrf],
    own: () => (own ??= ownAddresses(draft, vrf)),
  };
}

function openRouter(w: readonly string[], reading: FrrReading): Answer {
  const { draft } = reading;
  const asn = whole(w[2], 1, 4294967295);
  if (w[1] !== 'bgp') return unmodelled(`router ${w[1] ?? ''} is not modelled`);
  if (asn === null) return 'an AS number is 1–4294967295';
  const vrf = w[3] === 'vrf' ? w[4] : undefined;
  if (vrf !== undefined) {
    if (!draft.bgp) return 'the global BGP block must stand above the VRF’s';
    const hasVni = draft.vrfs.some((x) => x.name === vrf && x.l3Vni !== undefined);
    // FRR starts BGP in it by itself for the VNI, as what the switch is (seen on FRR 8.4.4).
    if (asn !== draft.bgp.asn && hasVni && draft.bgp.evpn.advertiseAllVni)
      return failed(`BGP already runs in ${vrf} as ${draft.bgp.asn}, for its VNI`);
    const said = { vrf, advertiseIpv4: false, imports: [], exports: [] };
    const v: BgpVrfDraft = Object.assign(newSpeaker(asn, draft, vrf), said);
    draft.bgp.vrfs.push(v);
    return reading.open(tenantRouter, v, ['bgp', 'vrfs', vrf]);
  }
  if (draft.bgp && draft.bgp.asn !== asn) return failed(`BGP already runs as ${draft.bgp.asn} above`);
  draft.bgp ??= {
    ...newSpeaker(asn, draft),
    evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: new Map() },
    vrfs: [],
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
