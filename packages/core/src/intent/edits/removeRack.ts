import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { whole } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Removes a rack, its servers and its seats; networks are carried there no more. */
export interface RemoveRack {
  readonly kind: 'removeRack';
  readonly number: number;
}

export const removeRack: EditKindOf<RemoveRack> = {
  kind: 'removeRack',
  schema: editFields('removeRack', { number: whole('The rack number', 1, 9999).required() }),
  apply: (intent, { number }) => removeObject(intent, 'rack', String(number), '/number'),
  sentence: ({ number }, before) => removalSentence(before, 'rack', String(number)),
  subjects: ({ number }) => [`rack:${number}`],
  makes: { of: 'rack', remove: (_key, { number }) => ({ kind: 'removeRack', number }) },
};
