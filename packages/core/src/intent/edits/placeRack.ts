import { objectOf } from '../collections/index.ts';
import { racks } from '../collections/racks.ts';
import { lineText, whole } from '../schemas/words.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

export interface PlaceRack {
  readonly kind: 'placeRack';
  readonly number: number;
  /** Empty = it stands in no named place. */
  readonly place: string;
}

export const placeRack: EditKindOf<PlaceRack> = {
  kind: 'placeRack',
  schema: editFields('placeRack', {
    number: whole('The rack number', 1, 9999).required(),
    place: lineText('The place').defined(),
  }),
  apply: (intent, { number, place }) => {
    const rack = objectOf(intent, 'rack', String(number));
    if (!rack) return refuse(intent, missing('rack', number));
    const { place: _was, ...rest } = rack;
    return done(racks.put(intent, String(number), place ? { ...rest, place } : rest));
  },
  sentence: ({ number, place }, before) => {
    const was = before && (objectOf(before, 'rack', String(number))?.place ?? 'no named place');
    return was === null
      ? `Rack ${number} stands in ${place || 'no named place'}`
      : `Place of rack ${number} ${was} → ${place || 'no named place'}`;
  },
  subjects: ({ number }) => [`rack:${number}`],
  makes: {
    of: 'rack',
    change: (is, was) =>
      is.slot === was.slot && is.pattern === was.pattern && is.pod === was.pod
        ? { kind: 'placeRack', number: is.number, place: is.place ?? '' }
        : null,
  },
};
