import type { NextHopAsked, RouteMap, RouteMapEntry, RouteMatch, RouteSet } from '../../config/policy.ts';
import { communitySort, inCommunityOrder, isOfSort, type CommunitySort } from '../../numbers/community.ts';
import { formatAddress, parseAddress } from '../../numbers/address.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { harmless, unmodelled, type Block, type Reading, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { FORMS } from './policyLists.ts';
import { whole } from './words.ts';

const matchLines = ({
  community,
  largeCommunity,
  asPath,
  metric,
  localPreference,
  tag,
  origin,
  interface: port,
  extendedCommunity,
  peer,
  nextHops,
}: RouteMatch): string =>
  (community === undefined ? '' : `\n match community ${community.list}${community.exact ? ' exact-match' : ''}`) +
  (largeCommunity === undefined
    ? ''
    : `\n match large-community ${largeCommunity.list}${largeCommunity.exact ? ' exact-match' : ''}`) +
  (extendedCommunity === undefined ? '' : `\n match extcommunity ${extendedCommunity}`) +
  (asPath === undefined ? '' : `\n match as-path ${asPath}`) +
  (metric === undefined ? '' : `\n match metric ${metric}`) +
  (localPreference === undefined ? '' : `\n match local-preference ${localPreference}`) +
  (tag === undefined ? '' : `\n match tag ${tag}`) +
  (origin === undefined ? '' : `\n match origin ${origin}`) +
  (port === undefined ? '' : `\n match interface ${port}`) +
  (peer === undefined ? '' : `\n match peer ${peer}`) +
  (nextHops === undefined ? '' : `\n match ip next-hop ${hopWords(nextHops)}`);
const hopWords = (asked: NextHopAsked): string => {
  if ('list' in asked) return `prefix-list ${asked.list}`;
  return 'access' in asked ? asked.access : `address ${asked.address}`;
};

function communityLine(
  word: string,
  communities: readonly string[] | undefined,
  additive: boolean | undefined,
): string {
  if (communities === undefined) return '';
  return communities.length === 0
    ? `\n set ${word} none`
    : `\n set ${word} ${communities.join(' ')}${additive ? ' additive' : ''}`;
}
/** Lines of extended communities; of those that are given, each kind has a line. */
function extendedLines({ extendedCommunities: said, bandwidth }: RouteSet): string {
  const own = (said ?? []).map((c) => c.replace(/^soo:/, ''));
  return (
    (said === undefined ? '' : `\n set extcommunity ${own.length === 0 ? 'none' : `soo ${own.join(' ')}`}`) +
    (bandwidth === undefined ? '' : `\n set extcommunity bandwidth ${bandwidth}`)
  );
}
const setLines = (set: RouteSet): string =>
  (set.prepend === undefined ? '' : `\n set as-path prepend ${set.prepend.join(' ')}`) +
  (set.prependFirst === undefined ? '' : `\n set as-path prepend last-as ${set.prependFirst}`) +
  (set.exclude === undefined ? '' : `\n set as-path exclude ${set.exclude.join(' ')}`) +
  (set.withoutCommunities === undefined ? '' : `\n set comm-list ${set.withoutCommunities} delete`) +
  communityLine('community', set.communities, set.additive) +
  (set.withoutLarge === undefined ? '' : `\n set large-comm-list ${set.withoutLarge} delete`) +
  communityLine('large-community', set.largeCommunities, set.largeAdditive) +
  extendedLines(set) +
  (set.localPreference === undefined ? '' : `\n set local-preference ${set.localPreference}`) +
  (set.nextHop === undefined ? '' : `\n set ip next-hop ${set.nextHop}`) +
  (set.metric === undefined ? '' : `\n set metric ${set.metric}`) +
  (set.metricBy === undefined ? '' : `\n set metric ${set.metricBy < 0 ? '' : '+'}${set.metricBy}`) +
  (set.origin === undefined ? '' : `\n set origin ${set.origin}`) +
  (set.tag === undefined ? '' : `\n set tag ${set.tag}`) +
  (set.weight === undefined ? '' : `\n set weight ${set.weight}`);

function onMatchLine(onMatch: RouteMapEntry['onMatch']): string {
  if (onMatch === undefined) return '';
  return onMatch === 'next' ? '\n on-match next' : `\n on-match goto ${onMatch}`;
}

export function routeMapBlocks({ name, entries }: RouteMap): string {
  let out = '';
  for (const e of entries)
    out +=
      `\nroute-map ${name} ${e.permit ? 'permit' : 'deny'} ${e.seq}` +
      (e.matchPrefixList === undefined ? '' : `\n match ip address prefix-list ${e.matchPrefixList}`) +
      (e.matchIpv6PrefixList === undefined ? '' : `\n match ipv6 address prefix-list ${e.matchIpv6PrefixList}`) +
      (e.matchAccessList === undefined ? '' : `\n match ip address ${e.matchAccessList}`) +
      (e.matchIpv6AccessList === undefined ? '' : `\n match ipv6 address ${e.matchIpv6AccessList}`) +
      (e.match === undefined ? '' : matchLines(e.match)) +
      (e.set === undefined ? '' : setLines(e.set)) +
      (e.call === undefined ? '' : `\n call ${e.call}`) +
      onMatchLine(e.onMatch) +
      '\nexit';
  return `${out}\n!`;
}

const MOST_32 = 4294967295;
const ORIGINS = /^(igp|egp|incomplete)$/;

/** Reads the value of a clause into the entry; `true` = done, a string = refused, null = not modelled. */
type Clause = (w: readonly string[], into: Draft<RouteMatch> & Draft<RouteSet>) => true | string | null;
const numberOf =
  (field: 'metric' | 'localPreference' | 'tag' | 'weight', from = 0): Clause =>
  (w, into) => {
    const n = w.length === 1 ? whole(w[0], from, MOST_32) : null;
    if (n === null) return null;
    into[field] = n;
    return true;
  };
const originOf: Clause = (w, into) => {
  if (w.length !== 1 || !ORIGINS.test(w[0]!)) return 'an origin is igp, egp or incomplete';
  into.origin = w[0] as 'igp' | 'egp' | 'incomplete';
  return true;
};

/** Communities that are those of a list, and no others where that is said. */
const listed =
  (field: 'community' | 'largeCommunity'): Clause =>
  (w, into) => {
    if (w[0] === undefined || (w.length === 2 && w[1] !== 'exact-match') || w.length > 2) return null;
    into[field] = { list: w[0], exact: w.length === 2 };
    return true;
  };

const MATCH: Readonly<Record<string, Clause>> = {
  community: listed('community'),
  'large-community': listed('largeCommunity'),
  extcommunity: (w, into) => {
    if (w.length !== 1) return null;
    into.extendedCommunity = w[0]!;
    return true;
  },
  // Others are told apart by an interface, or by their group.
  peer: (w, into) => {
    const address = parseAddress(w[0] ?? '');
    if (w.length !== 1 || (w[0] !== 'local' && !address)) return null;
    into.peer = address ? formatAddress(address) : 'local';
    return true;
  },
  'as-path': (w, into) => {
    if (w.length !== 1) return 'the list has no name';
    into.asPath = w[0]!;
    return true;
  },
  interface: (w, into) => {
    if (w.length !== 1) return 'the interface has no name';
    into.interface = w[0]!;
    return true;
  },
  ip: (w, into) => {
    const asked = w[0] === 'next-hop' ? hopAsked(w.slice(1)) : null;
    // Of several that are said all have to hold, where they are of unlike kinds.
    if (asked === null || (into.nextHops !== undefined && kindOf(into.nextHops) !== kindOf(asked))) return null;
    into.nextHops = asked;
    return true;
  },
  metric: numberOf('metric'),
  'local-preference': numberOf('localPreference'),
  tag: numberOf('tag', 1),
  origin: originOf,
};
const kindOf = (asked: object): string => Object.keys(asked)[0]!;
/** Which next hops are meant; null = what is asked of them is not modelled. */
function hopAsked([word, name, ...more]: readonly string[]): NextHopAsked | null {
  if (word === undefined || more.length > 0) return null;
  if (name === undefined)
    return ['prefix-list', 'prefix-len', 'address', 'type'].includes(word) ? null : { access: word };
  if (word === 'prefix-list') return { list: name };
  return word === 'address' && parseIpv4(name) !== null ? { address: name } : null;
}
/** Communities that a route gets, of one kind; not where those of a list are taken away. */
const given =
  (
    field: 'communities' | 'largeCommunities',
    additive: 'additive' | 'largeAdditive',
    without: 'withoutCommunities' | 'withoutLarge',
    sort: CommunitySort,
  ): Clause =>
  (w, into) => {
    if (into[without] !== undefined) return null;
    const beside = w.at(-1) === 'additive';
    const said = w.length === 1 && w[0] === 'none' ? [] : beside ? w.slice(0, -1) : w;
    if ((said.length === 0 && w[0] !== 'none') || !said.every((c) => isOfSort(sort, c))) return FORMS[sort];
    into[field] = [...said];
    if (beside) into[additive] = true;
    else delete into[additive];
    return true;
  };
const taken =
  (without: 'withoutCommunities' | 'withoutLarge', field: 'communities' | 'largeCommunities'): Clause =>
  (w, into) => {
    if (w.length !== 2 || w[1] !== 'delete' || into[field] !== undefined) return null;
    into[without] = w[0]!;
    return true;
  };

/** Which of two lines of an entry that touch the same numbers is heard first is not computed. */
const meet = (a: readonly number[] | undefined, b: readonly number[] | undefined): boolean =>
  a?.some((n) => b?.includes(n)) ?? false;
const excluded: Clause = (w, into) => {
  const numbers = w.map((t) => whole(t, 1, MOST_32));
  if (numbers.length === 0 || numbers.some((n) => n === null)) return null;
  if (meet(into.prepend, numbers as number[]) || into.prependFirst !== undefined) return null;
  into.exclude = numbers as number[];
  return true;
};
/** Of extended communities where a route is from; whoever says targets here decides which VRFs have it, which is not computed. */
const extended: Clause = ([kind, ...w], into) => {
  if (kind === 'bandwidth') {
    const n = w.length === 1 ? whole(w[0], 1, MOST_BANDWIDTH) : null;
    if (n === null || into.extendedCommunities?.length === 0) return null;
    into.bandwidth = n;
    return true;
  }
  if (kind === 'none') {
    if (w.length > 0 || into.bandwidth !== undefined || into.extendedCommunities !== undefined) return null;
    into.extendedCommunities = [];
    return true;
  }
  const said = w.map((c) => `soo:${c}`);
  if (kind !== 'soo' || into.extendedCommunities?.length === 0) return null;
  if (said.length === 0 || !said.every((c) => communitySort(c) === 'extended')) return FORMS.extended;
  into.extendedCommunities = inCommunityOrder('extended', said);
  return true;
};
/** Mb/s that FRR 8.4 takes. */
const MOST_BANDWIDTH = 25600;

const SET: Readonly<Record<string, Clause>> = {
  extcommunity: extended,
  'as-path': (w, into) => {
    if (w[0] === 'exclude') return excluded(w.slice(1), into);
    if (w[0] !== 'prepend') return null;
    if (w[1] === 'last-as') {
      const times = w.length === 3 ? whole(w[2], 1, 10) : null;
      if (times === null) return 'the first number is put before the path 1–10 times';
      if (into.exclude !== undefined) return null;
      into.prependFirst = times;
      delete into.prepend;
      return true;
    }
    const numbers = w.slice(1).map((t) => whole(t, 1, MOST_32));
    if (numbers.length === 0 || numbers.some((n) => n === null)) return null;
    if (meet(into.exclude, numbers as number[])) return null;
    into.prepend = numbers as number[];
    delete into.prependFirst;
    return true;
  },
  community: given('communities', 'additive', 'withoutCommunities', 'standard'),
  'large-community': given('largeCommunities', 'largeAdditive', 'withoutLarge', 'large'),
  'comm-list': taken('withoutCommunities', 'communities'),
  'large-comm-list': taken('withoutLarge', 'largeCommunities'),
  // Of IPv6 the address of the link is used, whatever is set (seen on FRR 8.4.4).
  ip: (w, into) => {
    const [word, hop, ...more] = w;
    if (word !== 'next-hop' || hop === undefined || more.length > 0) return null;
    if (hop !== 'peer-address' && hop !== 'unchanged' && parseIpv4(hop) === null) return null;
    into.nextHop = hop;
    return true;
  },
  metric: (w, into) => {
    const by = /^([+-])(\d+)$/.exec(w[0] ?? '');
    const n = w.length === 1 ? whole(by?.[2] ?? w[0], 0, MOST_32) : null;
    if (n === null) return null;
    delete into[by ? 'metric' : 'metricBy'];
    into[by ? 'metricBy' : 'metric'] = by?.[1] === '-' ? -n : n;
    return true;
  },
  'local-preference': numberOf('localPreference'),
  weight: numberOf('weight'),
  tag: numberOf('tag', 1),
  origin: originOf,
};

/** The part of an entry that a clause goes into. */
function part(entry: Draft<RouteMapEntry>, which: 'match' | 'set'): Draft<RouteMatch> & Draft<RouteSet> {
  return (entry[which] ??= {}) as Draft<RouteMatch> & Draft<RouteSet>;
}

function readClause(w: readonly string[], line: string, entry: Draft<RouteMapEntry>): Reading {
  const which = w[0] as 'match' | 'set';
  const clauses = which === 'match' ? MATCH : SET;
  const clause = w[1] !== undefined && Object.hasOwn(clauses, w[1]) ? clauses[w[1]]! : null;
  const was = entry[which];
  const answer = clause?.(w.slice(2), part(entry, which)) ?? null;
  if (answer === true) return true;
  // What was not read leaves no empty part behind.
  if (was === undefined) delete entry[which];
  return answer ?? unmodelled(`“${line}” is not modelled`);
}

const routeMap: Block<{ readonly name: string; readonly entry: Draft<RouteMapEntry> }> = {
  name: 'route-map',
  read: (w, line, { name, entry }, reading) => {
    const at = (field: keyof Omit<RouteMapEntry, 'seq' | 'permit'>): true =>
      reading.at(['routeMaps', name, 'entries', String(entry.seq), field]);
    const m = /^match (ipv?6?) address prefix-list (\S+)$/.exec(line);
    if (m) {
      const field = m[1] === 'ip' ? 'matchPrefixList' : 'matchIpv6PrefixList';
      entry[field] = m[2]!;
      return at(field);
    }
    const list = /^match (ipv?6?) address (?!prefix-len(?: |$)|prefix-list$)(\S+)$/.exec(line);
    if (list) {
      const field = list[1] === 'ip' ? 'matchAccessList' : 'matchIpv6AccessList';
      entry[field] = list[2]!;
      return at(field);
    }
    switch (w[0]) {
      case 'description':
        return reading.at(['routeMaps', name]);
      case 'match':
      case 'set': {
        const answer = readClause(w, line, entry);
        return answer === true ? at(w[0]) : answer;
      }
      case 'call':
        if (w[1] === undefined) return 'the map has no name';
        entry.call = w[1];
        return at('call');
      case 'on-match':
      case 'continue': {
        const number = w[0] === 'continue' ? w[1] : w[2];
        const seq = whole(number, 1, 65535);
        if (seq === null && (number !== undefined || w[0] === 'continue')) return 'the number of an entry is 1–65535';
        if (w[0] === 'on-match' && w[1] !== (seq === null ? 'next' : 'goto')) return 'it is next, or goto and a number';
        if (seq !== null && seq <= entry.seq) return { why: 'it goes forward only', taken: false };
        entry.onMatch = seq ?? 'next';
        return at('onMatch');
      }
      default:
        return false;
    }
  },
};

export const policyLines: TopLines = {
  'route-map': (w, _line, reading) => {
    const [, name, permit] = w;
    if (name === 'optimization' || permit === 'optimization') return harmless('it says how maps are worked off');
    const seq = whole(w[3], 1, 65535);
    if (name === undefined || (permit !== 'permit' && permit !== 'deny') || seq === null)
      return 'a route map opens with: route-map NAME permit|deny N';
    const map = reading.draft.routeMaps.get(name) ?? [];
    reading.draft.routeMaps.set(name, map);
    // What is said of an entry in two places is one entry; the way said last is its way.
    let entry = map.find((e) => e.seq === seq);
    if (entry) entry.permit = permit === 'permit';
    else map.push((entry = { seq, permit: permit === 'permit' }));
    return reading.open(routeMap, { name, entry }, ['routeMaps', name]);
  },
};
