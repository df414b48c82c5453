import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    name: 'e2e',
    root: import.meta.dirname,
    include: ['**/*.e2e.ts'],
    testTimeout: 240_000,
    hookTimeout: 90_000,
    fileParallelism: false,
  },
});
