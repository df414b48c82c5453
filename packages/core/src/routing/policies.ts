import { POLICIES, policyUses, type PolicyKind } from '../config/policyUses.ts';
import { partsOf } from '../config/routePolicies.ts';
import { blankConfig } from '../config/sections.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { policyKey, type PolicyIs, type RoutePolicy } from '../intent/policies.ts';
import { naturally } from '../numbers/order.ts';
import { policyWords } from './policyWords.ts';

/** Where a policy is used, and on which switches. */
export interface PolicyUsed {
  readonly words: string;
  readonly hosts: readonly string[];
}
/** A route map or a list that switches have alike, with what it says and where it is used. */
export interface PolicyRow {
  readonly kind: PolicyKind;
  readonly name: string;
  /** Entry by entry. */
  readonly says: readonly string[];
  readonly hosts: readonly string[];
  /** Empty = nobody uses it. */
  readonly uses: readonly PolicyUsed[];
  /** Key of the fabric’s own policy that says it; absent = it follows from the pattern. */
  readonly key?: string;
}

/** What a fabric calls those of a kind; null = it says none of its own. */
const KIND_OF: Readonly<Record<PolicyKind, PolicyIs | null>> = {
  'route map': 'route-map',
  'prefix list': 'prefix-list',
  'IPv6 prefix list': 'prefix-list',
  'community list': 'community-list',
  'large community list': 'community-list',
  'extended community list': 'community-list',
  'AS path list': 'path-list',
  'access list': null,
  'IPv6 access list': null,
};
/** Of what sort a list is its first entry says. */
const firstOf = (list: RoutePolicy): RoutePolicy => ({ ...list, entries: list.entries.slice(0, 1) }) as RoutePolicy;
/** A policy of the fabric as switches would have it. */
function asConfigured(
  policy: RoutePolicy,
  all: readonly RoutePolicy[],
): readonly [PolicyKind, { readonly name: string }] {
  const config = {
    ...blankConfig(''),
    ...partsOf([policy, ...all.flatMap((p) => (p.is === 'route-map' || p === policy ? [] : firstOf(p)))]),
  };
  for (const kind of Object.keys(POLICIES) as PolicyKind[])
    for (const made of POLICIES[kind](config))
      if (KIND_OF[kind] === policy.is && made.name === policy.name) return [kind, made];
  throw new Error(`no ${policy.is}`);
}
/** What a policy of the fabric says, entry by entry. */
export const policySays = (policy: RoutePolicy, all: readonly RoutePolicy[]): readonly string[] =>
  policyWords(...asConfigured(policy, all));

/** The policies that switches have, and those of the fabric that none has because nothing uses them yet. */
export function withSpare(rows: readonly PolicyRow[], own: readonly RoutePolicy[]): readonly PolicyRow[] {
  const keyOf = ({ kind, name }: PolicyRow): string => {
    const is = KIND_OF[kind];
    return is === null ? '' : policyKey({ is, name });
  };
  const ours = new Set(own.map(policyKey));
  const known = new Set(rows.map(keyOf));
  const spare = own
    .filter((p) => !known.has(policyKey(p)))
    .map((p): PolicyRow => {
      const [kind, made] = asConfigured(p, own);
      return { kind, name: p.name, says: policyWords(kind, made), hosts: [], uses: [], key: policyKey(p) };
    });
  return [...rows.map((r) => (ours.has(keyOf(r)) ? { ...r, key: keyOf(r) } : r)), ...spare].sort(byName);
}
const byName = (a: PolicyRow, b: PolicyRow): number => naturally(a.name, b.name) || b.hosts.length - a.hosts.length;

interface Gathered {
  readonly kind: PolicyKind;
  readonly name: string;
  readonly says: readonly string[];
  readonly hosts: string[];
  readonly uses: Map<string, string[]>;
}

/** The policies of a fabric: those that say the same on several switches together, each with its uses. */
export function policiesOf(
  switches: readonly { readonly host: string; readonly config: SwitchConfig }[],
): readonly PolicyRow[] {
  const all = new Map<string, Gathered>();
  for (const { host, config } of switches) {
    const uses = policyUses(config);
    for (const kind of Object.keys(POLICIES) as PolicyKind[])
      for (const policy of POLICIES[kind](config)) {
        const key = `${kind} ${JSON.stringify(policy)}`;
        let row = all.get(key);
        if (!row) {
          row = { kind, name: policy.name, says: policyWords(kind, policy), hosts: [], uses: new Map() };
          all.set(key, row);
        }
        row.hosts.push(host);
        for (const u of uses)
          if (u.kind === kind && u.name === policy.name) {
            const hosts = row.uses.get(u.words) ?? [];
            if (hosts.at(-1) !== host) hosts.push(host);
            row.uses.set(u.words, hosts);
          }
      }
  }
  return [...all.values()]
    .map((row): PolicyRow => ({ ...row, uses: [...row.uses].map(([words, hosts]) => ({ words, hosts })) }))
    .sort(byName);
}
