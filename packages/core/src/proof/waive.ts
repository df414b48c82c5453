import type { Finding } from '../finding.ts';
import type { Waiver } from '../intent/intent.ts';
import { subjectOf } from '../subject.ts';

/** Findings after the fabric's waivers. */
export interface Waived {
  readonly findings: Finding[];
  /** The day on which the first of those waivers ends that something was let through by; null = by none. */
  readonly until: string | null;
}

/**
 * What rules find that a fabric waives counts as a note, with who waived it, why and until when. A waiver that has ended, or
 * that is of no rule, lets nothing through and is said.
 * @param rules ids of the design rules: nothing else can be waived
 * @param today ISO day, UTC
 */
export function waive(
  findings: readonly Finding[],
  waivers: readonly Waiver[],
  rules: ReadonlySet<string>,
  today: string,
): Waived {
  if (waivers.length === 0) return { findings: [...findings], until: null };
  const stands = new Map(waivers.filter((w) => rules.has(w.rule) && w.until >= today).map((w) => [w.rule, w]));
  let until: string | null = null;
  const out = findings.map((f): Finding => {
    const waiver = stands.get(f.rule);
    if (!waiver || f.severity === 'note') return f;
    if (until === null || waiver.until < until) until = waiver.until;
    const { by, reason } = waiver;
    return { ...f, severity: 'note', waived: { by, reason, until: waiver.until } };
  });
  const found = new Set(findings.map((f) => f.rule));
  for (const w of waivers) {
    const said = whatIsWrong(w, stands, found, rules);
    if (said) out.push({ rule: 'waiver-needed', subjects: [subjectOf('waiver', w.rule)], ...said });
  }
  return { findings: out, until };
}

/** The rules of which something is let through. */
export const waivedRules = (findings: readonly Finding[]): ReadonlySet<string> =>
  new Set(findings.flatMap((f) => (f.waived ? [f.rule] : [])));

function whatIsWrong(
  { rule, until }: Waiver,
  stands: ReadonlyMap<string, Waiver>,
  found: ReadonlySet<string>,
  rules: ReadonlySet<string>,
): Pick<Finding, 'severity' | 'message' | 'cure'> | null {
  if (!rules.has(rule))
    return {
      severity: 'warning',
      message: `${rule} is waived, and there is no such rule.`,
      cure: 'End the waiver, or waive the rule that is meant.',
    };
  if (!stands.has(rule))
    return {
      severity: 'warning',
      message: `The waiver of ${rule} ended with ${until}; the rule counts again.`,
      cure: 'End the waiver, or say anew until when.',
    };
  if (!found.has(rule))
    return { severity: 'note', message: `${rule} is waived and finds nothing any more.`, cure: 'End the waiver.' };
  return null;
}
