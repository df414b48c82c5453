import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: ['core', 'contract', 'server', 'cli', 'web'].map((name) => ({
      test: {
        name,
        root: `packages/${name}`,
        include: ['src/**/*.test.{ts,tsx}'],
        testTimeout: 30_000,
        hookTimeout: 60_000,
      },
    })),
  },
});
