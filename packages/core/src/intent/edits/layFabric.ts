import { array } from 'yup';
import { problem } from '../../finding.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { upTo } from '../../numbers/order.ts';
import {
  DEFAULT_SETTINGS,
  leavesPerRack,
  hasPods,
  shapeOf,
  upperTiersOf,
  type FabricPattern,
  type FabricShape,
  type RackPattern,
} from '../../patterns/patterns.ts';
import { sizePattern } from '../../patterns/sizing.ts';
import { models, rackPatterns } from '../collections/parts.ts';
import type { FabricIntent, Rack } from '../intent.ts';
import { fabricPatternSchema, modelSchema, rackPatternSchema } from '../schemas/parts.ts';
import { done, editFields, refuse, type EditKindOf } from './edit.ts';
import { plural } from '../../plural.ts';

/** Racks have numbers of four digits. */
const MOST_RACKS = 9999;

/** Lays an empty fabric out from a pattern; the parts it names come along. */
export interface LayFabric {
  readonly kind: 'layFabric';
  readonly pattern: FabricPattern;
  readonly models: readonly SwitchModel[];
  readonly rackPatterns: readonly RackPattern[];
}

export const layFabric: EditKindOf<LayFabric> = {
  kind: 'layFabric',
  schema: editFields('layFabric', {
    pattern: fabricPatternSchema,
    models: array(modelSchema).required(),
    rackPatterns: array(rackPatternSchema).required(),
  }),
  apply: (intent, edit) => {
    if (intent.pattern !== '')
      return refuse(
        intent,
        problem('fabric-laid', '', 'The fabric is laid out already.', 'Add racks or spines instead.'),
      );
    const { pattern } = edit;
    const unknown = pattern.racks.find((r) => !edit.rackPatterns.some((p) => p.name === r.pattern));
    if (unknown)
      return refuse(
        intent,
        problem(
          'pattern-fits',
          '/pattern/racks',
          `There is no rack pattern ${unknown.pattern}.`,
          'Name one that exists.',
        ),
      );
    const perPod = pattern.racks.reduce((n, r) => n + r.count, 0);
    const all = perPod * (hasPods(pattern) ? (pattern.pods ?? 1) : 1);
    if (all > MOST_RACKS)
      return refuse(
        intent,
        problem(
          'pattern-fits',
          '/pattern/racks',
          `The pattern has ${all} racks; a fabric is laid out with at most ${MOST_RACKS}.`,
          'Make it two fabrics.',
        ),
      );
    // Without racks it is a beginning to which racks are added (an earlier revision is returned to so).
    const misfits =
      all === 0 ? [] : sizePattern(pattern, { models: edit.models, rackPatterns: edit.rackPatterns }).findings;
    if (misfits.length > 0) return refuse(intent, ...misfits.map((f) => ({ ...f, path: `/pattern${f.path ?? ''}` })));
    const pods = hasPods(pattern) ? upTo(pattern.pods ?? 1) : [undefined];
    const racks: Rack[] = [];
    for (const pod of pods) {
      let slot = 1;
      for (const { pattern: name, count } of pattern.racks)
        for (let i = 0; i < count; i++) {
          racks.push({ number: racks.length + 1, pattern: name, slot, ...(pod === undefined ? {} : { pod }) });
          slot += leavesPerRack(edit.rackPatterns.find((p) => p.name === name)!.kind);
        }
    }
    let laid: FabricIntent = {
      ...intent,
      pattern: pattern.name,
      settings: { ...DEFAULT_SETTINGS, ...pattern.settings },
      ...upperTiersOf(pattern),
      models: [],
      rackPatterns: [],
      racks,
    };
    for (const m of edit.models) laid = models.put(laid, m.name, m);
    for (const p of edit.rackPatterns) laid = rackPatterns.put(laid, p.name, p);
    return done(laid);
  },
  sentence: ({ pattern }) => {
    const { pods = 1, superSpines, spines } = pattern;
    const racks = pattern.racks.reduce((n, r) => n + r.count, 0);
    const parts: Readonly<Record<FabricShape, string>> = {
      'three-stages': `${plural(spines.count, 'spine')}, ${plural(racks, 'rack')}`,
      'five-stages': `${plural(pods, 'pod')} of ${plural(spines.count, 'spine')} and ${plural(racks, 'rack')}, ${plural((superSpines?.count ?? 0) * spines.count, 'super-spine')}`,
      collapsed: `${plural(racks, 'rack')}, joined to one another`,
      switched: `${plural(spines.count, 'switch').replace('switchs', 'switches')} above ${plural(racks, 'rack')}, with spanning tree`,
    };
    return `Lay out from pattern ${pattern.name}: ${parts[shapeOf(pattern)]}`;
  },
  subjects: () => ['fabric'],
};
