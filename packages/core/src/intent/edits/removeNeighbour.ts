import { objectOf } from '../collections/index.ts';
import { neighbours } from '../collections/neighbours.ts';
import { outsideKey, type OutsideLink } from '../intent.ts';
import { portSchema } from '../schemas/objects.ts';
import { whole } from '../schemas/words.ts';
import { string } from 'yup';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Speaks no BGP to the router on an outside link any more. */
export interface RemoveNeighbour extends Pick<OutsideLink, 'rack' | 'side' | 'port'> {
  readonly kind: 'removeNeighbour';
}

export const removeNeighbour: EditKindOf<RemoveNeighbour> = {
  kind: 'removeNeighbour',
  schema: editFields('removeNeighbour', {
    rack: whole('The rack', 1, 9999).required('the rack is missing'),
    side: string().oneOf(['a', 'b'], 'the side is a or b').required('the side is missing'),
    port: portSchema,
  }),
  apply: (intent, edit) => {
    const key = outsideKey(edit);
    return objectOf(intent, 'neighbour', key)
      ? done(neighbours.take(intent, key))
      : refuse(intent, missing('neighbour on port', edit.port));
  },
  sentence: (edit, before) => {
    const n = before && objectOf(before, 'neighbour', outsideKey(edit));
    return `Speak no BGP ${n ? `to ${n.far} (AS ${n.asn}) ` : ''}on port ${edit.port} of rack ${edit.rack} (${edit.side})`;
  },
  subjects: (edit) => [`neighbour:${outsideKey(edit)}`],
  makes: {
    of: 'neighbour',
    remove: (_key, { rack, side, port }) => ({ kind: 'removeNeighbour', rack, side, port }),
  },
};
