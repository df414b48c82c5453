import { array } from 'yup';
import { problem } from '../../finding.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { DEFAULT_SETTINGS, leavesPerRack, type FabricPattern, type RackPattern } from '../../patterns/patterns.ts';
import { models, rackPatterns } from '../collections/parts.ts';
import type { FabricIntent, Rack } from '../intent.ts';
import { fabricPatternSchema, modelSchema, rackPatternSchema } from '../schemas/parts.ts';
import { done, editFields, refuse, type EditKindOf } from './edit.ts';

/** Lays an empty fabric out from a pattern; the parts it names come along. */
export interface LayFabric {
  readonly kind: 'layFabric';
  readonly pattern: FabricPattern;
  readonly models: readonly SwitchModel[];
  readonly rackPatterns: readonly RackPattern[];
}

const plural = (n: number, one: string): string => `${n} ${n === 1 ? one : `${one}s`}`;

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
    const racks: Rack[] = [];
    let slot = 1;
    for (const entry of edit.pattern.racks) {
      const pattern = edit.rackPatterns.find((p) => p.name === entry.pattern);
      if (!pattern)
        return refuse(
          intent,
          problem(
            'pattern-fits',
            '/pattern/racks',
            `There is no rack pattern ${entry.pattern}.`,
            'Name one that exists.',
          ),
        );
      for (let i = 0; i < entry.count; i++) {
        racks.push({ number: racks.length + 1, pattern: pattern.name, slot });
        slot += leavesPerRack(pattern.kind);
      }
    }
    let laid: FabricIntent = {
      ...intent,
      pattern: edit.pattern.name,
      settings: { ...DEFAULT_SETTINGS, ...edit.pattern.settings },
      spines: edit.pattern.spines,
      parallel: edit.pattern.parallel,
      models: [],
      rackPatterns: [],
      racks,
    };
    for (const m of edit.models) laid = models.put(laid, m.name, m);
    for (const p of edit.rackPatterns) laid = rackPatterns.put(laid, p.name, p);
    return done(laid);
  },
  sentence: ({ pattern }) => {
    const racks = pattern.racks.reduce((n, r) => n + r.count, 0);
    return `Lay out from pattern ${pattern.name}: ${plural(pattern.spines.count, 'spine')}, ${plural(racks, 'rack')}`;
  },
  subjects: () => ['fabric'],
};
