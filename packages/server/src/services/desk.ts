import PQueue from 'p-queue';

/**
 * One desk for each fabric: what happens to a fabric's changes and rollouts happens there one after another, so that what
 * was looked at is still so when it is written. Fabrics do not wait for each other. What one desk must not do is wait for
 * another, or for a rollout of its own fabric, which comes to the desk to go live.
 */
export class Desks {
  private readonly queues = new Map<string, PQueue>();
  private readonly turns = new PQueue({ concurrency: 1 });

  at<T>(fabric: string, work: () => Promise<T>): Promise<T> {
    let queue = this.queues.get(fabric);
    if (!queue) this.queues.set(fabric, (queue = new PQueue({ concurrency: 1 })));
    return queue.add(work) as Promise<T>;
  }

  /**
   * Fabrics that draw from the same pools may come to the same value at the same moment; whoever was slower takes a turn,
   * one after another, so that nobody is always the slower one. Who has the turn waits for no desk.
   */
  turn<T>(work: () => Promise<T>): Promise<T> {
    return this.turns.add(work) as Promise<T>;
  }
}
