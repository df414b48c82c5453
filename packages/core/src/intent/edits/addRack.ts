import { problem, type Finding } from '../../finding.ts';
import type { SwitchModel } from '../../hardware/switchModel.ts';
import { isRouted, leavesPerRack, hasPods, type RackPattern } from '../../patterns/patterns.ts';
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

/** A rack stands in a pod where there are pods, and in none where there are not. */
function podWrong(intent: FabricIntent, rack: Rack): Finding | null {
  const pods = hasPods(intent) ? (intent.pods ?? 0) : null;
  if (pods === null)
    return rack.pod === undefined
      ? null
      : problem('pod-known', '/rack/pod', 'This fabric has no pods.', 'Leave the pod away.');
  return rack.pod !== undefined && rack.pod <= pods
    ? null
    : problem('pod-known', '/rack/pod', `There is no pod ${rack.pod ?? 'named'}.`, `Choose one of 1 to ${pods}.`);
}

/** What halves of a pair share needs an overlay. */
const pairWrong = (intent: FabricIntent, pattern: RackPattern): Finding | null =>
  isRouted(intent) || pattern.kind === 'single'
    ? null
    : problem(
        'shape-has',
        '/rack/pattern',
        'A switched fabric has no pairs: an Ethernet segment needs an overlay.',
        'Choose a rack pattern of one leaf.',
      );

/** The first position on the spines that a rack of so many leaves would share with another rack. */
function slotTaken(intent: FabricIntent, rack: Rack, leaves: number): Finding | null {
  for (const other of intent.racks) {
    if (other.pod !== rack.pod) continue;
    const size = leavesPerRack(rackPatternOf(intent, other)?.kind ?? 'single');
    const at = Math.max(rack.slot, other.slot);
    if (at < Math.min(rack.slot + leaves, other.slot + size))
      return problem(
        'slot-taken',
        '/rack/slot',
        `Spine position ${at} is rack ${other.number}'s.`,
        `${nextSlot(intent, leaves, rack.pod)} is free.`,
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
    const misplaced = podWrong(intent, rack) ?? pairWrong(intent, pattern);
    if (misplaced) return refuse(intent, misplaced);
    const taken = slotTaken(intent, rack, leavesPerRack(pattern.kind));
    return taken ? refuse(intent, taken) : done(racks.put(next, String(rack.number), rack));
  },
  sentence: ({ rack }) =>
    `Add rack ${rack.number} (${rack.pattern})${rack.pod === undefined ? '' : ` to pod ${rack.pod}`}`,
  subjects: ({ rack }) => [`rack:${rack.number}`],
  makes: {
    of: 'rack',
    add: (rack) => ({ kind: 'addRack', rack }),
    // A rack does not become a pair under its servers.
    anew: (is, was, from, to) => rackPatternOf(from, was)?.kind !== rackPatternOf(to, is)?.kind,
  },
};
