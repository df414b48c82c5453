import { diffLines } from 'diff';
import type { ConfigFiles } from '../dialects/documents.ts';

/** Two texts without the whole lines that both begin with, and those that both end with. */
function unlikeParts(before: string, after: string): readonly [string, string] {
  const shorter = Math.min(before.length, after.length);
  let from = 0;
  while (from < shorter && before.charCodeAt(from) === after.charCodeAt(from)) from++;
  from = from === 0 ? 0 : before.lastIndexOf('\n', from - 1) + 1;
  let alike = 0;
  const most = shorter - from;
  while (alike < most && before.charCodeAt(before.length - 1 - alike) === after.charCodeAt(after.length - 1 - alike))
    alike++;
  // The line it begins in is mostly not the same from its beginning.
  const feed = before.indexOf('\n', before.length - alike);
  const tail = feed < 0 ? 0 : before.length - feed - 1;
  return [before.slice(from, before.length - tail), after.slice(from, after.length - tail)];
}

export interface LineCounts {
  readonly added: number;
  readonly removed: number;
}
/** Lines added and removed between two texts. */
export function lineCounts(before: string, after: string): LineCounts {
  let added = 0;
  let removed = 0;
  if (before !== after)
    for (const part of diffLines(...unlikeParts(before, after))) {
      if (part.added) added += part.count ?? 0;
      else if (part.removed) removed += part.count ?? 0;
    }
  return { added, removed };
}
/** The same of all documents of a switch, each for itself; null = it has none. */
export function documentCounts(before: ConfigFiles | null, after: ConfigFiles | null): LineCounts {
  let [added, removed] = [0, 0];
  for (const name of new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])) {
    const counts = lineCounts(before?.[name] ?? '', after?.[name] ?? '');
    added += counts.added;
    removed += counts.removed;
  }
  return { added, removed };
}
