import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import type { Page } from '@playwright/test';
import { expect, fresh, test, type SignedIn } from './support/story.ts';
import { folder } from './support/worker.ts';

const logged = (number: string | undefined, words: string) =>
  readFileSync(join(folder, 'logs/web.log'), 'utf8')
    .split('\n')
    .find((l) => l.includes(`"visit":"${number}"`) && l.includes(words));
const numberIn = (words: string) => /Quote this number: ([0-9a-f]{8})/.exec(words)?.[1];

/** An item of its own for this test, blank. */
async function begun(as: SignedIn, item: string): Promise<{ page: Page; name: string }> {
  const page = await as('designer');
  await page.goto('/workshop/items');
  await page.getByRole('link', { name: 'Begin an item', exact: true }).click();
  const name = fresh(item);
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  return { page, name };
}

test('what a slip cannot show leaves the draft and its undo as they were; tried again it is there', async ({ as, complaints }) => {
  const { page } = await begun(as, 'Half a slip');
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  // The editor of messages is a file of its own: now it cannot be fetched.
  await page.route(/\/rich-editor-[^/]*\.js/, (route) => route.abort());
  await page.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await page.keyboard.type('tell');
  await page.keyboard.press('Enter');
  const slip = page.getByRole('complementary', { name: /^Settings of/ });
  const alert = slip.getByRole('alert');
  await expect(alert).toContainText('These settings cannot be shown. The draft and its undo are as they were.');
  await expect(alert).toContainText('Quote this number');
  const number = numberIn(await alert.innerText());
  await expect.poll(() => logged(number, 'a page failed in the browser')).toBeDefined();
  // The head of the slip, the sheet, saving and undo go on.
  await expect(page.getByText('Draft saved', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(slip).toHaveCount(0);
  await page.getByRole('button', { name: /^Redo/ }).click();
  await page
    .getByRole('treegrid', { name: 'Plan sheet', exact: true })
    .getByRole('row', { name: /^1 Tell: Tell\./ })
    .click();
  await expect(alert).toBeVisible();
  await page.unroute(/\/rich-editor-[^/]*\.js/);
  await alert.getByRole('button', { name: 'Try again', exact: true }).click();
  await expect(slip.getByRole('textbox', { name: 'Subject', exact: true })).toBeVisible();
  expect(complaints.splice(0).filter((c) => !/rich-editor|ERR_FAILED/.test(c))).toEqual([]);
});

test('what cannot be shown says so in its place, with a number that the log carries; the rest of the page goes on', async ({ as, complaints }) => {
  const { page: designer, name } = await begun(as, 'Out of its time');
  const address = designer.url();
  // A document of a version that this code does not know: nothing can be done but say so.
  const client = new pg.Client({ connectionString: process.env['DATABASE_URL']! });
  await client.connect();
  await client.query(`update item set draft = draft || '{"format": 99}' where name = $1`, [name]);
  await client.end();
  // Gone to within the page, and by its address: the place says it, and the bar above is still there.
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name, exact: true }).click();
  for (const again of [false, true]) {
    if (again) await designer.goto(address);
    await expect(designer.getByRole('heading', { level: 1, name: 'Something went wrong', exact: true })).toBeVisible();
    await expect(designer.getByRole('navigation', { name: 'Places', exact: true })).toBeVisible();
    const number = numberIn(await designer.getByRole('main').innerText());
    expect(number).toBeDefined();
    await expect.poll(() => logged(number, 'newer Nessmoor')).toBeDefined();
  }
  await designer.getByRole('link', { name: 'Go to the Counter', exact: true }).click();
  await expect(designer.getByRole('heading', { level: 1, name: 'What do you need?', exact: true })).toBeVisible();
  // The browser complains of what failed, and of nothing else.
  expect(complaints.splice(0).filter((c) => !/status of 500|Unexpected Server Error/.test(c))).toEqual([]);
});

test('an address that leads nowhere says so in words of ours', async ({ as, complaints }) => {
  const page = await as('requester');
  expect((await page.goto('/counter/nowhere/at-all'))?.status()).toBe(404);
  await expect(page.getByRole('heading', { level: 1, name: 'Not here', exact: true })).toBeVisible();
  await expect(page.getByText('There is no page at this address. The places above lead on.', { exact: true })).toBeVisible();
  expect(complaints.splice(0).filter((c) => !/status of 404|No route matches/.test(c))).toEqual([]);
});
