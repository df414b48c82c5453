import {
  DEMO_FABRICS,
  DEMO_POOLS,
  demoIntent,
  DOCUMENTS,
  FABRIC_PATTERNS,
  MODELS,
  RACK_PATTERNS,
  withOwned,
  type DemoFabric,
  type Edit,
} from '@anthemion/core';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { BenchDoor } from '../reach/benchDoor.ts';
import type { Reach } from '../reach/reach.ts';
import { makeAccount } from '../services/accounts.ts';
import { approve } from '../services/approving.ts';
import type { Changes } from '../services/changes.ts';
import { goLive } from '../services/goingLive.ts';
import { at, today, type House } from '../services/house.ts';
import { pinOf } from '../services/pins.ts';
import { setSwitchAccount } from '../services/switchAccounts.ts';
import { keyAsKept } from '../services/switchList.ts';
import { accountOf, setPassword } from '../store/accounts.ts';
import type { Db } from '../store/database.ts';
import { addFabric, fabricTwin, liveRevision } from '../store/fabrics.ts';
import { FIRST_PAGE } from '../store/pages.ts';
import { putPart } from '../store/parts.ts';
import { addPool, poolOf } from '../store/pools.ts';
import { putLive } from '../store/seats.ts';
import { hashPassword } from '../services/passwordHash.ts';
import type { Sealing } from '../store/sealing.ts';
import { putSetting, settingOf } from '../store/settings.ts';
import { addSwitches, knownOf, noteSwitch } from '../store/switches.ts';
import { keepTexts, textOf } from '../store/texts.ts';
import { DEMO_ACCOUNTS } from './demoAccounts.ts';

interface FleetFile {
  readonly username: string;
  readonly password: string;
  readonly switches: readonly {
    readonly serial: string;
    readonly model: string;
    readonly port: number;
    /** `SHA256:…`, as the bench made it. */
    readonly hostKey: string;
  }[];
}

const DRAFT_TICKET = 'FCO-218';
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

interface SeedParts {
  readonly house: House;
  readonly changes: Changes;
  readonly reach: Reach;
  readonly sealing: Sealing;
  readonly bench: BenchDoor;
}

/**
 * Makes the demo data: accounts, parts, pools, the bench's switches, the demo's fabrics of which the bench has all switches,
 * live there (their text is put on the stand-in switches as if it had been rolled out before), and one change in draft. Each
 * step leaves what is there, so that one that was cut off simply runs again; a mark at the end makes a second start leave
 * everything as it is.
 */
export async function seedDemo(parts: SeedParts, benchFolder: string): Promise<void> {
  const { house } = parts;
  const { db } = house;
  const fleet = JSON.parse(readFileSync(join(benchFolder, 'fleet.json'), 'utf8')) as FleetFile;
  // The bench may listen on other ports than last time.
  for (const s of fleet.switches) await noteSwitch(db, s.serial, { port: s.port });
  const now = at(house);
  await demoPasswords(db, now);
  if ((await settingOf(db, 'demoSeeded')) !== null) return;
  const serials = new Set(fleet.switches.map((s) => s.serial));
  const here = DEMO_FABRICS.map((f) => ({ ...f, serials: Object.values(demoIntent(f).seating) })).filter((f) =>
    f.serials.every((s) => serials.has(s)),
  );
  const locations = new Map(here.flatMap((f) => f.serials.map((s, i) => [s, f.locationOf(i)] as const)));
  await db.transaction().execute(async (tx) => {
    for (const m of MODELS) await putPart(tx, 'model', m);
    for (const r of RACK_PATTERNS) await putPart(tx, 'rack', r);
    for (const p of FABRIC_PATTERNS) await putPart(tx, 'fabric', p);
    for (const p of DEMO_POOLS) if (!(await poolOf(tx, p.name))) await addPool(tx, p, now);
    const known = await knownOf(
      tx,
      fleet.switches.map((s) => s.serial),
    );
    await addSwitches(
      tx,
      fleet.switches
        .map((s) => ({
          serial: s.serial,
          model: s.model,
          address: '127.0.0.1',
          port: s.port,
          host_key: keyAsKept(s.hostKey),
          location: locations.get(s.serial) ?? 'store',
        }))
        .filter((s) => !known.has(s.serial)),
    );
    for (const { name, prefix } of here)
      if (!(await fabricTwin(tx, name, prefix))) await addFabric(tx, name, prefix, now);
  });
  await setSwitchAccount(
    house,
    parts.sealing,
    'bench',
    {
      username: fleet.username,
      password: fleet.password,
      privateKey: '',
      passphrase: '',
      ranges: ['127.0.0.0/8'],
      note: 'Stand-in switches of the bench',
    },
    'server',
  );
  for (const f of here) if ((await liveRevision(db, f.name)) === 0) await build(parts, benchFolder, f);
  if (here.some((f) => f.name === DRAFTED)) await openDraft(parts);
  await putSetting(db, 'demoSeeded', now);
}

/** Demo accounts with the passwords that the sign-in page shows; those of an older demo get them once. */
async function demoPasswords(db: Db, now: string): Promise<void> {
  const shown = DEMO_ACCOUNTS.map((a) => a.password).join(', ');
  if ((await settingOf(db, 'demoPasswords')) === shown) return;
  for (const a of DEMO_ACCOUNTS)
    if (await accountOf(db, a.name))
      await setPassword(db, a.name, { ...(await hashPassword(a.password)), mustChange: false }, now);
    else await makeAccount(db, a, a.name === 'ines', now);
  await putSetting(db, 'demoPasswords', shown);
}

const HAND = { name: 'ines', mayScript: false };

/** A fabric goes live as if it had been rolled out long ago. A try that was cut off has left an open change: it goes. */
async function build(
  { house, changes, reach, bench }: SeedParts,
  benchFolder: string,
  { name: fabric, title, reason, ticket, edits }: DemoFabric,
): Promise<void> {
  const { db, compiler } = house;
  for (const left of (await changes.page(FIRST_PAGE, null)).items)
    if (left.fabric === fabric && left.state !== 'Withdrawn') await changes.withdraw(left.id, left.version);
  const change = await changes.open({ fabric, title, reason, ticket }, HAND, edits());
  const plan = await compiler.run<'plan'>({ do: 'plan', fabric, change, into: null, today: today(house) });
  // Its cables, and the routers of the outside that it meets.
  const { cables, routers } = await compiler.run<'surroundings'>({ do: 'surroundings', fabric, change });
  await bench.ask('PUT', '/cables', { cables, routers });
  await db.transaction().execute((tx) => keepTexts(tx, plan.texts));
  for (const row of plan.rows) {
    putOnBench(benchFolder, row.serial, (await textOf(db, row.target))!);
    await reach.read(row.serial);
  }
  await approve(house, change, 'bo', 'as drawn', plan.version);
  await db.transaction().execute(async (tx) => {
    for (const { serial, seat, host, target } of plan.rows)
      await putLive(tx, {
        serial,
        fabric,
        seat,
        host,
        hash: target,
        revision: null,
        change_id: change,
        at: at(house),
      });
  });
  if (!(await house.desks.at(fabric, () => goLive(house, pinOf(fabric, plan), [], 'Approved', null))))
    throw new Error(`the demo fabric ${fabric} could not go live`);
}

/** The fabric that somebody has a change open on. */
const DRAFTED = 'skerry';
async function openDraft({ changes }: SeedParts): Promise<void> {
  if ((await changes.page(FIRST_PAGE, null)).items.some((c) => c.ticket === DRAFT_TICKET)) return;
  const draft = await changes.open(
    {
      fabric: DRAFTED,
      title: 'Chart press in both halls',
      reason: 'The press moves into the data centre in December',
      ticket: DRAFT_TICKET,
    },
    HAND,
  );
  for (const edit of DRAFT) await changes.addEdits(draft, [edit], HAND);
}

/** Writes text into a stand-in switch's folders, as if it had been configured long ago. */
function putOnBench(folder: string, serial: string, files: Readonly<Record<string, string>>): void {
  const root = join(folder, 'switches', serial);
  if (!existsSync(root)) throw new Error(`the bench has no switch ${serial}`);
  for (const kind of DOCUMENTS.linux) {
    const path = join(root, kind.path);
    const whole = withOwned(kind, existsSync(path) ? readFileSync(path, 'utf8') : '', files[kind.name] ?? '');
    for (const to of [path, join(root, 'run/running', kind.name)]) {
      writeFileSync(`${to}.new`, whole);
      renameSync(`${to}.new`, to);
    }
  }
}
