import {
  FABRIC_PATTERNS,
  layEdits,
  MODELS,
  POOLS,
  type Edit,
  type FabricIntent,
  type FabricPattern,
} from '@anthemion/core';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { JobEngine } from '../jobs/engine.ts';
import { rolloutJob } from '../jobs/rollout/rolloutJob.ts';
import { approve } from '../services/approving.ts';
import { Changes } from '../services/changes.ts';
import { beginFabric } from '../services/fabrics.ts';
import type { House } from '../services/house.ts';
import { Rollouts } from '../services/rollouts.ts';
import { changeOf } from '../store/changes.ts';
import { openDatabase } from '../store/database.ts';
import { intentAt, liveRevision } from '../store/fabrics.ts';
import { addPool } from '../store/pools.ts';
import { putSetting } from '../store/settings.ts';
import { addSwitches } from '../store/switches.ts';
import { InlineCompiler, type Compiler } from '../workers/compilePool.ts';
import { houseOver } from './houseOver.ts';
import { FakeFleet } from './fakeFleet.ts';

export const INES = { name: 'ines', mayScript: false };
export const BO = 'bo';
const QUICK = { poll: 1, confirmMargin: 990, beyond: 0 };
const ROLLOUT = { stopLine: 1, undoSeconds: 10, together: false, breakIn: false, reason: '' };

/** One spine and three single leaves. */
const TINY: FabricPattern = {
  ...FABRIC_PATTERNS[0]!,
  name: 'tiny',
  spines: { count: 1, model: 'TV-S32C' },
  racks: [{ pattern: 'single-48', count: 3 }],
  settings: {},
};

/** Serial of the switch meant for a place in a fabric of the small house. */
export const serialOf = (fabric: string, seat: string): string => `${fabric.toUpperCase()}-${seat}`;
export const SPARES = ['SPARE-1', 'SPARE-2'];
const SEATS = ['spine-1', 'leaf-1', 'leaf-2', 'leaf-3'];

/** A fabric's first change: laid out, seated, one VRF. */
export const buildEdits = (fabric: string): Edit[] => [
  ...layEdits(TINY),
  ...SEATS.map((seat): Edit => ({ kind: 'takeSeat', seat, serial: serialOf(fabric, seat) })),
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
];
/** Every other one has IPv6 too. */
export const networkEdit = (name: string, vlan: number, racks: readonly number[] = [1]): Edit => ({
  kind: 'addNetwork',
  network: { name, vrf: 'tides', vlan, subnetLength: 24, racks, ...(vlan % 2 === 0 ? { families: 'both' } : {}) },
});

/** The services on a real SQLite file, over a fleet in memory, that can be ended at any moment and opened again. */
export class SmallHouse {
  readonly data = mkdtempSync(join(tmpdir(), 'house-'));
  readonly fabrics: readonly string[];
  readonly fleet: FakeFleet;
  house!: House;
  changes!: Changes;
  rollouts!: Rollouts;
  engine!: JobEngine;
  /** How long things are waited for, from the next opening on. */
  pace = QUICK;
  private readonly wrap: (compiler: Compiler) => Compiler;

  constructor(fabrics: readonly string[], wrap: (compiler: Compiler) => Compiler = (c) => c) {
    this.fabrics = fabrics;
    this.wrap = wrap;
    this.fleet = new FakeFleet([...fabrics.flatMap((f) => SEATS.map((s) => serialOf(f, s))), ...SPARES]);
  }

  /** Opens the data as a started server does. */
  async open(): Promise<this> {
    const db = await openDatabase(this.data);
    this.house = houseOver(db, this.wrap(new InlineCompiler(this.data)));
    this.engine = new JobEngine(this.house);
    this.engine.register(rolloutJob(this.house, this.fleet, this.pace));
    this.changes = new Changes(this.house);
    this.rollouts = new Rollouts(this.house, this.engine, () => Promise.resolve(true));
    await this.engine.resumeAll();
    return this;
  }

  /** Parts, switches and the fabrics, live as revision 1. */
  async build(): Promise<this> {
    const { db } = this.house;
    for (const p of POOLS) await addPool(db, p, '');
    await putSetting(db, 'secondPerson', 'true');
    await addSwitches(
      db,
      [...this.fleet.switches.keys()].map((serial) => ({
        serial,
        model: MODELS[0]!.name,
        address: '127.0.0.1',
        port: 22,
        location: '',
      })),
    );
    for (const [i, fabric] of this.fabrics.entries()) {
      const { change } = await beginFabric(this.house, { name: fabric, namePrefix: 'abcdef'[i]!, title: '' }, INES);
      await this.changes.addEdits(change, buildEdits(fabric), INES);
      await this.toLive(change);
    }
    return this;
  }

  /** The process ends here: nothing that is under way gets to write any more. */
  async crash(): Promise<void> {
    await this.house.db.destroy();
    void this.house.compiler.close();
    await new Promise((done) => setTimeout(done, 2));
  }
  async close(): Promise<void> {
    await this.engine.stop();
    await this.house.compiler.close();
    await this.house.db.destroy();
    rmSync(this.data, { recursive: true, force: true });
  }

  version = async (change: string): Promise<number> => (await changeOf(this.house.db, change)).version;
  stateOf = async (change: string): Promise<string> => (await changeOf(this.house.db, change)).state;

  /** A change with these edits, proved. */
  async propose(fabric: string, title: string, ...edits: Edit[]): Promise<string> {
    return this.changes.open({ fabric, title, reason: '', ticket: '' }, INES, edits);
  }
  async approve(change: string): Promise<void> {
    await approve(this.house, change, BO, '', await this.version(change));
  }
  begin(change: string, more: Partial<typeof ROLLOUT> = {}): Promise<string> {
    return this.rollouts.begin({ change, ...ROLLOUT, ...more }, 'tamar');
  }
  async rest(rollout: string) {
    await this.engine.rest(rollout);
    return this.rollouts.answer(rollout);
  }
  async toLive(change: string): Promise<void> {
    await this.approve(change);
    if ((await this.stateOf(change)) === 'Live') return;
    const { state, reason } = await this.rest(await this.begin(change));
    if (state !== 'done') throw new Error(`the rollout is ${state}: ${reason}`);
  }

  async live(fabric: string): Promise<{ readonly revision: number; readonly intent: FabricIntent }> {
    const revision = await liveRevision(this.house.db, fabric);
    return { revision, intent: await intentAt(this.house.db, fabric, revision) };
  }
  /** Networks of the live revision. */
  async networks(fabric: string): Promise<string[]> {
    return (await this.live(fabric)).intent.networks.map((n) => n.name);
  }
  /** VLANs that the text running on a switch knows. */
  vlansOn(serial: string): number[] {
    const text = this.fleet.at(serial).running['interfaces'] ?? '';
    return [...text.matchAll(/^ +vlan-id (\d+)$/gm)].map((m) => Number(m[1])).filter((v) => v < 4000);
  }
}
