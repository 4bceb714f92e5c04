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

/** Pages that stay open from test to test: one for each part, for tests that only look. */
const standing = new Map<Part, Page>();
/** What they complain about belongs to the test that is under way. */
let heard: string[] = [];

/** What begins so, where what follows is not known beforehand. */
export const begins = (words: string): RegExp => new RegExp(`^${words.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&')}`);

/** A name not used before, also when a test is tried again. */
export const fresh = (name: string): string => `${name} ${Date.now().toString(36)}`;

/** Takes what the browser complains about of a page. */
function listen(page: Page, complaints: () => string[]): void {
  page.on('pageerror', (e) => complaints().push(e.message));
  page.on('console', (m) => {
    // A refused page is answered with 4xx on purpose, and the browser says so.
    if (m.type() === 'error' && !/status of (4\d\d)/.test(m.text())) complaints().push(m.text());
  });
}

export type SignedIn = (part: Part, options?: BrowserContextOptions) => Promise<Page>;

/**
 * Every page notes what the browser complains about; a test that ends with complaints fails. `as` opens a page of its own for
 * each who is named; `stands` gives the one page of somebody that stays over tests, its scripts read already, for tests that
 * change nothing of the browser's.
 */
export const test = base.extend<{ as: SignedIn; stands: (part: Part) => Promise<Page>; complaints: string[] }>({
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
      listen(page, () => complaints);
      return page;
    });
    await Promise.all(opened.map((p) => p.context().close()));
  },
  stands: async ({ browser, complaints }, use) => {
    await worker.start();
    heard = complaints;
    await use(async (part) => {
      const page = standing.get(part) ?? (await open(browser, part, {}));
      if (!standing.has(part)) listen(page, () => heard);
      standing.set(part, page);
      return page;
    });
    await Promise.all([...standing.values()].map((p) => p.goto('about:blank')));
  },
});
export { expect };

async function open(browser: Browser, part: Part, options: BrowserContextOptions): Promise<Page> {
  const known = states.get(part);
  const context = await browser.newContext({ ...options, ...(known && { storageState: known }) });
  const page = await context.newPage();
  if (!known) {
    await page.goto('/sign-in');
    await page.getByLabel('User name or mail address', { exact: true }).fill(part);
    await page.getByLabel('Password', { exact: true }).fill(password);
    await page.getByRole('button', { name: 'Sign in', exact: true }).click();
    await expect(page.getByRole('heading', { name: 'What do you need?', exact: true })).toBeVisible();
    states.set(part, await context.storageState());
  }
  return page;
}

/** Asks to join a group as a person would, and gives the request's number. */
export async function askToJoin(page: Page, group: string, reason: string, item = 'Join a group'): Promise<string> {
  await page.goto('/counter');
  await page.getByRole('link', { name: item, exact: true }).first().click();
  const pick = page.getByRole('combobox', { name: /^Group/ });
  await pick.fill(group);
  await page
    .getByRole('option', { name: begins(group) })
    .first()
    .click();
  await page.getByLabel(/^What you need it for/).fill(reason);
  await expect(page.getByText('Everything is filled in.', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}

/** Finds by its name what can be asked for, and opens it: once it stands there alone, for until then it moves. */
export async function openItem(page: Page, name: string): Promise<void> {
  await page.goto('/counter');
  await page.getByRole('searchbox', { name: 'Search what can be asked for', exact: true }).fill(name);
  await expect(page.getByText('1 found', { exact: true })).toBeVisible();
  await page
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
}

/** A page that hears of nothing, as one is whose line is cut: it stays as it was loaded. */
export const deaf = (page: Page) => page.route(/\/live(\?|$)/, (route) => route.fulfill({ status: 404 }));

/** A page whose scripts come when they are let. */
export async function scriptsHeld(page: Page): Promise<() => void> {
  let come = () => {};
  const held = new Promise<void>((done) => (come = done));
  await page.route(/\.js(\?|$)/, async (route) => {
    await held;
    await route.continue();
  });
  return come;
}

/** Opens the approval of a request from the list of those that wait. */
export async function openApproval(page: Page, number: string, item = 'Join a group'): Promise<void> {
  await page.goto('/desk/approvals');
  await page.getByRole('link', { name: number, exact: true }).click();
  await expect(page.getByRole('heading', { level: 2, name: new RegExp(item) })).toBeVisible();
}
/** The same, and they agree to it. */
export async function approve(page: Page, number: string, item: string): Promise<void> {
  await openApproval(page, number, item);
  await page.getByRole('button', { name: /^Approve for/ }).click();
  await expect(page.getByText(/^You approved this\./)).toBeVisible();
}

export const state = (page: Page) => page.getByLabel('Where it stands', { exact: true });

/** Reloads until the request has this state; the worker acts on its own. */
export async function waitFor(page: Page, number: string, words: string): Promise<void> {
  await expect(async () => {
    await page.goto(`/counter/requests/${number.slice(2)}`);
    await expect(state(page)).toContainText(words, { timeout: 2000 });
  }).toPass();
}

/** Before scripts load it is the browser's own list, which ours takes the place of. */
const ours = (box: Locator) => expect(box).not.toHaveJSProperty('tagName', 'SELECT');

/** Chooses from a list by the words of the choice. */
export async function choose(box: Locator, words: string): Promise<void> {
  await ours(box);
  await box.click();
  const option = box.page().getByRole('option', { name: words, exact: true });
  // The list finds its place once it is open: the pointer goes there first, as a person's does.
  await option.hover();
  await option.click();
}
/** The words of all choices that a list offers. */
export async function choicesOf(box: Locator): Promise<string[]> {
  await ours(box);
  await box.click();
  const words = await box.page().getByRole('option').allTextContents();
  await box.page().keyboard.press('Escape');
  await expect(box.page().getByRole('option')).toHaveCount(0);
  return words;
}

/** Picks one of what is found by a typed part of its name. */
export async function pick(page: Page, label: string, typed: string, option = typed): Promise<void> {
  const box = page.getByRole('combobox', { name: label, exact: true });
  await ours(box);
  await box.fill(typed);
  // What stands beside the name in the list is no part of it.
  await page
    .getByRole('option')
    .filter({ has: page.getByText(option, { exact: true }) })
    .click();
}
