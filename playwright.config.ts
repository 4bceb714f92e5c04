import { defineConfig } from '@playwright/test';
import { chromiumLaunch } from './e2e/support/chromium.ts';

/** The whole is run in two halves of about the same length, each in a house of its own; what is not named here is in the second. */
const firstHalf = ['access', 'boundary', 'categories', 'desk', 'editor', 'forms', 'kinds', 'lists', 'sheet', 'tables', 'trouble'].map(
  (name) => `${name}.spec.ts`,
);
const half = process.env['TEST_HALF'];

/** Started by scripts/test.mjs, which brings up database, stand-ins, web and demo first. */
export default defineConfig({
  testDir: 'e2e',
  ...(half === '1' && { testMatch: firstHalf }),
  ...(half === '2' && { testIgnore: firstHalf }),
  outputDir: `test-results/${half ?? ''}`,
  // The tests share one organisation, one directory and one worker that some of them kill.
  workers: 1,
  // Generous, since a machine may be slow and at times give a tenth of itself for minutes; nothing here asserts how fast something is.
  timeout: 480_000,
  expect: { timeout: 60_000, toPass: { timeout: 180_000 } },
  retries: 0,
  reporter: [['list'], ['json', { outputFile: process.env['PLAYWRIGHT_JSON_OUTPUT_NAME'] ?? 'test-results/report.json' }]],
  globalTeardown: './e2e/support/teardown.ts',
  use: {
    actionTimeout: 90_000,
    baseURL: process.env['PUBLIC_URL'] ?? '',
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    launchOptions: chromiumLaunch,
  },
});
