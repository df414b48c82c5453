import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** By far the longest file comes first, so that the others fill the time beside it. */
const LONGEST = /pages\.e2e\.ts$/;
class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const longest = (f: TestSpecification): number => (LONGEST.test(f.moduleId) ? 0 : 1);
    return (await super.sort(files)).sort((a, b) => longest(a) - longest(b));
  }
}

export default defineConfig({
  test: {
    name: 'e2e',
    root: import.meta.dirname,
    include: ['**/*.e2e.ts'],
    // Only what hangs: shared machines are slower by four at times.
    testTimeout: 900_000,
    hookTimeout: 180_000,
    // More than half of their time is waiting; each has servers, switches and folders of its own.
    maxWorkers: 3,
    sequence: { sequencer: LongestFirst },
  },
});
