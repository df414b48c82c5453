import type { InventoryAnswer, PartsAnswer, PoolAnswer, Settings } from '@anthemion/contract';
import {
  checkPool,
  checkRackPattern,
  layOut,
  problem,
  serialText,
  sizePattern,
  utilisation,
  valueInterval,
  intervalsOf,
  type FabricPattern,
  type Finding,
  type Pool,
  type RackPattern,
  type SwitchModel,
} from '@anthemion/core';
import Papa from 'papaparse';
import { isIP } from 'node:net';
import type { ServerContext } from '../context.ts';
import { allLedger, allPools, liveIntent } from '../changes/fabricState.ts';
import type { Db } from '../store/database.ts';
import { HttpProblem, notThere, refused } from './problem.ts';
import type { Handlers } from './routes.ts';

export async function readSettings(db: Db): Promise<Settings> {
  const row = await db.selectFrom('settings').select('value').where('key', '=', 'secondPerson').executeTakeFirst();
  return { secondPerson: row?.value === 'true' };
}

export async function allParts(db: Db): Promise<PartsAnswer> {
  const rows = await db.selectFrom('parts').selectAll().orderBy('name').execute();
  const of = <T>(kind: string): T[] => rows.filter((r) => r.kind === kind).map((r) => JSON.parse(r.json) as T);
  return {
    models: of<SwitchModel>('model'),
    rackPatterns: of<RackPattern>('rack'),
    fabricPatterns: of<FabricPattern>('fabric'),
  };
}

export async function putPart(
  db: Db,
  kind: 'model' | 'rack' | 'fabric',
  part: { readonly name: string },
): Promise<void> {
  const json = JSON.stringify(part);
  await db
    .insertInto('parts')
    .values({ kind, name: part.name, json })
    .onConflict((c) => c.columns(['kind', 'name']).doUpdateSet({ json }))
    .execute();
}

/** Columns of the switch list that may be imported. */
export const SWITCH_COLUMNS = ['serial', 'model', 'address', 'port', 'location'] as const;

interface SwitchLine {
  readonly serial: string;
  readonly model: string;
  readonly address: string;
  readonly port: number;
  readonly location: string;
}

/** Reads a switch list; every finding names its line and column. */
export function readSwitchList(
  csv: string,
  models: readonly SwitchModel[],
): { readonly rows: SwitchLine[]; readonly findings: Finding[] } {
  const parsed = Papa.parse<Record<string, string>>(csv.trim(), {
    header: true,
    skipEmptyLines: true,
    transformHeader: (h) => h.trim().toLowerCase(),
    transform: (v) => v.trim(),
  });
  const have = parsed.meta.fields ?? [];
  const missing = SWITCH_COLUMNS.slice(0, 3).filter((c) => !have.includes(c));
  const strange = have.filter((c) => !(SWITCH_COLUMNS as readonly string[]).includes(c));
  if (missing.length > 0 || strange.length > 0)
    return {
      rows: [],
      findings: [
        problem(
          'csv-columns',
          '/csv',
          `Line 1: ${missing.length > 0 ? `column ${missing.join(', ')} is missing` : `column ${strange.join(', ')} is not known`}.`,
          `The columns are ${SWITCH_COLUMNS.join(',')}; port and location may be left out.`,
        ),
      ],
    };
  const findings: Finding[] = [];
  const seen = new Map<string, number>();
  const rows = parsed.data.map((r, i): SwitchLine => {
    const line = i + 2;
    const say = (column: string, message: string, cure: string): void =>
      void findings.push(problem('csv-line', `/csv/${line}/${column}`, `Line ${line}, ${column}: ${message}`, cure));
    const row = {
      serial: r['serial'] ?? '',
      model: r['model'] ?? '',
      address: r['address'] ?? '',
      port: Number(r['port'] || 22),
      location: r['location'] ?? '',
    };
    if (!serialText.isValidSync(row.serial))
      say('serial', `“${row.serial}” cannot be a serial.`, 'Use 3–40 letters, digits, dots and hyphens.');
    const twin = seen.get(row.serial);
    if (twin !== undefined)
      say('serial', `${row.serial} stands on line ${twin} already.`, 'Keep one of the two lines.');
    seen.set(row.serial, line);
    if (!models.some((m) => m.name === row.model))
      say('model', `there is no model “${row.model}”.`, `Known are ${models.map((m) => m.name).join(', ')}.`);
    if (isIP(row.address) === 0 && !/^[A-Za-z0-9][A-Za-z0-9.-]*$/.test(row.address))
      say('address', `“${row.address}” is no address or host name.`, 'Write the management address.');
    if (!Number.isInteger(row.port) || row.port < 1 || row.port > 65535)
      say('port', `“${r['port']}” is no TCP port.`, 'Use 1–65535, or leave it empty for 22.');
    return row;
  });
  if (rows.length === 0)
    findings.push(problem('csv-line', '/csv', 'The list has no line below its heading.', 'Add one line a switch.'));
  return { rows, findings };
}

export async function importSwitches(db: Db, rows: readonly SwitchLine[]): Promise<void> {
  await db.transaction().execute(async (tx) => {
    for (const r of rows)
      await tx
        .insertInto('switches')
        .values({ ...r, host_key: null, version: null, running: null, read_at: null, trouble: null })
        .execute();
  });
}

export function partsHandlers({ db, reach }: ServerContext): Handlers {
  const named = (params: Readonly<Record<string, string>>, part: { name: string }): void => {
    if (params['name'] !== part.name)
      throw refused([
        problem('name-same', '/name', 'The name in the path and in the body differ.', `Use ${params['name']}.`),
      ]);
  };
  const clean = (findings: readonly Finding[]): void => {
    if (findings.length > 0) throw refused(findings);
  };
  const poolNow = async (name: string): Promise<Pool> => {
    const pool = (await allPools(db)).find((p) => p.name === name);
    if (!pool) throw notThere(`pool ${name}`);
    return pool;
  };
  return {
    'GET /api/settings': async () => readSettings(db),
    'PUT /api/settings': async ({ body }) => {
      const value = String((body as Settings).secondPerson);
      await db
        .insertInto('settings')
        .values({ key: 'secondPerson', value })
        .onConflict((c) => c.column('key').doUpdateSet({ value }))
        .execute();
    },
    'GET /api/parts': async () => allParts(db),
    'PUT /api/models/:name': async ({ params, body }) => {
      const model = body as SwitchModel;
      named(params, model);
      await putPart(db, 'model', model);
    },
    'PUT /api/rack-patterns/:name': async ({ params, body }) => {
      const rack = body as RackPattern;
      named(params, rack);
      clean(checkRackPattern(rack, (await allParts(db)).models));
      await putPart(db, 'rack', rack);
    },
    'PUT /api/fabric-patterns/:name': async ({ params, body }) => {
      const pattern = body as FabricPattern;
      named(params, pattern);
      clean(sizePattern(pattern, await allParts(db)).findings);
      await putPart(db, 'fabric', pattern);
    },

    'GET /api/pools': async (): Promise<PoolAnswer[]> => {
      const ledger = await allLedger(db);
      return (await allPools(db)).map((p) => ({ ...p, ...utilisation(p, ledger) }));
    },
    'POST /api/pools': async ({ body }) => {
      const pool = body as Pool;
      const pools = await allPools(db);
      if (pools.some((p) => p.name === pool.name))
        throw refused([problem('pool-new', '/name', `There is already a pool ${pool.name}.`, 'Choose another name.')]);
      clean(checkPool(pool, pools));
      await db
        .insertInto('pools')
        .values({ name: pool.name, json: JSON.stringify(pool), created_at: new Date().toISOString() })
        .execute();
    },
    'PUT /api/pools/:name': async ({ params, body }) => {
      const pool = body as Pool;
      named(params, pool);
      const old = await poolNow(pool.name);
      if (old.kind !== pool.kind)
        throw refused([problem('pool-kind', '/kind', 'The kind of a pool stays as it is.', 'Make another pool.')]);
      clean(checkPool(pool, await allPools(db)));
      const ranges = intervalsOf(pool);
      for (const e of await allLedger(db)) {
        const block = e.pool === pool.name ? valueInterval(e.kind, e.value) : null;
        if (block && !ranges.some((r) => r.from <= block.from && block.to <= r.to))
          throw refused([
            problem(
              'pool-held',
              '/ranges/0',
              `${e.value} would be left outside; ${e.key} of ${e.fabric} holds it.`,
              'Keep a range around it.',
            ),
          ]);
      }
      await db
        .updateTable('pools')
        .set({ json: JSON.stringify(pool) })
        .where('name', '=', pool.name)
        .execute();
    },
    'DELETE /api/pools/:name': async ({ params }) => {
      const pool = await poolNow(params['name']!);
      const held = (await allLedger(db)).filter((e) => e.pool === pool.name);
      if (held.length > 0)
        throw new HttpProblem(
          409,
          `${held.length} values of ${pool.name} are held, ${held[0]!.value} by ${held[0]!.key} of ${held[0]!.fabric}.`,
        );
      await db.deleteFrom('pools').where('name', '=', pool.name).execute();
    },
    'GET /api/ledger': async ({ query }) => {
      const titles = new Map(
        (await db.selectFrom('changes').select(['id', 'title']).execute()).map((c) => [c.id, c.title]),
      );
      const rows = await db.selectFrom('ledger').selectAll().orderBy('id').execute();
      return rows
        .filter(
          (r) =>
            (query['pool'] === undefined || r.pool === query['pool']) &&
            (query['fabric'] === undefined || r.fabric === query['fabric']),
        )
        .map((r) => ({
          kind: r.kind,
          pool: r.pool,
          value: r.value,
          fabric: r.fabric,
          key: r.key,
          change: r.change_id,
          drawnBy: r.drawn_by === null ? null : { id: r.drawn_by, title: titles.get(r.drawn_by) ?? '' },
        }));
    },

    'GET /api/switches': async (): Promise<InventoryAnswer[]> => {
      const seats = new Map<string, { seat: string; host: string }>();
      for (const { name } of await db.selectFrom('fabrics').select('name').execute()) {
        const { intent } = await liveIntent(db, name);
        for (const s of layOut(intent).seats)
          if (intent.seating[s.id] !== undefined)
            seats.set(intent.seating[s.id]!, { seat: `${name}/${s.id}`, host: s.host });
      }
      const rows = await db.selectFrom('switches').selectAll().orderBy('serial').execute();
      return rows.map((r) => ({
        serial: r.serial,
        model: r.model,
        address: r.address,
        port: r.port,
        location: r.location,
        seat: seats.get(r.serial)?.seat ?? null,
        host: seats.get(r.serial)?.host ?? null,
        version: r.version,
        readAt: r.read_at,
        trouble: r.trouble,
      }));
    },
    'POST /api/switches/import': async ({ body }) => {
      const { rows, findings } = readSwitchList((body as { csv: string }).csv, (await allParts(db)).models);
      const known = new Set((await db.selectFrom('switches').select('serial').execute()).map((s) => s.serial));
      const twice = rows.flatMap((r, i) =>
        known.has(r.serial)
          ? [
              problem(
                'csv-line',
                `/csv/${i + 2}/serial`,
                `Line ${i + 2}, serial: ${r.serial} is known already.`,
                'Take the line out.',
              ),
            ]
          : [],
      );
      clean([...findings, ...twice]);
      await importSwitches(db, rows);
      return { imported: rows.length };
    },
    'POST /api/switches/:serial/read': async ({ params }) => {
      const known = await db
        .selectFrom('switches')
        .select('serial')
        .where('serial', '=', params['serial']!)
        .executeTakeFirst();
      if (!known) throw notThere(`switch ${params['serial']}`);
      try {
        return { identity: (await reach.read(known.serial)).identity };
      } catch (error) {
        throw new HttpProblem(502, error instanceof Error ? error.message : String(error));
      }
    },
    'PUT /api/switch-credential': async ({ body }) => {
      const { username, password } = body as { username: string; password: string };
      await reach.setAccount(username, password);
    },
  };
}
