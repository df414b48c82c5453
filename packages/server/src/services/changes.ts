import type { ApprovalAnswer, ChangeAnswer, ChangeRequest, ChangeSummary, ChangeTitles } from '@anthemion/contract';
import type { Edit, ProofReport, RebaseConflict } from '@anthemion/core';
import { nanoid } from 'nanoid';
import {
  addChange,
  addHand,
  approvalsOf,
  changeOf,
  changePage,
  handsOf,
  moveChange,
  OPEN_STATES,
  setChangeState,
  stepsOf,
  summary,
  type ChangeRow,
} from '../store/changes.ts';
import { liveRevision } from '../store/fabrics.ts';
import { drawnBy, giveBack } from '../store/ledger.ts';
import type { Page, PageAsked, Sight } from '../store/pages.ts';
import { newestRolloutOf, unfinishedIn } from '../store/rollouts.ts';
import { dropClaims } from '../store/seats.ts';
import { isTaken, notNow, refused, Trouble } from '../trouble.ts';
import type { Doing, EditOutcome } from '../workers/tasks/edit.ts';
import { at, today, type House } from './house.ts';
import { signed } from './waivers.ts';
import { writeOutcome } from './outcome.ts';

/** Who does something, and what of their roles matters here. */
export interface Hand {
  readonly name: string;
  /** May put text on switches that runs programs there. */
  readonly mayScript: boolean;
}

/** How often an edit is computed again, in its turn, because another fabric drew the same value at the same moment. */
const TRIES = 100;

/** Opening, editing, proving and withdrawing changes. Every write of a change is at the desk of its fabric. */
export class Changes {
  private readonly house: House;
  constructor(house: House) {
    this.house = house;
  }

  page(asked: PageAsked, sight: Sight): Promise<Page<ChangeSummary>> {
    return changePage(this.house.db, asked, sight);
  }

  async answer(id: string): Promise<ChangeAnswer> {
    const { db } = this.house;
    const row = await changeOf(db, id);
    const steps = await stepsOf(db, id);
    return {
      ...summary(row, steps.length),
      steps,
      proof: row.proof === null || row.proof_version !== row.version ? null : (JSON.parse(row.proof) as ProofReport),
      provenAt: row.proven_at,
      drawn: await drawnBy(db, id),
      hands: await handsOf(db, id),
      approvals: (await approvalsOf(db, id)).map((a): ApprovalAnswer => ({ by: a.by, at: a.at, note: a.note })),
      conflicts: JSON.parse(row.conflicts) as RebaseConflict[],
      rollout: await newestRolloutOf(db, id),
    };
  }

  /** Opens a change, with edits where there are some already: all of it or nothing. */
  open(request: ChangeRequest, by: Hand, unsigned: readonly Edit[] = []): Promise<string> {
    const edits = signed(unsigned, by.name);
    const { db, desks, events } = this.house;
    const { fabric, title, reason, ticket } = request;
    const id = nanoid(10);
    return desks.at(fabric, () =>
      this.untilFree(async () => {
        const outcome =
          edits.length === 0
            ? null
            : await this.outcomeOf(fabric, id, true, { how: 'add', edits, mayScript: by.mayScript });
        const done = await db.transaction().execute(async (tx) => {
          const base_revision = await liveRevision(tx, fabric);
          if (outcome !== null && outcome.live !== base_revision) return false;
          const now = at(this.house);
          await addChange(tx, { id, fabric, title, reason, ticket, author: by.name, base_revision }, now);
          return outcome === null || writeOutcome(tx, { id, fabric, version: 1 }, outcome, { edits, by: by.name }, now);
        });
        if (!done) return null;
        events.tell('changes', id, fabric);
        return id;
      }),
    );
  }

  /** Adds edits as one step: all are made, or none is and the findings say which field is wrong. */
  addEdits(id: string, edits: readonly Edit[], by: Hand, version?: number): Promise<void> {
    return this.doing(id, { how: 'add', edits: signed(edits, by.name), mayScript: by.mayScript }, by.name, version);
  }
  /** Undoes one edit: takes it out and replays the others. Refused when a later edit stands on it. */
  undoEdit(id: string, position: number, by: Hand, version: number): Promise<void> {
    return this.doing(id, { how: 'undo', position }, by.name, version);
  }
  /** Keeps an edit that a newer revision overtook: from now on it is made on top of that revision. */
  keepEdit(id: string, position: number, by: Hand, version: number): Promise<void> {
    return this.doing(id, { how: 'keep', position }, by.name, version);
  }
  /** Proves again. An approval stays when every text comes out as it was approved, and goes otherwise. */
  prove(id: string, version?: number): Promise<void> {
    return this.doing(id, { how: 'prove' }, null, version);
  }

  private async doing(id: string, doing: Doing, by: string | null, version?: number): Promise<void> {
    const { db, desks, events } = this.house;
    const { fabric } = await changeOf(db, id);
    await desks.at(fabric, () =>
      this.untilFree(async () => {
        const row = await changeOf(db, id);
        mustBeOpen(row);
        mustMatch(row, version);
        const outcome = await this.outcomeOf(fabric, id, false, doing);
        if (outcome.version !== row.version) return null;
        if (doing.how === 'prove' && row.state === 'Approved' && stillApproved(row, outcome)) return true;
        const done = await db.transaction().execute(async (tx) => {
          if ((await liveRevision(tx, fabric)) !== outcome.live) return false;
          return writeOutcome(
            tx,
            row,
            outcome,
            {
              edits: doing.how === 'add' ? doing.edits : [],
              ...(doing.how === 'undo' ? { without: doing.position } : {}),
              by,
            },
            at(this.house),
          );
        });
        return done || null;
      }),
    );
    events.tell('changes', id, fabric, (await changeOf(db, id)).version);
  }

  private async outcomeOf(fabric: string, change: string, fresh: boolean, doing: Doing): Promise<EditOutcome> {
    const outcome = await this.house.compiler.run<'edit'>({
      do: 'edit',
      fabric,
      change,
      fresh,
      doing,
      today: today(this.house),
    });
    if (outcome.findings === undefined) return outcome;
    if (outcome.standing === undefined) throw refused(outcome.findings);
    throw notNow(
      `“${outcome.standing}” stands on this edit (${outcome.findings[0]?.message ?? 'it needs it'}) Undo that one first.`,
      outcome.findings,
    );
  }

  /** Computes and writes until what was computed still holds at the moment of writing; null = try again. */
  private async untilFree<T>(work: () => Promise<T | null>): Promise<T> {
    const attempt = (): Promise<T | null> =>
      work().catch((error: unknown) => {
        if (isTaken(error)) return null;
        throw error;
      });
    return (
      (await attempt()) ??
      this.house.desks.turn(async () => {
        for (let i = 1; i <= TRIES; i++) {
          const done = await attempt();
          if (done !== null) return done;
        }
        throw notNow('Others keep drawing the same values; nothing was changed. Try again in a moment.');
      })
    );
  }

  /** A new title, reason or ticket is a new version: what was approved under another reason is to be approved again. */
  async retitle(id: string, titles: ChangeTitles, by: Hand, version: number): Promise<void> {
    const { db, desks, events } = this.house;
    const { fabric } = await changeOf(db, id);
    await desks.at(fabric, () =>
      db.transaction().execute(async (tx) => {
        const row = await changeOf(tx, id);
        mustBeOpen(row);
        mustMatch(row, version);
        const proven = row.proof_version === row.version;
        await moveChange(
          tx,
          row,
          {
            ...titles,
            state: row.state === 'Approved' ? 'Proven' : row.state,
            ...(proven ? { proof_version: row.version + 1 } : {}),
          },
          at(this.house),
        );
        await addHand(tx, id, by.name);
      }),
    );
    events.tell('changes', id, fabric);
  }

  /** Withdraws a change and gives its values and seats back. Refused while switches run text of it. */
  async withdraw(id: string, version: number): Promise<void> {
    const { db, desks, events } = this.house;
    const { fabric } = await changeOf(db, id);
    await desks.at(fabric, () =>
      db.transaction().execute(async (tx) => {
        const row = await changeOf(tx, id);
        mustBeOpen(row);
        mustMatch(row, version);
        const rollout = (await unfinishedIn(tx, fabric)).find((r) => r.change_id === id);
        if (rollout)
          throw notNow(`Rollout ${rollout.id} has put text of it on switches and is not finished; undo that first.`);
        await giveBack(tx, id);
        await dropClaims(tx, id);
        await setChangeState(tx, row, OPEN_STATES, 'Withdrawn', at(this.house));
      }),
    );
    events.tell('changes', id, fabric);
    events.tell('pools');
  }
}

/** Every text comes out as it was when the change was approved, on the same revision. */
const stillApproved = (row: ChangeRow, outcome: EditOutcome): boolean =>
  outcome.state === 'Proven' && outcome.digest === row.proof_digest && outcome.live === row.base_revision;

export function mustBeOpen(row: ChangeRow): void {
  if (!(OPEN_STATES as readonly string[]).includes(row.state))
    throw notNow(`The change is ${row.state}; its edits stay as they are. Open a new change instead.`);
}

/** The version somebody looked at must be the one that is there. */
export function mustMatch(row: ChangeRow, version: number | undefined): void {
  if (version !== undefined && version !== row.version)
    throw new Trouble(
      'overtaken',
      `The change has moved on (version ${row.version}, you have ${version}). Nothing was done; look at the change and try again.`,
    );
}
