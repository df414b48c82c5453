import { changeSentence } from '../collections/sentences.ts';
import { speakers } from '../collections/speakers.ts';
import { speakersKey, type NetworkSpeakers } from '../intent.ts';
import { speakersSchema } from '../schemas/objects.ts';
import { checkSpeakers } from './checkSpeakers.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Lets servers of a network speak BGP to its gateway, or otherwise than so far. */
export interface PutSpeakers {
  readonly kind: 'putSpeakers';
  readonly speakers: NetworkSpeakers;
}

export const putSpeakers: EditKindOf<PutSpeakers> = {
  kind: 'putSpeakers',
  schema: editFields('putSpeakers', { speakers: speakersSchema }),
  apply: (intent, { speakers: s }) =>
    unless(checkSpeakers(intent, s), intent, () => speakers.put(intent, speakersKey(s), s)),
  sentence: ({ speakers: s }, before) =>
    before?.speakers.some((o) => speakersKey(o) === speakersKey(s))
      ? changeSentence(before, 'speakers', speakersKey(s), s)
      : `Let servers of ${s.network} at ${s.from} (AS ${s.asn}) speak BGP to its gateway`,
  subjects: ({ speakers: s }) => [`speakers:${speakersKey(s)}`],
  makes: {
    of: 'speakers',
    add: (speakers) => ({ kind: 'putSpeakers', speakers }),
    change: (speakers) => ({ kind: 'putSpeakers', speakers }),
  },
};
