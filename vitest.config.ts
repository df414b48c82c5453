import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // Half of the time of these tests is waiting: two at once on two cores; three take longer.
    maxWorkers: 2,
    projects: ['core', 'contract', 'server', 'cli', 'web'].map((name) => ({
      test: {
        name,
        root: `packages/${name}`,
        include: ['src/**/*.test.{ts,tsx}'],
        // What keeps nothing in its modules needs no graph of its own in every file: it is read once by each worker.
        isolate: name !== 'core' && name !== 'server',
        ...(name === 'server' ? { globalSetup: 'src/testing/bundled.ts' } : {}),
        // Only what hangs: shared machines are slower by four at times.
        testTimeout: 120_000,
        hookTimeout: 120_000,
      },
    })),
  },
});
