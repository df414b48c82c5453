import type { FindAnswer } from '@anthemion/contract';
import { soughtOf } from '@anthemion/core';
import { liveRevision } from '../store/fabrics.ts';
import { found, notYetFound, writeFindables } from '../store/findables.ts';
import type { Sight } from '../store/pages.ts';
import { words } from '../trouble.ts';
import type { House } from './house.ts';

/** Rows are written so many at once: between them others are answered. */
const WRITTEN_AT_ONCE = 200;

/**
 * Keeps what can be found up to what is live: after a fabric has gone live, and at the start where that was missed. One
 * fabric after the other; until it is through, who looks is told that its newest revision is not in it.
 */
export class Finding {
  private readonly house: House;
  private readonly unlisten: () => void;
  private work: Promise<void> = Promise.resolve();
  private awaited = false;
  private ended = false;

  constructor(house: House) {
    this.house = house;
    this.unlisten = house.events.listen(({ topic }) => {
      if (topic === 'fabrics') this.catchUp();
    });
  }

  /** Writes what is not there yet; safe to call at any time. */
  catchUp(): void {
    if (this.awaited || this.ended) return;
    this.awaited = true;
    this.work = this.work.then(async () => {
      this.awaited = false;
      const { db, log } = this.house;
      const said = (error: unknown): void => {
        if (!this.ended) log.error({ err: error }, `what is live cannot be found yet: ${words(error)}`);
      };
      const behind = await notYetFound(db, null).catch((error: unknown) => (said(error), []));
      // What cannot be written of one is no reason to leave the others.
      for (const { fabric } of behind) if (!this.ended) await this.write(fabric).catch(said);
    });
  }

  private async write(fabric: string): Promise<void> {
    const { db, compiler } = this.house;
    const moved = await compiler.run<'findables'>({ do: 'findables', fabric });
    for (let at = 0; ; at += WRITTEN_AT_ONCE) {
      const part = {
        put: moved.put.slice(at, at + WRITTEN_AT_ONCE),
        gone: moved.gone.slice(at, at + WRITTEN_AT_ONCE),
      };
      const isLast = at + WRITTEN_AT_ONCE >= Math.max(moved.put.length, moved.gone.length);
      await db.transaction().execute((tx) => writeFindables(tx, fabric, part, isLast ? moved.revision : null));
      if (isLast || this.ended) break;
    }
    // It went live again meanwhile.
    if ((await liveRevision(db, fabric)) !== moved.revision) this.catchUp();
  }

  /** Resolves when all that is live can be found. */
  async rest(): Promise<void> {
    for (let last; last !== this.work;) await (last = this.work);
  }

  async stop(): Promise<void> {
    this.ended = true;
    this.unlisten();
    await this.work;
  }
}

const MOST = 40;
const LONGEST = 200;

/** What somebody who sees some fabrics finds; those of the fabric they look at before others that fit as well. */
export async function find(house: House, text: string, near: string, sight: Sight): Promise<FindAnswer> {
  const all = await found(house.db, soughtOf(text.slice(0, LONGEST)), { sight, near, most: MOST });
  return {
    found: all.map(({ fabric, subject, word, name, why }) => ({ fabric, subject, word, name, why })),
    behind: (await notYetFound(house.db, sight)).map((f) => f.fabric),
  };
}
