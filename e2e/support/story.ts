import { expect, test as base, type Browser, type BrowserContextOptions, type Locator, type Page } from '@playwright/test';
import { worker } from './worker.ts';

/** The part each sign-in plays in the demo, with the name it is known by. */
export const cast = {
  designer: 'Una Ravnskar',
  approver: 'Ivar Tidemark',
  owner: 'Solveig Langskar',
  technician: 'Birk Saltvik',
  requester: 'Tuva Fossness',
  auditor: 'Njal Westray',
  administrator: 'Ylva Stormness',
  'access.lead': 'Gudrun Eidholm',
} as const;
export type Part = keyof typeof cast;
const password = 'lantern over quay';
type State = Extract<NonNullable<BrowserContextOptions['storageState']>, object>;
const states = new Map<Part, State>();

/** A name not used before, also when a test is tried again. */
export const fresh = (name: string): string => `${name} ${Date.now().toString(36)}`;

export type SignedIn = (part: Part, options?: BrowserContextOptions) => Promise<Page>;

/** Every page notes what the browser complains about; a test that ends with complaints fails. */
export const test = base.extend<{ as: SignedIn; complaints: string[] }>({
  complaints: async ({}, use) => {
    const complaints: string[] = [];
    await use(complaints);
    expect(complaints, 'what the browser complained about').toEqual([]);
  },
  as: async ({ browser, complaints }, use) => {
    await worker.start();
    const opened: Page[] = [];
    await use(async (part, options = {}) => {
      const page = await open(browser, part, options);
      opened.push(page);
      page.on('pageerror', (e) => complaints.push(e.message));
      page.on('console', (m) => {
        // A refused page is answered with 4xx on purpose, and the browser says so.
        if (m.type() === 'error' && !/status of (4\d\d)/.test(m.text())) complaints.push(m.text());
      });
      return page;
    });
    await Promise.all(opened.map((p) => p.context().close()));
  },
});
export { expect };

async function open(browser: Browser, part: Part, options: BrowserContextOptions): Promise<Page> {
  const known = states.get(part);
  const context = await browser.newContext({ ...options, ...(known && { storageState: known }) });
  const page = await context.newPage();
  if (!known) {
    await page.goto('/sign-in');
    await page.getByLabel('User name or mail address').fill(part);
    await page.getByLabel('Password').fill(password);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('heading', { name: 'What do you need?' })).toBeVisible();
    states.set(part, await context.storageState());
  }
  return page;
}

/** Asks to join a group as a person would, and gives the request's number. */
export async function askToJoin(page: Page, group: string, reason: string, item = 'Join a group'): Promise<string> {
  await page.goto('/counter');
  await page.getByRole('link', { name: item }).first().click();
  const pick = page.getByRole('combobox', { name: 'Group' });
  await pick.fill(group);
  await page.getByRole('option', { name: group }).first().click();
  await page.getByLabel('What you need it for').fill(reason);
  await expect(page.getByText('Everything is filled in.')).toBeVisible();
  await page.getByRole('button', { name: 'Send request' }).click();
  await expect(page.getByText('Your request is on its way.')).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}

/** A page that hears of nothing, as one is whose line is cut: it stays as it was loaded. */
export const deaf = (page: Page) => page.route(/\/live(\?|$)/, (route) => route.fulfill({ status: 404 }));

/** Opens the approval of a request from the list of those that wait. */
export async function openApproval(page: Page, number: string): Promise<void> {
  await page.goto('/desk/approvals');
  await page.getByRole('link', { name: number }).click();
  await expect(page.getByRole('heading', { level: 2, name: /Join a group/ })).toBeVisible();
}

export const state = (page: Page) => page.getByLabel('Where it stands');

/** Reloads until the request has this state; the worker acts on its own. */
export async function waitFor(page: Page, number: string, words: string): Promise<void> {
  await expect(async () => {
    await page.goto(`/counter/requests/${number.slice(2)}`);
    await expect(state(page)).toContainText(words, { timeout: 2000 });
  }).toPass({ timeout: 60_000 });
}

/** Chooses from a list by the words of the choice. */
export async function choose(box: Locator, words: string): Promise<void> {
  // Before scripts load it is the browser's own list, which ours takes the place of.
  await expect(box).not.toHaveJSProperty('tagName', 'SELECT');
  await box.click();
  const option = box.page().getByRole('option', { name: words, exact: true });
  // The list finds its place once it is open: the pointer goes there first, as a person's does.
  await option.hover();
  await option.click();
}
/** The words of all choices that a list offers. */
export async function choicesOf(box: Locator): Promise<string[]> {
  await box.click();
  const words = await box.page().getByRole('option').allTextContents();
  await box.page().keyboard.press('Escape');
  await expect(box.page().getByRole('option')).toHaveCount(0);
  return words;
}

/** Picks one of what is found by a typed part of its name. */
export async function pick(page: Page, label: string, typed: string, option = typed): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).fill(typed);
  // What stands beside the name in the list is no part of it.
  await page
    .getByRole('option')
    .filter({ has: page.getByText(option, { exact: true }) })
    .click();
}
