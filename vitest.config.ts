import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          isolate: false,
          include: ['core/**/*.test.ts', 'standins/**/*.test.ts', 'scripts/**/*.test.ts', 'app/**/*.test.ts'],
          environment: 'node',
          testTimeout: 60_000,
        },
      },
      {
        test: {
          name: 'server',
          // What a process keeps is kept by its settings: so all of the server is loaded once a worker, and not once a file.
          isolate: false,
          include: ['server/**/*.test.ts', 'demo/**/*.test.ts'],
          environment: 'node',
          testTimeout: 120_000,
          hookTimeout: 180_000,
        },
      },
    ],
  },
});
