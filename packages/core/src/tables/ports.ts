import {
  cablesOfLink,
  rackPatternAt,
  rackPatternOf,
  serverPortKey,
  type FabricIntent,
  type ServerPort,
} from '../intent/intent.ts';
import { expandPorts } from '../numbers/ports.ts';
import { columnsOf, keptWhereUnsaid, type Table } from './table.ts';

/** The next port of a rack that no server and no outside link has; null = it is full, or there is no such rack. */
export function nextFreePort(intent: FabricIntent, number: number): string | null {
  const pattern = rackPatternAt(intent, number);
  const there = <P extends { readonly rack: number }>(of: readonly P[]): P[] => of.filter((p) => p.rack === number);
  const taken = new Set([...there(intent.ports), ...there(intent.outside).flatMap(cablesOfLink)].map((p) => p.port));
  return (pattern ? (expandPorts(pattern.serverPorts) ?? []) : []).find((p) => !taken.has(p)) ?? null;
}

/** Server, rack, and as far as said port, leaf, networks: connects it. Without a port it takes the next free one. */
export const portTable: Table<'port'> = {
  kind: 'port',
  columns: columnsOf('port', {
    server: { called: ['host', 'name'] },
    rack: { read: (text) => Number(/^(?:rack-?)?(\d{1,4})$/i.exec(text)?.[1] ?? Number.NaN) || null },
    port: {},
    side: { called: ['on', 'leaf'] },
    untagged: { called: ['network'] },
    tagged: { called: ['networks'] },
    shut: { called: ['state'] },
    speed: { called: ['gb/s'] },
    fec: {},
  }),
  reader: () => (row, now) => {
    const said = row as Partial<ServerPort>;
    if (said.server === undefined) return 'The server has no name.';
    const rack = now.racks.find((r) => r.number === said.rack);
    if (!rack) return `There is no rack ${said.rack ?? 'without a number'}. Write the number of one that is there.`;
    const port = said.port ?? nextFreePort(now, rack.number);
    if (port === null) return `Rack ${rack.number} has no free port.`;
    const side = said.side ?? (rackPatternOf(now, rack)?.kind === 'esi-pair' ? 'both' : 'a');
    const place = { rack: rack.number, side, port };
    const known = now.ports.find((p) => serverPortKey(p) === serverPortKey(place));
    const { server, untagged, tagged = [] } = said;
    const item: ServerPort = {
      ...place,
      server,
      ...(untagged === undefined ? {} : { untagged }),
      tagged,
      // A port is said anew as a whole; only whether it is open, and how it is driven, is kept where the row does not say.
      ...keptWhereUnsaid(row, known, ['shut', 'speed', 'fec']),
    };
    return known && known.server !== server
      ? `${port} of rack ${rack.number} is ${known.server}'s. Choose another port, or leave it empty.`
      : { key: serverPortKey(place), item };
  },
};
