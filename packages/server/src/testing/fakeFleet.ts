import { factoryFiles } from '@anthemion/bench';
import type { ConfigFiles, HeardHost, Octets } from '@anthemion/core';
import {
  SwitchTrouble,
  type ApplyState,
  type Driver,
  type Identity,
  type Neighbour,
  type AdjacentStates,
  type PeerStates,
  type Verdict,
} from '../reach/driver.ts';
import type { Reaching } from '../reach/reach.ts';

const OK: Verdict = { ok: true, code: 0, text: '' };
const no = (code: number, text: string): Verdict => ({ ok: false, code, text });

/** Peers of which each is up, whatever it is called. */
class AllUp extends Map<string, { ipv4: string; ipv6: string; evpn: string }> {
  override get() {
    return { ipv4: 'Established', ipv6: 'Established', evpn: 'Established' };
  }
}

/** What can be wrong with a switch in memory. */
export type FakeFault =
  | 'unreachable'
  | 'refuses'
  | 'never settles'
  | 'refuses to confirm'
  | 'loses the confirm answer'
  | 'loses the apply answer';

/** A switch in memory that keeps the apply helper's word: what is not confirmed goes back. */
export class FakeSwitch implements Driver {
  readonly serial: string;
  running: ConfigFiles;
  readonly faults = new Set<FakeFault>();
  /** Ids it was told to apply, in order. */
  readonly applied: string[] = [];
  private before: ConfigFiles | null = null;
  private state: ApplyState = 'none';
  private id = '-';
  private readonly sent = new Map<string, ConfigFiles>();
  private readonly cancelled = new Set<string>();
  private readonly fleet: FakeFleet;
  constructor(serial: string, fleet: FakeFleet) {
    this.serial = serial;
    this.fleet = fleet;
    this.running = factoryFiles(serial);
  }

  /** The undo timer runs out. */
  expire(): void {
    if (this.state === 'pending') this.back();
  }
  private back(): void {
    this.fleet.journal.push({ serial: this.serial, did: 'went back' });
    this.running = this.before!;
    this.state = 'undone';
  }

  identity(): Promise<Identity> {
    return Promise.resolve({ serial: this.serial, model: 'TV-L48F', version: 'Bench Linux 12.4' });
  }
  runningText(): Promise<ConfigFiles> {
    return Promise.resolve(this.running);
  }
  textStamp(): Promise<string> {
    return Promise.resolve(JSON.stringify(this.running).length.toString());
  }
  signals(): Promise<ReadonlyMap<string, boolean>> {
    return Promise.resolve(new Map());
  }
  peers(): Promise<PeerStates> {
    return Promise.resolve(this.faults.has('never settles') && this.state === 'pending' ? new Map() : new AllUp());
  }
  /** Nothing here is led by OSPF. */
  adjacent(): Promise<AdjacentStates> {
    return Promise.resolve(new Map());
  }
  speaksOspf(): boolean {
    return false;
  }
  octets(): Promise<ReadonlyMap<string, Octets>> {
    return Promise.resolve(new Map());
  }
  neighbours(): Promise<Neighbour[]> {
    return Promise.resolve([]);
  }
  heard(): Promise<HeardHost[]> {
    return Promise.resolve([]);
  }
  equip(): Promise<Verdict> {
    return Promise.resolve(OK);
  }
  stage(id: string, files: ConfigFiles): Promise<void> {
    this.sent.set(id, files);
    return Promise.resolve();
  }
  check(): Promise<Verdict> {
    return Promise.resolve(this.faults.has('refuses') ? no(3, 'line 1: refused') : OK);
  }
  async apply(id: string): Promise<Verdict> {
    if (this.id === id && this.state !== 'none') return OK;
    if (this.state === 'pending') return no(4, `apply ${this.id} is still pending`);
    if (this.cancelled.has(id)) return no(4, 'cancelled');
    this.applied.push(id);
    this.fleet.journal.push({ serial: this.serial, did: 'applied' });
    this.before = this.running;
    this.running = this.sent.get(id)!;
    this.id = id;
    this.state = 'pending';
    if (this.faults.has('loses the apply answer')) throw new SwitchTrouble('the connection was lost');
    return Promise.resolve(OK);
  }
  async confirm(id: string): Promise<Verdict> {
    if (this.id !== id) return no(4, `the last apply is ${this.id}`);
    if (this.faults.has('refuses to confirm')) return no(1, 'no room to confirm');
    if (this.state !== 'pending' && this.state !== 'confirmed') return no(4, `apply ${id} is ${this.state}`);
    if (this.state === 'pending') this.fleet.journal.push({ serial: this.serial, did: 'confirmed' });
    this.state = 'confirmed';
    if (this.faults.has('loses the confirm answer')) throw new SwitchTrouble('the connection was lost');
    return Promise.resolve(OK);
  }
  undo(id: string): Promise<Verdict> {
    if (this.id !== id) return Promise.resolve(no(4, `the last apply is ${this.id}`));
    if (this.state !== 'undone') this.back();
    return Promise.resolve(OK);
  }
  cancel(id: string): Promise<Verdict> {
    if (this.id === id) return this.state === 'confirmed' ? Promise.resolve(no(4, 'confirmed')) : this.undo(id);
    this.cancelled.add(id);
    return Promise.resolve(OK);
  }
  release(): Promise<Verdict> {
    this.state = 'released';
    return Promise.resolve(OK);
  }
  status() {
    return Promise.resolve({ state: this.state, id: this.id, secondsLeft: this.fleet.secondsLeft });
  }
}

/** A fleet in memory, reached without a network. */
export class FakeFleet implements Reaching {
  readonly switches: ReadonlyMap<string, FakeSwitch>;
  /** What became of applies, in order. */
  readonly journal: { readonly serial: string; readonly did: 'applied' | 'confirmed' | 'went back' }[] = [];
  /** What every switch says its undo timer has left. */
  secondsLeft = 1;
  constructor(serials: readonly string[]) {
    this.switches = new Map(serials.map((s) => [s, new FakeSwitch(s, this)]));
  }
  at(serial: string): FakeSwitch {
    return this.switches.get(serial)!;
  }
  async on<T>(serial: string, work: (driver: Driver) => Promise<T>): Promise<T> {
    const found = this.at(serial);
    // As over a network, others come in between.
    await new Promise((done) => setImmediate(done));
    if (found.faults.has('unreachable')) throw new SwitchTrouble('no answer');
    return work(found);
  }
}
