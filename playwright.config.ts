import { defineConfig } from '@playwright/test';

/** Started by scripts/test.mjs, which brings up database, stand-ins, web and demo first. */
export default defineConfig({
  testDir: 'e2e',
  // The tests share one organisation, one directory and one worker that some of them kill.
  workers: 1,
  timeout: 45_000,
  expect: { timeout: 10_000 },
  reporter: [['list'], ['json', { outputFile: process.env['PLAYWRIGHT_JSON_OUTPUT_NAME'] ?? 'test-results/report.json' }]],
  globalTeardown: './e2e/support/teardown.ts',
  use: {
    baseURL: process.env['PUBLIC_URL'] ?? '',
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
