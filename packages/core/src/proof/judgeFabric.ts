import type { Finding } from '../finding.ts';
import { FABRIC_RULES } from './fabricRules/index.ts';
import { verdictOf, type RuleVerdict } from './judgeNetwork.ts';
import type { JudgedFabric } from './rule.ts';

/** Judges a fabric as it is meant by every rule of that. */
export function judgeFabric(fabric: JudgedFabric): {
  readonly findings: Finding[];
  readonly rules: readonly RuleVerdict[];
} {
  const judged = FABRIC_RULES.map((rule) => ({ rule, found: rule.judge(fabric) }));
  return {
    findings: judged.flatMap((j) => j.found),
    rules: judged.map(({ rule, found }) => verdictOf(rule, found.length)),
  };
}
