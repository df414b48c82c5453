import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { layOut } from '../layout/layout.ts';
import { applyEdits } from '../intent/edits/index.ts';
import { emptyIntent, networkMtu, type FabricIntent } from '../intent/intent.ts';
import { skerryEdits } from '../demo/skerry.ts';
import { racksText } from '../intent/racksText.ts';
import { intents, wideIntents } from '../testing/fabricOf.ts';
import { TABLES, type TableName } from './index.ts';
import { pastedInto, tableCells, type PastedEdits, type Table } from './table.ts';

const skerry: FabricIntent = applyEdits(emptyIntent('skerry', 'sk'), skerryEdits()).intent;
const carried = skerry.networks.find((n) => n.racks.includes(1))!.name;
const said = (p: PastedEdits): (string | undefined)[] => p.lines.map((l) => l.findings[0]?.message);
const edits = (p: PastedEdits) => p.lines.flatMap((l) => l.edits);

/** What the tables export, headings included. */
const PORTS = [
  ['Server', 'Rack', 'Port', 'On', 'Untagged', 'Tagged', 'Open'],
  ...skerry.ports.map((p) => [
    p.server,
    String(p.rack),
    p.port,
    { both: 'both leaves, ESI LAG', a: 'leaf a', b: 'leaf b' }[p.side],
    p.untagged ?? '',
    p.tagged.join(', '),
    p.shut ? 'shut' : 'open',
  ]),
];
const DRAWN: Record<string, string> = Object.fromEntries(
  skerry.networks.flatMap((n, i) => [
    [`network:${n.name}/vni`, String(n.vni ?? 10_000 + i)],
    [`network:${n.name}/subnet`, n.subnet ?? `10.40.${i}.0/${n.subnetLength}`],
  ]),
);
const NETWORKS = [
  ['Network', 'VRF', 'VLAN', 'VNI', 'Subnet', 'MTU', 'Racks', 'Servers'],
  ...skerry.networks.map((n) => [
    n.name,
    n.vrf,
    String(n.vlan),
    DRAWN[`network:${n.name}/vni`]!,
    DRAWN[`network:${n.name}/subnet`]!,
    String(networkMtu(skerry, n)),
    racksText(n.racks),
    '3',
  ]),
];
const SEATS = [
  ['Seat', 'Name on the switch', 'Serial'],
  ...layOut(skerry).seats.map((s) => [s.id, s.host, skerry.seating[s.id] ?? '']),
];

const asTable = (name: TableName): Table<never> => TABLES[name] as unknown as Table<never>;

describe('a table of any kind', () => {
  test('out and in again changes nothing, and onto a fabric without its rows it makes them as they were', () => {
    fc.assert(
      fc.property(
        fc.oneof(intents, wideIntents),
        fc.constantFrom(...(Object.keys(TABLES) as TableName[])),
        (intent, name) => {
          const cells = tableCells(asTable(name), intent);
          const again = pastedInto(asTable(name), intent, null, cells);
          expect(said(again).filter(Boolean)).toEqual([]);
          expect(edits(again)).toEqual([]);
          // Without what the rows are of, and what names it; racks come in the order of their numbers, so their positions are given.
          const bare: FabricIntent = {
            ...intent,
            ports: [],
            outside: [],
            ...(name === 'ports' ? {} : { networks: [] }),
            ...(name === 'vrfs' ? { vrfs: [] } : {}),
            ...(name === 'racks' ? { racks: [] } : {}),
            ...(name === 'seats' ? { seating: {} } : {}),
          };
          const made = applyEdits(bare, edits(pastedInto(asTable(name), bare, null, cells)));
          expect(made.findings).toEqual([]);
          const part = name === 'seats' ? 'seating' : name;
          expect(made.intent[part]).toEqual(intent[part]);
        },
      ),
      { numRuns: 100 },
    );
  });
  test('every column has a heading of its own and reads what it writes', () => {
    for (const name of Object.keys(TABLES) as TableName[]) {
      const words = asTable(name).columns.flatMap((c) => [...new Set([c.title.toLowerCase(), ...c.called])]);
      expect(new Set(words).size, name).toBe(words.length);
    }
  });
});

describe('cells pasted from a spreadsheet', () => {
  test('a column is known by each of its names, in small letters or large', () => {
    for (const name of Object.keys(TABLES) as TableName[]) {
      const { columns } = asTable(name);
      for (const word of columns.flatMap((c) => [c.title, ...c.called]))
        for (const written of [word, word.toUpperCase(), word.toLowerCase()])
          expect([written, pastedInto(asTable(name), skerry, null, [[columns[0]!.title, written]]).unknown]).toEqual([
            written,
            [],
          ]);
    }
  });

  test('what a table exports changes nothing when it is pasted back, in whatever order its columns stand', () => {
    fc.assert(
      fc.property(fc.constantFrom(PORTS, NETWORKS, SEATS), fc.infiniteStream(fc.nat()), (table, dice) => {
        const [first, ...others] = table[0]!.map((_, i) => i);
        const order = [
          first!,
          ...others
            .map((i) => [dice.next().value!, i] as const)
            .sort(([a], [b]) => a - b)
            .map(([, i]) => i),
        ];
        const cells = table.map((row) => order.map((i) => row[i]!));
        const pasted =
          table === PORTS
            ? pastedInto(TABLES.ports, skerry, null, cells)
            : table === SEATS
              ? pastedInto(TABLES.seats, skerry, null, cells)
              : pastedInto(TABLES.networks, skerry, DRAWN, cells);
        expect(said(pasted).filter(Boolean)).toEqual([]);
        expect(edits(pasted)).toEqual([]);
        expect(pasted.lines).toHaveLength(table.length - 1);
      }),
    );
  });

  test('servers without a port take the next free ones of their rack, one after another', () => {
    const pasted = pastedInto(TABLES.ports, skerry, null, [
      ['new-1', '1', '', '', carried],
      ['new-2', 'rack-1', '', '', carried],
    ]);
    expect(said(pasted)).toEqual([undefined, undefined]);
    const [one, two] = edits(pasted).flatMap((e) => (e.kind === 'connectServer' ? [e.port] : []));
    expect(one!.port).not.toBe(two!.port);
    const taken = new Set(skerry.ports.filter((p) => p.rack === 1).map((p) => p.port));
    expect([one, two].some((p) => taken.has(p!.port))).toBe(false);
    expect(applyEdits(skerry, edits(pasted)).findings).toEqual([]);
  });

  test('every line that cannot be is said with its cure; the others are judged all the same', () => {
    const pasted = pastedInto(TABLES.ports, skerry, null, [
      ['Server', 'Rack', 'On', 'Colour', 'Untagged'],
      ['new-1', '99', '', 'red'],
      ['', '1', '', ''],
      ['new-3', '1', 'c', ''],
      ['new 4!', '1', '', ''],
      ['new-5', '1', '', '', carried],
    ]);
    expect(said(pasted)).toEqual([
      'There is no rack 99. Write the number of one that is there.',
      'The server has no name.',
      '“c” cannot be read as leaf. Write a, b or both.',
      expect.stringMatching(/server/i) as string,
      undefined,
    ]);
    expect(pasted.lines.map((l) => l.line)).toEqual([2, 3, 4, 5, 6]);
    expect(pasted.unknown).toEqual(['Colour']);
    expect(
      said(
        pastedInto(TABLES.seats, skerry, null, [
          ['leaf-999', 'X1'],
          ['leaf-1', skerry.seating['leaf-2']!],
        ]),
      ),
    ).toEqual([
      expect.stringContaining('There is no seat leaf-999'),
      expect.stringContaining('sits in leaf-2 already'),
    ]);
    expect(
      said(
        pastedInto(TABLES.networks, skerry, {}, [
          ['fog', 'nowhere', 'ten'],
          ['fog'],
          ['fog', skerry.vrfs[0]!.name, '', '', '', '', '1 to 3'],
        ]),
      ),
    ).toEqual([
      '“ten” cannot be read as VLAN. Write a whole number.',
      'fog has no VRF. Write it in the second column.',
      '“1 to 3” cannot be read as racks. Write them as 1-3, 7, or none.',
    ]);
  });

  test('a network of a known name is changed where it says something else, and only there', () => {
    const known = skerry.networks[0]!;
    const [edit, ...more] = edits(
      pastedInto(TABLES.networks, skerry, DRAWN, [
        ['Network', 'MTU'],
        [known.name, '1400'],
      ]),
    );
    expect(edit).toEqual({ kind: 'changeNetwork', name: known.name, network: { ...known, mtu: 1400 } });
    expect(more).toEqual([]);
  });

  test('an empty serial leaves the seat empty; a name of a switch is as good as its seat', () => {
    const seat = layOut(skerry).seats[0]!;
    expect(edits(pastedInto(TABLES.seats, skerry, null, [[seat.host, '']]))).toEqual([
      { kind: 'clearSeat', seat: seat.id },
    ]);
  });
});
