import { objectOf } from '../collections/index.ts';
import { neighbours } from '../collections/neighbours.ts';
import { neighbourPlace, neighbourPlaceKey, placeWords, spokenTo, type NeighbourPlace } from '../neighbourPlace.ts';
import { portSchema } from '../schemas/objects.ts';
import { whole } from '../schemas/words.ts';
import { boolean, string } from 'yup';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Speaks no BGP to the router on an outside link, or a VLAN of it, any more, in one family. */
export interface RemoveNeighbour extends Omit<NeighbourPlace, 'ipv6'> {
  readonly kind: 'removeNeighbour';
  /** Absent = of IPv4. */
  readonly ipv6?: boolean;
}
const keyOf = (edit: RemoveNeighbour): string => neighbourPlaceKey({ ...edit, ipv6: edit.ipv6 === true });

export const removeNeighbour: EditKindOf<RemoveNeighbour> = {
  kind: 'removeNeighbour',
  schema: editFields('removeNeighbour', {
    rack: whole('The rack', 1, 9999).required('the rack is missing'),
    side: string().oneOf(['a', 'b'], 'the side is a or b').required('the side is missing'),
    port: portSchema,
    vlan: whole('The VLAN', 1, 4094),
    ipv6: boolean(),
  }),
  apply: (intent, edit) => {
    const key = keyOf(edit);
    return objectOf(intent, 'neighbour', key)
      ? done(neighbours.take(intent, key))
      : refuse(intent, missing('neighbour on port', edit.port));
  },
  sentence: (edit, before) => {
    const n = before && objectOf(before, 'neighbour', keyOf(edit));
    return `Speak no BGP ${n ? `to ${spokenTo(n)} (AS ${n.asn}) ` : ''}from ${placeWords(edit)}`;
  },
  subjects: (edit) => [`neighbour:${keyOf(edit)}`],
  makes: {
    of: 'neighbour',
    remove: (_key, n) => {
      const { ipv6, ...place } = neighbourPlace(n);
      return { kind: 'removeNeighbour', ...place, ...(ipv6 ? { ipv6 } : {}) };
    },
  },
};
