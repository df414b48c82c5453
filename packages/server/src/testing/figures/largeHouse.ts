import {
  applyEdits,
  compileFabric,
  demandsOf,
  drawValues,
  emptyIntent,
  FABRIC_PATTERNS,
  layEdits,
  layOut,
  modelNetwork,
  NOTHING_HELD,
  POOLS,
  serialFor,
  valueInterval,
  type Edit,
  type FabricIntent,
  type FabricPattern,
  type LedgerEntry,
  type Pool,
  type SwitchModel,
} from '@anthemion/core';
import { sql } from 'kysely';
import type { Db } from '../../store/database.ts';
import { addFabric, addRevision, keepRevisionTexts, putFigures } from '../../store/fabrics.ts';
import { putSaid, type Said } from '../../store/live.ts';
import { addPool } from '../../store/pools.ts';
import { putLive, settleClaims, settleMeant } from '../../store/seats.ts';
import { addSwitches } from '../../store/switches.ts';
import { textToKeep, keepTexts } from '../../store/texts.ts';
import { seatsTaken } from '../../workers/tasks/state.ts';

/** Pools wide enough for any fabric here. */
export const WIDE: readonly Pool[] = POOLS.map((p) => ({
  ...p,
  ranges:
    {
      'spine-as': ['4200000000-4200000999'],
      'leaf-as': ['4200001000-4200099999'],
      loopbacks: ['10.128.0.0/10'],
      vteps: ['10.192.0.0/10'],
      overlay: ['10000-99999'],
      'skerry-tenants': ['10.0.0.0/10'],
      'fabric-links': ['10.64.0.0/10'],
    }[p.name] ?? p.ranges,
}));

/** A three-stage fabric of pairs of leaves, all seats filled, with networks and a few servers in each rack. */
export function pairIntent(name: string, prefix: string, racks: number, spines: number): FabricIntent {
  const pattern: FabricPattern = {
    ...FABRIC_PATTERNS[0]!,
    name: 'large',
    spines: { count: spines, model: 'TV-S2K' },
    racks: [{ pattern: 'pair-wide', count: racks }],
    settings: {},
  };
  const [, pools] = layEdits(FABRIC_PATTERNS[0]!) as [Edit, Edit];
  const block = (ports: string, speed: number) => ({ ports, speed }) as SwitchModel['blocks'][number];
  const wide = {
    name: 'TV-L64',
    maker: 'Tarn & Vale',
    dialect: 'linux',
    blocks: [block('p1-p48', 25), block('p49-p80', 100)],
    maxMtu: 9216,
  };
  const spine = {
    name: 'TV-S2K',
    maker: 'Tarn & Vale',
    dialect: 'linux',
    blocks: [block('p1-p1024', 100), block('p1025-p2048', 100)],
    maxMtu: 9216,
  };
  const made = applyEdits(emptyIntent(name, prefix), [
    {
      kind: 'layFabric',
      pattern,
      models: [wide, spine] as SwitchModel[],
      rackPatterns: [
        { name: 'pair-wide', kind: 'esi-pair', leafModel: 'TV-L64', serverPorts: 'p1-p48', uplinkPorts: 'p49-p80' },
      ],
    },
    pools,
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
    ...Array.from({ length: 20 }, (_, i): Edit => ({
      kind: 'addNetwork',
      network: {
        name: `net-${i}`,
        vrf: 'tides',
        vlan: 100 + i,
        subnetLength: 24,
        racks: Array.from({ length: racks }, (_, r) => r + 1).filter((r) => r % 20 === i),
      },
    })),
    ...Array.from({ length: racks }, (_, r): Edit[] =>
      [1, 2, 3].map((p) => ({
        kind: 'connectServer',
        port: {
          rack: r + 1,
          side: 'both',
          port: `p${p}`,
          server: `srv-${r + 1}-${p}`,
          untagged: `net-${(r + 1) % 20}`,
          tagged: [],
        },
      })),
    ).flat(),
  ]);
  if (made.findings.length > 0) throw new Error(made.findings[0]!.message);
  const seats = layOut(made.intent).seats;
  return {
    ...made.intent,
    seating: Object.fromEntries(seats.map((s, i) => [s.id, serialFor(prefix, i, s.model)])),
  };
}

/** A fabric as it stands after its first change went live: change `build-NAME`, revision 1, ledger. */
export async function putBuilt(
  tx: Db,
  built: {
    readonly intent: FabricIntent;
    readonly entries: readonly LedgerEntry[];
    readonly spines: number;
    readonly superSpines: number;
    readonly leaves: number;
    readonly racks: number;
    readonly at: string;
  },
): Promise<void> {
  const { intent, entries, at, ...figures } = built;
  const { name, namePrefix } = intent;
  await addFabric(tx, name, namePrefix, at);
  await sql`insert into changes (id, fabric, title, reason, ticket, author, state, base_revision, version, conflicts, created_at, updated_at)
    values (${`build-${name}`}, ${name}, 'Build', '', '', 'ines', 'Live', 0, 2, '[]', ${at}, ${at})`.execute(tx);
  await addRevision(tx, {
    fabric: name,
    number: 1,
    intent: JSON.stringify(intent),
    author: 'ines',
    title: 'Build',
    reason: '',
    ticket: '',
    change_id: `build-${name}`,
    sentences: '[]',
    at,
  });
  await putFigures(tx, name, figures);
  for (const e of entries) {
    const { from, to } = valueInterval(e.kind, e.value)!;
    await sql`insert into ledger (kind, pool, value, fabric, key, drawn_by, lo, hi) values (${e.kind}, ${e.pool}, ${e.value}, ${name}, ${e.key}, ${`build-${name}`}, ${from}, ${to})`.execute(
      tx,
    );
  }
}

/** What a switch of a fabric that runs as meant would say. */
const saidBy = (
  host: string,
  ports: readonly string[],
  sessions: ReturnType<typeof modelNetwork>['sessions'],
  far: ReadonlyMap<string, { readonly host: string; readonly port: string }>,
): Said => ({
  signal: ports.map((p) => [p, true]),
  peers: sessions.filter((s) => s.host === host).map((s) => [s.peer, { ipv4: 'Established', evpn: 'Established' }]),
  neighbours: ports.flatMap((p) => {
    const end = far.get(`${host} ${p}`);
    return end ? [[p, end.host, end.port] as const] : [];
  }),
});

/**
 * A fabric that is live with every switch seated, confirmed and read, in a store of its own. Its switches are left alone by
 * the reading (`refused` 3): nobody is behind their addresses. Some have drifted, so that there is something to see.
 */
export async function fillFabric(db: Db, name: string, prefix: string, racks: number, spines: number): Promise<void> {
  for (const p of WIDE) await addPool(db, p, '');
  const intent = pairIntent(name, prefix, racks, spines);
  const layout = layOut(intent);
  const drawn = drawValues(demandsOf(intent, layout), WIDE, NOTHING_HELD, { fabric: name, change: null });
  if (drawn.findings.length > 0) throw new Error(drawn.findings[0]!.message);
  const compiled = compileFabric(intent, drawn.values, WIDE);
  const network = modelNetwork(
    compiled.switches.map((s) => ({ host: s.seat.host, ...s.parsed })),
    compiled.cables,
  );
  const far = new Map(
    compiled.cables.flatMap(({ a, b }) => [[`${a.host} ${a.port}`, b] as const, [`${b.host} ${b.port}`, a] as const]),
  );
  const sessionsOf = new Map<string, (typeof network.sessions)[number][]>();
  for (const s of network.sessions) sessionsOf.set(s.host, [...(sessionsOf.get(s.host) ?? []), s]);
  const now = new Date().toISOString();
  await db.transaction().execute(async (tx) => {
    await putBuilt(tx, {
      intent,
      entries: drawn.entries,
      spines,
      superSpines: 0,
      racks,
      leaves: layout.seats.length - spines,
      at: now,
    });
    await addSwitches(
      tx,
      layout.seats.map((s) => ({
        serial: intent.seating[s.id]!,
        model: s.model,
        address: '127.0.0.1',
        port: 9,
        location: '',
      })),
    );
    const meant = [];
    for (const [i, s] of compiled.switches.entries()) {
      const serial = intent.seating[s.seat.id]!;
      const text = textToKeep(s.files);
      const other =
        i % 97 === 40
          ? textToKeep({
              ...s.files,
              interfaces: s.files['interfaces']!.replace('iface p1\n', 'iface p1\n    link-down yes\n'),
            })
          : text;
      await keepTexts(tx, [text, other]);
      meant.push({ seat: s.seat.id, host: s.seat.host, hash: text.hash });
      await putLive(tx, {
        serial,
        fabric: name,
        seat: s.seat.id,
        host: s.seat.host,
        hash: text.hash,
        revision: 1,
        change_id: `build-${name}`,
        at: now,
      });
      await tx
        .updateTable('switches')
        .set({ running: other.hash, read_at: now, refused: 3 })
        .where('serial', '=', serial)
        .execute();
      const said = saidBy(
        s.seat.host,
        s.config.ports.map((p) => p.name),
        sessionsOf.get(s.seat.host) ?? [],
        far,
      );
      await putSaid(tx, serial, '2100-01-01T00:00:00.000Z', JSON.stringify(said));
    }
    await settleMeant(tx, name, meant);
    await keepRevisionTexts(tx, name, 1, meant);
    await settleClaims(tx, name, null, seatsTaken(intent, layout));
  });
}
