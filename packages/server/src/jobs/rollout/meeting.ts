/** Where switches that change together wait for one another: before any is loaded, and before any is confirmed. */
export type MeetingPoint = 'checked' | 'settled';

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/**
 * Switches of which either all get their new text or none does. Each says when it has come to a point and waits there
 * for the others; as soon as one of them fails nobody goes on. A point where all have met stays met, so what happens
 * after it to one does not hold back another.
 */
export class Meeting {
  private readonly hosts: ReadonlySet<string>;
  private readonly arrived: Readonly<Record<MeetingPoint, Set<string>>> = { checked: new Set(), settled: new Set() };
  private readonly met = new Set<MeetingPoint>();
  private broken: string | null;
  private readonly poll: number;

  /**
   * @param hosts those that are expected
   * @param broken why it cannot be held at all, or null
   * @param poll how often those who wait look around, milliseconds
   */
  constructor(hosts: Iterable<string>, broken: string | null, poll: number) {
    this.hosts = new Set(hosts);
    this.broken = broken;
    this.poll = poll;
  }

  private missing(point: MeetingPoint): string[] {
    return [...this.hosts].filter((h) => !this.arrived[point].has(h));
  }
  /** The last one to come makes it met, unless somebody has left before. */
  private arrive(point: MeetingPoint, host: string): void {
    this.arrived[point].add(host);
    if (this.broken === null && this.missing(point).length === 0) this.met.add(point);
  }

  /** Has come to a point, by an earlier run of the server, or has nothing to do; it need not wait there. */
  passed(host: string, ...points: readonly MeetingPoint[]): void {
    for (const point of points) this.arrive(point, host);
  }

  /** Why nobody may go on to a point that was not met; null = it may still be. */
  off(point: MeetingPoint): string | null {
    return this.met.has(point) ? null : this.broken;
  }

  /** Somebody has failed. */
  leave(host: string, why: string): void {
    this.broken ??= `${host}: ${why}`;
  }

  /**
   * Waits until all are there.
   * @param stopping is the server ending?
   * @param until when to give up for all, by `performance.now()`; absent = those who fail say so themselves
   * @returns why nobody goes on, or null; `left` where the server ends
   */
  async at(
    point: MeetingPoint,
    host: string,
    stopping: () => boolean,
    until = Infinity,
  ): Promise<string | null | 'left'> {
    this.arrive(point, host);
    for (;;) {
      if (this.met.has(point)) return null;
      if (stopping()) return 'left';
      if (this.broken !== null) return this.broken;
      if (performance.now() >= until) this.broken = `${this.missing(point).slice(0, 3).join(', ')}: not so far in time`;
      else await sleep(this.poll);
    }
  }
}
