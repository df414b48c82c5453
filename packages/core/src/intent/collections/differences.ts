import { sameContent } from '../../numbers/content.ts';
import { subjectOf, type Subject } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import { ALL_COLLECTIONS } from './index.ts';

/** The objects in which two intents differ: there in one only, or with other content. */
export function objectsBetween(from: FabricIntent, to: FabricIntent): Set<Subject> {
  const out = new Set<Subject>();
  for (const { kind, part, items } of ALL_COLLECTIONS) {
    // What is said of the tiers above the racks is read from several parts.
    if (kind !== 'fabric' && kind !== 'spines' && from[part] === to[part]) continue;
    const left = new Map(items(from));
    for (const [key, is] of items(to)) {
      const was = left.get(key);
      left.delete(key);
      if (was !== is && !sameContent(was, is)) out.add(subjectOf(kind, key));
    }
    for (const key of left.keys()) out.add(subjectOf(kind, key));
  }
  return out;
}
