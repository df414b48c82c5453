import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

export interface RemoveSnippet {
  readonly kind: 'removeSnippet';
  readonly name: string;
}

export const removeSnippet: EditKindOf<RemoveSnippet> = {
  kind: 'removeSnippet',
  schema: editFields('removeSnippet', { name: shortName('The name') }),
  apply: (intent, { name }) => removeObject(intent, 'snippet', name),
  sentence: ({ name }, before) => removalSentence(before, 'snippet', name),
  subjects: ({ name }) => [`snippet:${name}`],
  makes: { of: 'snippet', remove: (name) => ({ kind: 'removeSnippet', name }) },
};
