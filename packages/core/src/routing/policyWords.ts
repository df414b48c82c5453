import type { PolicyKind } from '../config/policyUses.ts';
import type {
  NextHopAsked,
  AccessList,
  AsPathList,
  CommunityList,
  PrefixList,
  PrefixListEntry,
  RouteMap,
  RouteMapEntry,
  RouteMatch,
  RouteSet,
} from '../config/policy.ts';

const permits = (permit: boolean): string => (permit ? 'permits' : 'denies');

function lengths({ prefix, ge, le }: PrefixListEntry): string {
  if (ge === undefined && le === undefined) return prefix;
  const from = ge ?? Number(prefix.split('/')[1]);
  // A list without an upper end takes single addresses too.
  if (le === undefined) return `${prefix}, lengths from ${from}`;
  return from === le ? `${prefix}, length ${le}` : `${prefix}, lengths ${from}–${le}`;
}
const prefixWords = ({ entries }: PrefixList): string[] =>
  entries.map((e) => `${e.seq} ${permits(e.permit)} ${lengths(e)}`);

const accessWords = ({ entries }: AccessList): string[] =>
  entries.map(({ seq, permit, prefix, exact, wildcard }) => {
    const what =
      wildcard === undefined ? (exact ? prefix : `${prefix} and what is in it`) : `${prefix} but for ${wildcard}`;
    return `${seq} ${permits(permit)} ${what}`;
  });

function hopsAsked(asked: NextHopAsked): string {
  if ('list' in asked) return `next hop in prefix list ${asked.list}`;
  return 'access' in asked ? `next hop in access list ${asked.access}` : `next hop ${asked.address}`;
}
function matches(m: RouteMatch): string[] {
  const out: string[] = [];
  if (m.community) out.push(`community list ${m.community.list}${m.community.exact ? ' exactly' : ''}`);
  if (m.largeCommunity)
    out.push(`large community list ${m.largeCommunity.list}${m.largeCommunity.exact ? ' exactly' : ''}`);
  if (m.extendedCommunity !== undefined) out.push(`extended community list ${m.extendedCommunity}`);
  if (m.asPath !== undefined) out.push(`AS path list ${m.asPath}`);
  if (m.metric !== undefined) out.push(`metric ${m.metric}`);
  if (m.localPreference !== undefined) out.push(`local preference ${m.localPreference}`);
  if (m.tag !== undefined) out.push(`tag ${m.tag}`);
  if (m.origin !== undefined) out.push(`origin ${m.origin}`);
  if (m.interface !== undefined) out.push(`interface ${m.interface}`);
  if (m.nextHops) out.push(hopsAsked(m.nextHops));
  if (m.peer !== undefined) out.push(m.peer === 'local' ? 'what is its own' : `what ${m.peer} tells`);
  return out;
}
const given = (word: string, said: readonly string[], beside: boolean | undefined): string =>
  said.length === 0 ? `no ${word}` : `${word} ${said.join(' ')}${beside ? ' beside its own' : ''}`;
const HOP_WORDS: Readonly<Record<string, string>> = {
  'peer-address': 'the neighbour as next hop',
  unchanged: 'the next hop it had',
};
function sets(s: RouteSet): string[] {
  const out: string[] = [];
  if (s.localPreference !== undefined) out.push(`local preference ${s.localPreference}`);
  if (s.metric !== undefined) out.push(`metric ${s.metric}`);
  if (s.metricBy !== undefined) out.push(`metric ${s.metricBy < 0 ? 'less' : 'more'} by ${Math.abs(s.metricBy)}`);
  if (s.weight !== undefined) out.push(`weight ${s.weight}`);
  if (s.tag !== undefined) out.push(`tag ${s.tag}`);
  if (s.origin !== undefined) out.push(`origin ${s.origin}`);
  if (s.prepend !== undefined) out.push(`path with ${s.prepend.join(' ')} before it`);
  if (s.prependFirst !== undefined) out.push(`path with its first number ${s.prependFirst} times before it`);
  if (s.exclude !== undefined) out.push(`path without ${s.exclude.join(' ')}`);
  if (s.communities !== undefined) out.push(given('communities', s.communities, s.additive));
  if (s.largeCommunities !== undefined) out.push(given('large communities', s.largeCommunities, s.largeAdditive));
  if (s.extendedCommunities !== undefined) out.push(given('extended communities', s.extendedCommunities, true));
  if (s.bandwidth !== undefined) out.push(`a share of load as of ${s.bandwidth} Mb/s`);
  if (s.nextHop !== undefined) out.push(HOP_WORDS[s.nextHop] ?? `next hop ${s.nextHop}`);
  if (s.withoutLarge !== undefined) out.push(`large communities without those of list ${s.withoutLarge}`);
  if (s.withoutCommunities !== undefined) out.push(`communities without those of list ${s.withoutCommunities}`);
  return out;
}

function entryWords(e: RouteMapEntry): string {
  const asked = [
    ...(e.matchPrefixList === undefined ? [] : [`prefix list ${e.matchPrefixList}`]),
    ...(e.matchIpv6PrefixList === undefined ? [] : [`IPv6 prefix list ${e.matchIpv6PrefixList}`]),
    ...(e.matchAccessList === undefined ? [] : [`access list ${e.matchAccessList}`]),
    ...(e.matchIpv6AccessList === undefined ? [] : [`IPv6 access list ${e.matchIpv6AccessList}`]),
    ...(e.match ? matches(e.match) : []),
  ];
  const done = e.set ? sets(e.set) : [];
  return (
    `${e.seq} ${permits(e.permit)} ${asked.length === 0 ? 'the rest' : asked.join(' and ')}` +
    (e.call === undefined ? '' : `, if ${e.call} permits it too`) +
    (done.length === 0 ? '' : `; gives it ${done.join(', ')}`) +
    (e.onMatch === undefined ? '' : `; goes on with ${e.onMatch === 'next' ? 'the next' : e.onMatch}`)
  );
}

const communityWords = ({ entries }: CommunityList): string[] =>
  entries.map((e) => `${permits(e.permit)} ${'pattern' in e ? `/${e.pattern}/` : e.communities.join(' and ')}`);

const WORDS = {
  'route map': ({ entries }: RouteMap) => entries.map(entryWords),
  'prefix list': prefixWords,
  'IPv6 prefix list': prefixWords,
  'community list': communityWords,
  'large community list': communityWords,
  'extended community list': communityWords,
  'access list': accessWords,
  'IPv6 access list': accessWords,
  'AS path list': ({ entries }: AsPathList) => entries.map((e) => `${permits(e.permit)} ${e.pattern}`),
} satisfies Readonly<Record<PolicyKind, (policy: never) => string[]>>;

/** What a route map or a list says, entry by entry, as people read it. */
export const policyWords = (kind: PolicyKind, policy: object): string[] =>
  (WORDS[kind] as (policy: object) => string[])(policy);
