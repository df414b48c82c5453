import { defineConfig } from 'vitest/config';

/** Kills and faults, see `npm run chaos`; a short run is part of `npm test`. */
export default defineConfig({
  test: {
    name: 'chaos',
    root: 'packages/server',
    include: ['src/**/*.chaos.ts'],
    testTimeout: 3_600_000,
    hookTimeout: 120_000,
    fileParallelism: false,
  },
});
