import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    name: 'e2e',
    root: import.meta.dirname,
    include: ['**/*.e2e.ts'],
    // Only what hangs: shared machines are slower by four at times.
    testTimeout: 480_000,
    hookTimeout: 180_000,
    // More than half of their time is waiting; each has servers, switches and folders of its own.
    maxWorkers: 3,
  },
});
