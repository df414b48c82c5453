import { objectOf } from '../collections/index.ts';
import { removeObject } from '../collections/removal.ts';
import { outsideKey, type OutsideLink } from '../intent.ts';
import { spokenTo } from '../neighbourPlace.ts';
import { portSchema } from '../schemas/objects.ts';
import { whole } from '../schemas/words.ts';
import { string } from 'yup';
import { editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Takes the cable to something outside away. */
export interface LeaveOutside {
  readonly kind: 'leaveOutside';
  readonly rack: number;
  readonly side: OutsideLink['side'];
  readonly port: string;
}

export const leaveOutside: EditKindOf<LeaveOutside> = {
  kind: 'leaveOutside',
  schema: editFields('leaveOutside', {
    rack: whole('The rack', 1, 9999).required('the rack is missing'),
    side: string().oneOf(['a', 'b'], 'the side is a or b').required('the side is missing'),
    port: portSchema,
  }),
  apply: (intent, edit) =>
    objectOf(intent, 'outside', outsideKey(edit))
      ? removeObject(intent, 'outside', outsideKey(edit), '/port')
      : refuse(intent, missing('outside link on port', edit.port)),
  sentence: (edit, before) => {
    const far = before && objectOf(before, 'outside', outsideKey(edit))?.system;
    const neighbour = before && objectOf(before, 'neighbour', outsideKey(edit));
    const silent = neighbour ? `, and speak no BGP to ${spokenTo(neighbour)} (AS ${neighbour.asn})` : '';
    return `Free port ${edit.port} of rack ${edit.rack} (${edit.side})${far ? ` from ${far}` : ''}${silent}`;
  },
  subjects: (edit) => [`outside:${outsideKey(edit)}`],
  makes: { of: 'outside', remove: (_key, { rack, side, port }) => ({ kind: 'leaveOutside', rack, side, port }) },
};
