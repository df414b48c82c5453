import type { Subject } from './subject.ts';

/** How grave a finding is: an error blocks, a warning wants a look, a note only tells. */
export type Severity = 'error' | 'warning' | 'note';

/** Where a finding points in configuration text. */
export interface TextPlace {
  readonly host: string;
  readonly file: string;
  /** 1-based. */
  readonly line: number;
}

/** What a finding is about; a rule that sees texts only knows a network by its VLAN, which the proof makes its name of. */
export type FindingSubject = Subject | `vlan:${number}`;

/**
 * One problem, said for a person. Every computation of the core returns problems as findings instead of throwing;
 * exceptions are for bugs.
 */
export interface Finding {
  /** Rule or check that speaks, e.g. `bgp-session-up`. */
  readonly rule: string;
  readonly severity: Severity;
  /** What is wrong, where. */
  readonly message: string;
  /** What would be right. */
  readonly cure?: string;
  /** JSON-pointer-like place in the input, e.g. `/networks/echo-store/subnet`. */
  readonly path?: string;
  /** Switch the finding is about, and the place in its SwitchConfig, e.g. `['vxlans', '10010', 'vni']`. */
  readonly host?: string;
  readonly configPlace?: readonly string[];
  /** Intent objects the finding is about, e.g. `network:echo-store`; lets the interface lead to them. */
  readonly subjects?: readonly FindingSubject[];
  /** It would be graver, and the fabric waives the rule: by whom, why, until which day. */
  readonly waived?: { readonly by: string; readonly reason: string; readonly until: string };
  /** Filled in for findings about text, see `placeFindings`. */
  readonly place?: TextPlace;
}

/** Shorthand for an error finding. */
export function problem(rule: string, path: string, message: string, cure?: string): Finding {
  return { rule, severity: 'error', path, message, ...(cure === undefined ? {} : { cure }) };
}

/** True when nothing in the list blocks. */
export const isClean = (findings: readonly Finding[]): boolean => findings.every((f) => f.severity !== 'error');
