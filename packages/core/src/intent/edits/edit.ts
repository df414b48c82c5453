import type { AnySchema } from 'yup';
import { string, type object } from 'yup';
import { problem, type Finding } from '../../finding.ts';
import type { ObjectKind, Subject } from '../../subject.ts';
import type { ItemOfKind } from '../collections/index.ts';
import type { FabricIntent } from '../intent.ts';
import { closed } from '../schemas/words.ts';

/** Outcome of one edit: the new intent, or the unchanged one with the findings that say why not. */
export interface Applied {
  readonly intent: FabricIntent;
  readonly findings: readonly Finding[];
}

/** By which edit objects of a kind come, change and go, one at a time: so one intent is led to another. */
export interface Makes<K extends ObjectKind, E> {
  readonly of: K;
  readonly add?: (item: ItemOfKind<K>, key: string) => E;
  readonly remove?: (key: string, item: ItemOfKind<K>) => E;
  /** Changes it in its place; null = this edit cannot. What no edit can change is removed and made anew. */
  readonly change?: (is: ItemOfKind<K>, was: ItemOfKind<K>) => E | null;
  /** Though it could be changed in its place: must it go first, so that it is in nobody's way? */
  readonly anew?: (is: ItemOfKind<K>, was: ItemOfKind<K>, from: FabricIntent, to: FabricIntent) => boolean;
  /** Changes values under fixed names, several together. */
  readonly patch?: (values: Readonly<Record<string, unknown>>) => E;
}
type MakesOfAnyKind<E> = { readonly [K in ObjectKind]: Makes<K, E> }[ObjectKind];

/** One kind of edit: everything that is known of it. One file each; listed in `index.ts`. */
export interface EditKindOf<E extends { readonly kind: string }> {
  readonly kind: E['kind'];
  /** Schema of the edit as it comes in. */
  readonly schema: AnySchema;
  /** Pure; what cannot be applied leaves the intent unchanged and says why, with a path into the edit. */
  readonly apply: (intent: FabricIntent, edit: E) => Applied;
  /** The edit for people, from what to what; `before` is the intent it is made on, null where nobody has it at hand. */
  readonly sentence: (edit: E, before: FabricIntent | null) => string;
  /** What it is about: conflicts, and who touched a thing last, go by this. */
  readonly subjects: (edit: E) => Subject[];
  readonly makes?: MakesOfAnyKind<E>;
}

/** The schema of an edit of this kind with these members. */
export const editFields = (kind: string, fields: Parameters<typeof object>[0] = {}): AnySchema =>
  closed({ kind: string().oneOf([kind]).required(), ...fields });

export const done = (intent: FabricIntent): Applied => ({ intent, findings: [] });
/** The next intent where nothing speaks against it. */
export const unless = (findings: readonly Finding[], intent: FabricIntent, next: () => FabricIntent): Applied =>
  findings.length > 0 ? { intent, findings } : { intent: next(), findings: [] };
export const refuse = (intent: FabricIntent, ...findings: Finding[]): Applied => ({ intent, findings });

export const missing = (what: string, name: string | number): Finding =>
  problem('object-known', '', `There is no ${what} ${name} (any more).`, 'Undo this edit.');
export const exists = (what: string, name: string | number, path: string): Finding =>
  problem(
    'object-new',
    path,
    `There is already a ${what} ${name}.`,
    'Choose another name, or change the one there is.',
  );
