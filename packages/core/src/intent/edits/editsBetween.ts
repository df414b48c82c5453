import { sameContent } from '../../numbers/content.ts';
import { subjectOf, subjectParts, type ObjectKind, type Subject } from '../../subject.ts';
import { fabric } from '../collections/whole.ts';
import { upperTiersOf } from '../../patterns/patterns.ts';
import { ALL_COLLECTIONS, collectionOf, objectOf } from '../collections/index.ts';
import type { FabricIntent } from '../intent.ts';
import { applyEdit, type Edit } from './index.ts';
import { isMade, makingOf, patchOf, type MadeKind } from './making.ts';

/** A fabric that was laid out differently, or not at all, is cleared and laid again; all else is worked from there. */
function laying(from: FabricIntent, to: FabricIntent): Edit[] {
  if (sameContent(Object.fromEntries(fabric.items(from)), Object.fromEntries(fabric.items(to)))) return [];
  const { pattern: name, settings, models, rackPatterns } = to;
  const pattern = { name, description: '', ...upperTiersOf(to), racks: [], settings };
  return [
    ...(from.pattern === '' ? [] : [{ kind: 'clearFabric' } as const]),
    ...(name === '' ? [] : [{ kind: 'layFabric', models, rackPatterns, pattern } as const]),
  ];
}

/**
 * Does an object of `from` stay where it is on the way to `to`? It does when it is in both, need not be made anew, and all
 * that it names before and after, and cannot be without, stays as well.
 */
function standing(from: FabricIntent, to: FabricIntent): (subject: Subject) => boolean {
  const itemsOf = (intent: FabricIntent) => new Map(ALL_COLLECTIONS.map((c) => [c.kind, new Map(c.items(intent))]));
  const [before, after] = [itemsOf(from), itemsOf(to)];
  const known = new Map<Subject, boolean>();
  const judge = (subject: Subject): boolean => {
    const { kind, key } = subjectParts(subject);
    if (!isMade(kind)) return true;
    const [was, is] = [before.get(kind)!.get(key), after.get(kind)!.get(key)];
    if (was === undefined || is === undefined) return false;
    const { change, anew } = makingOf(kind);
    if (!sameContent(was, is) && change(is, was) === null) return false;
    if (anew(is, was, from, to)) return false;
    const { refers } = collectionOf(kind);
    const names = new Set(refers(is, key).map((r) => r.to));
    return refers(was, key).every((r) => r.ends === 'forgets' || !names.has(r.to) || stays(r.to));
  };
  const stays = (subject: Subject): boolean => {
    const told = known.get(subject) ?? judge(subject);
    known.set(subject, told);
    return told;
  };
  return stays;
}

/** The values in which two records differ, as they are to be; null = in none. */
function changedValues(kind: ObjectKind, from: FabricIntent, to: FabricIntent): Record<string, unknown> | null {
  const was = new Map(collectionOf(kind).items(from));
  const changed = [...collectionOf(kind).items(to)].filter(([key, is]) => !sameContent(was.get(key), is));
  return changed.length === 0 ? null : Object.fromEntries(changed);
}

/**
 * The edits that turn one intent into another: used to return to an earlier revision as a new change, and to invert an
 * edit. Applying them to `from` gives `to`, for intents of one fabric.
 */
export function editsBetween(from: FabricIntent, to: FabricIntent): Edit[] {
  const edits = laying(from, to);
  let start = edits.reduce((intent, edit) => applyEdit(intent, edit).intent, from);
  const step = (edit: Edit): boolean => {
    const made = applyEdit(start, edit);
    if (made.findings.length > 0) return false;
    edits.push(edit);
    start = made.intent;
    return true;
  };
  const stays = standing(start, to);
  /** Makes what can be made, again and again while that lets more of it be made. */
  const settle = (waiting: readonly Edit[]): void => {
    const left = waiting.filter((edit) => !step(edit));
    if (left.length > 0 && left.length < waiting.length) settle(left);
  };

  // Take away from the leaves of the document upwards; what goes with another goes with it …
  const held: Edit[] = [];
  const take = (kind: MadeKind, key: string, item: unknown): void => {
    for (const { to: other, ends } of collectionOf(kind).refers(item, key)) {
      const { kind: of, key: name } = subjectParts(other);
      if (ends !== 'goes' || stays(other) || !isMade(of)) continue;
      const whole = objectOf(start, of, name) as unknown;
      if (whole !== undefined) take(of, name, whole);
    }
    if (objectOf(start, kind, key) === undefined) return;
    const edit = makingOf(kind).remove(key, item);
    if (!step(edit)) held.push(edit);
  };
  for (const { kind, items } of ALL_COLLECTIONS.toReversed())
    if (isMade(kind)) for (const [key, item] of items(start)) if (!stays(subjectOf(kind, key))) take(kind, key, item);

  // … and build up from the root: what stays is changed before anything new comes, so that it has left its place.
  for (const { kind, items } of ALL_COLLECTIONS) {
    const patch = patchOf(kind);
    const values = patch && changedValues(kind, start, to);
    if (values) step(patch(values));
    if (!isMade(kind)) continue;
    const { add, change } = makingOf(kind);
    const now = new Map(items(start));
    const wanted = [...items(to)];
    // What one of its kind names may be new, or lead back to it still.
    const waiting = wanted.flatMap(([key, is]): Edit[] => {
      const was = now.get(key);
      const edit = was === undefined || sameContent(was, is) ? null : change(is, was);
      return edit === null || step(edit) ? [] : [edit];
    });
    for (const [key, is] of wanted) if (!now.has(key)) step(add(is, key));
    settle(waiting);
  }
  // What was still named by something that has changed since.
  settle(held);
  return edits;
}

/** The edits that undo `edit` on the intent it was applied to. */
export function invertEdit(edit: Edit, before: FabricIntent): Edit[] {
  return editsBetween(applyEdit(before, edit).intent, before);
}
