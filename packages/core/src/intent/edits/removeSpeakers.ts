import { string } from 'yup';
import { objectOf } from '../collections/index.ts';
import { speakers } from '../collections/speakers.ts';
import { speakersKey, type NetworkSpeakers } from '../intent.ts';
import { shortName } from '../schemas/words.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Lets no servers of a range of a network speak BGP to its gateway any more. */
export interface RemoveSpeakers extends Pick<NetworkSpeakers, 'network' | 'from'> {
  readonly kind: 'removeSpeakers';
}

export const removeSpeakers: EditKindOf<RemoveSpeakers> = {
  kind: 'removeSpeakers',
  schema: editFields('removeSpeakers', {
    network: shortName('The network'),
    from: string().max(49).required('who may call is missing'),
  }),
  apply: (intent, edit) => {
    const key = speakersKey(edit);
    return objectOf(intent, 'speakers', key)
      ? done(speakers.take(intent, key))
      : refuse(intent, missing('BGP servers', edit.from));
  },
  sentence: (edit) => `Let no servers of ${edit.network} at ${edit.from} speak BGP to its gateway any more`,
  subjects: (edit) => [`speakers:${speakersKey(edit)}`],
  makes: {
    of: 'speakers',
    remove: (_key, { network, from }) => ({ kind: 'removeSpeakers', network, from }),
  },
};
