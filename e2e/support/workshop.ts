import type { Page } from '@playwright/test';
import { expect, fresh, type SignedIn } from './story.ts';

/** The plan sheet of the item that is open. */
export const sheet = (page: Page) => page.getByRole('treegrid', { name: 'Plan sheet', exact: true });
/** The line of a step. */
export const step = (page: Page, id: string) => sheet(page).locator(`[data-step="${id}"]`);
/** Everything is saved. */
export const saved = (page: Page) => expect(page.getByText(/^\s*Draft saved/)).toBeVisible();
/** No working time. */
export const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
/** A paragraph of fixed words. */
export const text = (words: string) => [[{ text: words }]];

/** A blank item whose draft is put in place over the same address that the editor saves to. */
export async function itemWith(as: SignedIn, name: string, form: object, steps: object[]): Promise<{ page: Page; name: string }> {
  const page = await as('designer');
  const called = fresh(name);
  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(called);
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  const status = await page.evaluate(
    async ({ url, draft }) =>
      (await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ version: 1, draft }) })).status,
    {
      url: page.url().replace(/ask$/, 'draft'),
      draft: { name: called, summary: 'For a test', category: 'Test', form, plan: { steps } },
    },
  );
  expect(status).toBe(200);
  await page.goto(page.url().replace(/ask$/, 'plan'));
  await expect(sheet(page)).toBeVisible();
  return { page, name: called };
}

/** Adds a step at the end, found by what people call it. */
export async function insert(page: Page, verb: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step at the end', exact: true }).click();
  await page.keyboard.type(verb);
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-slip-first]')).toBeFocused();
}
/** Publishes what is open. */
export async function publish(page: Page): Promise<void> {
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision/ }).click();
  await page.getByRole('button', { name: /^Publish revision/ }).click();
  await expect(page.getByText(/offered now/)).toBeVisible();
}
/** A step that tells the requester that all is done. */
export const told = (id: string) => ({
  id,
  kind: 'tell',
  name: 'Tell the end',
  expected: now,
  to: { ref: 'request.requester' },
  subject: text('Done'),
  body: [{ text: text('All is done.') }],
});

/** Adds a field of a kind, by what the menu calls it. */
export async function addField(page: Page, kind: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a field', exact: true }).click();
  await page.getByRole('menuitem', { name: new RegExp(`^${kind} `) }).click();
}
