import type { ConfigFiles, Origin, ProofReport } from '@anthemion/core';
import { Piscina } from 'piscina';
import type { ExpectedPeer, ExpectTask, OriginsTask, ProveTask, SeatText, TextsTask } from './compile.worker.ts';

/** The heavy computations, in a worker thread that remembers what it compiled last. */
export class Compiler {
  private readonly pool: Piscina;
  constructor() {
    const ext = import.meta.url.endsWith('.ts') ? 'ts' : 'js';
    const file = ext === 'ts' ? './compile.worker.ts' : './compile.worker.js';
    this.pool = new Piscina({
      filename: new URL(file, import.meta.url).href,
      execArgv: ext === 'ts' ? ['--import', 'tsx'] : [],
      // One thread: its memory of the last compilation is what makes the next one quick.
      maxThreads: 1,
      minThreads: 1,
      resourceLimits: { maxOldGenerationSizeMb: 3072, maxYoungGenerationSizeMb: 192 },
    });
  }
  prove(task: Omit<ProveTask, 'do'>): Promise<ProofReport> {
    return this.pool.run({ do: 'prove', ...task }) as Promise<ProofReport>;
  }
  texts(task: Omit<TextsTask, 'do'>): Promise<SeatText[]> {
    return this.pool.run({ do: 'texts', ...task }) as Promise<SeatText[]>;
  }
  origins(
    task: Omit<OriginsTask, 'do'>,
  ): Promise<{ files: ConfigFiles; origins: Record<string, (Origin | null)[]> } | null> {
    return this.pool.run({ do: 'origins', ...task }) as Promise<{
      files: ConfigFiles;
      origins: Record<string, (Origin | null)[]>;
    } | null>;
  }
  async expect(task: Omit<ExpectTask, 'do'>): Promise<Map<string, ExpectedPeer[]>> {
    return new Map((await this.pool.run({ do: 'expect', ...task })) as [string, ExpectedPeer[]][]);
  }
  close(): Promise<void> {
    return this.pool.destroy();
  }
}
