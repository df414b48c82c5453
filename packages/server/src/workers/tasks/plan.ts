import {
  asksAround,
  blankConfig,
  carryingCablesOf,
  layOut,
  documentCounts,
  seatDialects,
  type Dialect,
  floorOf,
  modelNetwork,
  planWaves,
  sentTogether,
  seatOfName,
  standingOf,
  groupsOf,
  isOn,
  TIER_WORDS,
  proveChange,
  rebaseEdits,
  type Cable,
  type CompiledFabric,
  type ConfigFiles,
  type FabricIntent,
  type FabricStanding,
  type Finding,
  type ReadSwitch,
  type RolloutTarget,
  type RolloutWave,
  type Seat,
  type WaveOptions,
} from '@anthemion/core';
import { changeOf } from '../../store/changes.ts';
import { writeDocument } from '../../store/documents.ts';
import type { Db, Reads } from '../../store/database.ts';
import { changeOfRevision } from '../../store/fabrics.ts';
import { heldBy } from '../../store/ledger.ts';
import { allPools } from '../../store/pools.ts';
import { rolloutOf, rowsOf } from '../../store/rollouts.ts';
import { liveOf, type Claim, type LiveRow, type Meant } from '../../store/seats.ts';
import { deflateTexts } from '../../store/deflate.ts';
import { switchOf } from '../../store/switches.ts';
import { textOf, type KeptText } from '../../store/texts.ts';
import { hashOf, parseOnce, weigh } from '../fabricMemory.ts';
import { sentOtherwise } from './release.ts';
import {
  changeView,
  compileRemembered,
  digestOf,
  intentOfChange,
  liveState,
  seatsTaken,
  snapshot,
  stateAt,
  valuesOfChange,
} from './state.ts';

export interface PlanTask {
  readonly do: 'plan';
  readonly fabric: string;
  /** The approved change; null = catch up with what is live. */
  readonly change: string | null;
  /** The unfinished rollout it breaks into, or null. */
  readonly into: string | null;
  /** Put what is live back on these switches, over what somebody did by hand; absent = all that wait. */
  readonly over?: readonly string[];
  /** ISO day: waivers that have ended let nothing through. */
  readonly today: string;
}

/** A switch to be sent to: what it shall run, and what it was confirmed with. */
export interface PlannedSwitch {
  readonly host: string;
  readonly seat: string;
  readonly serial: string;
  readonly target: string;
  readonly expected: string | null;
  readonly expectedRevision: number | null;
  readonly expectedChange: string | null;
  readonly added: number;
  readonly removed: number;
  readonly leaves: boolean;
}

/** Everything a rollout pins, and the versions it was computed from. */
export interface Plan {
  readonly change: string;
  readonly version: number;
  readonly live: number;
  readonly digest: string;
  readonly intent: string;
  /** Values of the pinned intent, key and value. */
  readonly drawn: readonly (readonly [string, string])[];
  readonly meant: readonly Meant[];
  readonly waves: readonly RolloutWave[];
  readonly rows: readonly PlannedSwitch[];
  /** Every text a row or a seat refers to that may not be kept yet. */
  readonly texts: readonly KeptText[];
  readonly empty: readonly string[];
  readonly findings: readonly Finding[];
}

const SHARE_AT_ONCE = 0.25;
/** What the order of waves goes by. */
function asTarget(seat: Seat): Omit<RolloutTarget, 'dialect' | 'fate' | 'load'> {
  const { id, host, model, side, peer } = seat;
  return {
    host,
    seat: id,
    model,
    floor: floorOf(seat),
    called: TIER_WORDS[seat.tier],
    groups: groupsOf(seat),
    ...(side === undefined ? {} : { side }),
    ...(peer === undefined ? {} : { peer }),
  };
}
const SERVED_PER_WAVE = 64;

/** The smallest text a switch that leaves a fabric keeps. */
export const blankFiles = (dialect: Dialect, host: string): ConfigFiles => dialect.render(blankConfig(host)).files;

/** Plans from what each switch was confirmed with to what it shall run: nothing else is sent, nothing is left behind. */
export const planTask = (db: Db, task: PlanTask): Promise<Plan> =>
  snapshot(db, async (tx) => {
    const live = await liveState(tx, task.fabric);
    const pools = await allPools(tx);
    const state = await stateAt(tx, task.fabric, task.change);
    const change = task.change ?? (await changeOfRevision(tx, task.fabric, live.revision));
    const version = task.change === null ? 0 : (await changeOf(tx, task.change)).version;
    const made = compileRemembered(state.intent, state.values, pools, task.change === null ? 'before' : 'after');
    // What waits is what was approved, as it was written then: a newer release's lines go out by a change only.
    const compiled = task.change === null ? asSent(made, await sentOtherwise(tx, task.fabric, made)) : made;
    const beside = task.into === null ? null : await besideUnfinished(tx, task);
    const confirmed = await liveOf(tx, task.fabric);
    const over = task.over === undefined ? null : await runningNow(tx, task.over);
    const planned = await planSwitches(tx, state.intent, live.intent, compiled, confirmed, beside, over);
    const texts = new Map<string, KeptText>();
    const keep = (files: ConfigFiles): void => {
      const hash = hashOf(files);
      if (!texts.has(hash)) texts.set(hash, { hash, body: deflateTexts(JSON.stringify(files)) });
    };
    const known = new Set(confirmed.map((c) => c.hash));
    for (const s of compiled.switches) if (!known.has(hashOf(s.files))) keep(s.files);
    for (const p of planned.rows) if (!known.has(p.row.target)) keep(p.files);
    weigh(task.fabric);
    return {
      change: change ?? '',
      version,
      live: live.revision,
      digest: digestOf(compiled),
      intent: writeDocument('intent', state.intent),
      drawn: [...state.values],
      meant: compiled.switches.map((s) => ({ seat: s.seat.id, host: s.seat.host, hash: hashOf(s.files) })),
      waves: planWaves(
        planned.rows.map((p) => p.target),
        {
          share: SHARE_AT_ONCE,
          standing: standingOf(compiled.layout.seats),
          servedPerWave: SERVED_PER_WAVE,
          ...(await togetherOf(tx, compiled, planned.rows, live.intent)),
        },
      ),
      rows: planned.rows.map((p) => p.row),
      texts: [...texts.values()],
      empty: planned.empty,
      findings: beside?.findings ?? [],
    };
  });

/** Sets of switches that have to be sent to together, by what they were confirmed with and what they shall run. */
async function togetherOf(
  db: Reads,
  compiled: CompiledFabric,
  rows: readonly PlannedRow[],
  live: FabricIntent,
): Promise<Pick<WaveOptions, 'together' | 'carried'>> {
  const planned = new Map(rows.map((r) => [r.row.host, r]));
  const before: ReadSwitch[] = [];
  const after: ReadSwitch[] = [];
  for (const { seat, parsed, dialect } of compiled.switches) {
    const { host } = seat;
    const row = planned.get(host);
    const expected = row?.row.expected ?? null;
    const was = expected === null ? null : await textOf(db, expected);
    after.push({ host, ...(row ? parseOnce(row.row.target, row.files, dialect) : parsed) });
    if (was) before.push({ host, ...parseOnce(expected!, was, dialect) });
    else if (!row) before.push({ host, ...parsed });
  }
  const standing = (switches: readonly ReadSwitch[], cables: readonly Cable[]): FabricStanding => ({
    switches,
    cables,
    network: () => modelNetwork(switches, cables),
  });
  const { groups, carried } = sentTogether(
    standing(before, carryingCablesOf(layOut(live))),
    standing(after, carryingCablesOf(compiled.layout)),
    (host) => planned.has(host),
  );
  return { together: groups, carried };
}

/** What switches were last seen to run. */
async function runningNow(db: Reads, serials: readonly string[]): Promise<Map<string, string>> {
  const out = new Map<string, string>();
  for (const serial of serials) {
    const running = (await switchOf(db, serial))?.running;
    if (running != null) out.set(serial, running);
  }
  return out;
}

const asSent = (fabric: CompiledFabric, sent: ReadonlyMap<string, ConfigFiles>): CompiledFabric =>
  sent.size === 0
    ? fabric
    : {
        ...fabric,
        switches: fabric.switches.map((s) => {
          const files = sent.get(s.seat.host);
          return files ? { ...s, files } : s;
        }),
      };

interface Beside {
  /** What the unfinished change makes on top of the one that breaks in. */
  readonly intent: FabricIntent;
  readonly compiled: CompiledFabric;
  /** Switches that were confirmed with the unfinished change: they keep it. */
  readonly serials: ReadonlySet<string>;
  readonly findings: readonly Finding[];
}

/**
 * A change that breaks in stands on what is live and on what is already confirmed: switches that have the unfinished
 * change keep it, with the urgent change on top; both together are proved here.
 */
async function besideUnfinished(db: Reads, task: PlanTask): Promise<Beside> {
  const { fabric, today } = task;
  const [change, into] = [task.change!, task.into!];
  const pools = await allPools(db);
  const live = await liveState(db, fabric);
  const mine = await changeView(db, change);
  const unfinished = await rolloutOf(db, into);
  const theirs = await changeView(db, unfinished.change_id);
  const skip = new Set(theirs.conflicts.map((c) => c.edit));
  const rebased = rebaseEdits(
    theirs.base,
    intentOfChange(mine),
    theirs.edits.filter((_, i) => !skip.has(i)).map((e) => e.edit),
  );
  const values = await valuesOfChange(db, rebased.intent, change);
  for (const e of await heldBy(db, fabric, unfinished.change_id))
    if (e.change !== null && !values.has(e.key)) values.set(e.key, e.value);
  const { report, compiled } = proveChange(live, { intent: rebased.intent, values }, pools, [], {}, new Map(), today);
  return {
    intent: rebased.intent,
    compiled,
    serials: new Set((await rowsOf(db, into)).filter((r) => r.outcome === 'as meant').map((r) => r.serial)),
    findings: [
      ...rebased.conflicts.flatMap((c) => c.findings.map((f) => ({ ...f, message: `${c.sentence}: ${f.message}` }))),
      ...report.findings.filter((f) => f.severity === 'error'),
    ],
  };
}

interface PlannedRow {
  readonly target: RolloutTarget;
  readonly files: ConfigFiles;
  readonly row: PlannedSwitch;
}

async function planSwitches(
  db: Reads,
  intent: FabricIntent,
  live: FabricIntent,
  compiled: CompiledFabric,
  confirmed: readonly LiveRow[],
  beside: Beside | null,
  over: ReadonlyMap<string, string> | null,
): Promise<{ readonly rows: PlannedRow[]; readonly empty: string[] }> {
  const bySerial = new Map(confirmed.map((c) => [c.serial, c]));
  const rows: PlannedRow[] = [];
  const dialectAt = seatDialects([...live.models, ...intent.models]);
  const plan = async (seat: Seat, serial: string, files: ConfigFiles, leaves: boolean, load: number): Promise<void> => {
    const was = bySerial.get(serial);
    const target = hashOf(files);
    // What is put back is put over what was seen to run: if it is another by then, the switch is left alone.
    const expected = over === null ? (was?.hash ?? null) : (over.get(serial) ?? null);
    if (over !== null && !over.has(serial)) return;
    if (expected === target) return;
    const before = expected === null ? null : await textOf(db, expected);
    const dialect = dialectAt(seat);
    const asked = before && asksAround(parseOnce(expected!, before, dialect).config);
    const asks = asksAround(parseOnce(target, files, dialect).config);
    rows.push({
      target: {
        ...asTarget(seat),
        dialect: dialect.name,
        fate: leaves ? 'gone' : was ? 'changed' : 'new',
        ...(asked === null || asked === asks ? {} : { turn: asks ? ('drained' as const) : ('back' as const) }),
        load,
      },
      files,
      row: {
        host: seat.host,
        seat: seat.id,
        serial,
        target,
        expected,
        expectedRevision: was?.revision ?? null,
        expectedChange: was?.change_id ?? null,
        ...documentCounts(before, files),
        leaves,
      },
    });
  };
  const loadOf = (seat: Seat): number => intent.ports.filter((p) => p.rack === seat.rack && isOn(p, seat)).length;
  const empty: string[] = [];
  const seated = new Set<string>();
  const filesBeside = new Map(
    (beside ? seatsTaken(beside.intent, beside.compiled.layout) : [])
      .filter((c: Claim) => beside!.serials.has(c.serial))
      .map((c) => [c.serial, beside!.compiled.switches.find((s) => s.seat.id === c.seat)]),
  );
  for (const { seat, files } of compiled.switches) {
    const serial = intent.seating[seat.id];
    if (serial === undefined) empty.push(seat.id);
    else {
      seated.add(serial);
      await plan(seat, serial, filesBeside.get(serial)?.files ?? files, false, loadOf(seat));
    }
  }
  for (const [serial, s] of filesBeside)
    if (!seated.has(serial) && s) {
      seated.add(serial);
      await plan(s.seat, serial, s.files, false, 0);
    }
  // Switches of ours without a seat: cleared, unless another switch has taken the seat (then this one is dead, and stays).
  const [layout, before] = [layOut(intent), layOut(live)];
  for (const was of confirmed) {
    if (seated.has(was.serial) || (intent.seating[was.seat] ?? was.serial) !== was.serial) continue;
    const seat = layout.seatById.get(was.seat) ?? before.seatById.get(was.seat) ?? seatOfName(was.seat, was.host);
    await plan(seat, was.serial, blankFiles(dialectAt(seat), was.host), true, 0);
  }
  return { rows, empty };
}
