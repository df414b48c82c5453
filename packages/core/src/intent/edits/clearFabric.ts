import { emptyIntent } from '../intent.ts';
import { done, editFields, type EditKindOf } from './edit.ts';
import { plural } from '../../plural.ts';

/** Takes everything away; name and prefix stay. */
export interface ClearFabric {
  readonly kind: 'clearFabric';
}

export const clearFabric: EditKindOf<ClearFabric> = {
  kind: 'clearFabric',
  schema: editFields('clearFabric'),
  apply: (intent) => done(emptyIntent(intent.name, intent.namePrefix)),
  sentence: (_edit, before) =>
    before
      ? `Clear the whole fabric: ${plural(before.spines.count, 'spine')}, ${plural(before.racks.length, 'rack')}, ${plural(before.networks.length, 'network')}`
      : 'Clear the whole fabric',
  subjects: () => ['fabric'],
};
