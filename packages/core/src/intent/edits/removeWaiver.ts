import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Ends a waiver: the rule counts again. */
export interface RemoveWaiver {
  readonly kind: 'removeWaiver';
  readonly rule: string;
}

export const removeWaiver: EditKindOf<RemoveWaiver> = {
  kind: 'removeWaiver',
  schema: editFields('removeWaiver', { rule: shortName('The rule', 40) }),
  apply: (intent, { rule }) => removeObject(intent, 'waiver', rule),
  sentence: ({ rule }, before) => removalSentence(before, 'waiver', rule),
  subjects: ({ rule }) => [`waiver:${rule}`],
  makes: { of: 'waiver', remove: (rule) => ({ kind: 'removeWaiver', rule }) },
};
