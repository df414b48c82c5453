import { FABRIC_PATTERNS, MODELS, POOLS, RACK_PATTERNS, skerryEdits, type Edit } from '@anthemion/core';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Changes } from '../changes/changes.ts';
import { changeState } from '../changes/fabricState.ts';
import type { ServerContext } from '../context.ts';
import { allParts, importSwitches, putPart } from '../http/parts.ts';
import { makeAccount } from '../http/sessions.ts';
import { DEMO_ACCOUNTS } from './demoAccounts.ts';

interface FleetFile {
  readonly username: string;
  readonly password: string;
  readonly switches: readonly { readonly serial: string; readonly model: string; readonly port: number }[];
}

/** The change the demo leaves open: one network asks for more than the links carry, which the proof says. */
const DRAFT: readonly Edit[] = [
  { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } },
  {
    kind: 'addNetwork',
    network: { name: 'chart-press', vrf: 'charts', vlan: 410, subnetLength: 24, mtu: 9200, racks: [5, 7] },
  },
  {
    kind: 'addNetwork',
    network: { name: 'chart-desk', vrf: 'charts', vlan: 411, subnetLength: 25, mtu: 1500, racks: [1, 7] },
  },
  {
    kind: 'connectServer',
    port: { rack: 7, side: 'both', port: 'p20', server: 'press-701', untagged: 'chart-press', tagged: [] },
  },
];

/**
 * Makes the demo data once: accounts, parts, pools, the bench's switches, Skerry live on the bench (its text is put on
 * the stand-in switches as if it had been rolled out before), and one change in draft. A second start finds the mark and
 * leaves everything as it is.
 */
export async function seedDemo(context: ServerContext, changes: Changes, benchFolder: string): Promise<void> {
  const { db, compiler, reach } = context;
  const fleet = JSON.parse(readFileSync(join(benchFolder, 'fleet.json'), 'utf8')) as FleetFile;
  const known = await db.selectFrom('settings').select('value').where('key', '=', 'demoSeeded').executeTakeFirst();
  // The bench may listen on other ports than last time.
  for (const s of fleet.switches)
    await db.updateTable('switches').set({ port: s.port }).where('serial', '=', s.serial).execute();
  if (known) return;

  for (const a of DEMO_ACCOUNTS) {
    const there = await db.selectFrom('users').select('name').where('name', '=', a.name).executeTakeFirst();
    if (!there) await makeAccount(db, a, a.name === 'ines');
  }
  await db
    .insertInto('settings')
    .values({ key: 'secondPerson', value: 'true' })
    .onConflict((c) => c.doNothing())
    .execute();
  for (const m of MODELS) await putPart(db, 'model', m);
  for (const r of RACK_PATTERNS) await putPart(db, 'rack', r);
  for (const p of FABRIC_PATTERNS) await putPart(db, 'fabric', p);
  for (const p of POOLS)
    await db
      .insertInto('pools')
      .values({ name: p.name, json: JSON.stringify(p), created_at: new Date().toISOString() })
      .onConflict((c) => c.doNothing())
      .execute();
  await reach.setAccount(fleet.username, fleet.password);
  const have = new Set((await db.selectFrom('switches').select('serial').execute()).map((s) => s.serial));
  await importSwitches(
    db,
    fleet.switches
      .filter((s) => !have.has(s.serial))
      .map((s, i) => ({
        serial: s.serial,
        model: s.model,
        address: '127.0.0.1',
        port: s.port,
        location: i < 14 ? (i < 9 ? 'Mole hall' : 'Lamp hall') : 'store',
      })),
  );
  if ((await allParts(db)).models.length === 0) throw new Error('the demo has no parts');

  if (!(await db.selectFrom('fabrics').select('name').where('name', '=', 'skerry').executeTakeFirst()))
    await db
      .insertInto('fabrics')
      .values({ name: 'skerry', prefix: 'sk', created_at: new Date().toISOString() })
      .execute();
  if (!(await db.selectFrom('revisions').select('number').where('fabric', '=', 'skerry').executeTakeFirst())) {
    const build = await changes.open(
      { fabric: 'skerry', title: 'Build Skerry', reason: 'First fabric of the chart office', ticket: 'FCO-101' },
      'ines',
    );
    await changes.addEdits(build, skerryEdits(), 'ines');
    const state = await changeState(db, build);
    const texts = await compiler.texts({ state: { intent: state.intent, values: [...state.values] }, pools: POOLS });
    for (const { seat, files } of texts) {
      const serial = state.intent.seating[seat.id]!;
      putOnBench(benchFolder, serial, files);
      await reach.read(serial);
    }
    await changes.approve(build, 'bo', 'as drawn', true);
    await changes.goLive(build);
    const draft = await changes.open(
      {
        fabric: 'skerry',
        title: 'Chart press in both halls',
        reason: 'The press moves into the data centre in December',
        ticket: 'FCO-218',
      },
      'ines',
    );
    for (const edit of DRAFT) await changes.addEdits(draft, [edit], 'ines');
  }
  await db.insertInto('settings').values({ key: 'demoSeeded', value: new Date().toISOString() }).execute();
}

/** Writes text into a stand-in switch's folders, as if it had been configured long ago. */
function putOnBench(folder: string, serial: string, files: Readonly<Record<string, string>>): void {
  const root = join(folder, 'switches', serial);
  if (!existsSync(root)) throw new Error(`the bench has no switch ${serial}`);
  for (const [name, text] of Object.entries(files))
    for (const path of [
      join(root, name === 'interfaces' ? 'etc/network/interfaces' : 'etc/frr/frr.conf'),
      join(root, 'run/running', name),
    ]) {
      writeFileSync(`${path}.new`, text);
      renameSync(`${path}.new`, path);
    }
}
