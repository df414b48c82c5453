import type { BetweenStand, FabricBetween, SwitchBetween, TextsBetween, TextSide } from '@anthemion/contract';
import {
  cablesOf,
  cablesOnSwitches,
  portsOnSwitches,
  seatDialects,
  type Dialect,
  compareTexts,
  describeEdit,
  editsBetween,
  folderTexts,
  isItsOwn,
  layOut,
  documentCounts,
  naturally,
  veilSecrets,
  type ConfigFiles,
  type FabricIntent,
  type Place,
} from '@anthemion/core';
import type { Db, Reads } from '../../store/database.ts';
import { intentAt, liveRevision, revisionTexts } from '../../store/fabrics.ts';
import { readingsOf } from '../../store/live.ts';
import { ranTextOf } from '../../store/ranTexts.ts';
import { meantOf } from '../../store/seats.ts';
import { hashOfFiles, textOf } from '../../store/texts.ts';
import { notThere } from '../../trouble.ts';
import { hashOf, parseOnce, weigh } from '../fabricMemory.ts';
import { compiledState, snapshot, stateAt } from './state.ts';

/** A fabric at two moments, or one of its switches (or two of them). */
export interface BetweenTask<K extends 'between' | 'texts between'> {
  readonly do: K;
  readonly fabric: string;
  readonly change: string | null;
  readonly left: string;
  readonly right: string;
}
export interface TextsBetweenTask extends BetweenTask<'texts between'> {
  readonly seat: string;
  /** The seat on the right; the same where a switch is compared with itself. */
  readonly with: string;
}

interface FabricSeen {
  readonly fabric: string;
  readonly change: string | null;
}

/** What a fabric says of its switches at a moment. */
interface Moment {
  readonly title: string;
  readonly intent: FabricIntent;
  /** Does the intent say what the texts are? What runs may be anything. */
  readonly isMeant: boolean;
  /** By seat; files where they are at hand, else they lie under the hash, null = it has no text. */
  readonly texts: ReadonlyMap<string, Held>;
}
interface Held {
  readonly host: string;
  readonly hash: string | null;
  readonly files?: ConfigFiles;
  readonly at?: string | null;
}

const REVISION = /^revision-([1-9]\d{0,8})$/;
const KEPT = /^kept-([1-9]\d{0,14})$/;

/** Reads the texts of a moment. */
async function momentOf(db: Reads, { fabric, change }: FabricSeen, moment: string): Promise<Moment> {
  const number = REVISION.exec(moment)?.[1];
  if (number !== undefined) {
    const intent = await intentAt(db, fabric, Number(number));
    const texts = new Map((await revisionTexts(db, fabric, Number(number))).map((t) => [t.seat, t]));
    const seats = layOut(intent).seats.map(({ id, host }) => [id, texts.get(id) ?? { host, hash: null }] as const);
    return { title: `revision ${number}`, intent, isMeant: true, texts: new Map(seats) };
  }
  switch (moment) {
    case 'live': {
      const revision = await liveRevision(db, fabric);
      const meant = await meantOf(db, fabric);
      return {
        title: `what is live (revision ${revision})`,
        intent: await intentAt(db, fabric, revision),
        isMeant: true,
        texts: new Map(meant.map((m) => [m.seat, m])),
      };
    }
    case 'meant': {
      const state = await stateAt(db, fabric, change);
      if (state.intent.name !== fabric) throw notThere(`change ${change} of ${fabric}`);
      const { switches, layout } = await compiledState(db, state);
      const made = new Map(switches.map(({ seat, files }) => [seat.id, files]));
      const seats = layout.seats.map(({ id, host }): readonly [string, Held] => {
        const files = made.get(id);
        return [id, files ? { host, hash: hashOf(files), files } : { host, hash: null }];
      });
      const title = change === null ? 'what is meant' : 'the open change';
      return { title, intent: state.intent, isMeant: true, texts: new Map(seats) };
    }
    case 'running': {
      const { intent } = await stateAt(db, fabric, change);
      const readings = await readingsOf(db, fabric, change);
      const seats = layOut(intent).seats.map(({ id, host }): readonly [string, Held] => {
        const read = readings.get(intent.seating[id] ?? '');
        return [id, { host, hash: read?.running ?? null, at: read?.read_at ?? null }];
      });
      return { title: 'what runs', intent, isMeant: false, texts: new Map(seats) };
    }
    default:
      throw notThere(`moment “${moment.slice(0, 40)}”: moments are live, meant, running and revision-NUMBER`);
  }
}

/** Its documents; those of older releases may hold secrets in plain words, which nobody is shown. */
async function filesOf(db: Reads, held: Held | undefined): Promise<ConfigFiles | null> {
  if (held?.files) return held.files;
  const files = held?.hash ? await textOf(db, held.hash) : null;
  return files && veilSecrets(files);
}

export const betweenTask = (db: Db, task: BetweenTask<'between'>): Promise<FabricBetween> =>
  snapshot(db, async (tx) => {
    const left = await momentOf(tx, task, task.left);
    const right = await momentOf(tx, task, task.right);
    const switches: SwitchBetween[] = [];
    for (const seat of new Set([...left.texts.keys(), ...right.texts.keys()])) {
      const [a, b] = [left.texts.get(seat), right.texts.get(seat)];
      const stand = standOf(a, b);
      const counts =
        stand === 'same' || stand.startsWith('no text')
          ? { added: 0, removed: 0 }
          : documentCounts(await filesOf(tx, a), await filesOf(tx, b));
      switches.push({ seat, host: (b ?? a)!.host, stand, ...counts });
    }
    weigh(task.fabric);
    return {
      left: left.title,
      right: right.title,
      edits: left.isMeant && right.isMeant ? editsBetween(left.intent, right.intent).map((e) => describeEdit(e)) : null,
      switches: switches.sort(
        (x, y) => Number(x.stand === 'same') - Number(y.stand === 'same') || naturally(x.host, y.host),
      ),
    };
  });

function standOf(left: Held | undefined, right: Held | undefined): BetweenStand {
  if (!left) return 'only right';
  if (!right) return 'only left';
  if (left.hash === null) return right.hash === null ? 'same' : 'no text left';
  if (right.hash === null) return 'no text right';
  return left.hash === right.hash ? 'same' : 'differs';
}

export const textsBetweenTask = (db: Db, task: TextsBetweenTask): Promise<TextsBetween> =>
  snapshot(db, async (tx) => {
    const [one, other] = [await sideOf(tx, task, task.left, task.seat), await sideOf(tx, task, task.right, task.with)];
    if (!one.known && !other.known) throw notThere(`seat ${task.seat} in ${one.side.title} or ${other.side.title}`);
    // A switch that comes or goes is called on both sides as it is where it is.
    const named = (side: TextSide, far: TextSide): TextSide => (side.host === '' ? { ...side, host: far.host } : side);
    const [left, right] = [named(one.side, other.side), named(other.side, one.side)];
    if (!left.files || !right.files) return { left, right, says: null };
    const two = left.host !== right.host && left.seat !== right.seat;
    const sides = two ? { left: left.host, right: right.host } : { left: left.title, right: right.title };
    const own = two ? await ownPlaces(tx, task) : undefined;
    const read = (files: ConfigFiles, dialect: Dialect) => parseOnce(hashOfFiles(files), files, dialect);
    const [a, b] = [read(left.files, one.dialect), read(right.files, other.dialect)];
    return { left, right, says: compareTexts(a, b, sides, own) };
  });

/** One side; a seat that the moment does not have is not known there, and has no text. */
async function sideOf(
  db: Reads,
  task: TextsBetweenTask,
  moment: string,
  seat: string,
): Promise<{ readonly side: TextSide; readonly known: boolean; readonly dialect: Dialect }> {
  const kept = KEPT.exec(moment)?.[1];
  if (kept !== undefined) {
    const text = await ranTextOf(db, Number(kept), [task.fabric]);
    if (text?.fabric !== task.fabric) throw notThere(`back-up ${kept} of a switch of ${task.fabric}`);
    const { host, at, hash } = text;
    const files = await filesOf(db, { host, hash });
    const { intent } = await stateAt(db, task.fabric, null);
    const side = { seat: text.seat, host, title: 'the back-up', at, files };
    return { side, known: true, dialect: dialectAt(intent, text.seat) };
  }
  const { title, intent, texts } = await momentOf(db, task, moment);
  const held = texts.get(seat);
  const side = { seat, host: held?.host ?? '', title, at: held?.at ?? null, files: await filesOf(db, held) };
  return { side, known: held !== undefined, dialect: dialectAt(intent, seat) };
}

/** What a seat is spoken to in; of one that is not there, the texts are not read. */
const dialectAt = (intent: FabricIntent, seat: string): Dialect =>
  seatDialects(intent.models)({ model: layOut(intent).seatById.get(seat)?.model ?? '' });

/** What each of two switches has its own of: what is named after it, and what is drawn for it. */
async function ownPlaces(db: Reads, task: TextsBetweenTask): Promise<(place: Place) => boolean> {
  const state = await stateAt(db, task.fabric, task.change);
  const layout = layOut(state.intent);
  const contexts = [task.seat, task.with].flatMap((id) => {
    const seat = layout.seatById.get(id);
    return seat ? [{ intent: state.intent, layout, seat, values: state.values, ledger: [], edits: [] }] : [];
  });
  return (place) => contexts.some((context) => isItsOwn(place, context));
}

export interface TextsOfTask {
  readonly do: 'texts of';
  readonly fabric: string;
  readonly moment: string;
}
/**
 * All texts of a fabric at a moment, with the cables between its switches, as a folder that `anthemion check` reads:
 * path → text. A switch that has no text is left out.
 */
export const textsOfTask = (db: Db, task: TextsOfTask): Promise<ReadonlyMap<string, string>> =>
  snapshot(db, async (tx) => {
    const { intent, texts } = await momentOf(tx, { fabric: task.fabric, change: null }, task.moment);
    const files = new Map<string, ConfigFiles>();
    for (const held of texts.values()) {
      const own = await filesOf(tx, held);
      if (own) files.set(held.host, own);
    }
    if (files.size === 0) throw notThere(`text of ${task.fabric} at ${task.moment}: none is kept`);
    const layout = layOut(intent);
    const cables = cablesOnSwitches(cablesOf(layout), portsOnSwitches(intent.models, layout));
    return folderTexts({ files, cables, hosts: [] });
  });
