import { addRevision, keepRevisionTexts, liveRevision, putFigures, putReleaseWrites } from '../store/fabrics.ts';
import { changeOf, moveChange, sentencesOf, setChangeState } from '../store/changes.ts';
import type { Tx } from '../store/database.ts';
import { moveJob, type JobState } from '../store/jobs.ts';
import { endRest, settleLedger } from '../store/ledger.ts';
import { dropReplaced, numberLive, settleClaims, settleMeant, waitingIn, type Meant } from '../store/seats.ts';
import { keepTexts, type KeptText } from '../store/texts.ts';
import { at, type House } from './house.ts';

/** What was approved and sent: going live uses this and nothing else. */
export interface Pin {
  readonly fabric: string;
  readonly change: string;
  readonly version: number;
  /** The live revision it stands on. */
  readonly base: number;
  readonly intent: string;
  readonly drawn: readonly (readonly [string, string])[];
  readonly meant: readonly Meant[];
}

/** How the rollout that sent it ends with it; none where no switch was touched. */
export interface Ending {
  readonly job: string;
  readonly from: readonly JobState[];
  readonly to: JobState;
  readonly reason: string;
}

/** Demands whose values a pinned intent has: the keys it drew. */
const neededOf = (pin: Pin): ReadonlySet<string> => new Set(pin.drawn.map(([key]) => key));

/**
 * Makes a pinned change the next revision, in one transaction with all that follows from it: its values and seats become
 * the fabric's, what nobody needs returns or rests, the other open changes stand on the new revision and are Stale, the
 * rollout ends. Answers false, and has done nothing, when the change, the revision or the rollout is not what was pinned.
 * To be called at the fabric's desk.
 */
export async function goLive(
  house: House,
  pin: Pin,
  texts: readonly KeptText[],
  from: 'Approved' | 'Rolling out',
  ending: Ending | null,
): Promise<boolean> {
  const { db, compiler, events } = house;
  for (;;) {
    const over = await compiler.run<'overtake'>({
      do: 'overtake',
      fabric: pin.fabric,
      change: pin.change,
      intent: pin.intent,
    });
    const now = at(house);
    const done = await db
      .transaction()
      .execute(async (tx): Promise<'done' | 'not pinned' | 'others moved'> => {
        const row = await changeOf(tx, pin.change);
        if (row.version !== pin.version || (await liveRevision(tx, pin.fabric)) !== pin.base) return 'not pinned';
        if (!(await setChangeState(tx, row, [from], 'Live', now))) return 'not pinned';
        if (ending && !(await moveJob(tx, ending.job, ending.from, ending.to, ending.reason, now)))
          throw new NotPinned();
        const revision = pin.base + 1;
        for (const { id, version, conflicts } of over.others)
          if (!(await moveChange(tx, { id, version }, { base_revision: revision, state: 'Stale', conflicts }, now)))
            throw new OthersMoved();
        await addRevision(tx, {
          fabric: pin.fabric,
          number: revision,
          intent: pin.intent,
          author: row.author,
          title: row.title,
          reason: row.reason,
          ticket: row.ticket,
          change_id: pin.change,
          sentences: JSON.stringify(await sentencesOf(tx, pin.change)),
          at: now,
        });
        await keepTexts(tx, texts);
        await settleClaims(tx, pin.fabric, pin.change, over.seats);
        await settleMeant(tx, pin.fabric, pin.meant);
        await keepRevisionTexts(tx, pin.fabric, revision, pin.meant);
        await putReleaseWrites(tx, pin.fabric, '', 0);
        await numberLive(tx, pin.fabric, pin.change, revision);
        await dropReplaced(tx, pin.fabric);
        await putFigures(tx, pin.fabric, over.figures);
        const waits = (await waitingIn(tx, pin.fabric)).length > 0;
        await settleLedger(tx, pin.fabric, pin.change, neededOf(pin), waits);
        if (!waits) await endRest(tx, pin.fabric);
        return 'done';
      })
      .catch((error: unknown) => {
        if (error instanceof NotPinned) return 'not pinned' as const;
        if (error instanceof OthersMoved) return 'others moved' as const;
        throw error;
      });
    if (done === 'others moved') continue;
    if (done === 'done') {
      events.tell('fabrics', pin.fabric);
      events.tell('changes', pin.change, pin.fabric);
      for (const { id } of over.others) events.tell('changes', id, pin.fabric);
      for (const topic of ['pools', 'switches'] as const) events.tell(topic);
    }
    return done === 'done';
  }
}

/** Thrown inside the transaction so that it is rolled back. */
class NotPinned extends Error {}
class OthersMoved extends Error {}

/** What rested may return once every switch of the fabric has what the live revision means. To be called in a transaction. */
export async function endRestIfNoneWaits(tx: Tx, fabric: string): Promise<void> {
  if ((await waitingIn(tx, fabric)).length === 0) await endRest(tx, fabric);
}
