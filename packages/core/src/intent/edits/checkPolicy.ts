import { problem, type Finding } from '../../finding.ts';
import { bitsOf, formatAddress, parseAddress } from '../../numbers/address.ts';
import { isTameCommunities, isTamePath, pathExpression } from '../../numbers/asPath.ts';
import { refusedAsn } from '../../numbers/asn.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { canonicalCommunity, communitySort, type CommunitySort } from '../../numbers/community.ts';
import { familyOf, formatAny, networkOfAny, parseAnyCidr } from '../../numbers/prefix.ts';
import type { FabricIntent } from '../intent.ts';
import {
  policiesBehind,
  policiesNamed,
  policyKey,
  policyOfKey,
  POLICY_WORDS,
  sortOfList,
  type CommunityExpressionSaid,
  type CommunityListSaid,
  type PathListSaid,
  type PrefixListSaid,
  type RouteMapEntrySaid,
  type RouteMapSaid,
  type RoutePolicy,
} from '../policies.ts';

/** Says what is wrong at a field of the policy. */
type Say = (field: string, message: string, cure: string, rule?: string) => void;
const entryAt =
  (say: Say, i: number): Say =>
  (field, ...said) =>
    say(`entries/${i}/${field}`, ...said);

/** Entries that have numbers go upwards. */
function checkNumbers(entries: readonly { readonly seq: number }[], say: Say): void {
  for (const [i, { seq }] of entries.entries()) {
    const before = entries[i - 1]?.seq ?? 0;
    if (seq <= before)
      entryAt(say, i)('seq', `Entry ${seq} stands after entry ${before}.`, 'Number them upwards, each once.');
  }
}

function checkPrefixes({ entries }: PrefixListSaid, say: Say): void {
  checkNumbers(entries, say);
  const family = familyOf(parseAnyCidr(entries[0]!.prefix)!);
  for (const [i, { prefix, ge, le }] of entries.entries()) {
    const at = entryAt(say, i);
    const said = parseAnyCidr(prefix)!;
    const canonical = formatAny(networkOfAny(said));
    const most = bitsOf(familyOf(said));
    if (canonical !== prefix)
      at('prefix', `${prefix} has host bits set, or is written otherwise.`, `Write ${canonical}.`);
    else if (familyOf(said) !== family)
      at('prefix', `${prefix} is of IPv${familyOf(said)}, the list of IPv${family}.`, 'Give each family its list.');
    if (ge !== undefined && (ge <= said.length || ge > most))
      at('ge', `Within ${prefix} nothing has the length ${ge}.`, `Write ${said.length + 1} to ${most}.`);
    else if (le !== undefined && (le < (ge ?? said.length) || le > most))
      at('le', `No length is up to ${le} there.`, `Write ${ge ?? said.length} to ${most}.`);
  }
}

/** As a daemon writes them, each once. */
function checkCommunities(communities: readonly string[], field: string, say: Say): void {
  for (const [i, text] of communities.entries()) {
    const canonical = canonicalCommunity(text)!;
    if (canonical !== text) say(`${field}/${i}`, `${text} is written otherwise by the daemon.`, `Write ${canonical}.`);
    else if (communities.indexOf(text) < i) say(`${field}/${i}`, `${text} stands there twice.`, 'Leave one.');
  }
}

/** A list is of communities of one sort, or of expressions over those of one. */
function checkSort(list: CommunityListSaid, say: Say): void {
  const sort = sortOfList(list);
  const byExpression = 'expression' in list.entries[0]!;
  for (const [i, e] of list.entries.entries()) {
    const at = entryAt(say, i);
    if ('expression' in e !== byExpression) {
      at(
        byExpression ? 'communities' : 'expression',
        `The first entry is ${byExpression ? 'an expression' : 'none'}, and this one is ${byExpression ? 'none' : 'an expression'}: a daemon takes one kind.`,
        'Give each kind its list.',
      );
      continue;
    }
    if ('expression' in e) {
      checkExpression(e, sort, at);
      continue;
    }
    const { communities } = e;
    const other = communities.findIndex((c) => communitySort(c) !== sort);
    if (other >= 0)
      at(
        `communities/${other}`,
        `${communities[other]!} is a ${communitySort(communities[other]!)!} community, the first of the list a ${sort} one.`,
        'Give each sort its list.',
      );
  }
}

function checkExpression({ expression, large }: CommunityExpressionSaid, sort: CommunitySort, say: Say): void {
  if ((large ? 'large' : 'standard') !== sort)
    say(
      'large',
      `It is about ${large ? 'large' : 'standard'} communities, the first about ${sort} ones.`,
      'Give each sort its list.',
    );
  if (pathExpression(expression) === null || !isTameCommunities(expression) || expression !== expression.trim())
    say(
      'expression',
      `“${expression}” is no expression that can be judged before it is sent.`,
      'Write numbers, words, : _ ^ $ . [0-9] and at most two of * + ?, such as ^64701: or _64701:7[0-9]_.',
    );
}

function checkPaths({ entries }: PathListSaid, say: Say): void {
  for (const [i, { pattern }] of entries.entries())
    if (pathExpression(pattern) === null || !isTamePath(pattern) || pattern !== pattern.trim())
      entryAt(say, i)(
        'pattern',
        `“${pattern}” is no expression that can be judged before it is sent.`,
        'Write AS numbers, _ ^ $ . and at most two of * + ?, such as ^64701_ or _64799_.',
      );
}

/** What no router has as its own: 0.0.0.0/8, loopbacks, groups and what is reserved (RFC 6890). */
const unusable = (address: string): boolean => /^(0|127|22[4-9]|2[3-5]\d)\./.test(address);

/** An entry that denies does nothing else, and no two of its clauses say the same thing in two ways. */
function checkEntry(e: RouteMapEntrySaid, say: Say): void {
  const { match = {}, set = {} } = e;
  if (!e.permit)
    for (const field of ['set', 'call', 'next', 'goTo'] as const)
      if (e[field] !== undefined && JSON.stringify(e[field]) !== '{}')
        say(field, 'An entry that denies does nothing else.', 'Leave it out, or let the entry permit.');
  if (match.exactly && match.communities === undefined)
    say('match/communities', 'It is not said which communities.', 'Name a community list.');
  if (set.metric !== undefined && set.metricBy !== undefined)
    say('set/metricBy', 'The metric is said already.', 'Say the metric, or what is added to it.');
  if (set.metricBy === 0) say('set/metricBy', 'Nothing is added to the metric.', 'Leave it out.');
  if (set.prepend !== undefined && set.prependFirst !== undefined)
    say('set/prependFirst', 'What stands before the path is said already.', 'Say one of both.');
  for (const asn of set.prepend ?? []) {
    const refused = refusedAsn(asn);
    if (refused !== null) say('set/prepend', `AS ${asn} is ${refused}.`, 'Write an AS number that is yours.');
  }
  for (const asn of set.exclude ?? [])
    if (set.prepend?.includes(asn))
      say('set/exclude', `AS ${asn} is put before the path, and taken out of it.`, 'Say one of both.');
  if (set.exclude !== undefined && set.prependFirst !== undefined)
    say('set/exclude', 'Its first number may be one of those that are put before it.', 'Say one of both.');
  const peer = match.peer === undefined ? undefined : formatAddress(parseAddress(match.peer)!);
  if (peer !== match.peer) say('match/peer', `${match.peer} is written otherwise by the daemon.`, `Write ${peer}.`);
  if (set.nextHop !== undefined && parseIpv4(set.nextHop) !== null && unusable(set.nextHop))
    say('set/nextHop', `${set.nextHop} is nobody’s address.`, 'Write that of a router next door.');
  for (const text of set.communities ?? [])
    if (text.startsWith('rt:'))
      say(
        'set/communities',
        `${text} decides which VRFs have the route, by EVPN.`,
        'Say it as a target of the VRF, or let one VRF have routes of another.',
      );
  if (set.communities !== undefined) checkCommunities(set.communities, 'set/communities', say);
  if (set.communities?.length === 0 && set.bandwidth !== undefined)
    say('set/bandwidth', 'What its link carries is a community, and it has none any more.', 'Say one of both.');
  if (set.communities !== undefined && set.withoutCommunities !== undefined)
    say('set/withoutCommunities', 'The communities are said already.', 'Take some away, or say which it has.');
  if (set.additive && (set.communities ?? []).length === 0)
    say('set/communities', 'It is not said which communities are added.', 'Write them.');
  if (e.next && e.goTo !== undefined) say('goTo', 'Where it goes on is said already.', 'Say one of both.');
  if (e.goTo !== undefined && e.goTo <= e.seq)
    say('goTo', `Entry ${e.goTo} is not after entry ${e.seq}.`, 'A map goes on forward only.');
}

/** What an entry asks of a list of communities that none of its kind does, by field. */
function beyond(list: CommunityListSaid, { match, set }: RouteMapEntrySaid): (readonly [field: string, why: string])[] {
  const out: (readonly [string, string])[] = [];
  const extended = sortOfList(list) === 'extended';
  if (match?.exactly && match.communities === list.name) {
    if (extended)
      out.push(['match/exactly', `Of extended communities, as in ${list.name}, none can be asked exactly.`]);
    else if ('expression' in list.entries[0]!)
      out.push([
        'match/exactly',
        `An expression, as in ${list.name}, is about all that a route has already: ^ and $ say it.`,
      ]);
  }
  if (set?.withoutCommunities === list.name && extended)
    out.push(['set/withoutCommunities', `Extended communities, as in ${list.name}, are not taken away by a list.`]);
  return out;
}
/** What is asked of a list can be asked of it, whichever comes first: the list or the map. */
function checkAsked({ policies }: FabricIntent, policy: CommunityListSaid | RouteMapSaid, say: Say): void {
  if (policy.is === 'community-list') {
    const [field] = Object.keys(policy.entries[0]!).filter((k) => k === 'communities' || k === 'expression');
    for (const map of policies)
      for (const e of map.is === 'route-map' ? map.entries : [])
        for (const [, why] of beyond(policy, e))
          say(`entries/0/${field!}`, `${why} ${map.name} asks it.`, `Take that out of ${map.name} first.`);
    return;
  }
  const lists = policies.filter((p): p is CommunityListSaid => p.is === 'community-list');
  for (const [i, e] of policy.entries.entries())
    for (const list of lists) for (const [field, why] of beyond(list, e)) entryAt(say, i)(field, why, 'Leave it out.');
}

/** What it names is there, and no map leads back to itself. */
function checkNamed(intent: FabricIntent, map: RouteMapSaid, say: Say): void {
  const own = policyKey(map);
  const known = new Set(intent.policies.map(policyKey));
  const others = intent.policies.filter((p) => policyKey(p) !== own);
  for (const [i, e] of map.entries.entries()) {
    const at = entryAt(say, i);
    for (const key of policiesNamed({ ...map, entries: [e] })) {
      const { is, name } = policyOfKey(key);
      const field = fieldOf(e, key);
      const words = POLICY_WORDS[is];
      if (key === own) at(field, `${map.name} calls itself.`, 'Call another map.', 'policy-circle');
      else if (!known.has(key)) at(field, `There is no ${words} ${name}.`, 'Add it first.', 'policy-known');
      else if (policiesBehind(others, [key]).some((p) => policiesNamed(p).includes(own)))
        at(field, `${name} asks ${map.name} in its turn.`, 'Call another map.', 'policy-circle');
    }
  }
}
function fieldOf({ match, set }: RouteMapEntrySaid, key: string): string {
  const { is, name } = policyOfKey(key);
  if (is === 'route-map') return 'call';
  if (is === 'prefix-list') return match?.prefixes === name ? 'match/prefixes' : 'match/nextHops';
  if (is === 'path-list') return 'match/path';
  return match?.communities === name && set?.withoutCommunities !== name
    ? 'match/communities'
    : 'set/withoutCommunities';
}

/** Next hops are of IPv4: the list that they are asked of, and the prefixes of routes that get one. */
function checkHops({ policies }: FabricIntent, policy: PrefixListSaid | RouteMapSaid, say: Say): void {
  const others = policies.filter((p) => policyKey(p) !== policyKey(policy));
  const all = [...others, policy];
  const ofIpv6 = (name: string | undefined): boolean =>
    all.some((p) => p.is === 'prefix-list' && p.name === name && familyOf(parseAnyCidr(p.entries[0]!.prefix)!) === 6);
  const wrong = (e: RouteMapEntrySaid): readonly (readonly [field: string, list: string, why: string])[] => {
    const { prefixes, nextHops } = e.match ?? {};
    return [
      ...(nextHops !== undefined && ofIpv6(nextHops)
        ? [['match/nextHops', nextHops, `Next hops are of IPv4, ${nextHops} is of IPv6.`] as const]
        : []),
      ...(e.set?.nextHop !== undefined && prefixes !== undefined && ofIpv6(prefixes)
        ? [['set/nextHop', prefixes, `Next hops are of IPv4, the routes of ${prefixes} of IPv6.`] as const]
        : []),
    ];
  };
  if (policy.is === 'route-map')
    for (const [i, e] of policy.entries.entries())
      for (const [field, , why] of wrong(e)) entryAt(say, i)(field, why, 'Leave it out.');
  else
    for (const map of others)
      for (const e of map.is === 'route-map' ? map.entries : [])
        for (const [, list, why] of wrong(e))
          if (list === policy.name)
            say('entries/0/prefix', `${why} ${map.name} asks it.`, `Take that out of ${map.name} first.`);
}

/** Names that mean something else where FRR reads them. */
const TAKEN: ReadonlySet<string> = new Set(['optimization']);

/** Why a list or a map cannot be as it is said; paths are into an edit that puts it. */
export function checkPolicy(intent: FabricIntent, policy: RoutePolicy): Finding[] {
  const out: Finding[] = [];
  const say: Say = (field, message, cure, rule = 'policy-form') =>
    void out.push(problem(rule, `/policy/${field}`, message, cure));
  if (TAKEN.has(policy.name)) say('name', `${policy.name} is a word of its own in FRR.`, 'Choose another name.');
  switch (policy.is) {
    case 'prefix-list':
      checkPrefixes(policy, say);
      checkHops(intent, policy, say);
      break;
    case 'community-list':
      for (const [i, e] of policy.entries.entries())
        if ('communities' in e) checkCommunities(e.communities, 'communities', entryAt(say, i));
      checkSort(policy, say);
      checkAsked(intent, policy, say);
      break;
    case 'path-list':
      checkPaths(policy, say);
      break;
    case 'route-map':
      checkNumbers(policy.entries, say);
      for (const [i, e] of policy.entries.entries()) checkEntry(e, entryAt(say, i));
      checkNamed(intent, policy, say);
      checkAsked(intent, policy, say);
      checkHops(intent, policy, say);
  }
  return out;
}
