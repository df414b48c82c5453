import { defineConfig } from 'vitest/config';

/** Only what hangs: shared machines are slower by four at times. */
const patience = { testTimeout: 300_000, hookTimeout: 120_000 };

export default defineConfig({
  test: {
    // Half of the time of these tests is waiting: two at once on two cores; three take longer.
    maxWorkers: 2,
    projects: [
      {
        test: {
          ...patience,
          name: 'modules',
          include: ['packages/{core,contract,server,cli,web}/src/**/*.test.ts'],
          // They keep nothing in their modules, which are read once by each worker, and are turned into JavaScript once for all.
          isolate: false,
          globalSetup: 'packages/server/src/testing/bundled.ts',
        },
      },
      {
        test: { ...patience, name: 'screens', environment: 'jsdom', include: ['packages/web/src/**/*.test.tsx'] },
      },
    ],
  },
});
