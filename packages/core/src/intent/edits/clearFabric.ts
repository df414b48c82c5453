import { emptyIntent } from '../intent.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

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
      ? `Clear the whole fabric: ${before.spines.count} spines, ${before.racks.length} racks, ${before.networks.length} networks`
      : 'Clear the whole fabric',
  subjects: () => ['fabric'],
};
