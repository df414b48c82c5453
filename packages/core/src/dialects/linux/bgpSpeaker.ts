import type { BgpFamily, BgpPeer, BgpSpeaker, UnicastFamily } from '../../config/bgp.ts';
import { neighbourLines, peerName, readNeighbour, readNoNeighbour } from './bgpNeighbour.ts';
import { leakLines, readLeak } from './bgpLeak.ts';
import { policyLines, readPolicy, readSources, sourceLines } from './bgpPolicy.ts';
import { readRouterWord, routerWordLines } from './bgpRouter.ts';
import { inIpv4, isOfIpv4, pathsLine, readShared, routerIdLine, sharedField } from './bgpShared.ts';
import { failed, harmless, unmodelled, type Answer, type Block, type FrrReading } from './blocks.ts';
import {
  familyIn,
  placeIn,
  unicastOf,
  type FamilyDraft,
  type FamilyName,
  type SpeakerDraft,
  type UnicastName,
} from './draft.ts';
import { isPlain } from './sheet.ts';
import { whole } from './words.ts';

/** The router of a VRF, the default one or a tenant’s: what both say alike. */

export function familyLines({ active, inactive, ownAsAllowed, policies }: BgpFamily): string {
  let out = '';
  for (const a of active) out += `\n  neighbor ${a} activate`;
  for (const a of inactive ?? []) out += `\n  no neighbor ${a} activate`;
  for (const a in ownAsAllowed) out += `\n  neighbor ${a} allowas-in ${ownAsAllowed[a]}`;
  return out + policyLines(policies);
}

export const PLAIN = '-';
/** An address can be nothing that is guarded. */
const isNamedPlainly = (p: BgpPeer): boolean =>
  (p.kind === 'address' || isPlain(p.name)) && isPlain(p.bfdProfile ?? PLAIN);
/** Are its names words, so that lines with them alone need not be looked at? */
export const familyIsPlain = (family: BgpFamily | UnicastFamily): boolean =>
  family.policies === undefined &&
  !('importsFrom' in family) &&
  family.active.every(isPlain) &&
  Object.keys(family.ownAsAllowed).every(isPlain);

/** Lines of a router up to the end of its IPv4 family, and those of them that people’s words stand in. */
export function speakerLines(b: BgpSpeaker): { readonly lines: string; readonly words: string } {
  let lines = routerIdLine(b.routerId);
  if (!b.defaultIpv4) lines += '\n no bgp default ipv4-unicast';
  if (b.defaultIpv6) lines += '\n bgp default ipv6-unicast';
  if (b.multipathRelax) lines += '\n bgp bestpath as-path multipath-relax';
  lines += routerWordLines(b);
  // What people wrote of a neighbour, and names that are more than a word.
  let words = '';
  // Members of a group follow one another.
  let [group, groupIsPlain] = [PLAIN, true];
  for (const p of b.peers) {
    const said = neighbourLines(p);
    lines += said;
    if (p.group !== undefined && p.group !== group) [group, groupIsPlain] = [p.group, isPlain(p.group)];
    const plain = isNamedPlainly(p) && (p.group === undefined || groupIsPlain);
    if (!plain || p.description !== undefined || p.password !== undefined) words += said;
  }
  if (b.listenLimit !== undefined) lines += `\n bgp listen limit ${b.listenLimit}`;
  for (const { prefix, group } of b.listens ?? []) {
    const said = `\n bgp listen range ${prefix} peer-group ${group}`;
    lines += said;
    if (!isPlain(group)) words += said;
  }
  const unicast = (name: UnicastName, family: UnicastFamily): string =>
    `\n !\n address-family ${name} unicast` +
    sourceLines(family) +
    familyLines(family) +
    leakLines(family) +
    pathsLine(family) +
    '\n exit-address-family';
  // FRR keeps no family of which nothing is said.
  const said = sourceLines(b.ipv4) + familyLines(b.ipv4) + leakLines(b.ipv4) + pathsLine(b.ipv4) !== '';
  if (said) lines += unicast('ipv4', b.ipv4);
  if (b.ipv6) lines += unicast('ipv6', b.ipv6);
  return { lines: `${lines}\n !`, words };
}

function leaveOut(family: FamilyDraft, name: string): void {
  const left = family.inactive?.filter((n) => n !== name) ?? [];
  if (left.length > 0) family.inactive = left;
  else delete family.inactive;
}

/** Which neighbours speak a family, and what of it is allowed them. */
export function readMembers(
  w: readonly string[],
  line: string,
  b: SpeakerDraft,
  which: FamilyName,
  reading: FrrReading,
): Answer {
  const family = familyIn(b, which);
  const taken = w[0] === 'no';
  const [kind, said, word, count] = taken ? w.slice(1) : w;
  if (kind !== 'neighbor' || said === undefined) return false;
  const name = peerName(said);
  if (word === 'activate' && taken) {
    family.active = family.active.filter((a) => a !== name);
    // Of a group it takes back what was said; of a neighbour it says that it has not got what its group has.
    if (b.peers.get(name)?.kind !== 'group' && !family.inactive?.includes(name))
      family.inactive = [...(family.inactive ?? []), name];
    return reading.at(placeIn(b, which, 'active'));
  }
  if (word === 'activate') {
    if (!b.peers.has(name)) return failed(`${name} is not defined above as a neighbour or group`);
    if (!family.active.includes(name)) family.active.push(name);
    if (family.inactive?.includes(name)) leaveOut(family, name);
    return reading.at(placeIn(b, which, 'active'));
  }
  // What else is said of a neighbour is its policy, or the router's, or nobody's.
  if (word !== 'allowas-in') return readPolicy(w, line, b, which, reading);
  if (!b.peers.has(name)) return failed(`${name} is not defined above as a neighbour or group`);
  if (taken) {
    delete family.ownAsAllowed[name];
    return reading.at(placeIn(b, which, 'ownAsAllowed'));
  }
  if (count === 'origin') return unmodelled(`“${line}” is not modelled`);
  const n = count === undefined ? 3 : whole(count, 1, 10);
  if (n === null) return 'allowas-in takes 1–10';
  family.ownAsAllowed[name] = n;
  return reading.at(placeIn(b, which, 'ownAsAllowed'));
}

/** `distance`: how BGP’s routes stand to those of others, of which static ones are nearer anyway. */
function readDistance(w: readonly string[], line: string): Answer {
  const numbers = w.slice(1).filter((t) => /^\d+$/.test(t));
  return numbers.includes('255') || w[1] !== 'bgp'
    ? unmodelled(`“${line}” is not modelled`)
    : harmless('static routes are nearer all the same, and other protocols are not modelled');
}

const unicastFamily = (which: UnicastName): Block<SpeakerDraft> => ({
  name: `address-family ${which} unicast`,
  exit: 'exit-address-family',
  read: (w, line, b, reading) => {
    const first = w[0] === 'no' ? w[1] : w[0];
    switch (first) {
      case 'neighbor':
        return readMembers(w, line, b, which, reading);
      case 'network':
      case 'aggregate-address':
        return readSources(w, line, b, which, reading);
      case 'import':
        return readLeak(w, line, b, which, reading);
      case 'distance':
        return w[0] === 'no' ? harmless('it takes back how near BGP’s routes are') : readDistance(w, line);
      case 'table-map':
        return unmodelled(`“${line}” is not modelled`);
      case 'redistribute':
        if (w[0] !== 'no') break;
        if (w[2] === 'connected' || w[2] === 'static') delete unicastOf(b, which)[w[2]];
        return reading.at(placeIn(b, which, w[2] === 'static' ? 'static' : 'connected'));
      case 'maximum-paths':
        if (w[0] !== 'no') break;
        delete unicastOf(b, which)[w[2] === 'ibgp' ? 'maximumPathsInternal' : 'maximumPaths'];
        return reading.at(placeIn(b, which, 'maximumPaths'));
      default:
        return false;
    }
    const r = readShared(w, unicastOf(b, which));
    return r === true ? reading.at(placeIn(b, which, sharedField(w))) : r;
  },
});
const ipv4Family = unicastFamily('ipv4');
const ipv6Unicast = unicastFamily('ipv6');
/** What of IPv6 is not understood can change nothing else. */
const ipv6Family: Block<SpeakerDraft> = {
  ...ipv6Unicast,
  read: (w, line, b, reading) => {
    const answer = ipv6Unicast.read(w, line, b, reading);
    return typeof answer === 'object' && 'why' in answer ? { ...answer, doubts: placeIn(b, 'ipv6') } : answer;
  },
};

/** Reads a line of a router that opens no family but unicast, which all routers have alike. */
export function readSpeaker(w: readonly string[], line: string, b: SpeakerDraft, reading: FrrReading): Answer {
  if (isOfIpv4(w)) return inIpv4(ipv4Family.read(w, line, b, reading));
  if (w[0] === 'neighbor') return readNeighbour(b, w, reading);
  if (w[0] === 'no' && w[1] === 'neighbor') return readNoNeighbour(b, w, reading);
  if (line.startsWith('address-family ipv4 unicast') || line === 'address-family ipv4')
    return reading.open(ipv4Family, b, placeIn(b, 'ipv4'));
  if (line.startsWith('address-family ipv6 unicast') || line === 'address-family ipv6')
    return reading.open(ipv6Family, b, placeIn(b, 'ipv6'));
  return w[0] === 'vrf' ? failed(VRF_POLICY) : readRouterWord(w, line, b, reading);
}
/** What FRR makes of a line that begins with `vrf` in a router. */
const VRF_POLICY = 'FRR takes it for “vrf-policy”, which is not modelled; a VRF’s own block stands outside';
