import { spawn } from 'node:child_process';
import { chromium, type Page } from '@playwright/test';
import { chromiumLaunch } from '../e2e/support/chromium.ts';
import { hashToken, newToken } from '../server/auth/token.ts';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { roleGrant, session } from '../server/db/schema/index.ts';
import { setSession } from '../server/http/cookie.ts';
import { changeTable, createTable } from '../server/tables/commands.ts';
import { importSheet } from '../server/tables/sheet.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good } from './generated.ts';
import { line } from './measure.ts';

/** From a key to what it paints, in the grid of a table of ten thousand rows, beside a page on which a key changes one word. */
useSettings(process.env);
const origin = `http://127.0.0.1:${process.env['PORT']}`;
const many = Number(process.env['BENCH_ROWS'] ?? 10_000);

const org = await makeOrganisation();
const designer = viewerFor(org.people['dan']!, 'designer');
await db().insert(roleGrant).values({ personId: designer.id, role: 'designer' }).onConflictDoNothing();
const { id } = good(await createTable(designer, { name: 'Instruments' }));
const columns = ['serial', 'what', 'where', 'state'].map((c) => ({ id: c, kind: 'text' as const, label: c, required: c === 'serial' }));
good(await changeTable(designer, { id, version: 1, definition: { name: 'Instruments', purpose: '', columns, key: ['serial'] } }));
const sheet = ['serial,what,where,state', ...Array.from({ length: many }, (_, i) => `SN-${i},Tide gauge,Stores,ready`)].join('\n');
good(await importSheet(designer, { table: id, text: sheet }));
const token = newToken();
await db()
  .insert(session)
  .values({ idHash: hashToken(token), personId: designer.id, expiresAt: new Date(Date.now() + 3_600_000), address: '', agent: 'bench' });
const [name, value] = (await setSession(token)).split(';')[0]!.split('=') as [string, string];

const web = spawn(process.execPath, ['build/processes/web.js'], {
  env: { ...process.env, LOG_LEVEL: 'error' },
  stdio: ['ignore', 'pipe', 'inherit'],
});
await new Promise<void>((up) => web.stdout.on('data', (d) => String(d).includes('web ready') && up()));
const browser = await chromium.launch(chromiumLaunch);
const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
await context.addCookies([{ name, value: decodeURIComponent(value), url: origin }]);

/** The median time in milliseconds from a key to the end of the frame that shows what it did. */
async function keyToPaint(page: Page, key: string, times = 60): Promise<number> {
  await page.evaluate(() => {
    const took: number[] = [];
    Object.assign(window, { took });
    document.addEventListener(
      'keydown',
      () => {
        const begun = performance.now();
        requestAnimationFrame(() => {
          const { port1, port2 } = new MessageChannel();
          port1.onmessage = () => took.push(performance.now() - begun);
          port2.postMessage(0);
        });
      },
      true,
    );
  });
  for (let i = 0; i < times; i++) {
    await page.keyboard.press(key);
    await page.waitForFunction((n) => (window as unknown as { took: number[] }).took.length > n, i);
  }
  const took = await page.evaluate(() => (window as unknown as { took: number[] }).took);
  return took.toSorted((a, b) => a - b)[Math.floor(took.length / 2)]!;
}

const plain = await context.newPage();
await plain.setContent('<p tabindex="0">0</p>');
await plain.evaluate(() => {
  const words = document.querySelector('p')!;
  words.addEventListener('keydown', () => (words.textContent = String(Number(words.textContent) + 1)));
  words.focus();
});
const least = await keyToPaint(plain, 'ArrowDown');
line('a key on a page with one word, to the end of its frame', `${least.toFixed(1)} ms`);
const page = await context.newPage();
await page.goto(`${origin}/workshop/tables/${id}`);
await page.getByRole('gridcell', { name: 'SN-0', exact: true }).click();
for (const [what, key] of [
  ['a line down', 'ArrowDown'],
  ['a page down', 'PageDown'],
  ['a column on', 'ArrowRight'],
  ['a block of one line more', 'Shift+ArrowDown'],
] as const) {
  const took = await keyToPaint(page, key);
  line(`${what} in the grid of ${many.toLocaleString('en-GB')} rows`, `${took.toFixed(1)} ms`, `${(took / least).toFixed(1)} times that`);
  await page.reload();
  await page.getByRole('gridcell', { name: 'SN-0', exact: true }).click();
}
await browser.close();
web.kill('SIGTERM');
await disconnect();
process.exit(0);
