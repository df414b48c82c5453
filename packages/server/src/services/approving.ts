import { addApproval, askFor, changeOf, handsOf, setChangeState } from '../store/changes.ts';
import { liveRevision } from '../store/fabrics.ts';
import { unfinishedIn } from '../store/rollouts.ts';
import { readSettings } from '../store/settings.ts';
import { notAllowed, notNow } from '../trouble.ts';
import { mustMatch } from './changes.ts';
import { goLive } from './goingLive.ts';
import { at, today, type House } from './house.ts';
import { mustStillBeWaived } from './waivers.ts';
import { pinOf } from './pins.ts';

/** Asks those who may approve for a yes to a change as it is at this version; an edit after that ends the asking. */
export async function askApproval(house: House, id: string, by: string, version: number): Promise<void> {
  const { db, desks, events } = house;
  const { fabric } = await changeOf(db, id);
  await desks.at(fabric, async () => {
    const row = await changeOf(db, id);
    mustMatch(row, version);
    if (row.state !== 'Proven' || !(await askFor(db, row, by, at(house))))
      throw notNow(`Only a proven change can be shown for a yes; this one is ${row.state}.`);
  });
  events.tell('changes', id, fabric);
}

/** May somebody be the one whose yes a change waits for? They must not have had a hand in it, where the team wants two. */
export async function couldApprove(house: House, id: string, author: string, by: string): Promise<boolean> {
  const { secondPerson } = await readSettings(house.db);
  return !secondPerson || !(author === by || (await handsOf(house.db, id)).includes(by));
}

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
      mustStillBeWaived(now, today(house));
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
    events.tell('changes', id, fabric);
    if (row.proof_touches === 1 || (await unfinishedIn(db, fabric)).length > 0) return;
    const plan = await compiler.run<'plan'>({ do: 'plan', fabric, change: id, into: null, today: today(house) });
    if (plan.rows.length === 0 && plan.empty.length === 0 && plan.digest === row.proof_digest)
      await goLive(house, pinOf(fabric, plan), plan.texts, 'Approved', null);
  });
}
