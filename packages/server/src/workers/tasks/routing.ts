import { MOST_NEIGHBOURS, type RoutingAnswer } from '@anthemion/contract';
import { neighbourRows, policiesOf, type NeighbourRow } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { networkAt } from './network.ts';
import { snapshot } from './state.ts';

/** Who speaks with whom in the network that a fabric makes, and by which policies. */
export interface RoutingTask {
  readonly do: 'routing';
  readonly fabric: string;
  readonly change: string | null;
  /** Neighbours of this switch alone; null = of all. */
  readonly of: string | null;
}

/** Answered as it is sent: of a large fabric it is long. */
export const routingTask = (db: Db, { fabric, change, of }: RoutingTask): Promise<Uint8Array> =>
  snapshot(db, async (tx) => {
    const { compiled, network } = await networkAt(tx, fabric, change);
    const all = neighbourRows(network).filter((r) => of === null || r.a.host === of || r.b?.host === of);
    const count = (stand: NeighbourRow['stand']): number => all.filter((r) => r.stand === stand).length;
    const answer: RoutingAnswer = {
      counts: { up: count('up'), down: count('down'), uncertain: count('uncertain') },
      neighbours: all.slice(0, MOST_NEIGHBOURS),
      policies: policiesOf(compiled.switches.map((s) => ({ host: s.seat.host, config: s.parsed.config }))),
    };
    return new TextEncoder().encode(JSON.stringify(answer));
  });
