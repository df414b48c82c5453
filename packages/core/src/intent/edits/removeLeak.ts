import { objectOf } from '../collections/index.ts';
import { leaks } from '../collections/leaks.ts';
import { leakKey, type Leak } from '../intent.ts';
import { shortName } from '../schemas/words.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Has a tenant have no routes of another any more. */
export interface RemoveLeak extends Pick<Leak, 'into' | 'from'> {
  readonly kind: 'removeLeak';
}

export const removeLeak: EditKindOf<RemoveLeak> = {
  kind: 'removeLeak',
  schema: editFields('removeLeak', { into: shortName('The VRF'), from: shortName('The other VRF') }),
  apply: (intent, edit) =>
    objectOf(intent, 'leak', leakKey(edit))
      ? done(leaks.take(intent, leakKey(edit)))
      : refuse(intent, missing('leak', `of ${edit.from} into ${edit.into}`)),
  sentence: ({ into, from }) => `Remove the leak of ${from} into ${into}`,
  subjects: (edit) => [`leak:${leakKey(edit)}`],
  makes: { of: 'leak', remove: (_key, { into, from }) => ({ kind: 'removeLeak', into, from }) },
};
