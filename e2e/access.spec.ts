import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { firstRequest } from '../demo/numbers.ts';
import { expect, test, type Part } from './support/story.ts';

const axe = readFileSync('node_modules/axe-core/axe.min.js', 'utf8');

/** Violations of WCAG 2.2 A and AA, as axe-core finds them; `colours`: only those that another colour scheme can bring. */
async function violations(page: Page, colours = false): Promise<string[]> {
  // Through the debugger's channel, since the page's own policy lets no foreign script in.
  await page.evaluate(axe);
  return page.evaluate(async (only) => {
    const run = (
      window as unknown as {
        axe: { run: (d: Document, o: object) => Promise<{ violations: { id: string; nodes: { html: string; failureSummary: string }[] }[] }> };
      }
    ).axe.run;
    const result = await run(document, {
      runOnly: only
        ? { type: 'rule', values: ['color-contrast', 'link-in-text-block'] }
        : ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'],
    });
    return result.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary.slice(0, 200)}`));
  }, colours);
}

const item = async (page: Page, leaf: string, name = 'Join a group') => {
  await page.goto('/workshop/items');
  await page.getByRole('link', { name, exact: true }).click();
  await page.waitForURL(/\/plan$/);
  await page.goto(page.url().replace(/plan$/, leaf));
};
/** A table of the demo. */
const table = (p: Page, name: string) => p.goto('/workshop/tables').then(() => p.getByRole('link', { name, exact: true }).click());
/** One that people keep, and one that is read from a system. */
const needs = (p: Page) => table(p, 'What a role needs');
const machines = (p: Page) => table(p, 'Machine sizes');

type View = [string, Part, (page: Page) => Promise<unknown>];
const views: View[] = [
  ['Counter', 'requester', (p) => p.goto('/counter')],
  ['Counter, nothing found', 'requester', (p) => p.goto('/counter?q=zzz')],
  ['Asking', 'requester', (p) => p.goto('/counter').then(() => p.getByRole('link', { name: 'Join a group', exact: true }).first().click())],
  [
    'Asking, with a price and sections',
    'requester',
    (p) =>
      p.goto('/counter').then(() =>
        p
          .getByRole('link', { name: /^Project space/ })
          .first()
          .click(),
      ),
  ],
  [
    'Asking from outside',
    'designer',
    (p) =>
      item(p, 'publish', 'Chart correction').then(async () =>
        p.goto(await p.getByRole('textbox', { name: 'Address of the public link', exact: true }).inputValue()),
      ),
  ],
  ['My requests', 'requester', (p) => p.goto('/counter/requests')],
  ['Holdings', 'auditor', (p) => p.goto('/ledger/holdings')],
  ['Holdings, one open', 'administrator', (p) => p.goto('/ledger/holdings?state=held').then(() => p.locator('[data-row]').first().press('Enter'))],
  [
    'Differences, one open',
    'administrator',
    (p) => p.goto('/ledger/differences?state=open').then(() => p.locator('[data-row]').first().press('Enter')),
  ],
  ['My things', 'requester', (p) => p.goto('/counter/things')],
  [
    'A sealed note',
    'requester',
    async (p) => {
      await p.goto('/counter/things');
      await p
        .getByRole('region', { name: 'Sealed notes', exact: true })
        .getByRole('link', { name: /^Sealed note: first sign-in/ })
        .first()
        .click();
      await p.getByRole('button', { name: 'Open it, once', exact: true }).waitFor();
    },
  ],
  [
    'A meeting',
    'approver',
    (p) =>
      p.goto('/counter/requests').then(() =>
        p
          .getByRole('link', { name: /^Handing over before/ })
          .first()
          .click(),
      ),
  ],
  ['Who is in my groups', 'owner', (p) => p.goto('/counter/things?whose=owned')],
  ['What my people hold', 'owner', (p) => p.goto('/counter/things?whose=people')],
  ['Basket, empty', 'requester', (p) => p.goto('/counter/basket')],
  ['A request', 'requester', (p) => p.goto('/counter/requests').then(() => p.getByRole('main').getByRole('link').first().click())],
  [
    'A request with a question',
    'requester',
    (p) =>
      p.goto('/counter/requests').then(() =>
        p
          .getByRole('link', { name: /Colleague starting/ })
          .last()
          .click(),
      ),
  ],
  ['Approvals', 'approver', (p) => p.goto('/desk/approvals')],
  [
    'An approval',
    'approver',
    (p) => p.goto('/desk/approvals').then(() => p.getByRole('main').getByRole('gridcell').getByRole('link').first().click()),
  ],
  ['Items', 'designer', (p) => p.goto('/workshop/items?new')],
  ['Ask', 'designer', (p) => item(p, 'ask?field=survey')],
  ['Ask, a name that is the only one, in sections', 'designer', (p) => item(p, 'ask?field=name', 'Project space')],
  ['Ask, the price', 'designer', (p) => item(p, 'ask?price', 'Processing machine')],
  ['Plan', 'designer', (p) => item(p, 'plan')],
  ['Plan, a gate open', 'designer', (p) => item(p, 'plan?step=owners')],
  ['Plan, a message open', 'designer', (p) => item(p, 'plan?step=tellDeclined').then(() => p.locator('.tiptap').first().waitFor())],
  ['Publish, compared', 'designer', (p) => item(p, 'publish?from=1&to=')],
  [
    'Plan with every kind of block, a task open',
    'designer',
    (p) => item(p, 'plan?step=contractPapers', 'Colleague starting').then(() => p.locator('.tiptap').first().waitFor()),
  ],
  ['Plan, a gate with all its settings', 'designer', (p) => item(p, 'plan?step=agree', 'Processing machine')],
  ['Plan in sentences', 'designer', (p) => item(p, 'plan?view=sentences&step=firstMorning', 'Colleague starting')],
  ['Plan in overview', 'designer', (p) => item(p, 'plan?view=overview', 'Colleague starting')],
  ['Plan, folded', 'designer', (p) => item(p, 'plan?folded=all&step=prepare&sel=', 'Colleague starting')],
  ['Parts, none yet', 'designer', (p) => p.goto('/workshop/items?kind=part&new')],
  ['Policies', 'designer', (p) => p.goto('/workshop/policies')],
  ['A policy', 'designer', (p) => p.goto('/workshop/policies').then(() => p.getByRole('link', { name: 'Processing machines', exact: true }).click())],
  ['Tables', 'designer', (p) => p.goto('/workshop/tables')],
  [
    'A table, a row open',
    'designer',
    (p) =>
      needs(p).then(() =>
        p
          .getByRole('link', { name: /^Open Chart editor/ })
          .first()
          .click(),
      ),
  ],
  ['A table that is read, a row open', 'designer', (p) => machines(p).then(() => p.getByRole('link', { name: 'Medium', exact: true }).click())],
  ['Categories', 'designer', (p) => p.goto('/workshop/categories')],
  ['A table’s columns', 'designer', (p) => machines(p).then(() => p.getByRole('link', { name: 'Columns and key', exact: true }).click())],
  ['A table as a sheet', 'designer', (p) => needs(p).then(() => p.getByRole('link', { name: 'As a sheet of cells', exact: true }).click())],
  ['A table’s history', 'designer', (p) => needs(p).then(() => p.getByRole('link', { name: 'What was changed', exact: true }).click())],
  ['Service hours', 'designer', (p) => p.goto('/workshop/hours')],
  [
    'Service hours of a place',
    'designer',
    (p) => p.goto('/workshop/hours').then(() => p.getByRole('link', { name: 'Lunnick', exact: true }).click()),
  ],
  ['Bring in a file', 'designer', (p) => p.goto('/workshop/bring-in')],
  ['Ask, about the item', 'designer', (p) => item(p, 'ask', 'Calibration booking')],
  ['Publish, what can go over', 'designer', (p) => item(p, 'publish?behind=0', 'Join a group')],
  ['Plan, several sides of a gate', 'designer', (p) => item(p, 'plan?step=agree', 'Project space')],
  [
    'A system that answers later',
    'administrator',
    (p) => p.goto('/workshop/systems').then(() => p.getByRole('link', { name: 'Machine park', exact: true }).click()),
  ],
  [
    'Systems, one being registered',
    'administrator',
    (p) => p.goto('/workshop/systems/new').then(() => p.getByRole('button', { name: 'Add an action', exact: true }).click()),
  ],
  ['My teams', 'technician', (p) => p.goto('/desk/queue')],
  [
    'A task',
    'technician',
    (p) => p.goto('/desk/queue?what=task').then(() => p.getByRole('main').getByRole('gridcell').getByRole('link').first().click()),
  ],
  [
    'A ticket at the Desk',
    'technician',
    (p) => p.goto('/desk/queue?what=ticket').then(() => p.getByRole('main').getByRole('gridcell').getByRole('link').first().click()),
  ],
  ...(['statuses', 'form', 'priority', 'promises'] as const).map((part): View => [
    `A ticket kind: ${part}`,
    'designer',
    (p) =>
      p
        .goto('/workshop/kinds')
        .then(() => p.getByRole('link', { name: 'Incident', exact: true }).click())
        .then(() => p.getByRole('link', { name: `${part[0]!.toUpperCase()}${part.slice(1)}`, exact: true }).click()),
  ]),
  [
    'Intake',
    'designer',
    (p) =>
      p
        .goto('/workshop/intake')
        .then(() => p.getByText('Take in mail to an address', { exact: true }).click())
        .then(() => p.getByText('Take in what is said in a channel', { exact: true }).click()),
  ],
  [
    'Joining, linking and splitting a ticket',
    'technician',
    (p) =>
      p
        .goto('/desk/queue?what=ticket')
        .then(() => p.getByRole('main').getByRole('gridcell').getByRole('link').first().click())
        .then(() => p.getByText('Join, link, split, or begin something from here', { exact: true }).click()),
  ],
  [
    'What is done with several of the queue',
    'technician',
    (p) =>
      p
        .goto('/desk/queue?what=ticket')
        .then(() => p.getByRole('main').getByRole('checkbox').first().click())
        .then(() => p.getByRole('button', { name: 'Give or write …', exact: true }).click()),
  ],
  [
    'A routing table',
    'designer',
    (p) => p.goto('/workshop/routing').then(() => p.getByRole('link', { name: 'Who gets a ticket', exact: true }).click()),
  ],
  ['Report a problem', 'requester', (p) => p.goto('/counter/report')],
  [
    'A ticket at the Counter',
    'owner',
    (p) =>
      p.goto('/counter/requests').then(() =>
        p
          .getByRole('link', { name: /Tablet does not charge/ })
          .first()
          .click(),
      ),
  ],
  ['Tables I keep', 'technician', (p) => p.goto('/desk/tables')],
  ['Stuck steps', 'technician', (p) => p.goto('/desk/stuck')],
  ['Consents', 'access.lead', (p) => p.goto('/desk/consents')],
  [
    'Groups kept apart, an exception being made',
    'access.lead',
    (p) => p.goto('/desk/apart').then(() => p.getByText('Make an exception …', { exact: true }).first().click()),
  ],
  ['Decisions', 'auditor', (p) => p.goto('/ledger/decisions')],
  ['Equipment', 'technician', (p) => p.goto('/desk/equipment')],
  ['Stock', 'technician', (p) => p.goto('/desk/equipment/stock')],
  ['Pieces of equipment', 'technician', (p) => p.goto('/desk/equipment/pieces')],
  ['Kinds and places of equipment', 'designer', (p) => p.goto('/workshop/equipment')],
  ['My things, with what was handed over', 'owner', (p) => p.goto('/counter/things')],
  ['Groups', 'approver', (p) => p.goto('/desk/groups')],
  [
    'A group with a condition for its members',
    'approver',
    (p) => p.goto('/desk/groups').then(() => p.getByRole('link', { name: 'lunnick-instruments', exact: true }).click()),
  ],
  ['Groups kept apart', 'designer', (p) => p.goto('/desk/apart')],
  ['Set aside', 'administrator', (p) => p.goto('/desk/set-aside')],
  ['My account', 'requester', (p) => p.goto('/account')],
  ['Systems', 'administrator', (p) => p.goto('/workshop/systems')],
  ['Staff feed', 'designer', (p) => p.goto('/workshop/staff')],
  ['A rule of the staff feed', 'designer', (p) => p.goto('/workshop/staff/starts')],
  ['The directory as a system', 'designer', (p) => p.goto('/workshop/systems/directory')],
  ['An entry of the log', 'auditor', (p) => p.goto('/ledger/changes').then(() => p.locator('[data-row]').first().press('Enter'))],
  [
    'Log of changes',
    'auditor',
    (p) => p.goto('/ledger/changes').then(() => p.getByRole('button', { name: 'Verify the chain', exact: true }).click()),
  ],
  ['Ledger', 'auditor', (p) => p.goto('/ledger')],
  ['Tickets of the Ledger', 'auditor', (p) => p.goto('/ledger/tickets')],
  ['Trace', 'auditor', (p) => p.goto(`/ledger/${firstRequest}`)],
  ['Not here', 'requester', (p) => p.goto('/ledger')],
  ['The kit', 'requester', (p) => p.goto('/kit')],
];

for (const [name, part, go] of views) {
  test(`${name}: axe-core finds no violations, by day and by night`, async ({ stands }) => {
    const page = await stands(part);
    await page.emulateMedia({ colorScheme: 'light' });
    await go(page);
    await page.waitForLoadState('networkidle');
    // The pointer that led there may rest on what has a tip; the page itself is looked at.
    await page.mouse.move(1, 1);
    await expect(page.getByRole('tooltip')).toHaveCount(0);
    expect(await violations(page)).toEqual([]);
    await page.emulateMedia({ colorScheme: 'dark' });
    expect(await violations(page, true)).toEqual([]);
  });
}

test('Sign-in: axe-core finds no violations', async ({ page }) => {
  await page.goto('/sign-in');
  expect(await violations(page)).toEqual([]);
});

for (const [name, part, go] of views.filter(([n]) => /Counter|Asking|request|pproval/.test(n))) {
  test(`${name}: fits a width of 390 px`, async ({ as }) => {
    const page = await as(part, { viewport: { width: 390, height: 844 } });
    await go(page);
    await page.waitForLoadState('networkidle');
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  });
}

test('asking by keyboard alone', async ({ as }) => {
  const page = await as('requester');
  await page.goto('/counter');
  await page.getByRole('link', { name: 'Join a group', exact: true }).first().focus();
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/ask\//);
  await page.getByRole('combobox', { name: /^Group/ }).focus();
  // Faster than the answer: the first of what this very text finds is meant, not what an earlier one found.
  await page.keyboard.type('survey-');
  await expect(page.getByRole('option', { name: /^survey-planning/ })).toBeVisible();
  await page.keyboard.type('r');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('combobox', { name: /^Group/ })).toHaveValue('survey-raw');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option', { name: 'My day-to-day work', exact: true })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: 'A survey', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('combobox', { name: /^Kind of work/ })).toBeFocused();
  await page.keyboard.press('Tab');
  await page.keyboard.type('Lunnick sound, spring');
  await page.keyboard.press('Tab');
  await page.keyboard.type('Comparing raw soundings');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  await expect(page.getByText('Lunnick sound, spring', { exact: true })).toBeVisible();
});

test('find-anything goes to an item and to a request by its number', async ({ as }) => {
  const page = await as('requester');
  await page.goto('/counter/requests');
  await page.waitForLoadState('networkidle');
  await expect(page.getByText('Ctrl K', { exact: true })).toBeVisible();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('join');
  await expect(page.getByRole('option', { name: /Join a group/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/counter\/ask\//);
});

test('before scripts load: sign in, ask with a typed-out name, decide', async ({ as, browser }) => {
  const page = await as('requester', { javaScriptEnabled: false });
  await page.goto('/counter?q=join');
  await page
    .getByRole('link', { name: /^Join a group/ })
    .first()
    .click();
  await page.getByRole('combobox', { name: /^Group/ }).fill('no-such-group');
  await page.getByLabel(/^What you need it for/).fill('Without scripts');
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText('Group: this group is not known. Pick one from the list.', { exact: true })).toBeVisible();
  // What was typed is still there.
  await expect(page.getByLabel(/^What you need it for/)).toHaveValue('Without scripts');
  await expect(page.getByRole('combobox', { name: /^Group/ })).toHaveValue('no-such-group');
  await page.getByRole('combobox', { name: /^Group/ }).fill('Tide-Models');
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = await page.getByText(/^R-\d+$/).textContent();
  const approver = await as('approver', { javaScriptEnabled: false });
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number!, exact: true }).click();
  await approver.getByLabel('Comment', { exact: true }).fill('No scripts here either');
  await approver.getByRole('button', { name: 'Decline', exact: true }).click();
  await expect(approver.getByText(/^\s*You declined this\./)).toBeVisible();
  expect(browser.isConnected()).toBe(true);
});

test('answers carry the safety headers, and a write from elsewhere is refused', async ({ as }) => {
  const page = await as('requester');
  const answer = await page.goto('/counter');
  const policy = answer!.headers()['content-security-policy']!;
  expect(policy).toMatch(/script-src 'self' 'nonce-[^']+';/);
  expect(policy).not.toMatch(/script-src[^;]*unsafe/);
  expect(answer!.headers()['x-content-type-options']).toBe('nosniff');
  const script = /\/assets\/[\w.-]+\.js/.exec(await answer!.text())![0];
  const file = await page.request.get(script);
  expect(file.headers()['content-security-policy']).toBe("default-src 'self'; frame-ancestors 'none'");
  expect([file.headers()['x-content-type-options'], file.headers()['cache-control']]).toEqual(['nosniff', 'public, max-age=31536000, immutable']);
  for (const [missing, status] of Object.entries({ 'nothing.js': 404, '%ZZ.js': 400, '..%2f..%2fpackage.json': 404 }))
    expect([missing, (await page.request.get(`/assets/${missing}`)).status()]).toEqual([missing, status]);
  for (const headers of [{ origin: 'https://elsewhere.example' }, { origin: 'null' }]) {
    const refused = await page.request.post('/sign-out', { headers });
    expect(refused.status()).toBe(403);
  }
  const cookie = (await page.context().cookies()).find((c) => c.name === 'nessmoor_session')!;
  expect([cookie.httpOnly, cookie.sameSite]).toEqual([true, 'Lax']);
});
