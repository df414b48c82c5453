import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

export interface RemoveNetwork {
  readonly kind: 'removeNetwork';
  readonly name: string;
}

export const removeNetwork: EditKindOf<RemoveNetwork> = {
  kind: 'removeNetwork',
  schema: editFields('removeNetwork', { name: shortName('The name') }),
  apply: (intent, { name }) => removeObject(intent, 'network', name),
  sentence: ({ name }, before) => removalSentence(before, 'network', name),
  subjects: ({ name }) => [`network:${name}`],
  makes: { of: 'network', remove: (name) => ({ kind: 'removeNetwork', name }) },
};
