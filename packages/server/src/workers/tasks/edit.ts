import {
  applyEdit,
  applyEdits,
  refusals,
  blankConfig,
  checkPool,
  checkSnippetTemplate,
  demandsOf,
  deriveConfigs,
  describeEdit,
  describeEdits,
  drawValues,
  layOut,
  poolsToDraw,
  problem,
  proveChange,
  rebaseEdits,
  type Edit,
  type FabricIntent,
  type Finding,
  type LedgerEntry,
  type Pool,
  type RebaseConflict,
  type SecretRef,
  type Values,
} from '@anthemion/core';
import type { ChangeState } from '@anthemion/contract';
import type { Db, Reads } from '../../store/database.ts';
import { heldByChange, takenIn } from '../../store/ledger.ts';
import { allPools } from '../../store/pools.ts';
import { holdersOf, type Claim } from '../../store/seats.ts';
import { knownOf } from '../../store/switches.ts';
import { stoodFor } from '../../store/vault.ts';
import { weigh, memoryOf } from '../fabricMemory.ts';
import { sentOtherwise } from './release.ts';
import {
  changeView,
  compiledState,
  digestOf,
  intentOfChange,
  liveState,
  seatsTaken,
  snapshot,
  type ChangeView,
  type LiveState,
} from './state.ts';

/** What somebody does to a change; everything but `add` rests on edits that are there. */
export type Doing =
  | { readonly how: 'add'; readonly edits: readonly Edit[]; readonly mayScript: boolean }
  | { readonly how: 'undo'; readonly position: number }
  | { readonly how: 'keep'; readonly position: number }
  | { readonly how: 'prove' };

export interface EditTask {
  readonly do: 'edit';
  readonly fabric: string;
  readonly change: string;
  /** The change is opened by this: it is not in the database yet, and stands on what is live. */
  readonly fresh: boolean;
  readonly doing: Doing;
  /** ISO day: waivers that have ended let nothing through. */
  readonly today: string;
}

/** What an edit comes to: everything that is to be written, and the versions it rests on. */
export interface EditOutcome {
  readonly findings?: undefined;
  readonly version: number;
  /** Revision the change stands on, and the one that is live: after a rebase they are the same. */
  readonly base: number;
  readonly live: number;
  readonly conflicts: string;
  readonly draws: { readonly insert: readonly LedgerEntry[]; readonly remove: readonly number[] };
  readonly claims: readonly Claim[];
  readonly report: string;
  readonly state: ChangeState;
  readonly digest: string;
  /** What the edits that were added do, each from what to what. */
  readonly sentences: readonly string[];
  /** Some switch gets other text, or a seat another switch. */
  readonly touches: boolean;
}
/** Why nothing of it can be done. */
export interface EditRefused {
  readonly findings: readonly Finding[];
  /** An edit that stands on the one to be undone, as a sentence. */
  readonly standing?: string;
}

export const editTask = (db: Db, task: EditTask): Promise<EditOutcome | EditRefused> =>
  snapshot(db, async (tx) => {
    const live = await liveState(tx, task.fabric);
    const view = task.fresh ? freshView(live) : onLive(await changeView(tx, task.change), live);
    const done = await work(tx, task, live, view);
    weigh(task.fabric);
    return done;
  });

type View = Pick<ChangeView, 'base' | 'edits' | 'conflicts'> & {
  readonly row: { readonly version: number; readonly base_revision: number };
};
/** A change of an older release may stand on a revision that is not live any more: it is carried over first. */
function onLive(view: ChangeView, live: LiveState): View {
  if (view.row.base_revision === live.revision) return view;
  const { conflicts } = rebaseEdits(
    view.base,
    live.intent,
    view.edits.map((e) => e.edit),
  );
  return { ...view, row: { ...view.row, base_revision: live.revision }, base: live.intent, conflicts };
}
const freshView = (live: LiveState): View => ({
  row: { version: 0, base_revision: live.revision },
  base: live.intent,
  edits: [],
  conflicts: [],
});

async function work(db: Reads, task: EditTask, live: LiveState, view: View): Promise<EditOutcome | EditRefused> {
  const pools = await allPools(db);
  const next = changed(view, task.doing);
  if ('findings' in next) return next;
  if (task.doing.how === 'add') {
    const findings = await checkAdded(db, task, task.doing, intentOfChange(view), pools, live.values);
    if (findings.length > 0) return { findings };
  }
  const sentences = task.doing.how === 'add' ? describeEdits(task.doing.edits, intentOfChange(view)) : [];
  const intent = intentOfChange({ base: view.base, ...next });
  const layout = layOut(intent);
  const owner = { fabric: task.fabric, change: task.change };
  const demands = demandsOf(intent, layout);
  const held = [...live.held, ...(await heldByChange(db, task.fabric, task.change))];
  const taken = await takenIn(db, [...poolsToDraw(demands, held, owner)]);
  const drawn = drawValues(demands, pools, { own: held, taken }, owner);
  const seated = seatsTaken(intent, layout).filter((c) => live.intent.seating[c.seat] !== c.serial);
  const elsewhere = await heldElsewhere(
    db,
    task,
    seated.map((c) => c.serial),
  );
  const claims = seated.filter((c) => !elsewhere.has(c.serial));
  const sent = await sentOtherwise(db, task.fabric, await compiledState(db, { ...live, change: null }));
  const { report, compiled } = proveChange(
    live,
    { intent, values: drawn.values },
    pools,
    [
      ...drawn.findings,
      ...seated.flatMap((c) => {
        const holder = elsewhere.get(c.serial);
        return holder ? [{ ...holder, path: `/seating/${c.seat}`, subjects: [`seat:${c.seat}` as const] }] : [];
      }),
      ...next.conflicts.flatMap((c) => c.findings),
      ...(sent.size === 0 ? [] : [releaseWrites(sent.size)]),
    ],
    memoryOf(task.fabric),
    sent,
    task.today,
  );
  const touches = seated.length > 0 || report.switches.some((s) => s.fate !== 'same');
  // A change without edits is of use where a newer release writes what is live differently: it sends that.
  const proven = report.clean && next.conflicts.length === 0 && (next.edits.length > 0 || touches);
  return {
    version: view.row.version,
    base: view.row.base_revision,
    live: live.revision,
    conflicts: JSON.stringify(next.conflicts),
    draws: {
      insert: drawn.entries,
      remove: held.filter((e) => e.change !== null && drawn.values.get(e.key) !== e.value).map((e) => e.id),
    },
    claims,
    report: JSON.stringify(report),
    state: proven ? 'Proven' : next.conflicts.length > 0 ? 'Stale' : 'Drafting',
    digest: digestOf(compiled),
    sentences,
    touches,
  };
}

const releaseWrites = (switches: number): Finding => ({
  rule: 'release-writes',
  severity: 'note',
  message: `An older release wrote what ${switches} ${switches === 1 ? 'switch runs' : 'switches run'}; this one writes the same intent with other lines, and the change carries them along.`,
  cure: 'Look at the lines it adds and removes on each switch before it is approved.',
});

/** The edits and conflicts of a change after what is done to it. */
function changed(view: View, doing: Doing): Pick<View, 'edits' | 'conflicts'> | EditRefused {
  const { edits, conflicts, base } = view;
  if (doing.how === 'prove') return { edits, conflicts };
  if (doing.how === 'add') {
    const made = refusals(intentOfChange(view), doing.edits);
    if (made.length > 0) return { findings: made };
    const last = edits.at(-1)?.position ?? 0;
    return { edits: [...edits, ...doing.edits.map((edit, i) => ({ position: last + 1 + i, edit }))], conflicts };
  }
  const index = edits.findIndex((e) => e.position === doing.position);
  if (doing.how === 'undo') {
    if (index < 0) return { findings: [problem('edit-known', '', `There is no edit ${doing.position} any more.`)] };
    const left = conflicts
      .filter((c) => c.edit !== index)
      .map((c): RebaseConflict => ({ ...c, edit: c.edit > index ? c.edit - 1 : c.edit }));
    const rest = edits.filter((_, i) => i !== index);
    const skip = new Set(left.map((c) => c.edit));
    const replay = rest.filter((_, i) => !skip.has(i));
    const made = applyEdits(
      base,
      replay.map((e) => e.edit),
    );
    if (made.failedAt === undefined) return { edits: rest, conflicts: left };
    return { findings: made.findings, standing: describeEdit(replay[made.failedAt]!.edit) };
  }
  const left = conflicts.filter((c) => c.edit !== index);
  if (left.length === conflicts.length)
    return { findings: [problem('edit-known', '', `Edit ${doing.position} is in no conflict any more.`)] };
  const skip = new Set(left.map((c) => c.edit));
  const made = applyEdits(
    base,
    edits.filter((_, i) => !skip.has(i)).map((e) => e.edit),
  );
  return made.findings.length > 0 ? { findings: made.findings } : { edits, conflicts: left };
}

const at = (i: number, f: Finding): Finding => ({ ...f, path: `/edits/${i}${f.path ?? ''}` });

/** What can only be said of edits with the fabric, the pools and the inventory at hand. */
async function checkAdded(
  db: Reads,
  task: EditTask,
  doing: { readonly edits: readonly Edit[]; readonly mayScript: boolean },
  before: FabricIntent,
  pools: readonly Pool[],
  values: Values,
): Promise<Finding[]> {
  const serials = doing.edits.flatMap((e) => (e.kind === 'takeSeat' ? [e.serial] : []));
  const known = await knownOf(db, serials);
  const elsewhere = await heldElsewhere(db, task, serials);
  const stood = new Set<SecretRef>();
  for (const e of doing.edits)
    if (e.kind === 'putSecret' && (await stoodFor(db, e.secret.name, e.secret.digest))) stood.add(e.secret);
  const out: Finding[] = [];
  let intent = before;
  doing.edits.forEach((edit, i) => {
    intent = applyEdit(intent, edit).intent;
    if (edit.kind === 'takeSeat' && !known.has(edit.serial))
      out.push(
        at(
          i,
          problem(
            'switch-known',
            '/serial',
            `${edit.serial} is not among the known switches.`,
            'Import it under Switches first.',
          ),
        ),
      );
    const holder = edit.kind === 'takeSeat' ? elsewhere.get(edit.serial) : undefined;
    if (holder) out.push(at(i, { ...holder, path: '/serial' }));
    if (edit.kind === 'choosePools')
      for (const [role, name] of Object.entries(edit.pools)) {
        const pool = pools.find((p) => p.name === name);
        if (pool) out.push(...checkPool(pool, []).map((f) => at(i, f)));
        else if (name !== '')
          out.push(
            at(
              i,
              problem(
                'pool-known',
                `/pools/${role}`,
                `There is no pool ${name}.`,
                'Make it under Pools, or choose another.',
              ),
            ),
          );
      }
    if (edit.kind === 'putSecret' && !stood.has(edit.secret))
      out.push(
        at(
          i,
          problem(
            'secret-known',
            '/secret/name',
            `Secret ${edit.secret.name} never had this value.`,
            'Put its value under Secrets first, and take up the newest.',
          ),
        ),
      );
    if (edit.kind === 'putSnippet')
      out.push(...checkSnippet(edit, intent, pools, values, doing.mayScript).map((f) => at(i, f)));
  });
  return out;
}

function checkSnippet(
  edit: Extract<Edit, { kind: 'putSnippet' }>,
  intent: FabricIntent,
  pools: readonly Pool[],
  values: Values,
  mayScript: boolean,
): Finding[] {
  if (edit.snippet.runsElsewhere === true && !mayScript)
    return [
      problem(
        'snippet-permission',
        '/snippet/runsElsewhere',
        'A snippet that runs programs or uses other files on the switch takes the role scripter.',
        'Take the permission off it, or have somebody with that role put it.',
      ),
    ];
  const configs = [...deriveConfigs(intent, layOut(intent), values, pools).values()];
  for (const config of configs.length > 0 ? configs : [blankConfig('switch')]) {
    const finding = checkSnippetTemplate(edit.snippet, config, intent.secrets);
    if (finding) return [{ ...finding, path: '/snippet/text' }];
  }
  return [];
}

/** Which of these switches somebody else holds, live in another fabric or in another open change, and in what words. */
async function heldElsewhere(db: Reads, task: EditTask, serials: readonly string[]): Promise<Map<string, Finding>> {
  const out = new Map<string, Finding>();
  for (const h of serials.length === 0 ? [] : await holdersOf(db, serials)) {
    if (h.change === null ? h.fabric === task.fabric : h.change === task.change) continue;
    const where = `${h.host === '' ? h.seat : h.host} of ${h.fabric}`;
    out.set(h.serial, {
      rule: 'serial-held',
      severity: 'error',
      message: `${h.serial} is ${where}${h.change === null ? '' : ` in the open change “${h.title ?? h.change}”`}.`,
      cure: 'Choose another switch, or have that seat left empty first.',
    });
  }
  return out;
}
