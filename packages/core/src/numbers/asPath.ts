/**
 * The pattern of an AS path list as an expression over numbers with blanks between them, in which `_` is a gap between
 * numbers or an end; null = it is none.
 */
export function pathExpression(pattern: string): RegExp | null {
  try {
    return new RegExp(pattern.replaceAll('_', '(^|[,{}() ]|$)'));
  } catch {
    return null;
  }
}

/** More repetitions than these are tried for too long on a path that does not match. */
const MOST_REPETITIONS = 2;
/** Expressions that can be tried without going back and forth for ever: few repetitions, and none of a repetition. */
export const isTamePath = (pattern: string): boolean =>
  /^[\d_^$.*+?()|[\], -]+$/.test(pattern) &&
  !/[*+?][)\]]*[*+?]/.test(pattern) &&
  (pattern.match(/[*+?]/g) ?? []).length <= MOST_REPETITIONS;
/** The same of expressions over communities, which may hold letters and colons; a class by name such as `[:digit:]` is none. */
export const isTameCommunities = (pattern: string): boolean =>
  !pattern.includes('[:') && isTamePath(pattern.replaceAll(/[A-Za-z:]/g, '0'));
