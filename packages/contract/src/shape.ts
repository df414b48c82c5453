import { problem, type Finding } from '@anthemion/core';

/** How large a body may be, before anything looks at what it says. */
export interface ShapeLimits {
  /** Values within values within values. */
  readonly depth: number;
  /** Objects, list items and fields, all together. */
  readonly parts: number;
}
export const PLAIN_BODY: ShapeLimits = { depth: 12, parts: 5_000 };
export const LARGE_BODY: ShapeLimits = { depth: 16, parts: 120_000 };

/** Names every object has from birth; a field called so confuses whatever reads it. */
const RESERVED = new Set(Object.getOwnPropertyNames(Object.prototype));
const LONGEST_FIELD = 100;

/**
 * What is wrong with the build of a body, whatever it says: too deep, too many parts, field names that nothing of ours has.
 * Walks without recursion and stops at the first. Null = fine.
 */
export function checkShape(body: unknown, limits: ShapeLimits): Finding | null {
  const waiting: { readonly value: unknown; readonly depth: number; readonly path: string }[] = [
    { value: body, depth: 0, path: '' },
  ];
  let parts = 0;
  const bad = (path: string, message: string, cure: string): Finding =>
    problem('body-shape', path.slice(0, 200), message, cure);
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const { value, depth, path } = next;
    if (typeof value !== 'object' || value === null) continue;
    if (depth >= limits.depth)
      return bad(path, `The body is more than ${limits.depth} levels deep.`, 'Send what the API describes.');
    const entries: [string, unknown][] = Array.isArray(value)
      ? value.map((v, i) => [String(i), v])
      : Object.entries(value);
    parts += entries.length;
    if (parts > limits.parts)
      return bad(path, `The body has more than ${limits.parts} parts.`, 'Send it in several requests.');
    for (const [key, inner] of entries) {
      if (!Array.isArray(value) && (RESERVED.has(key) || key.length > LONGEST_FIELD))
        return bad(path, `There is no field ${key.slice(0, 40)}.`, 'Take it out.');
      waiting.push({ value: inner, depth: depth + 1, path: `${path}/${key}` });
    }
  }
  return null;
}
