import type { RackPattern } from '../../patterns/patterns.ts';
import { rackPatterns } from '../collections/parts.ts';
import { changeSentence } from '../collections/sentences.ts';
import { rackPatternSchema } from '../schemas/parts.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';
import { checkPattern } from './partsInUse.ts';

/** Makes a rack pattern, a new one or the one of that name anew for all its racks. */
export interface PutRackPattern {
  readonly kind: 'putRackPattern';
  readonly rackPattern: RackPattern;
}

export const putRackPattern: EditKindOf<PutRackPattern> = {
  kind: 'putRackPattern',
  schema: editFields('putRackPattern', { rackPattern: rackPatternSchema }),
  apply: (intent, { rackPattern: p }) =>
    unless(checkPattern(intent, p), intent, () => rackPatterns.put(intent, p.name, p)),
  sentence: ({ rackPattern: p }, before) =>
    before && !before.rackPatterns.some((r) => r.name === p.name)
      ? `Add rack pattern ${p.name}`
      : changeSentence(before, 'rackPattern', p.name, p),
  subjects: ({ rackPattern: p }) => [`rackPattern:${p.name}`],
  makes: {
    of: 'rackPattern',
    add: (rackPattern) => ({ kind: 'putRackPattern', rackPattern }),
    change: (rackPattern) => ({ kind: 'putRackPattern', rackPattern }),
  },
};
