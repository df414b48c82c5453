import { removeObject } from '../collections/removal.ts';
import { removalSentence } from '../collections/sentences.ts';
import { shortName } from '../schemas/words.ts';
import { editFields, type EditKindOf } from './edit.ts';

/** Uses a secret no more; refused while a snippet writes it. */
export interface RemoveSecret {
  readonly kind: 'removeSecret';
  readonly name: string;
}

export const removeSecret: EditKindOf<RemoveSecret> = {
  kind: 'removeSecret',
  schema: editFields('removeSecret', { name: shortName('The name') }),
  apply: (intent, { name }) => removeObject(intent, 'secret', name),
  sentence: ({ name }, before) => removalSentence(before, 'secret', name),
  subjects: ({ name }) => [`secret:${name}`],
  makes: { of: 'secret', remove: (name) => ({ kind: 'removeSecret', name }) },
};
