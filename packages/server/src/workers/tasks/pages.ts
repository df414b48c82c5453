import type { FabricStateAnswer, SeatState, TextAnswer } from '@anthemion/contract';
import {
  cablesBySerial,
  portsOnSwitches,
  layOut,
  linux,
  originOf,
  proveChange,
  veilSecrets,
  writeIntentFile,
  type ConfigFiles,
  type Origin,
} from '@anthemion/core';
import type { Db, Reads } from '../../store/database.ts';
import { fabricOf } from '../../store/fabrics.ts';
import { heldBy } from '../../store/ledger.ts';
import { allPools } from '../../store/pools.ts';
import { liveOf, meantOf } from '../../store/seats.ts';
import { standingOf } from '../../store/standing.ts';
import { switchOf } from '../../store/switches.ts';
import { textOf } from '../../store/texts.ts';
import { notThere } from '../../trouble.ts';
import { memoryOf, weigh } from '../fabricMemory.ts';
import { compiledState, liveState, snapshot, stateAt } from './state.ts';

/** Answers that are computed and written where the computing is done, so that the server only passes them on. */
export interface PageTask<K extends 'fabric page' | 'live proof' | 'intent file'> {
  readonly do: K;
  readonly fabric: string;
  readonly change: string | null;
  /** ISO day, for a proof: waivers that have ended let nothing through. */
  readonly today?: string;
}
export interface TextTask {
  readonly do: 'text page';
  readonly fabric: string;
  readonly change: string | null;
  readonly seat: string;
}

type Viewed = Awaited<ReturnType<typeof stateAt>>;
async function stateOf(db: Reads, fabric: string, change: string | null): Promise<Viewed> {
  const state = await stateAt(db, fabric, change);
  if (state.intent.name !== fabric) throw notThere(`change ${change} of ${fabric}`);
  return state;
}

/** Who sits in every seat, and what was confirmed there last. */
async function seatStates(db: Reads, fabric: string, state: Viewed): Promise<SeatState[]> {
  const confirmed = new Map((await liveOf(db, fabric)).map((l) => [l.serial, l]));
  return layOut(state.intent).seats.map((seat) => {
    const serial = state.intent.seating[seat.id] ?? null;
    const live = serial === null ? undefined : confirmed.get(serial);
    return {
      seat: seat.id,
      host: seat.host,
      serial,
      model: seat.model,
      confirmed: live ? { revision: live.revision, change: live.change_id, at: live.at } : null,
    };
  });
}

async function fabricPage(db: Reads, fabric: string, change: string | null): Promise<FabricStateAnswer> {
  const state = await stateOf(db, fabric, change);
  return {
    ...(await standingOf(db, await fabricOf(db, fabric))),
    change,
    intent: state.intent,
    values: Object.fromEntries(state.values),
    ledger: (await heldBy(db, fabric, change)).map(({ id: _, ...entry }) => entry),
    seats: await seatStates(db, fabric, state),
  };
}

async function intentFile(db: Reads, fabric: string, change: string | null): Promise<string> {
  const state = await stateOf(db, fabric, change);
  const used = new Set(Object.values(state.intent.pools));
  return writeIntentFile({
    anthemion: 1,
    fabric: state.intent,
    pools: (await allPools(db)).filter((p) => used.has(p.name)),
    ledger: (await heldBy(db, fabric, change)).map(({ id: _, ...entry }) => ({ ...entry, change: null })),
  });
}

async function liveProof(db: Reads, fabric: string, today: string): Promise<unknown> {
  const live = await liveState(db, fabric);
  return proveChange(live, live, await allPools(db), [], memoryOf(fabric), new Map(), today).report;
}

const json = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value));

export const pageTask = (db: Db, task: PageTask<'fabric page' | 'live proof' | 'intent file'>): Promise<Uint8Array> =>
  snapshot(db, async (tx) => {
    switch (task.do) {
      case 'fabric page':
        return json(await fabricPage(tx, task.fabric, task.change));
      case 'live proof': {
        const report = await liveProof(tx, task.fabric, task.today ?? '');
        weigh(task.fabric);
        return json(report);
      }
      case 'intent file':
        return new TextEncoder().encode(await intentFile(tx, task.fabric, task.change));
    }
  });

/** Texts of older releases may hold secrets in plain words; nobody is shown them. */
const veiled = (files: ConfigFiles | null): ConfigFiles | null => files && veilSecrets(files);

export const textTask = (db: Db, task: TextTask): Promise<Uint8Array> =>
  snapshot(db, async (tx) => {
    const state = await stateOf(tx, task.fabric, task.change);
    const compiled = await compiledState(tx, state);
    const made = compiled.switches.find((s) => s.seat.id === task.seat);
    const live = (await meantOf(tx, task.fabric)).find((m) => m.seat === task.seat);
    const confirmed = (await liveOf(tx, task.fabric)).find((l) => l.seat === task.seat);
    if (!made && !live && !compiled.layout.seatById.has(task.seat))
      throw notThere(`seat ${task.seat} in ${task.fabric}`);
    const serial = state.intent.seating[task.seat] ?? confirmed?.serial ?? null;
    const row = serial === null ? null : await switchOf(tx, serial);
    const origins: Record<string, (Origin | null)[]> = {};
    if (made) {
      const ledger = (await heldBy(tx, task.fabric, task.change)).map(({ id: _, ...entry }) => entry);
      const context = {
        intent: state.intent,
        layout: compiled.layout,
        seat: made.seat,
        values: state.values,
        ledger,
        edits: state.edits,
      };
      for (const [file, text] of Object.entries(made.files)) origins[file] = text.split('\n').map(() => null);
      made.dialect.parse(made.files, (place, file, line) => {
        if (origins[file]) origins[file][line - 1] = originOf(place, context);
      });
    }
    weigh(task.fabric);
    return json({
      host: made?.seat.host ?? live?.host ?? task.seat,
      seat: task.seat,
      serial,
      dialect: made?.dialect.name ?? null,
      live: veiled(live ? await textOf(tx, live.hash) : null),
      meant: made?.files ?? null,
      running: veiled(await textOf(tx, row?.running ?? null)),
      readAt: row?.read_at ?? null,
      origins,
    } satisfies TextAnswer);
  });

export interface SurroundingsTask {
  readonly do: 'surroundings';
  readonly fabric: string;
  readonly change: string | null;
}
/** Which switches the plan has cables between. */
export interface Surroundings {
  readonly cables: readonly {
    readonly a: { readonly serial: string; readonly port: string };
    readonly b: { readonly serial: string; readonly port: string };
  }[];
  /** Routers outside as they are expected to be, with what they would run. */
  readonly routers: readonly { readonly name: string; readonly files: ConfigFiles }[];
}

export const surroundingsTask = (db: Db, task: SurroundingsTask): Promise<Surroundings> =>
  snapshot(db, async (tx) => {
    const state = await stateOf(tx, task.fabric, task.change);
    const { seating, models } = state.intent;
    const compiled = await compiledState(tx, { ...state, change: task.change });
    const serialOf = new Map(compiled.layout.seats.map((s) => [s.host, seating[s.id]]));
    const portOf = portsOnSwitches(models, compiled.layout);
    const outward = compiled.outside.cables.flatMap(({ a, b }) => {
      const serial = serialOf.get(a.host);
      return serial === undefined ? [] : [{ a: { serial, port: portOf(a) }, b: { serial: b.host, port: b.port } }];
    });
    return {
      cables: [...cablesBySerial(state.intent, compiled.layout), ...outward],
      routers: compiled.outside.switches.map((s) => ({ name: s.host, files: linux.render(s.config).files })),
    };
  });
