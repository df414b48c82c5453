import { problem, type Finding } from '../../finding.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { leavesPerRack, type RackPattern } from '../../patterns/patterns.ts';
import { models, rackPatterns } from '../collections/parts.ts';
import { racks } from '../collections/racks.ts';
import { rackPatternOf, type FabricIntent, type Rack } from '../intent.ts';
import { nextSlot } from '../proposals.ts';
import { rackSchema } from '../schemas/objects.ts';
import { modelSchema, rackPatternSchema } from '../schemas/parts.ts';
import { done, editFields, exists, missing, refuse, type EditKindOf } from './edit.ts';
import { partsInUse } from './partsInUse.ts';

/** Adds a rack; a pattern and a model that the fabric does not know yet come along. */
export interface AddRack {
  readonly kind: 'addRack';
  readonly rack: Rack;
  readonly rackPattern?: RackPattern;
  readonly model?: SwitchModel;
}

/** The first position on the spines that a rack of so many leaves would share with another rack. */
function slotTaken(intent: FabricIntent, rack: Rack, leaves: number): Finding | null {
  for (const other of intent.racks) {
    const size = leavesPerRack(rackPatternOf(intent, other)?.kind ?? 'single');
    const at = Math.max(rack.slot, other.slot);
    if (at < Math.min(rack.slot + leaves, other.slot + size))
      return problem(
        'slot-taken',
        '/rack/slot',
        `Spine position ${at} is rack ${other.number}'s.`,
        `${nextSlot(intent, leaves)} is free.`,
      );
  }
  return null;
}

export const addRack: EditKindOf<AddRack> = {
  kind: 'addRack',
  schema: editFields('addRack', {
    rack: rackSchema,
    rackPattern: rackPatternSchema.default(undefined).optional(),
    model: modelSchema.default(undefined).optional(),
  }),
  apply: (intent, { rack, rackPattern, model }) => {
    if (intent.racks.some((r) => r.number === rack.number))
      return refuse(intent, exists('rack', rack.number, '/rack/number'));
    const rewritten = partsInUse(intent, rackPattern, model);
    if (rewritten) return refuse(intent, rewritten);
    let next = intent;
    if (rackPattern) next = rackPatterns.put(next, rackPattern.name, rackPattern);
    if (model) next = models.put(next, model.name, model);
    const pattern = rackPatternOf(next, rack);
    if (!pattern) return refuse(intent, missing('rack pattern', rack.pattern));
    const taken = slotTaken(intent, rack, leavesPerRack(pattern.kind));
    return taken ? refuse(intent, taken) : done(racks.put(next, String(rack.number), rack));
  },
  sentence: ({ rack }) => `Add rack ${rack.number} (${rack.pattern})`,
  subjects: ({ rack }) => [`rack:${rack.number}`],
};
