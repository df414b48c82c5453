import type { Cause } from '@anthemion/core';
import type { CauseAnswer, LiveAnswer, SwitchHealth } from '@anthemion/contract';
import type { Watched } from '../workers/tasks/watch.ts';
import { noteStanding, settleCauses, touchSaid } from '../store/live.ts';
import { at, type House } from '../services/house.ts';

/** How often a switch is read, seconds. */
export interface Pace {
  readonly state: number;
  readonly text: number;
}

/** Readings that are missed before a switch counts as not read lately; and how long that is at least, milliseconds. */
const MISSED = 3;
const LATELY_MS = 20_000;
/** Too early is not failed: a session may be down so long before it counts as wrong, milliseconds. */
const SETTLE_MS = 15_000;
/** What is read within so long is judged together, milliseconds; in a fabric that takes long to judge, longer. */
const GATHER_MS = 250;
/** Reading times that move on without anything else being new are told this often, milliseconds. */
const TIMES_MS = 10_000;

/** What is settling is judged again so soon, milliseconds. */
const AGAIN_MS = 3_000;

interface Kept {
  readonly answer: LiveAnswer;
  /** Everything of it but the times, to see whether something is new. */
  readonly content: string;
  /** Serials of the switches that count as unread. */
  readonly unread: ReadonlySet<string>;
}

/**
 * How each fabric stands by what was read last. It is judged again when something that was read is new, or something went
 * live; whoever asks gets what was judged last, with the newest reading times.
 */
export class Live {
  private readonly house: House;
  readonly pace: Pace;
  private readonly kept = new Map<string, Kept>();
  private readonly ofChanges = new Map<
    string,
    { readonly base: Kept | undefined; readonly version: number; readonly seen: number; readonly answer: LiveAnswer }
  >();
  /** Counts readings of switches that only open changes seat. */
  private seenOfChanges = 0;
  private readonly waiting = new Map<string, Promise<LiveAnswer>>();
  /** What is judged now: the next waits for it, so that what was read later is also what is kept. */
  private readonly judging = new Map<string, Promise<unknown>>();
  /** When each switch was read last, by serial; newer than what was judged. */
  private readonly times = new Map<string, string>();
  private readonly unwritten = new Map<string, string>();
  private readonly told = new Map<string, number>();
  /** Sessions that are down since a moment, by fabric and cause. */
  private readonly early = new Map<string, ReadonlyMap<string, number>>();
  /** How long judging took last, milliseconds. */
  private readonly took = new Map<string, number>();
  /** Switches that were not tried yet since the start: that they are unread says nothing yet. */
  readonly untried = new Set<string>();
  /** Told which switches have something wrong that had not before. */
  onTrouble: (hosts: readonly string[], fabric: string) => void = () => undefined;

  constructor(house: House, pace: Pace) {
    this.house = house;
    this.pace = pace;
  }

  /** As `of`, with the seats and cables an open change would have. Nothing of it counts as wrong with the fabric. */
  async ofChange(fabric: string, change: string, version: number): Promise<LiveAnswer> {
    const base = (await this.of(fabric), this.kept.get(fabric));
    const known = this.ofChanges.get(change);
    // What is read while it is worked out is not in it.
    const seen = this.seenOfChanges;
    if (known && known.base === base && known.version === version && known.seen === seen)
      return this.withTimes(known.answer);
    const watched = await this.house.compiler.run<'watch'>({
      do: 'watch',
      fabric,
      change,
      staleBefore: this.staleBefore(),
    });
    const now = at(this.house);
    const answer: LiveAnswer = {
      ...watched,
      every: this.pace,
      sessions: { ...watched.sessions, settling: 0 },
      causes: watched.causes.map((c): CauseAnswer => ({ ...c, fabric, since: now })),
    };
    this.ofChanges.set(change, { base, version, seen, answer });
    return this.withTimes(answer);
  }

  /** A switch that only an open change seats was read. */
  readForChange(fabric: string): void {
    this.seenOfChanges++;
    this.house.events.tell('live', fabric);
  }

  private staleBefore(): string {
    const lately = Math.max(LATELY_MS, MISSED * this.pace.state * 1000);
    return new Date(this.house.now().getTime() - lately).toISOString();
  }

  /** How a fabric stands now. */
  async of(fabric: string): Promise<LiveAnswer> {
    const kept = this.kept.get(fabric);
    const answer = kept?.answer ?? (await this.judge(fabric));
    return this.withTimes(answer);
  }

  private withTimes(answer: LiveAnswer): LiveAnswer {
    let newest = answer.readAt;
    const seats = answer.seats.map((s) => {
      const readAt = s.serial === null ? undefined : this.times.get(s.serial);
      if (readAt === undefined || (s.readAt !== null && s.readAt >= readAt)) return s;
      if (newest === null || readAt > newest) newest = readAt;
      return { ...s, readAt };
    });
    return { ...answer, seats, readAt: newest };
  }

  /** A switch said the same as before, at this time. */
  seenAgain(fabric: string, serial: string, time: string): void {
    this.times.set(serial, time);
    this.unwritten.set(serial, time);
    // It was judged as not read for long (this machine slept, or its clock was set): what it says is no news, that it says it is.
    if (this.kept.get(fabric)?.unread.has(serial)) void this.judge(fabric).catch(() => undefined);
    const last = this.told.get(fabric) ?? 0;
    const now = performance.now();
    if (now - last < TIMES_MS) return;
    this.told.set(fabric, now);
    this.house.events.tell('live', fabric);
  }

  /** Writes the times of readings down, together. */
  async writeTimes(): Promise<void> {
    if (this.unwritten.size === 0) return;
    const times = new Map(this.unwritten);
    this.unwritten.clear();
    await this.house.db.transaction().execute((tx) => touchSaid(tx, times));
  }

  /** Something new is known of a fabric: it is judged, after what else comes in at the same moment. */
  judge(fabric: string): Promise<LiveAnswer> {
    const known = this.waiting.get(fabric);
    if (known) return known;
    const gather = this.kept.has(fabric) ? Math.max(GATHER_MS, 2 * (this.took.get(fabric) ?? 0)) : 0;
    const coming = new Promise<void>((go) => setTimeout(go, gather)).then(async () => {
      await this.judging.get(fabric)?.catch(() => undefined);
      this.waiting.delete(fabric);
      const began = performance.now();
      const work = this.compute(fabric);
      this.judging.set(fabric, work);
      const answer = await work;
      this.took.set(fabric, performance.now() - began);
      return answer;
    });
    this.waiting.set(fabric, coming);
    return coming;
  }

  /** Parts what is wrong from what may only be too early. */
  private settled(fabric: string, causes: readonly Cause[]): { readonly wrong: Cause[]; readonly settling: Cause[] } {
    const before = this.early.get(fabric) ?? new Map<string, number>();
    const now = performance.now();
    const seen = new Map(causes.filter((c) => c.maybeSettling).map((c) => [c.key, before.get(c.key) ?? now]));
    this.early.set(fabric, seen);
    const early = (c: Cause): boolean => c.maybeSettling && now - seen.get(c.key)! < SETTLE_MS;
    return { wrong: causes.filter((c) => !early(c)), settling: causes.filter(early) };
  }

  private async compute(fabric: string): Promise<LiveAnswer> {
    const { db, compiler, events } = this.house;
    const now = at(this.house);
    await this.writeTimes();
    const watched = await compiler.run<'watch'>({ do: 'watch', fabric, change: null, staleBefore: this.staleBefore() });
    const counts = countHealth(watched);
    const untried = new Set(
      watched.seats.filter((s) => s.serial !== null && this.untried.has(s.serial)).map((s) => s.host),
    );
    const known = watched.causes.filter((c) => c.kind !== 'unread' || !c.hosts.some((h) => untried.has(h)));
    const { wrong, settling } = this.settled(fabric, known);
    const since = await db.transaction().execute(async (tx) => {
      if (watched.seats.length > 0 && untried.size === 0)
        await noteStanding(tx, fabric, now, {
          switches: watched.seats.length,
          asMeant: counts['as meant'],
          waiting: counts.waiting,
          drifted: counts.drifted,
          unread: counts.unread,
          out: counts['out of service'],
          causes: wrong.length,
        });
      return settleCauses(tx, fabric, wrong, now);
    });
    const answer: LiveAnswer = {
      ...watched,
      every: this.pace,
      sessions: { ...watched.sessions, settling: settling.length },
      causes: wrong.map((c): CauseAnswer => ({ ...c, fabric, since: since.get(c.key) ?? now })),
    };
    const content = JSON.stringify({
      ...answer,
      readAt: null,
      seats: answer.seats.map((s) => ({ ...s, readAt: null, textAt: null })),
    });
    const before = this.kept.get(fabric);
    const unread = new Set(answer.seats.flatMap((s) => (s.health === 'unread' && s.serial !== null ? [s.serial] : [])));
    this.kept.set(fabric, { answer, content, unread });
    if (before?.content !== content) {
      this.told.set(fabric, performance.now());
      events.tell('live', fabric);
      const old = new Set(before?.answer.causes.map((c) => c.key));
      const hosts = answer.causes.filter((c) => before && !old.has(c.key)).flatMap((c) => c.hosts);
      if (hosts.length > 0) this.onTrouble(hosts, fabric);
    }
    if (settling.length > 0) {
      this.onTrouble(
        settling.flatMap((c) => c.hosts),
        fabric,
      );
      setTimeout(() => void this.judge(fabric).catch(() => undefined), AGAIN_MS).unref();
    }
    return answer;
  }
}

export function countHealth(live: Pick<Watched, 'seats'>): Record<SwitchHealth, number> {
  const counts: Record<SwitchHealth, number> = {
    'as meant': 0,
    waiting: 0,
    drifted: 0,
    unread: 0,
    'out of service': 0,
  };
  for (const s of live.seats) counts[s.health]++;
  return counts;
}
