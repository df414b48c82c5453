import type { ObjectKind } from '../../subject.ts';
import type { FabricIntent } from '../intent.ts';
import type { Makes } from './edit.ts';
import { EDITS, type Edit } from './index.ts';

/** Kinds whose objects come and go, one by one; the others are values under fixed names. */
export type MadeKind = Exclude<ObjectKind, 'fabric' | 'setting' | 'pool' | 'spines'>;

/** By which edits objects of a kind come, change and go. */
export interface Making {
  readonly add: (item: unknown, key: string) => Edit;
  readonly remove: (key: string, item: unknown) => Edit;
  /** Null = no edit changes it in its place. */
  readonly change: (is: unknown, was: unknown) => Edit | null;
  readonly anew: (is: unknown, was: unknown, from: FabricIntent, to: FabricIntent) => boolean;
}

/** What the edits say that they make, by the kind of object; each takes items of its own kind. */
const said = new Map<ObjectKind, Makes<never, Edit>[]>();
for (const { makes } of Object.values(EDITS)) {
  if (!makes) continue;
  const row = makes as unknown as Makes<never, Edit>;
  said.set(makes.of, [...(said.get(makes.of) ?? []), row]);
}

const made = new Map<ObjectKind, Making>();
for (const [kind, rows] of said) {
  const add = rows.find((r) => r.add)?.add;
  const remove = rows.find((r) => r.remove)?.remove;
  if (!add || !remove) continue;
  const changes = rows.flatMap((r) => r.change ?? []);
  const anews = rows.flatMap((r) => r.anew ?? []);
  made.set(kind, {
    add: add as Making['add'],
    remove: remove as Making['remove'],
    change: (is, was) => {
      for (const change of changes) {
        const edit = change(is as never, was as never);
        if (edit) return edit;
      }
      return null;
    },
    anew: (is, was, from, to) => anews.some((a) => a(is as never, was as never, from, to)),
  });
}

export const isMade = (kind: ObjectKind): kind is MadeKind => made.has(kind);
export const makingOf = (kind: MadeKind): Making => made.get(kind)!;
/** The edit that changes values of a kind together; undefined = there is none. */
export const patchOf = (kind: ObjectKind): ((values: Readonly<Record<string, unknown>>) => Edit) | undefined =>
  said.get(kind)?.find((r) => r.patch)?.patch;
