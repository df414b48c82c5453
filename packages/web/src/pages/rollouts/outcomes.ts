import type { Outcome } from '@anthemion/contract';

/** Outcomes that count towards the stop line. */
export const FAILED: ReadonlySet<string> = new Set<Outcome>(['refused, untouched', 'went back', 'unknown']);
