import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { partName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Forgets a switch model that nothing is made of. */
export interface RemoveModel {
  readonly kind: 'removeModel';
  readonly name: string;
}

export const removeModel: EditKindOf<RemoveModel> = {
  kind: 'removeModel',
  schema: editFields('removeModel', { name: partName('The model name') }),
  apply: (intent, { name }) => removeObject(intent, 'model', name),
  sentence: ({ name }, before) => removalSentence(before, 'model', name),
  subjects: ({ name }) => [`model:${name}`],
  makes: { of: 'model', remove: (name) => ({ kind: 'removeModel', name }) },
};
