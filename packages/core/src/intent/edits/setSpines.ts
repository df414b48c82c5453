import { capital } from '../../capital.ts';
import { problem, type Finding } from '../../finding.ts';
import { shapeOf, type UpperTiers } from '../../patterns/patterns.ts';
import type { FabricIntent } from '../intent.ts';
import { whole } from '../schemas/words.ts';
import { upperSeats } from '../seatIds.ts';
import { editFields, unless, type EditKindOf } from './edit.ts';

/** How many switches there are above the racks; what is absent stays. Switches of seats that go leave them. */
export interface SetSpines {
  readonly kind: 'setSpines';
  /** Spines; with five stages, of each pod. */
  readonly count?: number;
  readonly pods?: number;
  /** Of each plane. */
  readonly superSpines?: number;
}

function tiersAfter(intent: FabricIntent, { count, pods, superSpines }: SetSpines): FabricIntent {
  return {
    ...intent,
    ...(count === undefined ? {} : { spines: { ...intent.spines, count } }),
    ...(pods === undefined ? {} : { pods }),
    ...(superSpines === undefined ? {} : { superSpines: { model: '', ...intent.superSpines, count: superSpines } }),
  };
}
/** Seats above the racks that are taken and would be no more. */
function seatsLost(intent: FabricIntent, next: UpperTiers): string[] {
  const kept = new Set(upperSeats(next));
  return upperSeats(intent).filter((seat) => !kept.has(seat) && intent.seating[seat] !== undefined);
}

function misfit(intent: FabricIntent, edit: SetSpines): Finding[] {
  const shape = shapeOf(intent);
  const unused = edit.pods !== undefined ? '/pods' : edit.superSpines !== undefined ? '/superSpines' : null;
  if (shape !== 'five-stages' && unused !== null)
    return [problem('shape-has', unused, 'Only a fabric of five stages has these.', 'Leave them away.')];
  if (shape === 'collapsed' && edit.count !== undefined)
    return [problem('shape-has', '/count', 'A collapsed fabric has no spines.', 'Add racks instead.')];
  const left = edit.pods === undefined ? undefined : intent.racks.find((r) => (r.pod ?? 0) > edit.pods!);
  return left
    ? [
        problem(
          'pod-in-use',
          '/pods',
          `Rack ${left.number} stands in pod ${left.pod}.`,
          'Remove the racks of that pod first.',
        ),
      ]
    : [];
}

export const setSpines: EditKindOf<SetSpines> = {
  kind: 'setSpines',
  schema: editFields('setSpines', {
    count: whole('The number of spines', 1, 64),
    pods: whole('The number of pods', 1, 64),
    superSpines: whole('The number of super-spines', 1, 64),
  }).test(
    'something',
    'say how many spines, pods or super-spines there are',
    (edit: Partial<SetSpines>) => (edit.count ?? edit.pods ?? edit.superSpines) !== undefined,
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
    const said: (readonly [string, number | undefined, number | undefined])[] = [
      ['spines', before?.spines.count, edit.count],
      ['pods', before?.pods, edit.pods],
      ['super-spines of a plane', before?.superSpines?.count, edit.superSpines],
    ];
    const parts = said.flatMap(([what, from, to]) =>
      to === undefined ? [] : [before ? `${what} ${from ?? 0} → ${to}` : `${what} ${to}`],
    );
    const lost = before ? seatsLost(before, tiersAfter(before, edit)).length : 0;
    const along = lost === 0 ? '' : `; ${lost} ${lost === 1 ? 'switch leaves its seat' : 'switches leave their seats'}`;
    return `${capital(parts.join(', '))}${along}`;
  },
  subjects: () => ['spines'],
  makes: { of: 'spines', patch: (values) => ({ kind: 'setSpines', ...values }) },
};
