import { addApproval, changeOf, handsOf, setChangeState } from '../store/changes.ts';
import { liveRevision } from '../store/fabrics.ts';
import { unfinishedIn } from '../store/rollouts.ts';
import { readSettings } from '../store/settings.ts';
import { notAllowed, notNow } from '../trouble.ts';
import { mustMatch } from './changes.ts';
import { goLive } from './goingLive.ts';
import { at, type House } from './house.ts';
import { pinOf } from './pins.ts';

/**
 * Approves a change at the version somebody looked at. One that touches no switch goes live at once, unless a rollout of
 * the fabric is unfinished: then it waits, approved.
 */
export async function approve(house: House, id: string, by: string, note: string, version: number): Promise<void> {
  const { db, desks, events, compiler } = house;
  const { fabric } = await changeOf(db, id);
  await desks.at(fabric, async () => {
    const row = await db.transaction().execute(async (tx) => {
      const now = await changeOf(tx, id);
      mustMatch(now, version);
      if (now.state !== 'Proven' || now.proof_version !== now.version || now.proof_digest === null)
        throw notNow(
          now.state === 'Stale'
            ? 'The proof is stale: prove the change again first.'
            : `Only a proven change can be approved; this one is ${now.state}.`,
        );
      if (now.base_revision !== (await liveRevision(tx, fabric)))
        throw notNow('A newer revision is live than the one it was proved on: prove the change again first.');
      const hands = new Set([now.author, ...(await handsOf(tx, id))]);
      if ((await readSettings(tx)).secondPerson && hands.has(by))
        throw notAllowed(
          now.author === by
            ? 'The team wants a second person’s yes; somebody other than the author must approve.'
            : `The team wants a second person’s yes; ${by} had a hand in this change, so somebody else must approve.`,
        );
      const when = at(house);
      await addApproval(tx, { change: id, by, at: when, note, version, digest: now.proof_digest });
      await setChangeState(tx, now, ['Proven'], 'Approved', when);
      return now;
    });
    events.tell('changes', id);
    if (row.proof_touches === 1 || (await unfinishedIn(db, fabric)).length > 0) return;
    const plan = await compiler.run<'plan'>({ do: 'plan', fabric, change: id, into: null });
    if (plan.rows.length === 0 && plan.empty.length === 0 && plan.digest === row.proof_digest)
      await goLive(house, pinOf(fabric, plan), plan.texts, 'Approved', null);
  });
}
