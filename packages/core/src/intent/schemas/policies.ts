import { array, boolean, string } from 'yup';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { communitySort } from '../../numbers/community.ts';
import { LAST_OWN_TAG, POLICY_KINDS, type PolicyIs } from '../policies.ts';
import { addressText, closed, namedThing, prefixText, shortName, whole } from './words.ts';

const MOST_32 = 4294967295;
/** Mb/s that FRR 8.4 takes. */
const MOST_BANDWIDTH = 25600;
const policyName = (what: string) => namedThing(`${what} is the name of one of the fabric`);
const onlyTrue = (what: string) => boolean().oneOf([true], `${what} is true, or left out`);
const origin = string().oneOf(['igp', 'egp', 'incomplete'], 'an origin is igp, egp or incomplete');
const communities = array(
  string()
    .test(
      'community',
      ({ value }) => `${String(value)} is no community such as 64700:20, 64700:1:20 or soo:64700:20`,
      (v) => v !== undefined && communitySort(v) !== null,
    )
    .required(),
).max(32, 'at most 32 communities');

const match = closed({
  prefixes: policyName('the prefix list'),
  communities: policyName('the community list'),
  exactly: onlyTrue('“exactly”'),
  path: policyName('the AS path list'),
  origin,
  metric: whole('The metric', 0, MOST_32),
  localPreference: whole('The local preference', 0, MOST_32),
  tag: whole('The tag (1–9 are ours)', LAST_OWN_TAG + 1, MOST_32),
  peer: addressText('who it is heard from is written 192.0.2.1 or 2001:db8::1'),
  nextHops: policyName('the prefix list of next hops'),
});
const set = closed({
  localPreference: whole('The local preference', 0, MOST_32),
  metric: whole('The metric', 0, MOST_32),
  metricBy: whole('What is added to the metric', -MOST_32, MOST_32),
  weight: whole('The weight', 0, MOST_32),
  origin,
  prepend: array(whole('An AS number', 1, 4294967294).required())
    .min(1)
    .max(10, 'at most 10 numbers before a path'),
  prependFirst: whole('How often', 1, 10),
  exclude: array(whole('An AS number', 1, 4294967294).required())
    .min(1)
    .max(10, 'at most 10 numbers out of a path'),
  communities,
  additive: onlyTrue('“additive”'),
  withoutCommunities: policyName('the community list'),
  bandwidth: whole('The bandwidth', 1, MOST_BANDWIDTH),
  nextHop: string().test(
    'next-hop',
    'a next hop is an address of IPv4, neighbour, or unchanged',
    (v) => v === undefined || v === 'neighbour' || v === 'unchanged' || parseIpv4(v) !== null,
  ),
});

/** What an entry has to say, by the kind of policy, and what it may say beside. */
const ENTRIES: Readonly<Record<PolicyIs, readonly [needs: readonly string[], may: readonly string[]]>> = {
  'prefix-list': [
    ['seq', 'prefix'],
    ['ge', 'le'],
  ],
  'community-list': [[], ['communities', 'expression', 'large']],
  'path-list': [['pattern'], []],
  'route-map': [['seq'], ['match', 'set', 'call', 'next', 'goTo']],
};
const entry = closed({
  seq: whole('The number', 1, 65535),
  permit: boolean().typeError('permit is true or false').required('say whether it permits'),
  prefix: prefixText(),
  ge: whole('The shortest length', 0, 128),
  le: whole('The longest length', 0, 128),
  communities: communities.min(1, 'an entry has a community'),
  pattern: string().max(200, 'an expression has at most 200 characters'),
  expression: string().min(1).max(200, 'an expression has at most 200 characters'),
  large: onlyTrue('“large”'),
  match: match.default(undefined).optional(),
  set: set.default(undefined).optional(),
  call: policyName('the route map'),
  next: onlyTrue('“next”'),
  goTo: whole('The entry it goes on with', 2, 65535),
});

export const policySchema = closed({
  is: string()
    .oneOf([...POLICY_KINDS], `it is ${POLICY_KINDS.join(', ')}`)
    .required('the kind of policy is missing'),
  name: shortName('The name'),
  entries: array(entry)
    .min(1, 'a policy has an entry')
    .max(1000, 'a policy has at most 1000 entries')
    .required('the entries are missing'),
}).test('entries', 'an entry is of another kind', (policy, { createError, path }) => {
  const at = path ? `${path}.` : '';
  const kinds = Object.hasOwn(ENTRIES, String(policy.is)) ? ENTRIES[policy.is as PolicyIs] : undefined;
  if (!kinds || !Array.isArray(policy.entries)) return true;
  const [needs, may] = kinds;
  for (const [i, said] of (policy.entries as readonly object[]).entries()) {
    const has = Object.entries(said ?? {}).flatMap(([k, v]) => (v === undefined ? [] : k));
    const lacks = needs.find((k) => !has.includes(k));
    if (lacks !== undefined)
      return createError({
        path: `${at}entries[${i}].${lacks}`,
        message: `it is missing in an entry of a ${policy.is}`,
      });
    if (policy.is === 'community-list' && has.includes('communities') === has.includes('expression'))
      return createError({
        path: `${at}entries[${i}].communities`,
        message: 'an entry has communities, or an expression over them',
      });
    if (has.includes('large') && !has.includes('expression'))
      return createError({
        path: `${at}entries[${i}].large`,
        message: 'only an expression says whether it is about large ones',
      });
    const strange = has.find((k) => k !== 'permit' && !needs.includes(k) && !may.includes(k));
    if (strange !== undefined)
      return createError({ path: `${at}entries[${i}].${strange}`, message: `an entry of a ${policy.is} has none` });
  }
  return true;
});
