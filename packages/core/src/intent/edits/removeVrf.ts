import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

export interface RemoveVrf {
  readonly kind: 'removeVrf';
  readonly name: string;
}

export const removeVrf: EditKindOf<RemoveVrf> = {
  kind: 'removeVrf',
  schema: editFields('removeVrf', { name: shortName('The name') }),
  apply: (intent, { name }) => removeObject(intent, 'vrf', name),
  sentence: ({ name }, before) => removalSentence(before, 'vrf', name),
  subjects: ({ name }) => [`vrf:${name}`],
  makes: { of: 'vrf', remove: (name) => ({ kind: 'removeVrf', name }) },
};
