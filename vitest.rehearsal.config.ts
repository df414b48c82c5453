import { defineConfig } from 'vitest/config';

/** Switch texts on real daemons: a suite of its own, beside which only checks run that take what time is left. */
export default defineConfig({
  test: {
    name: 'rehearsal',
    root: 'packages/rehearsal',
    include: ['src/**/*.test.ts'],
    // Most of it is waiting.
    maxConcurrency: 3,
    // Only what hangs.
    testTimeout: 300_000,
    hookTimeout: 60_000,
  },
});
