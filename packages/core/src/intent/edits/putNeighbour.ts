import { neighbours } from '../collections/neighbours.ts';
import { changeSentence } from '../collections/sentences.ts';
import type { OutsideNeighbour } from '../intent.ts';
import { neighbourKey, neighbourPlace, placeWords, spokenTo } from '../neighbourPlace.ts';
import { neighbourSchema } from '../schemas/objects.ts';
import { checkNeighbour } from './checkNeighbour.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** Speaks BGP to a router on an outside link, or otherwise than so far. */
export interface PutNeighbour {
  readonly kind: 'putNeighbour';
  readonly neighbour: OutsideNeighbour;
}

export const putNeighbour: EditKindOf<PutNeighbour> = {
  kind: 'putNeighbour',
  schema: editFields('putNeighbour', { neighbour: neighbourSchema }),
  apply: (intent, { neighbour: n }) =>
    unless(checkNeighbour(intent, n), intent, () => neighbours.put(intent, neighbourKey(n), n)),
  sentence: ({ neighbour: n }, before) =>
    before?.neighbours.some((o) => neighbourKey(o) === neighbourKey(n))
      ? changeSentence(before, 'neighbour', neighbourKey(n), n)
      : `Speak BGP to ${spokenTo(n)} (AS ${n.asn}) from ${placeWords(neighbourPlace(n))} in ${n.vrf}`,
  subjects: ({ neighbour: n }) => [`neighbour:${neighbourKey(n)}`],
  makes: {
    of: 'neighbour',
    add: (neighbour) => ({ kind: 'putNeighbour', neighbour }),
    change: (neighbour) => ({ kind: 'putNeighbour', neighbour }),
  },
};
