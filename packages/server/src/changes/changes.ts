import type {
  ApprovalAnswer,
  ChangeAnswer,
  ChangeRequest,
  ChangeState,
  ChangeSummary,
  ChangeTitles,
} from '@anthemion/contract';
import {
  applyEdit,
  applyEdits,
  blankConfig,
  checkPool,
  checkSnippetTemplate,
  deriveConfigs,
  describeEdit,
  layOut,
  rebaseEdits,
  type Edit,
  type Finding,
  type ProofReport,
  type RebaseConflict,
} from '@anthemion/core';
import { nanoid } from 'nanoid';
import PQueue from 'p-queue';
import type { Selectable } from 'kysely';
import { HttpProblem, notThere, refused } from '../http/problem.ts';
import type { Db, Tables } from '../store/database.ts';
import type { Compiler } from '../workers/compiler.ts';
import { allLedger, allPools, changeState, drawFor, editsOf, intentAt, liveIntent, liveState } from './fabricState.ts';

type Row = Selectable<Tables['changes']>;
const OPEN: readonly ChangeState[] = ['Drafting', 'Proven', 'Approved', 'Stale'];
/** States in which edits may be made. */
const EDITABLE = new Set<string>(OPEN);

/** Everything that happens to changes, one thing at a time, so that draws and revisions never interleave. */
export class Changes {
  private readonly db: Db;
  private readonly compiler: Compiler;
  private readonly queue = new PQueue({ concurrency: 1 });
  constructor(db: Db, compiler: Compiler) {
    this.db = db;
    this.compiler = compiler;
  }

  /** Runs work that must not overlap with other work on changes. */
  alone<T>(work: () => Promise<T>): Promise<T> {
    return this.queue.add(work) as Promise<T>;
  }

  async row(id: string): Promise<Row> {
    const row = await this.db.selectFrom('changes').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notThere(`change ${id}`);
    return row;
  }

  private editable(row: Row, version?: number): void {
    if (!EDITABLE.has(row.state))
      throw new HttpProblem(409, `The change is ${row.state}; its edits stay as they are. Open a new change instead.`);
    if (version !== undefined && version !== row.version)
      throw new HttpProblem(
        412,
        `The change has moved on (version ${row.version}, you have ${version}). Your edit was not made; look at the change and try again.`,
      );
  }

  async summaries(): Promise<ChangeSummary[]> {
    const rows = await this.db
      .selectFrom('changes')
      .selectAll()
      .select((e) =>
        e
          .selectFrom('edits')
          .select((x) => x.fn.countAll<number>().as('n'))
          .whereRef('edits.change_id', '=', 'changes.id')
          .as('edit_count'),
      )
      .orderBy('updated_at', 'desc')
      .execute();
    return rows.map((r) => summaryOf(r, Number(r.edit_count ?? 0)));
  }

  async answer(id: string): Promise<ChangeAnswer> {
    const row = await this.row(id);
    const steps = await this.db
      .selectFrom('edits')
      .selectAll()
      .where('change_id', '=', id)
      .orderBy('position')
      .execute();
    const approvals = await this.db.selectFrom('approvals').selectAll().where('change_id', '=', id).execute();
    const rollout = await this.db
      .selectFrom('rollouts')
      .select('id')
      .where('change_id', '=', id)
      .orderBy('started_at', 'desc')
      .executeTakeFirst();
    return {
      ...summaryOf(row, steps.length),
      steps: steps.map((s) => ({
        position: s.position,
        edit: JSON.parse(s.json) as Edit,
        sentence: s.sentence,
        author: s.author,
        at: s.at,
      })),
      proof: row.proof === null || row.proof_version !== row.version ? null : (JSON.parse(row.proof) as ProofReport),
      provenAt: row.proven_at,
      drawn: (await allLedger(this.db)).filter((e) => e.change === id),
      approvals: approvals.map((a): ApprovalAnswer => ({ by: a.by, at: a.at, note: a.note })),
      conflicts: JSON.parse(row.conflicts) as RebaseConflict[],
      rollout: rollout?.id ?? null,
    };
  }

  open(request: ChangeRequest, author: string): Promise<string> {
    return this.alone(async () => {
      const { revision } = await liveIntent(this.db, request.fabric);
      const id = nanoid(10);
      const at = new Date().toISOString();
      await this.db
        .insertInto('changes')
        .values({
          id,
          fabric: request.fabric,
          title: request.title,
          reason: request.reason,
          ticket: request.ticket,
          author,
          state: 'Drafting',
          base_revision: revision,
          version: 1,
          proof: null,
          proof_version: null,
          proven_at: null,
          conflicts: '[]',
          created_at: at,
          updated_at: at,
        })
        .execute();
      return id;
    });
  }

  async retitle(id: string, titles: ChangeTitles): Promise<void> {
    this.editable(await this.row(id));
    await this.db
      .updateTable('changes')
      .set({ ...titles, updated_at: new Date().toISOString() })
      .where('id', '=', id)
      .execute();
  }

  /** Adds edits as one step: all are made, or none is and the findings say which field is wrong. */
  addEdits(id: string, edits: readonly Edit[], author: string, version?: number): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      this.editable(row, version);
      const state = await changeState(this.db, id);
      let { intent } = state;
      for (const [i, edit] of edits.entries()) {
        const step = applyEdit(intent, edit);
        const findings = step.findings.length > 0 ? step.findings : await this.checkEdit(edit, step.intent);
        if (findings.length > 0) throw refused(findings.map((f) => ({ ...f, path: `/edits/${i}${f.path ?? ''}` })));
        intent = step.intent;
      }
      const last = await this.db
        .selectFrom('edits')
        .select('position')
        .where('change_id', '=', id)
        .orderBy('position', 'desc')
        .executeTakeFirst();
      const first = (last?.position ?? 0) + 1;
      await this.writeEdits(
        row,
        edits.map((edit, i) => ({ edit, position: first + i })),
        author,
      );
      await this.proveNow(id);
    });
  }

  /** What can only be said of an edit with the whole fabric at hand. */
  private async checkEdit(edit: Edit, intent: Parameters<typeof layOut>[0]): Promise<readonly Finding[]> {
    if (edit.kind === 'putSnippet') {
      const pools = await allPools(this.db);
      const layout = layOut(intent);
      const { values } = drawFor(intent, pools, await allLedger(this.db), null);
      const sample = [...deriveConfigs(intent, layout, values, pools).values()].at(-1);
      const finding = checkSnippetTemplate(edit.snippet, sample ?? blankConfig('switch'));
      return finding ? [{ ...finding, path: '/snippet/text' }] : [];
    }
    if (edit.kind === 'choosePools') {
      const pools = await allPools(this.db);
      return Object.entries(edit.pools).flatMap(([role, name]) => {
        const pool = pools.find((p) => p.name === name);
        if (name === '' || pool) return pool ? checkPool(pool, []) : [];
        return [
          {
            rule: 'pool-known',
            severity: 'error' as const,
            path: `/pools/${role}`,
            message: `There is no pool ${name}.`,
            cure: 'Make it under Pools, or choose another.',
          },
        ];
      });
    }
    if (edit.kind === 'takeSeat') {
      const known = await this.db
        .selectFrom('switches')
        .select('serial')
        .where('serial', '=', edit.serial)
        .executeTakeFirst();
      if (!known)
        return [
          {
            rule: 'switch-known',
            severity: 'error',
            path: '/serial',
            message: `${edit.serial} is not among the known switches.`,
            cure: 'Import it under Switches first.',
          },
        ];
      for (const { name } of await this.db
        .selectFrom('fabrics')
        .select('name')
        .where('name', '<>', intent.name)
        .execute()) {
        const other = Object.entries((await liveIntent(this.db, name)).intent.seating).find(
          ([, s]) => s === edit.serial,
        );
        if (other)
          return [
            {
              rule: 'serial-taken',
              severity: 'error',
              path: '/serial',
              message: `${edit.serial} sits in ${other[0]} of ${name}.`,
              cure: 'Choose an unseated switch.',
            },
          ];
      }
    }
    return [];
  }

  private async writeEdits(
    row: Row,
    edits: readonly { edit: Edit; position: number }[],
    author: string,
  ): Promise<void> {
    const at = new Date().toISOString();
    await this.db.transaction().execute(async (tx) => {
      for (const { edit, position } of edits)
        await tx
          .insertInto('edits')
          .values({ change_id: row.id, position, json: JSON.stringify(edit), sentence: describeEdit(edit), author, at })
          .execute();
      await touch(tx, row);
    });
  }

  /** Undoes one edit: takes it out and replays the others. Refused when a later edit stands on it. */
  undoEdit(id: string, position: number, version?: number): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      this.editable(row, version);
      const steps = await this.db
        .selectFrom('edits')
        .selectAll()
        .where('change_id', '=', id)
        .orderBy('position')
        .execute();
      const index = steps.findIndex((s) => s.position === position);
      if (index < 0) throw notThere(`edit ${position}`);
      const conflicts = JSON.parse(row.conflicts) as RebaseConflict[];
      const rest = steps.filter((_, i) => i !== index);
      const skip = new Set(conflicts.filter((c) => c.edit !== index).map((c) => steps[c.edit]?.position));
      const replay = rest.filter((s) => !skip.has(s.position));
      const base = await intentAt(this.db, row.fabric, row.base_revision);
      const made = applyEdits(
        base,
        replay.map((s) => JSON.parse(s.json) as Edit),
      );
      if (made.failedAt !== undefined) {
        const later = replay[made.failedAt]!;
        throw new HttpProblem(
          409,
          `“${later.sentence}” stands on this edit (${made.findings[0]!.message}) Undo that one first.`,
          made.findings,
        );
      }
      const left = conflicts
        .filter((c) => c.edit !== index)
        .map((c) => ({ ...c, edit: c.edit > index ? c.edit - 1 : c.edit }));
      await this.db.transaction().execute(async (tx) => {
        await tx.deleteFrom('edits').where('change_id', '=', id).where('position', '=', position).execute();
        await touch(tx, row, { conflicts: JSON.stringify(left) });
      });
      await this.proveNow(id);
    });
  }

  /** Keeps an edit that a newer revision overtook: from now on it is made on top of that revision. */
  keepEdit(id: string, position: number): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      this.editable(row);
      const steps = await this.db
        .selectFrom('edits')
        .selectAll()
        .where('change_id', '=', id)
        .orderBy('position')
        .execute();
      const conflicts = JSON.parse(row.conflicts) as RebaseConflict[];
      const left = conflicts.filter((c) => steps[c.edit]?.position !== position);
      if (left.length === conflicts.length) throw notThere(`edit ${position} in conflict`);
      const skip = new Set(left.map((c) => c.edit));
      const base = await intentAt(this.db, row.fabric, row.base_revision);
      const made = applyEdits(
        base,
        steps.filter((_, i) => !skip.has(i)).map((s) => JSON.parse(s.json) as Edit),
      );
      if (made.findings.length > 0) throw refused(made.findings);
      await touch(this.db, row, { conflicts: JSON.stringify(left) });
      await this.proveNow(id);
    });
  }

  prove(id: string): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      this.editable(row);
      await this.proveNow(id);
    });
  }

  /** Draws values for the change, proves it, and notes both; approvals of an older version do not count any more. */
  private async proveNow(id: string): Promise<void> {
    const row = await this.row(id);
    const pools = await allPools(this.db);
    const state = await changeState(this.db, id);
    const drawn = drawFor(state.intent, pools, await allLedger(this.db), id);
    const keys = new Set(drawn.values.keys());
    await this.db.transaction().execute(async (tx) => {
      for (const own of await tx
        .selectFrom('ledger')
        .select(['id', 'key', 'value'])
        .where('change_id', '=', id)
        .execute())
        if (!keys.has(own.key) || drawn.values.get(own.key) !== own.value)
          await tx.deleteFrom('ledger').where('id', '=', own.id).execute();
      for (const e of drawn.entries)
        await tx
          .insertInto('ledger')
          .values({
            kind: e.kind,
            pool: e.pool,
            value: e.value,
            fabric: e.fabric,
            key: e.key,
            change_id: id,
            drawn_by: id,
          })
          .execute();
    });
    const before = await liveState(this.db, row.fabric);
    const conflicts = JSON.parse(row.conflicts) as RebaseConflict[];
    const report = await this.compiler.prove({
      before: { intent: before.intent, values: [...before.values] },
      after: { intent: state.intent, values: [...drawn.values] },
      pools,
      drawFindings: [...drawn.findings, ...conflicts.flatMap((c) => c.findings)],
    });
    const proven = report.clean && conflicts.length === 0 && state.edits.length > 0;
    await this.db.deleteFrom('approvals').where('change_id', '=', id).execute();
    await this.db
      .updateTable('changes')
      .set({
        proof: JSON.stringify(report),
        proof_version: row.version,
        proven_at: new Date().toISOString(),
        state: proven ? 'Proven' : conflicts.length > 0 ? 'Stale' : 'Drafting',
      })
      .where('id', '=', id)
      .execute();
  }

  /** Approves a proven change; one that touches no switch goes live at once. */
  approve(id: string, by: string, note: string, secondPerson: boolean): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      if (row.state !== 'Proven')
        throw new HttpProblem(
          409,
          row.state === 'Stale'
            ? 'The proof is stale: prove the change again first.'
            : `Only a proven change can be approved; this one is ${row.state}.`,
        );
      if (secondPerson && row.author === by)
        throw new HttpProblem(
          403,
          'The team wants a second person’s yes; somebody other than the author must approve.',
        );
      const report = JSON.parse(row.proof!) as ProofReport;
      await this.db.insertInto('approvals').values({ change_id: id, by, at: new Date().toISOString(), note }).execute();
      await this.db
        .updateTable('changes')
        .set({ state: 'Approved', updated_at: new Date().toISOString() })
        .where('id', '=', id)
        .execute();
      const reseated = (await editsOf(this.db, id)).some((e) => e.kind === 'takeSeat');
      if (!reseated && report.switches.every((s) => s.fate === 'same')) await this.goLiveNow(id);
    });
  }

  withdraw(id: string): Promise<void> {
    return this.alone(async () => {
      const row = await this.row(id);
      this.editable(row);
      await this.db.transaction().execute(async (tx) => {
        await tx.deleteFrom('ledger').where('change_id', '=', id).execute();
        await tx
          .updateTable('changes')
          .set({ state: 'Withdrawn', updated_at: new Date().toISOString() })
          .where('id', '=', id)
          .execute();
      });
    });
  }

  setState(id: string, state: ChangeState): Promise<void> {
    return this.alone(async () => {
      await this.db
        .updateTable('changes')
        .set({ state, updated_at: new Date().toISOString() })
        .where('id', '=', id)
        .execute();
    });
  }

  goLive(id: string): Promise<void> {
    return this.alone(() => this.goLiveNow(id));
  }

  /**
   * Makes a change the next revision: its values become the fabric's, values nobody needs any more return to their
   * pools, and every other open change is rebased and marked stale. Doing it twice does nothing the second time.
   */
  private async goLiveNow(id: string): Promise<void> {
    const row = await this.row(id);
    if (row.state === 'Live') return;
    const state = await changeState(this.db, id);
    const { revision } = await liveIntent(this.db, row.fabric);
    const oldBase = await intentAt(this.db, row.fabric, row.base_revision);
    const at = new Date().toISOString();
    const sentences = (
      await this.db.selectFrom('edits').select('sentence').where('change_id', '=', id).orderBy('position').execute()
    ).map((e) => e.sentence);
    await this.db.transaction().execute(async (tx) => {
      await tx
        .insertInto('revisions')
        .values({
          fabric: row.fabric,
          number: revision + 1,
          intent: JSON.stringify(state.intent),
          author: row.author,
          title: row.title,
          reason: row.reason,
          ticket: row.ticket,
          change_id: id,
          sentences: JSON.stringify(sentences),
          at,
        })
        .execute();
      const own = await tx.selectFrom('ledger').select(['id', 'key']).where('change_id', '=', id).execute();
      const replaced = new Set(own.map((e) => e.key));
      for (const live of await tx
        .selectFrom('ledger')
        .select(['id', 'key'])
        .where('fabric', '=', row.fabric)
        .where('change_id', 'is', null)
        .execute())
        if (replaced.has(live.key) || !state.values.has(live.key))
          await tx.deleteFrom('ledger').where('id', '=', live.id).execute();
      await tx.updateTable('ledger').set({ change_id: null }).where('change_id', '=', id).execute();
      await tx.updateTable('changes').set({ state: 'Live', updated_at: at }).where('id', '=', id).execute();
    });
    const others = await this.db
      .selectFrom('changes')
      .selectAll()
      .where('fabric', '=', row.fabric)
      .where('id', '<>', id)
      .where('state', 'in', OPEN)
      .execute();
    for (const other of others) {
      const edits = await editsOf(this.db, other.id);
      const base =
        other.base_revision === row.base_revision ? oldBase : await intentAt(this.db, row.fabric, other.base_revision);
      const { conflicts } = rebaseEdits(base, state.intent, edits);
      await this.db.deleteFrom('approvals').where('change_id', '=', other.id).execute();
      await touch(this.db, other, {
        base_revision: revision + 1,
        state: 'Stale',
        conflicts: JSON.stringify(conflicts),
      });
    }
  }
}

/** A new version of a change; the old proof no longer speaks of it. */
async function touch(db: Pick<Db, 'updateTable'>, row: Row, more: Partial<Row> = {}): Promise<void> {
  const state = row.state === 'Stale' ? 'Stale' : 'Drafting';
  await db
    .updateTable('changes')
    .set({ version: row.version + 1, updated_at: new Date().toISOString(), state, ...more })
    .where('id', '=', row.id)
    .execute();
}

const summaryOf = (r: Row, edits: number): ChangeSummary => ({
  id: r.id,
  fabric: r.fabric,
  title: r.title,
  reason: r.reason,
  ticket: r.ticket,
  author: r.author,
  state: r.state as ChangeState,
  baseRevision: r.base_revision,
  edits,
  updatedAt: r.updated_at,
  version: r.version,
});
