import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Forgets a rack pattern that no rack is made by. */
export interface RemoveRackPattern {
  readonly kind: 'removeRackPattern';
  readonly name: string;
}

export const removeRackPattern: EditKindOf<RemoveRackPattern> = {
  kind: 'removeRackPattern',
  schema: editFields('removeRackPattern', { name: shortName('The rack pattern') }),
  apply: (intent, { name }) => removeObject(intent, 'rackPattern', name),
  sentence: ({ name }, before) => removalSentence(before, 'rackPattern', name),
  subjects: ({ name }) => [`rackPattern:${name}`],
  makes: { of: 'rackPattern', remove: (name) => ({ kind: 'removeRackPattern', name }) },
};
