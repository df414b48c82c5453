import {
  cablesOnSwitches,
  hostsOf,
  portsOnSwitches,
  rehearsalCut,
  type Cable,
  type ConfigFiles,
  type HostPort,
} from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { meantOf } from '../../store/seats.ts';
import { hashOfFiles } from '../../store/texts.ts';
import { compiledState, snapshot, stateAt } from './state.ts';

/** What is run to rehearse a change. */
export interface RehearseTask {
  readonly do: 'rehearse';
  readonly fabric: string;
  readonly change: string;
  /** So many switches at most. */
  readonly most: number;
}
export interface ToRehearse {
  readonly files: Readonly<Record<string, ConfigFiles>>;
  readonly cables: readonly Cable[];
  readonly hosts: readonly HostPort[];
  /** Switches of the fabric. */
  readonly of: number;
  /** Hosts whose text the change alters. */
  readonly changed: readonly string[];
}

export const rehearseTask = (db: Db, { fabric, change, most }: RehearseTask): Promise<ToRehearse> =>
  snapshot(db, async (tx) => {
    const state = await stateAt(tx, fabric, change);
    const { switches, cables, layout } = await compiledState(tx, state);
    const live = new Map((await meantOf(tx, fabric)).map((m) => [m.seat, m.hash]));
    const changed = switches.flatMap((s) => (live.get(s.seat.id) === hashOfFiles(s.files) ? [] : [s.seat.host]));
    const all = switches.map((s) => s.seat.host);
    const run = new Set(rehearsalCut(all, new Set(changed), cables, most));
    const portOf = portsOnSwitches(state.intent.models, layout);
    return {
      files: Object.fromEntries(switches.flatMap((s) => (run.has(s.seat.host) ? [[s.seat.host, s.files]] : []))),
      cables: cablesOnSwitches(
        cables.filter((c) => run.has(c.a.host) && run.has(c.b.host)),
        portOf,
      ),
      hosts: hostsOf(state.intent, layout, state.values).flatMap((h) =>
        run.has(h.switch) ? [{ ...h, port: portOf({ host: h.switch, port: h.port }) }] : [],
      ),
      of: all.length,
      changed,
    };
  });
