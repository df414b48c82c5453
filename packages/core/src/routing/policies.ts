import { POLICIES, policyUses, type PolicyKind } from '../config/policyUses.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
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
}

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
    .sort((a, b) => naturally(a.name, b.name) || b.hosts.length - a.hosts.length);
}
