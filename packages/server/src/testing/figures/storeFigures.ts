import {
  applyEdits,
  demandsOf,
  drawValues,
  emptyIntent,
  FABRIC_PATTERNS,
  layEdits,
  layOut,
  NOTHING_HELD,
  valueInterval,
  type Edit,
  type FabricIntent,
  type FabricPattern,
  type Taken,
} from '@anthemion/core';
import { monitorEventLoopDelay, performance } from 'node:perf_hooks';
import { sql } from 'kysely';
import { Changes } from '../../services/changes.ts';
import { openDatabase, type Db } from '../../store/database.ts';
import { addPool } from '../../store/pools.ts';
import { houseOver } from '../houseOver.ts';
import { CompilePool, InlineCompiler } from '../../workers/compilePool.ts';
import { BY, ms, percentile, say, type FigureRow } from './figure.ts';
import { findFigures } from './findFigures.ts';
import { putBuilt, WIDE } from './largeHouse.ts';

const FABRICS = 20;
const LEAVES = 1000;

const LARGE: FabricPattern = {
  ...FABRIC_PATTERNS[0]!,
  name: 'large',
  spines: { count: 4, model: 'TV-S1K' },
  racks: [{ pattern: 'single-48', count: LEAVES }],
  settings: {},
};

function largeIntent(name: string, prefix: string): FabricIntent {
  const [lay, pools] = layEdits(LARGE) as [Extract<Edit, { kind: 'layFabric' }>, Edit];
  const models = [
    ...lay.models,
    {
      name: 'TV-S1K',
      maker: 'Tarn & Vale',
      dialect: 'linux',
      blocks: [{ ports: 'p1-p1024', speed: 100 }],
      maxMtu: 9216,
    },
  ];
  const made = applyEdits(emptyIntent(name, prefix), [
    { ...lay, models: models as typeof lay.models },
    pools,
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
    ...Array.from({ length: 98 }, (_, i): Edit => ({
      kind: 'addNetwork',
      network: { name: `net-${i}`, vrf: 'tides', vlan: 100 + i, subnetLength: 26, racks: [1 + i, 2 + i] },
    })),
  ]);
  if (made.findings.length > 0) throw new Error(made.findings[0]!.message);
  return made.intent;
}

/** A store with twenty large fabrics, live, in the state it would be in after years. */
async function fill(db: Db): Promise<number> {
  for (const p of WIDE) await addPool(db, p, '');
  let ledger = 0;
  const taken = new Map<string, Taken[]>(WIDE.map((p) => [p.name, []]));
  for (let f = 0; f < FABRICS; f++) {
    const name = `fabric-${f}`;
    const intent = largeIntent(name, `f${f}`);
    const owner = { fabric: name, change: null };
    const drawn = drawValues(demandsOf(intent, layOut(intent)), WIDE, { ...NOTHING_HELD, taken }, owner);
    if (drawn.findings.length > 0) throw new Error(drawn.findings[0]!.message);
    for (const e of drawn.entries)
      if (e.pool !== '') taken.get(e.pool)!.push({ ...valueInterval(e.kind, e.value)!, fabric: name, key: e.key });
    const shape = { spines: 4, superSpines: 0, leaves: LEAVES, racks: LEAVES };
    await db.transaction().execute((tx) => putBuilt(tx, { intent, entries: drawn.entries, ...shape, at: String(f) }));
    ledger += drawn.entries.length;
    say(`filled ${name}: ${ledger} values`);
  }
  return ledger;
}

/** What an edit and a keystroke cost in such a store, in a folder of its own. */
export async function storeFigures(data: string): Promise<FigureRow[]> {
  const queries = new Map<string, readonly unknown[]>();
  const db = await openDatabase(data, ({ sql: text, parameters }) => void queries.set(text, parameters));
  const ledger = await fill(db);
  const compiler = new CompilePool(data);
  const house = houseOver(db, compiler);
  say('everything of twenty fabrics is found …');
  const finds = await findFigures(house);
  queries.clear();
  const changes = new Changes(house);
  const change = await changes.open({ fabric: 'fabric-3', title: 'Edits', reason: '', ticket: '' }, BY);
  const edit = (i: number): Edit => ({
    kind: 'addNetwork',
    network: { name: `more-${i}`, vrf: 'tides', vlan: 1000 + i, subnetLength: 26, racks: [1 + (i % 900)] },
  });
  say('first edit (everything is compiled once) …');
  await changes.addEdits(change, [edit(0)], BY);
  queries.clear();
  const delay = monitorEventLoopDelay({ resolution: 1 });
  delay.enable();
  const busy: number[] = [];
  const cpu = process.cpuUsage();
  const EDITS = 60;
  for (let i = 1; i <= EDITS; i++) {
    const before = performance.eventLoopUtilization();
    await changes.addEdits(change, [edit(i)], BY);
    busy.push(performance.eventLoopUtilization(before).active);
  }
  delay.disable();
  const spent = process.cpuUsage(cpu);
  // The same edit once more in this thread, to hear what the workers ask of the store too.
  await compiler.close();
  const inline = new InlineCompiler(data, ({ sql: text, parameters }) => void queries.set(text, parameters));
  await new Changes({ ...house, compiler: inline }).addEdits(change, [edit(EDITS + 1)], BY);
  await inline.close();
  const scans: string[] = [];
  for (const [text, parameters] of queries) {
    if (!/^(select|update|delete|with)/i.test(text)) continue;
    const plan =
      (await sql
        .raw(`explain query plan ${text}`)
        .execute(db)
        .catch(() => null)) ?? (await explained(db, text, parameters));
    for (const r of plan.rows as { detail: string }[])
      if (
        /^SCAN (ledger|changes|edits|seat_claims|switches|texts|jobs|rollouts|revisions|meant|switch_live)\b/.test(
          r.detail,
        )
      )
        scans.push(`${r.detail}: ${text.slice(0, 80)}`);
  }
  for (const s of scans) say(s);
  const rows: FigureRow[] = [
    ['ledger rows in the store', String(ledger), '64,000'],
    [
      `one edit on 1,000 leaves: event loop blocked, p99 of ${EDITS} edits`,
      ms(delay.percentile(99) / 1e6),
      'under 50 ms',
    ],
    ['… at most', ms(delay.max / 1e6), ''],
    ['… busy time of the answering thread an edit, median', ms(percentile(busy, 0.5)), ''],
    ['… CPU an edit, all threads', ms((spent.user + spent.system) / 1000 / EDITS), ''],
    [`… tables read whole by its ${queries.size} queries`, String(scans.length), '0'],
    [
      `find in ${FABRICS} fabrics of 1,000 leaves: CPU a keystroke, median of ${finds.keystrokes.length}`,
      ms(percentile(finds.keystrokes, 0.5)),
      'under 50 ms',
    ],
    ['… at most', ms(Math.max(...finds.keystrokes)), 'under 50 ms'],
    ['… all of one fabric written once: CPU, all threads', ms(finds.written / FABRICS), ''],
    ['… busy time of the answering thread for it', ms(finds.blocked / FABRICS), ''],
  ];
  await db.destroy();
  return rows;
}
/** A plan of a query with its parameters bound. */
async function explained(db: Db, text: string, parameters: readonly unknown[]): Promise<{ rows: unknown[] }> {
  return db.executeQuery({
    sql: `explain query plan ${text}`,
    parameters,
    query: { kind: 'RawNode' } as never,
    queryId: { queryId: 'plan' } as never,
  });
}
