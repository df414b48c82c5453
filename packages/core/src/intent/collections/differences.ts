import { sameContent } from '../../numbers/content.ts';
import { subjectOf, type Subject } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import { ALL_COLLECTIONS } from './index.ts';

/** An object before and after; absent on the side where it is not there. */
export interface ObjectDifference {
  readonly was?: unknown;
  readonly is?: unknown;
}

/** The objects in which two intents differ: there in one only, or with other content. */
export function objectDifferences(from: FabricIntent, to: FabricIntent): Map<Subject, ObjectDifference> {
  const out = new Map<Subject, ObjectDifference>();
  for (const { kind, part, items } of ALL_COLLECTIONS) {
    // What is said of the tiers above the racks is read from several parts.
    if (kind !== 'fabric' && kind !== 'spines' && from[part] === to[part]) continue;
    const left = new Map(items(from));
    for (const [key, is] of items(to)) {
      const was = left.get(key);
      left.delete(key);
      if (was === undefined) out.set(subjectOf(kind, key), { is });
      else if (was !== is && !sameContent(was, is)) out.set(subjectOf(kind, key), { was, is });
    }
    for (const [key, was] of left) out.set(subjectOf(kind, key), { was });
  }
  return out;
}

/** Their names alone. */
export const objectsBetween = (from: FabricIntent, to: FabricIntent): Set<Subject> =>
  new Set(objectDifferences(from, to).keys());
