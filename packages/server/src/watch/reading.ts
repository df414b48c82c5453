import PQueue from 'p-queue';
import { AccountTrouble, SwitchTrouble, type Driver } from '../reach/driver.ts';
import type { Reach } from '../reach/reach.ts';
import { claimedBy, putSaid, readRows, type ReadRow } from '../store/live.ts';
import { noteSwitch, switchOf } from '../store/switches.ts';
import { keepText } from '../store/texts.ts';
import { words } from '../trouble.ts';
import { at, type House } from '../services/house.ts';
import type { Live } from './live.ts';
import { readState } from './readState.ts';

export interface ReadingOptions {
  /** Switches asked at the same time. */
  readonly atOnce: number;
}

/** Log-ins a switch may refuse one after another before it is left alone, so that the account is not locked. */
export const REFUSED_AT_MOST = 3;
/** How long a switch may take to say how it is, milliseconds. */
const PATIENCE_MS = 20_000;
const TICK_MS = 500;
/** After a start everything is read within this, milliseconds. */
const FIRST_ROUND_MS = 5_000;
/** What is wrong since a moment ago is looked at again so soon, milliseconds. */
const AGAIN_MS = 2_000;
/** Times of readings are written down together, so often, milliseconds. */
const WRITE_MS = 5_000;

interface Turn {
  readonly serial: string;
  fabric: string;
  /** When it is read next, milliseconds of the server's running time. */
  stateAt: number;
  textAt: number;
  busy: Promise<void> | null;
  out: boolean;
  refused: number;
  /** What it said last, and the stamp of its text then. */
  said: string | null;
  stamp: string | null;
  /** Does its text say anything of OSPF? True until it was read. */
  ospf: boolean;
  trouble: string | null;
}

/**
 * Reads every switch that sits in a seat, again and again: its state often, its text now and then and whenever its stamp
 * says that it is another. Switches are spread over the time, a few are asked at once, lines stay open. Switches out of
 * service, and those that keep refusing the account, are left alone.
 */
export class Reading {
  private readonly house: House;
  private readonly reach: Reach;
  private readonly live: Live;
  private readonly queue: PQueue;
  private readonly turns = new Map<string, Turn>();
  private timer: NodeJS.Timeout | null = null;
  private written = 0;
  private stale = true;
  private stopped = false;
  private unlisten: () => void = () => undefined;

  constructor(house: House, reach: Reach, live: Live, options: ReadingOptions) {
    this.house = house;
    this.reach = reach;
    this.live = live;
    this.queue = new PQueue({ concurrency: options.atOnce });
    live.onTrouble = (hosts, fabric) => void this.soon(hosts, fabric);
  }

  /** Begins; the result of the first look at who is to be read has come when it resolves. */
  async start(): Promise<void> {
    this.unlisten = this.house.events.listen(({ topic, id, fabric }) => {
      if (topic === 'fabrics' || topic === 'switches' || topic === 'rollouts') this.stale = true;
      // What a rollout put on switches, or made live, is looked at as soon as it is done.
      if (topic === 'rollouts' && fabric !== undefined && this.knows(fabric)) void this.judge(fabric);
      if (topic === 'fabrics' && id !== undefined && this.knows(id)) void this.judge(id);
      if (topic === 'switches' && fabric !== undefined && this.knows(fabric)) void this.judge(fabric);
    });
    await this.who();
    for (const t of this.turns.values()) if (!t.out && t.refused < REFUSED_AT_MOST) this.live.untried.add(t.serial);
    const now = performance.now();
    const { state, text } = this.live.pace;
    [...this.turns.values()].forEach((t, i) => {
      const share = i / this.turns.size;
      t.stateAt = now + share * Math.min(FIRST_ROUND_MS, state * 1000);
      t.textAt = now + share * text * 1000;
    });
    this.timer = setInterval(() => void this.tick(), TICK_MS);
    this.timer.unref();
  }

  private knows(fabric: string): boolean {
    return [...this.turns.values()].some((t) => t.fabric === fabric);
  }
  private judge(fabric: string): Promise<unknown> {
    return this.live.judge(fabric).catch((error: unknown) => {
      if (!this.stopped) this.house.log.warn({ err: error, fabric }, 'what was read could not be judged');
    });
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearInterval(this.timer);
    this.unlisten();
    this.reach.hangUp();
    // Those that wait in the queue see that it is stopped as their turn comes; taken out of it, nobody would end them.
    await Promise.allSettled([...this.turns.values()].flatMap((t) => t.busy ?? []));
    await this.live.writeTimes();
  }

  /** Who is to be read now: what changed in seats and in service is taken up. */
  private async who(): Promise<void> {
    this.stale = false;
    const rows = new Map((await readRows(this.house.db)).map((r) => [r.serial, r]));
    for (const serial of this.turns.keys()) if (!rows.has(serial)) this.turns.delete(serial);
    const now = performance.now();
    for (const row of rows.values()) this.turnOf(row, now);
  }

  private turnOf(row: ReadRow, now: number): Turn {
    const known = this.turns.get(row.serial);
    if (known) {
      known.fabric = row.fabric;
      known.out = row.out;
      known.refused = row.refused;
      return known;
    }
    const fresh: Turn = {
      ...freshTurn(row.serial, row.fabric),
      stateAt: now,
      textAt: now,
      out: row.out,
      refused: row.refused,
    };
    this.turns.set(row.serial, fresh);
    return fresh;
  }

  private async tick(): Promise<void> {
    try {
      if (this.stale) await this.who();
      const now = performance.now();
      for (const t of this.turns.values()) {
        if (t.out || t.refused >= REFUSED_AT_MOST || t.busy || now < t.stateAt) continue;
        void this.take(t);
      }
      if (now - this.written > WRITE_MS) {
        this.written = now;
        await this.live.writeTimes();
      }
    } catch (error) {
      this.house.log.warn({ err: error }, 'reading the switches met a fault; it goes on');
    }
  }

  /** Reads one switch when its turn in the queue comes. */
  private take(t: Turn): Promise<void> {
    t.busy ??= (this.queue.add(() => this.readOne(t)) as Promise<void>).finally(() => {
      t.busy = null;
      if (this.live.untried.delete(t.serial) && this.live.untried.size === 0) void this.judge(t.fabric);
    });
    return t.busy;
  }

  private async readOne(t: Turn): Promise<void> {
    if (this.stopped) return;
    const began = performance.now();
    const { state, text } = this.live.pace;
    t.stateAt = began + state * 1000;
    const wanted = began >= t.textAt;
    try {
      const got = await inTime(
        this.reach.kept(t.serial, async (d) => {
          const { said, stamp } = await readState(d, t.ospf);
          const fresh = wanted || t.stamp === null || stamp !== t.stamp;
          if (!fresh) return { said, stamp };
          const files = await d.runningText();
          t.ospf = d.speaksOspf(files);
          return { said, stamp, files, identity: await d.identity() };
        }),
      );
      const now = at(this.house);
      if (got.identity && got.identity.serial !== t.serial)
        throw new SwitchTrouble(`the switch at this address is ${got.identity.serial}, not ${t.serial}`);
      const { db } = this.house;
      let news = t.said !== got.said || t.trouble !== null;
      if (t.said !== got.said) await putSaid(db, t.serial, now, got.said);
      if (got.files && got.identity) {
        t.textAt = performance.now() + text * 1000;
        const before = (await switchOf(db, t.serial))?.running ?? null;
        const running = await keepText(db, got.files);
        news ||= before !== running;
        await noteSwitch(db, t.serial, {
          running,
          read_at: now,
          version: got.identity.version,
          trouble: null,
          refused: 0,
        });
      } else if (t.trouble !== null) await noteSwitch(db, t.serial, { trouble: null, refused: 0 });
      t.said = got.said;
      t.stamp = got.stamp;
      t.trouble = null;
      t.refused = 0;
      if (news) void this.judge(t.fabric);
      this.live.seenAgain(t.fabric, t.serial, now);
    } catch (error) {
      if (this.stopped) return;
      if (!(error instanceof SwitchTrouble))
        this.house.log.warn({ err: error, serial: t.serial }, 'reading a switch met a fault; it goes on');
      await this.failed(t, error).catch((again: unknown) =>
        this.house.log.warn({ err: again, serial: t.serial }, 'and it could not be noted'),
      );
    }
  }

  private async failed(t: Turn, error: unknown): Promise<void> {
    this.reach.hangUp(t.serial);
    t.refused = error instanceof AccountTrouble ? t.refused + 1 : 0;
    const said = words(error);
    const news = t.trouble !== said || t.refused === REFUSED_AT_MOST;
    t.trouble = said;
    // It is read whole when it is back: nobody knows what happened to it meanwhile.
    t.stamp = null;
    await noteSwitch(this.house.db, t.serial, { trouble: said, refused: t.refused });
    if (news) {
      this.house.events.tell('switches', t.serial);
      void this.judge(t.fabric);
    }
  }

  /** What is wrong since a moment ago is looked at again at once, from all its ends. */
  private async soon(hosts: readonly string[], fabric: string): Promise<void> {
    const { seats } = await this.live.of(fabric);
    const now = performance.now();
    for (const s of seats)
      if (s.serial !== null && hosts.includes(s.host)) {
        const t = this.turns.get(s.serial);
        if (t) t.stateAt = Math.min(t.stateAt, now + AGAIN_MS);
      }
  }

  /** Reads all switches of a fabric now, state and text; those that refused too often as well. Resolves when it is judged. */
  async readNow(fabric: string): Promise<void> {
    await this.who();
    await Promise.all([...this.turns.values()].filter((t) => t.fabric === fabric && !t.out).map((t) => this.whole(t)));
    await this.live.judge(fabric);
  }

  /** Reads the switches an open change would seat, which are not read by themselves: for cabling, before anything is live. */
  async readForChange(change: string): Promise<void> {
    const rows = (await claimedBy(this.house.db, change)).filter((r) => !this.turns.has(r.serial));
    await Promise.all(
      rows.map(({ serial, fabric }) => {
        const t = freshTurn(serial, fabric);
        return this.queue.add(() => this.readOne(t));
      }),
    );
    for (const fabric of new Set(rows.map((r) => r.fabric))) this.live.readForChange(fabric);
  }

  /** Reads one switch whole; resolves when its fabric is judged, at once where it sits in none. */
  async readOneNow(serial: string): Promise<void> {
    await this.who();
    const t = this.turns.get(serial);
    if (!t || t.out) return;
    await this.whole(t);
    await this.live.judge(t.fabric);
  }

  /**
   * Asks a switch something else over the line it is read by, in its turn among readings. One that reading leaves alone is left
   * alone by this too, and a log-in that is refused counts.
   */
  async ask<T>(serial: string, work: (driver: Driver) => Promise<T>): Promise<T> {
    if (this.stale) await this.who();
    const t = this.turns.get(serial);
    if (!t) throw new SwitchTrouble('it sits in no seat that is live');
    if (t.out) throw new SwitchTrouble('it is out of service');
    if (t.refused >= REFUSED_AT_MOST)
      throw new SwitchTrouble('it has refused the account three times running, and is left alone until that is mended');
    return (await this.queue.add(() => this.asked(t, work))) as T;
  }
  private async asked<T>(t: Turn, work: (driver: Driver) => Promise<T>): Promise<T> {
    try {
      return await inTime(this.reach.kept(t.serial, work));
    } catch (error) {
      if (error instanceof AccountTrouble && !this.stopped) await this.failed(t, error);
      throw error;
    }
  }

  /** Reads these switches now, without waiting for it: a rollout is done with them. */
  readSoon(serials: readonly string[]): void {
    for (const serial of serials) {
      const t = this.turns.get(serial);
      if (t) {
        t.stateAt = 0;
        t.textAt = 0;
      }
    }
  }

  /** The account, address or key of a switch was mended: it is asked again. */
  async mended(serial?: string): Promise<void> {
    for (const t of this.turns.values()) {
      if (serial !== undefined && t.serial !== serial) continue;
      this.reach.hangUp(t.serial);
      if (t.refused > 0) await noteSwitch(this.house.db, t.serial, { refused: 0 });
      t.refused = 0;
      t.stateAt = 0;
      t.textAt = 0;
    }
  }

  private async whole(t: Turn): Promise<void> {
    await t.busy;
    t.refused = 0;
    t.textAt = 0;
    await this.take(t);
  }
}

const freshTurn = (serial: string, fabric: string): Turn => ({
  serial,
  fabric,
  stateAt: 0,
  textAt: 0,
  busy: null,
  out: false,
  refused: 0,
  said: null,
  stamp: null,
  ospf: true,
  trouble: null,
});

/** The work, or trouble when it takes too long; what it was doing then is left to itself. */
async function inTime<T>(work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, fail) => {
    timer = setTimeout(
      () => fail(new SwitchTrouble(`it did not say how it is in ${PATIENCE_MS / 1000} s`)),
      PATIENCE_MS,
    );
  });
  work.catch(() => undefined);
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}
