import { capital } from '../../capital.ts';
import { problem, type Finding } from '../../finding.ts';
import { subjectOf, subjectParts, type ObjectKind, type Subject } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import { ALL_COLLECTIONS, collectionOf, objectOf } from './index.ts';

/** An object that names another one. */
interface User {
  readonly subject: Subject;
  readonly item: unknown;
}

/** Objects that name one of these, by what becomes of them. */
function usersOf(intent: FabricIntent, named: ReadonlySet<Subject>): Record<'holds' | 'goes' | 'forgets', User[]> {
  const users: Record<'holds' | 'goes' | 'forgets', User[]> = { holds: [], goes: [], forgets: [] };
  for (const { kind, items, refers } of ALL_COLLECTIONS)
    for (const [key, item] of items(intent)) {
      const ends = new Set(refers(item, key).flatMap((r) => (named.has(r.to) ? [r.ends] : [])));
      const strongest = (['goes', 'holds', 'forgets'] as const).find((e) => ends.has(e));
      if (strongest) users[strongest].push({ subject: subjectOf(kind, key), item });
    }
  return users;
}

/** What goes with an object, what forgets it, and what holds it. */
export interface Removal {
  /** The object itself first. */
  readonly goes: readonly Subject[];
  readonly forgets: readonly Subject[];
  /** Stays, and cannot be without it: nothing may be removed. */
  readonly holds: readonly Subject[];
}

/** What the removal of an object would take along, all the way down. */
export function removalOf(intent: FabricIntent, subject: Subject): Removal {
  const goes = new Set<Subject>([subject]);
  for (let size = 0; size !== goes.size;) {
    size = goes.size;
    for (const user of usersOf(intent, goes).goes) goes.add(user.subject);
  }
  const { holds, forgets } = usersOf(intent, goes);
  const left = (users: readonly User[]): Subject[] => users.map((u) => u.subject).filter((s) => !goes.has(s));
  return { goes: [...goes], forgets: left(forgets), holds: left(holds) };
}

/** The object as people name it: `network echo-store`. */
export function namedIn(intent: FabricIntent, subject: Subject): string {
  const { kind, key } = subjectParts(subject);
  return collectionOf(kind).named(key, objectOf(intent, kind, key));
}

const MOST_NAMED = 3;
const list = (names: readonly string[]): string =>
  names.length <= MOST_NAMED
    ? names.join(', ')
    : `${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} more`;

/**
 * Removes an object and all that goes with it; what only names it forgets it. Refused, with the holders named and the cure,
 * where something that stays cannot be without it. Pure.
 * @param path where the object is named in the edit
 */
export function removeObject(
  intent: FabricIntent,
  kind: ObjectKind,
  key: string,
  path = '/name',
): { readonly intent: FabricIntent; readonly findings: readonly Finding[] } {
  const { word } = collectionOf(kind);
  if (objectOf(intent, kind, key) === undefined)
    return {
      intent,
      findings: [problem('object-known', path, `There is no ${word} ${key} (any more).`, 'Undo this edit.')],
    };
  const subject = subjectOf(kind, key);
  const { goes, forgets, holds } = removalOf(intent, subject);
  if (holds.length > 0) {
    const { freeing } = collectionOf(subjectParts(holds[0]!).kind);
    const who = list(holds.map((h) => namedIn(intent, h)));
    const what = namedIn(intent, subject);
    const rule = `${word.toLowerCase().replaceAll(' ', '-')}-in-use`;
    const said = `${capital(what)} is still used by ${who}.`;
    return { intent, findings: [problem(rule, path, said, freeing)] };
  }
  let next = intent;
  for (const other of forgets) {
    const parts = subjectParts(other);
    const { forget, put } = collectionOf(parts.kind);
    let item = objectOf(next, parts.kind, parts.key) as unknown;
    for (const gone of goes) item = forget!(item, gone);
    next = put(next, parts.key, item);
  }
  for (const gone of goes) {
    const parts = subjectParts(gone);
    next = collectionOf(parts.kind).take(next, parts.key);
  }
  return { intent: next, findings: [] };
}
