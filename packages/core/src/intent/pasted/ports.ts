import { sameContent } from '../../numbers/content.ts';
import { expandPorts } from '../../numbers/order.ts';
import { rackPatternOf, serverPortKey, type FabricIntent, type ServerPort, type Side } from '../intent.ts';
import { pastedEdits, type PastedColumn, type PastedEdits } from './pastedEdits.ts';

type Key = 'server' | 'rack' | 'port' | 'side' | 'untagged' | 'tagged' | 'open';
const COLUMNS: readonly PastedColumn<Key>[] = [
  { key: 'server', called: ['server', 'host', 'name'] },
  { key: 'rack', called: ['rack'] },
  { key: 'port', called: ['port'] },
  { key: 'side', called: ['on', 'side', 'leaf'] },
  { key: 'untagged', called: ['untagged', 'network'] },
  { key: 'tagged', called: ['tagged', 'networks'] },
  { key: 'open', called: ['open', 'state'] },
];

/** The next port of a rack that no server has; null = it is full, or there is no such rack. */
export function nextFreePort(intent: FabricIntent, number: number): string | null {
  const rack = intent.racks.find((r) => r.number === number);
  const pattern = rack && rackPatternOf(intent, rack);
  const taken = new Set(intent.ports.filter((p) => p.rack === number).map((p) => p.port));
  return (pattern ? (expandPorts(pattern.serverPorts) ?? []) : []).find((p) => !taken.has(p)) ?? null;
}

/** `leaf a`, `a` → a; `both leaves, ESI LAG`, `both`, `a, b` → both. */
function sideOf(text: string): Side | null {
  const word = text.toLowerCase().replace(/^leaf /, '');
  if (word === 'a' || word === 'b') return word;
  return word.startsWith('both') || word === 'a, b' ? 'both' : null;
}

/** Server, rack, and as far as said port, leaf, networks: connects it. Without a port it takes the next free one. */
export function pastedPorts(intent: FabricIntent, cells: readonly (readonly string[])[]): PastedEdits {
  return pastedEdits(intent, cells, COLUMNS, (row, now) => {
    const { server, rack = '', untagged, tagged = '', open } = row;
    if (server === undefined) return 'The server has no name.';
    const number = /^(?:rack-?)?(\d{1,4})$/i.exec(rack)?.[1];
    const found = now.racks.find((r) => r.number === Number(number));
    if (!found) return `There is no rack ${rack}. Write its number.`;
    const port = row.port ?? nextFreePort(now, found.number);
    if (port === null) return `Rack ${found.number} has no free port.`;
    const isPair = rackPatternOf(now, found)?.kind === 'esi-pair';
    const side = row.side === undefined ? (isPair ? 'both' : 'a') : sideOf(row.side);
    if (side === null) return `“${row.side}” is no leaf of a rack. Write a, b or both.`;
    const key = serverPortKey({ rack: found.number, side, port });
    const before = now.ports.find((p) => serverPortKey(p) === key && p.server === server);
    const isShut = open === undefined ? before?.shut === true : /^(shut|closed|no)$/i.test(open);
    const next: ServerPort = {
      rack: found.number,
      side,
      port,
      server,
      ...(untagged === undefined ? {} : { untagged }),
      tagged: tagged.split(/[\s,;]+/).filter((t) => t !== ''),
      ...(isShut ? { shut: true } : {}),
    };
    if (!before) return [{ kind: 'connectServer', port: next }];
    if (sameContent(before, next)) return [];
    // A port is said anew as a whole.
    return [
      { kind: 'disconnectServer', rack: next.rack, side, port },
      { kind: 'connectServer', port: next },
    ];
  });
}
