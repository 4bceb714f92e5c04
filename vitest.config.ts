import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          include: ['core/**/*.test.ts', 'standins/**/*.test.ts', 'scripts/**/*.test.ts', 'app/**/*.test.ts'],
          environment: 'node',
          testTimeout: 60_000,
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts', 'demo/**/*.test.ts'],
          environment: 'node',
          testTimeout: 120_000,
          hookTimeout: 180_000,
        },
      },
    ],
  },
});
