import {
  hasServers,
  holdsAny,
  hostPrefix,
  isOn,
  lagName,
  lagNumber,
  layOut,
  ownerOf,
  parseAnyPrefix,
  subjectOf,
  type SoughtHost,
} from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { liveState, snapshot } from './state.ts';

/** Who may hear a host, by what is live: the leaves of the racks that it can be in. */
export interface HearingTask {
  readonly do: 'hearing';
  readonly fabric: string;
  readonly sought: SoughtHost;
}
/** A switch to be asked, with what it takes to say in words what it answers. */
export interface Hearing {
  readonly serial: string;
  readonly host: string;
  readonly seat: string;
  /** Server by device: by its port, or by the LAG it is on. */
  readonly servers: ReadonlyMap<string, string>;
  /** Network by VLAN. */
  readonly networks: ReadonlyMap<number, string>;
}

export const hearingTask = (db: Db, { fabric, sought }: HearingTask): Promise<Hearing[]> =>
  snapshot(db, async (tx) => {
    const { intent, values } = await liveState(tx, fabric);
    const racks = ((): ReadonlySet<number> | null => {
      if (sought.is === 'server')
        return new Set(intent.ports.flatMap((p) => (p.server.toLowerCase() === sought.server ? p.rack : [])));
      if (sought.is === 'mac') return null;
      const address = hostPrefix(sought.address)!;
      const holders = new Set<string>();
      for (const [key, value] of values) {
        const subnet = key.startsWith('network:') && value.includes('/') ? parseAnyPrefix(value) : null;
        if (subnet && holdsAny(subnet, address)) holders.add(ownerOf(key));
      }
      const around = intent.networks.filter((n) => holders.has(subjectOf('network', n.name)));
      // In no subnet of ours it may be anywhere: a bridged network has any.
      return around.length === 0 ? null : new Set(around.flatMap((n) => n.racks));
    })();
    return layOut(intent).seats.flatMap((seat): Hearing[] => {
      const { [seat.id]: serial } = intent.seating;
      if (serial === undefined || !hasServers(seat) || (racks !== null && !racks.has(seat.rack!))) return [];
      const here = intent.ports.filter((p) => p.rack === seat.rack && isOn(p, seat));
      return [
        {
          serial,
          host: seat.host,
          seat: seat.id,
          servers: new Map(
            here.map((p) => [p.side === 'both' ? lagName({ number: lagNumber(p.port) }) : p.port, p.server]),
          ),
          networks: new Map(
            intent.networks.flatMap((n) => (n.racks.includes(seat.rack!) ? [[n.vlan, n.name] as const] : [])),
          ),
        },
      ];
    });
  });
