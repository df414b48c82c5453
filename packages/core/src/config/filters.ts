import type { ConfigSection } from './section.ts';

/** What a table sees: packets that are routed or for the switch itself (of one family or of both), or frames of its bridge. */
export type FilterLayer = 'inet' | 'ip' | 'ip6' | 'bridge';
/** When it is asked: before and after a packet is routed (or a frame bridged), on its way through, to the switch, from it. */
export type FilterHook = 'prerouting' | 'input' | 'forward' | 'output' | 'postrouting';

/**
 * What of a packet is looked at. Interfaces by name: `in` is that of the VRF where the packet is in one, `inMember` the
 * interface itself. `state` is what the switch knows of the flow. Fields of IPv6 alone are kept as they are written.
 */
export type FilterField =
  | 'family'
  | 'protocol'
  | 'source'
  | 'target'
  | 'sourcePort'
  | 'targetPort'
  | 'icmpType'
  | 'in'
  | 'inMember'
  | 'out'
  | 'state'
  | 'source6'
  | 'target6'
  | 'icmp6Type';

/** Numbers from one to another, both included: ports, protocols, IPv4 addresses. */
export interface NumberRange {
  readonly from: number;
  readonly to: number;
}
/** Values of a field: numbers, or words (names of interfaces may end in `*`, which stands for any end). */
export interface FilterValues {
  readonly ranges?: readonly NumberRange[];
  readonly words?: readonly string[];
}
/** One condition of a rule. */
export interface FilterMatch extends FilterValues {
  readonly field: FilterField;
  /** Does it hold where the value is none of these? */
  readonly not?: true;
  /** Instead of values: a set of the table. */
  readonly set?: string;
}
/** What becomes of a packet for which all conditions hold; `jump` comes back, `goto` does not. */
export type FilterVerdict =
  | { readonly does: 'accept' | 'drop' | 'reject' | 'return' }
  | { readonly does: 'jump' | 'goto'; readonly chain: string };

export interface FilterRule {
  /** Its place among the rules of its chain, from 1. */
  readonly number: number;
  readonly matches: readonly FilterMatch[];
  /** Absent = it only counts. */
  readonly verdict?: FilterVerdict;
}
export interface FilterChain {
  readonly name: string;
  /** Where it begins by itself; absent = other chains lead to it. */
  readonly base?: {
    readonly hook: FilterHook;
    /** Those of one hook are asked in this order, the least first. */
    readonly priority: number;
    /** What becomes of a packet that no rule decides. */
    readonly policy: 'accept' | 'drop';
  };
  readonly rules: readonly FilterRule[];
}
export interface FilterSet extends FilterValues {
  readonly name: string;
  readonly of: 'addresses' | 'addresses6' | 'ports' | 'protocols' | 'interfaces';
}
export interface FilterTable {
  readonly layer: FilterLayer;
  readonly name: string;
  readonly sets: readonly FilterSet[];
  readonly chains: readonly FilterChain[];
}
export interface FiltersPart {
  /** Packet filters; absent = none. */
  readonly filters?: readonly FilterTable[];
}

export const filterTableKey = (t: Pick<FilterTable, 'layer' | 'name'>): string => `${t.layer} ${t.name}`;

export const filters: ConfigSection<FiltersPart> = {
  blank: {},
  // Nothing of the intent asks for one yet; they are read from texts.
  derive: () => ({}),
  members: {
    filters: { key: filterTableKey, word: 'filter table' },
    'filters.sets': { key: (s: FilterSet) => s.name, word: 'set' },
    'filters.chains': { key: (c: FilterChain) => c.name, word: 'filter chain' },
    'filters.chains.rules': { key: (r: FilterRule) => String(r.number), word: 'filter rule' },
  },
  words: { base: 'where it is asked', matches: 'conditions', verdict: 'what it does' },
  causeOf: () => ({ subject: 'fabric', label: 'fabric pattern' }),
};
