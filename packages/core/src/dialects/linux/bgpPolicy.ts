import type { Aggregate, PeerPolicy, Redistribution } from '../../config/bgp.ts';
import type { IpFamily } from '../../numbers/address.ts';
import { familyOf, formatAny, networkOfAny, parseAnyCidr } from '../../numbers/prefix.ts';
import { peerName } from './bgpNeighbour.ts';
import { failed, harmless, unmodelled, type Answer, type FrrReading } from './blocks.ts';
import {
  familyIn,
  placeIn,
  unicastOf,
  type Draft,
  type FamilyDraft,
  type FamilyName,
  type UnicastName,
  type UnicastDraft,
  type SpeakerDraft,
} from './draft.ts';
import { whole } from './words.ts';

/** Words with a name and a way, by the fields they are. */
const NAMED = {
  'route-map': { in: 'mapIn', out: 'mapOut' },
  'prefix-list': { in: 'prefixListIn', out: 'prefixListOut' },
  'distribute-list': { in: 'accessListIn', out: 'accessListOut' },
  'filter-list': { in: 'asPathIn', out: 'asPathOut' },
} as const;
/** Of these FRR takes the first, and refuses the other. */
const EITHER: readonly (readonly (keyof PeerPolicy)[])[] = [
  ['prefixListIn', 'accessListIn'],
  ['prefixListOut', 'accessListOut'],
];
/** Words that are said or not. */
const FLAGS = {
  'default-originate': 'defaultOriginate',
  'route-reflector-client': 'reflectorClient',
  'as-override': 'asOverride',
} as const;
/** Words with a number. */
const NUMBERS = { weight: ['weight', 65535], 'maximum-prefix': ['maximumPrefix', 4294967295] } as const;

/** Those a family of EVPN takes; the others it leaves to IPv4 unicast (FRR 8.4.4). */
export const IN_EVPN = /^(route-map|route-reflector-client|soft-reconfiguration|next-hop-self|attribute-unchanged)$/;
const HARMLESS: Readonly<Record<string, string>> = {
  'soft-reconfiguration': 'it keeps what was heard, and uses the same',
};
/** Words of a family about a neighbour that change routes in ways that are not computed. */
const UNMODELLED =
  /^(next-hop-self|attribute-unchanged|send-community|remove-private-AS|unsuppress-map|addpath-\S+|advertise-map|capability|disable-addpath-rx|soo)$/;

export function policyLines(policies: readonly PeerPolicy[] | undefined): string {
  let out = '';
  for (const p of policies ?? []) {
    const n = `\n  neighbor ${p.peer}`;
    for (const [word, ways] of Object.entries(NAMED))
      for (const [way, field] of Object.entries(ways))
        if (p[field] !== undefined) out += `${n} ${word} ${p[field]} ${way}`;
    for (const [word, field] of Object.entries(FLAGS)) if (p[field]) out += `${n} ${word}`;
    for (const [word, [field]] of Object.entries(NUMBERS))
      if (p[field] !== undefined) out += `${n} ${word} ${p[field]}`;
    if (p.nextHopSelf) out += `${n} next-hop-self${p.nextHopSelf === 'all' ? ' force' : ''}`;
  }
  return out;
}

const redistributionLine = (kind: string, r: Redistribution | undefined): string =>
  r === undefined
    ? ''
    : `\n  redistribute ${kind}` +
      (r.metric === undefined ? '' : ` metric ${r.metric}`) +
      (r.routeMap === undefined ? '' : ` route-map ${r.routeMap}`);

/** Where routes of the family come from. */
export function sourceLines({
  networks,
  networkMaps,
  aggregates,
  connected,
  static: written,
}: {
  readonly networks?: readonly string[];
  readonly networkMaps?: Readonly<Record<string, string>>;
  readonly aggregates?: readonly Aggregate[];
  readonly connected?: Redistribution;
  readonly static?: Redistribution;
}): string {
  let out = '';
  for (const n of networks ?? []) {
    const map = networkMaps?.[n];
    out += `\n  network ${n}${map === undefined ? '' : ` route-map ${map}`}`;
  }
  for (const a of aggregates ?? []) out += `\n  aggregate-address ${a.prefix}${a.summaryOnly ? ' summary-only' : ''}`;
  return out + redistributionLine('connected', connected) + redistributionLine('static', written);
}

const KINDS = /^(kernel|ospf|ospf6|rip|ripng|isis|eigrp|nhrp|sharp|table|babel|openfabric|vnc|vnc-direct|local)$/;

/** Reads `redistribute`; `into` is where the family keeps it. */
export function readRedistribution(w: readonly string[], into: Pick<UnicastDraft, 'connected' | 'static'>): Answer {
  const [, kind, ...rest] = w;
  if (kind === 'ospf' || kind === 'ospf6') return unmodelled('what OSPF has learnt is told on: that is not modelled');
  if (kind !== 'connected' && kind !== 'static')
    return KINDS.test(kind ?? '')
      ? harmless('no text holds routes of that kind: a block that makes some is doubted itself')
      : 'it does not say which routes';
  const said: Draft<Redistribution> = {};
  while (rest.length > 0) {
    const word = rest.shift();
    const value = rest.shift();
    const metric = whole(value, 0, 4294967295);
    if (word === 'route-map' && value !== undefined) said.routeMap = value;
    else if (word === 'metric' && metric !== null) said.metric = metric;
    else return `after ${kind} stands route-map and its name, or metric and a number`;
  }
  into[kind] = said;
  return true;
}

/** The network of a line, without the bits beyond its length. */
function networkOf(text: string | undefined, family: IpFamily): string | null {
  const cidr = parseAnyCidr(text ?? '');
  return cidr && familyOf(cidr) === family ? formatAny(networkOfAny(cidr)) : null;
}

/** Reads `network` and `aggregate-address`, and what takes them back. */
export function readSources(
  w: readonly string[],
  line: string,
  b: SpeakerDraft,
  which: UnicastName,
  { at }: FrrReading,
): Answer {
  const taken = w[0] === 'no';
  const [kind, text, ...rest] = taken ? w.slice(1) : w;
  const prefix = networkOf(text, which === 'ipv4' ? 4 : 6);
  if (kind === 'network' && rest[0] === 'area') return failed('a network with an area is one of OSPF');
  // A network of IPv4 is one of the router around the family, which takes it.
  if (prefix === null && which === 'ipv6' && networkOf(text, 4) !== null) return false;
  if (prefix === null) return `${kind} takes a network with its length`;
  const family = unicastOf(b, which);
  if (kind === 'network') {
    const map = rest.length === 2 && rest[0] === 'route-map' ? rest[1]! : null;
    if (rest.length > 0 && map === null) return unmodelled(`“${line}” is not modelled`);
    const maps = Object.entries(family.networkMaps ?? {}).filter(([n]) => n !== prefix);
    if (map !== null && !taken) maps.push([prefix, map]);
    if (maps.length > 0) family.networkMaps = Object.fromEntries(maps);
    else delete family.networkMaps;
    const others = (family.networks ?? []).filter((n) => n !== prefix);
    family.networks = taken ? others : [...others, prefix];
    if (family.networks.length === 0) delete family.networks;
    return at(placeIn(b, which, 'networks'));
  }
  if (rest.length > 1 || (rest.length === 1 && rest[0] !== 'summary-only'))
    return unmodelled(`“${line}” is not modelled`);
  const others = (family.aggregates ?? []).filter((a) => a.prefix !== prefix);
  family.aggregates = taken ? others : [...others, { prefix, ...(rest.length > 0 ? { summaryOnly: true } : {}) }];
  if (family.aggregates.length === 0) delete family.aggregates;
  return at(placeIn(b, which, 'aggregates', prefix));
}

const wordsOfFamily = new Set([
  ...Object.keys(NAMED),
  ...Object.keys(FLAGS),
  ...Object.keys(NUMBERS),
  ...Object.keys(HARMLESS),
]);
/** Is it a word about a neighbour that stands in a family? */
export const isOfFamily = (word: string | undefined): boolean =>
  word !== undefined && (wordsOfFamily.has(word) || (word !== 'capability' && UNMODELLED.test(word)));

function policyOf(family: FamilyDraft, peer: string): Draft<PeerPolicy> {
  const known = family.policies?.find((p) => p.peer === peer);
  if (known) return known;
  const made: Draft<PeerPolicy> = { peer };
  (family.policies ??= []).push(made);
  return made;
}
/** Takes fields back; what then says nothing is gone. */
function takeBack(family: FamilyDraft, peer: string, fields: readonly (keyof PeerPolicy)[]): void {
  const known = family.policies?.find((p) => p.peer === peer);
  if (!known) return;
  for (const field of fields) delete known[field];
  if (Object.keys(known).length > 1) return;
  family.policies = family.policies!.filter((p) => p !== known);
  if (family.policies.length === 0) delete family.policies;
}

const WARNS_ONLY = 'it warns, and takes nothing away';

/** Reads what a family says of a neighbour’s routes: `neighbor X WORD …`, or that with `no` before it. */
export function readPolicy(
  w: readonly string[],
  line: string,
  b: SpeakerDraft,
  which: FamilyName,
  { at }: FrrReading,
): Answer {
  const taken = w[0] === 'no';
  const [, said = '', word = '', value, last] = taken ? w.slice(1) : w;
  const peer = peerName(said);
  if (!isOfFamily(word) || (which === 'evpn' && !IN_EVPN.test(word))) return false;
  if (!b.peers.has(peer)) return failed(`${peer} is not defined above as a neighbour or group`);
  if (Object.hasOwn(HARMLESS, word)) return harmless(HARMLESS[word]!);
  const family = familyIn(b, which);
  const done = (field: keyof PeerPolicy): true => at(placeIn(b, which, 'policies', peer, field));
  if (Object.hasOwn(NAMED, word)) {
    const ways = NAMED[word as keyof typeof NAMED];
    if (value === undefined || (last !== 'in' && last !== 'out')) return `${word} takes a name, then in or out`;
    const field = ways[last];
    if (taken) takeBack(family, peer, [field]);
    else if (EITHER.some((two) => two.includes(field) && two.some((f) => f !== field && policyOf(family, peer)[f])))
      return failed('a neighbour has a prefix list or a distribute list, not both');
    else policyOf(family, peer)[field] = value;
    return done(field);
  }
  if (Object.hasOwn(FLAGS, word)) {
    const field = FLAGS[word as keyof typeof FLAGS];
    if (taken) takeBack(family, peer, [field]);
    else if (value !== undefined) return unmodelled(`“${line}” is not modelled`);
    else policyOf(family, peer)[field] = true;
    return done(field);
  }
  if (Object.hasOwn(NUMBERS, word)) {
    const [field, most] = NUMBERS[word as keyof typeof NUMBERS];
    const n = whole(value, field === 'weight' ? 0 : 1, most);
    if (taken) takeBack(family, peer, [field]);
    else if (n === null) return `${word} takes a number`;
    else if (w.includes('warning-only')) return harmless(WARNS_ONLY);
    else policyOf(family, peer)[field] = n;
    return done(field);
  }
  if (word === 'next-hop-self' && which !== 'evpn') {
    if (taken) takeBack(family, peer, ['nextHopSelf']);
    else if (value !== undefined && value !== 'force') return 'after next-hop-self stands force, or nothing';
    else policyOf(family, peer).nextHopSelf = value === 'force' ? 'all' : 'outside';
    return done('nextHopSelf');
  }
  // FRR sends communities anyway.
  if (word === 'send-community' && !taken) return harmless('communities are sent as it is');
  return unmodelled(`“${line}” is not modelled`);
}
