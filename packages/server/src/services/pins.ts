import { approvalsOf, changeOf, setChangeState, type ChangeRow } from '../store/changes.ts';
import type { Tx } from '../store/database.ts';
import { liveRevision } from '../store/fabrics.ts';
import type { RolloutPin, RolloutRow } from '../store/rollouts.ts';
import { notNow } from '../trouble.ts';
import type { Plan } from '../workers/tasks/plan.ts';
import type { Pin } from './goingLive.ts';

/** What a plan pins. */
export const pinOf = (fabric: string, plan: Plan): Pin => ({
  fabric,
  change: plan.change,
  version: plan.version,
  base: plan.live,
  intent: plan.intent,
  drawn: plan.drawn,
  meant: plan.meant,
});
/** What a rollout has pinned; null for one begun by release 0.1. */
export const pinned = (r: RolloutPin): Pin | null =>
  r.intent === null
    ? null
    : {
        fabric: r.fabric,
        change: r.change_id,
        version: r.version,
        base: r.base_revision,
        intent: r.intent,
        drawn: JSON.parse(r.drawn) as Pin['drawn'],
        meant: JSON.parse(r.meant) as Pin['meant'],
      };

/** A rollout may only go on or go live while what it pinned is what is there. */
export async function mustStand(tx: Tx, r: RolloutRow): Promise<void> {
  if (r.overtaken_by !== null)
    throw notNow(
      'Another rollout broke in. Prove the change again, have it approved, then begin it: it goes on from where it stands.',
    );
  if (r.intent === null) throw notNow('It was begun by an older release: undo it, then begin again.');
  // Going back rests on nothing but what each switch was confirmed with; what was overtaken may go back too.
  if (r.kind === 'undo') return;
  if ((await liveRevision(tx, r.fabric)) !== r.base_revision)
    throw notNow('A newer revision is live than the one this rollout stands on; undo it.');
  if (r.kind === 'catch up' || r.kind === 'put back') return;
  const change = await changeOf(tx, r.change_id);
  if (change.version !== r.version || change.state !== 'Rolling out')
    throw notNow(`The change is ${change.state} and not as it was pinned; undo the rollout.`);
}

/** The pin of a rollout without how its job stands. */
export function pinAlone({
  state: _s,
  reason: _r,
  author: _a,
  started_at: _b,
  ended_at: _e,
  ...pin
}: RolloutRow): RolloutPin {
  return pin;
}

/** A change whose rollout was taken back is approved as before, if what was approved still stands. */
export async function afterUndo(
  tx: Tx,
  r: Pick<RolloutPin, 'change_id' | 'fabric' | 'version' | 'base_revision'>,
  now: string,
): Promise<void> {
  const change: ChangeRow = await changeOf(tx, r.change_id);
  if (change.state !== 'Rolling out') return;
  const approved = (await approvalsOf(tx, change.id)).some((a) => a.version === change.version);
  const stands = approved && change.base_revision === (await liveRevision(tx, r.fabric));
  await setChangeState(tx, change, ['Rolling out'], stands ? 'Approved' : 'Stale', now);
}
