import { array } from 'yup';
import { capital } from '../../capital.ts';
import { problem, type Finding } from '../../finding.ts';
import { breakoutsWrong, type SwitchModel } from '../../hardware/switchModel.ts';
import {
  modelsOfTier,
  NO_SWITCHES,
  shapeOf,
  type ManagementNetwork,
  type TierSwitches,
  type UpperTiers,
} from '../../patterns/patterns.ts';
import { models } from '../collections/parts.ts';
import { valueSentence } from '../collections/sentences.ts';
import type { FabricIntent } from '../intent.ts';
import { breakoutsSchema, managementSchema, modelSchema, othersSchema } from '../schemas/parts.ts';
import { whole } from '../schemas/words.ts';
import { upperSeats } from '../seatIds.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/**
 * What the switches above the racks are: how many, which of them are of another model, which of their ports are split, and how
 * all are managed. What is absent stays. Switches of seats that go leave them.
 */
export interface SetSpines {
  readonly kind: 'setSpines';
  /** Spines; with five stages, of each pod. */
  readonly count?: number;
  readonly pods?: number;
  /** Of each plane. */
  readonly superSpines?: number;
  readonly others?: TierSwitches['others'];
  readonly breakouts?: TierSwitches['breakouts'];
  readonly superOthers?: TierSwitches['others'];
  readonly superBreakouts?: TierSwitches['breakouts'];
  /** Null = it is not planned here. */
  readonly management?: ManagementNetwork | null;
  /** Models that are new to the fabric and come along. */
  readonly models?: readonly SwitchModel[];
}

/** A tier with what is said of it; what is empty is left out. */
function tierAfter(
  tier: TierSwitches,
  count: number | undefined,
  others: TierSwitches['others'],
  breakouts: TierSwitches['breakouts'],
): TierSwitches {
  const said = { ...tier, ...defined({ count, others, breakouts }) };
  const { others: unlike = [], breakouts: split = [], ...rest } = said;
  return {
    ...rest,
    ...(unlike.length > 0 ? { others: [...unlike].sort((a, b) => a.number - b.number) } : {}),
    ...(split.length > 0 ? { breakouts: split } : {}),
  };
}
const defined = <T extends object>(of: T): Partial<T> =>
  Object.fromEntries(Object.entries(of).filter(([, v]) => v !== undefined)) as Partial<T>;

function tiersAfter(intent: FabricIntent, edit: SetSpines): FabricIntent {
  const { management: known, superSpines, ...rest } = intent;
  const management = edit.management === undefined ? known : edit.management;
  const ofSupers = [edit.superSpines, edit.superOthers, edit.superBreakouts] as const;
  const above =
    superSpines === undefined && ofSupers.every((v) => v === undefined)
      ? undefined
      : tierAfter({ ...NO_SWITCHES, ...superSpines }, ...ofSupers);
  let next: FabricIntent = {
    ...rest,
    spines: tierAfter(intent.spines, edit.count, edit.others, edit.breakouts),
    ...(edit.pods === undefined ? {} : { pods: edit.pods }),
    ...(above === undefined ? {} : { superSpines: above }),
    ...(management ? { management } : {}),
  };
  for (const model of edit.models ?? [])
    if (!next.models.some((m) => m.name === model.name)) next = models.put(next, model.name, model);
  return next;
}
/** Seats above the racks that are taken and would be no more. */
function seatsLost(intent: FabricIntent, next: UpperTiers): string[] {
  const kept = new Set(upperSeats(next));
  return upperSeats(intent).filter((seat) => !kept.has(seat) && intent.seating[seat] !== undefined);
}

/** What of the edit only fabrics of five stages have, and what none without spines has. */
const OF_SUPERS = ['pods', 'superSpines', 'superOthers', 'superBreakouts'] as const;
const OF_SPINES = ['count', 'others', 'breakouts'] as const;
const isSaid = (value: unknown): boolean => value !== undefined && !(Array.isArray(value) && value.length === 0);

function misfit(intent: FabricIntent, edit: SetSpines): Finding[] {
  const shape = shapeOf(intent);
  const unused = OF_SUPERS.find((k) => isSaid(edit[k]));
  if (shape !== 'five-stages' && unused !== undefined)
    return [problem('shape-has', `/${unused}`, 'Only a fabric of five stages has these.', 'Leave them away.')];
  const spineless = OF_SPINES.find((k) => isSaid(edit[k]));
  if (shape === 'collapsed' && spineless !== undefined)
    return [problem('shape-has', `/${spineless}`, 'A collapsed fabric has no spines.', 'Add racks instead.')];
  const left = edit.pods === undefined ? undefined : intent.racks.find((r) => (r.pod ?? 0) > edit.pods!);
  if (left)
    return [
      problem(
        'pod-in-use',
        '/pods',
        `Rack ${left.number} stands in pod ${left.pod}.`,
        'Remove the racks of that pod first.',
      ),
    ];
  return tierMisfit(tiersAfter(intent, edit), edit);
}

/** What of another model, or of a split, cannot be. */
function tierMisfit(next: FabricIntent, edit: SetSpines): Finding[] {
  const out: Finding[] = [];
  const judge = (tier: TierSwitches, others: 'others' | 'superOthers', breakouts: 'breakouts' | 'superBreakouts') => {
    const known = (name: string) => next.models.find((m) => m.name === name);
    if (edit[others] !== undefined)
      (tier.others ?? []).forEach(({ model }, i) => {
        if (!known(model))
          out.push(
            problem('model-known', `/${others}/${i}/model`, `There is no switch model ${model}.`, 'Choose one.'),
          );
      });
    if (edit[breakouts] === undefined) return;
    for (const model of modelsOfTier(tier).flatMap((name) => known(name) ?? []))
      for (const { at, message, cure } of breakoutsWrong(model, tier.breakouts ?? []))
        out.push(problem('split-known', `/${breakouts}/${at}/ports`, message, cure));
  };
  judge(next.spines, 'others', 'breakouts');
  judge(next.superSpines ?? NO_SWITCHES, 'superOthers', 'superBreakouts');
  return out;
}

const SAID = [
  'count',
  'pods',
  'superSpines',
  'others',
  'breakouts',
  'superOthers',
  'superBreakouts',
  'management',
] as const;

/** What is said of the tiers, field by field, as an edit and as a form hold it. */
export const TIER_FIELDS = {
  count: whole('The number of spines', 1, 64),
  pods: whole('The number of pods', 1, 64),
  superSpines: whole('The number of super-spines', 1, 64),
  others: othersSchema,
  breakouts: breakoutsSchema,
  superOthers: othersSchema,
  superBreakouts: breakoutsSchema,
};

export const setSpines: EditKindOf<SetSpines> = {
  kind: 'setSpines',
  schema: editFields('setSpines', {
    ...TIER_FIELDS,
    management: managementSchema.default(undefined).nullable().optional(),
    models: array(modelSchema).max(8),
  }).test('something', 'say what is to be otherwise', (edit: Partial<SetSpines>) =>
    SAID.some((k) => edit[k] !== undefined),
  ),
  apply: (intent, edit) =>
    unless(misfit(intent, edit), intent, () => {
      const next = tiersAfter(intent, edit);
      const lost = new Set(seatsLost(intent, next));
      return {
        ...next,
        seating: Object.fromEntries(Object.entries(intent.seating).filter(([seat]) => !lost.has(seat))),
      };
    }),
  sentence: (edit, before) => {
    const parts = SAID.flatMap((key) =>
      edit[key] === undefined ? [] : [valueSentence(before, 'spines', key, edit[key])],
    );
    const lost = before ? seatsLost(before, tiersAfter(before, edit)).length : 0;
    const along = lost === 0 ? '' : `; ${lost} ${lost === 1 ? 'switch leaves its seat' : 'switches leave their seats'}`;
    return `${capital(parts.join(', '))}${along}`;
  },
  subjects: () => ['spines'],
  makes: { of: 'spines', patch: (values) => ({ kind: 'setSpines', ...values }) },
};
