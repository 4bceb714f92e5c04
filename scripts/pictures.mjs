import { chromium } from '@playwright/test';
import { firstRequest } from '../demo/numbers.ts';
import { chromiumLaunch } from '../e2e/support/chromium.ts';

/** Takes the pictures of docs/screenshots/ from a running demo that was freshly reset: npm start, then npm run pictures. */
const base = process.env['PUBLIC_URL'] ?? `http://127.0.0.1:${process.env['NESSMOOR_PORT'] ?? 4610}`;
const folder = 'docs/screenshots';
const browser = await chromium.launch(chromiumLaunch);

/** @typedef {import('@playwright/test').Page} Page */
/** @param {string} user @param {{ name: string, go: (page: Page) => Promise<unknown>, size?: [number, number] }[]} shots */
async function as(user, shots) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.goto(`${base}/sign-in`);
  await page.fill('input[name=name]', user);
  await page.fill('input[name=password]', 'lantern over quay');
  await page.click('button[type=submit]');
  await page.waitForURL(/\/counter/);
  for (const { name, go, size } of shots) {
    await page.setViewportSize({ width: size?.[0] ?? 1280, height: size?.[1] ?? 800 });
    await go(page);
    await page.waitForLoadState('networkidle');
    await page.waitForTimeout(300);
    await page.screenshot({ path: `${folder}/${name}.png` });
    console.log(`${name}: ${new URL(page.url()).pathname}`);
  }
  await context.close();
}

const press = async (/** @type {Page} */ p, /** @type {string[]} */ ...keys) => {
  for (const key of keys) await p.keyboard.press(key);
};
const join = (/** @type {Page} */ p) =>
  p
    .goto(`${base}/counter`)
    .then(() => p.getByRole('link', { name: 'Join a group' }).first().click())
    .then(() => p.getByRole('combobox', { name: 'Group' }).fill('tide-m'))
    .then(() => p.getByRole('option', { name: 'tide-models' }).click())
    .then(() => p.waitForTimeout(500));
const leaf =
  (/** @type {string} */ to, item = 'Join a group') =>
  (/** @type {Page} */ p) =>
    p
      .goto(`${base}/workshop/items`)
      .then(() => p.getByRole('link', { name: item, exact: true }).click())
      .then(() => p.waitForURL(/\/plan$/))
      .then(() => p.goto(p.url().replace(/plan$/, to)));

await as('requester', [
  { name: 'counter', go: (p) => p.goto(`${base}/counter`) },
  { name: 'counter-ask', go: join },
  { name: 'narrow', go: join, size: [390, 844] },
]);
await as('approver', [
  {
    name: 'desk-approval',
    go: (p) =>
      p
        .goto(`${base}/desk/approvals`)
        .then(() => p.getByRole('row').filter({ hasText: 'Join a group' }).getByRole('link').first().click())
        .then(() => p.waitForURL(/approvals\/./)),
  },
]);
await as('designer', [
  { name: 'ask-leaf', go: leaf('ask?field=name', 'Project space') },
  { name: 'plan', go: leaf('plan') },
  { name: 'plan-gate', go: leaf('plan?step=owners') },
  { name: 'publish', go: leaf('publish') },
  { name: 'plan-long', go: leaf('plan', 'Colleague starting') },
  { name: 'plan-sentences', go: leaf('plan?view=sentences&step=prepareFor', 'Colleague starting') },
  {
    name: 'table',
    go: (p) =>
      p
        .goto(`${base}/workshop/tables`)
        .then(() => p.getByRole('link', { name: 'What a role needs' }).click())
        .then(() => p.getByRole('grid').waitFor())
        .then(() => p.getByText('9 of 9').waitFor())
        .then(() => p.getByRole('grid').focus())
        .then(() => press(p, 'ArrowDown', 'ArrowRight', 'Shift+ArrowDown', 'Shift+ArrowRight')),
  },
  {
    name: 'statuses',
    go: (p) =>
      p
        .goto(`${base}/workshop/kinds`)
        .then(() => p.getByRole('link', { name: 'Incident', exact: true }).click())
        .then(() => p.getByRole('img', { name: /^Drawn from the grid/ }).waitFor())
        .then(() => p.getByRole('button', { name: 'In work to Waiting for you', exact: true }).click()),
  },
  {
    name: 'routing',
    go: (p) =>
      p
        .goto(`${base}/workshop/routing`)
        .then(() => p.getByRole('link', { name: 'Who gets a ticket', exact: true }).click())
        .then(() => p.getByText(/looked through exactly/).waitFor()),
  },
  { name: 'policy', go: (p) => p.goto(`${base}/workshop/policies`).then(() => p.getByRole('link', { name: 'Processing machines' }).click()) },
]);
await as('technician', [
  { name: 'desk-equipment', go: (p) => p.goto(`${base}/desk/equipment`) },
  {
    name: 'desk-task',
    go: (p) =>
      p
        .goto(`${base}/desk/queue?what=task`)
        .then(() =>
          p
            .getByRole('row', { name: /Make the contract ready/ })
            .first()
            .click(),
        )
        .then(() => p.waitForURL(/tasks\/./)),
  },
  {
    name: 'desk-ticket',
    go: (p) =>
      p
        .goto(`${base}/desk/queue`)
        .then(() => p.getByRole('row', { name: /Tablet does not charge/ }).click())
        .then(() => p.getByRole('list', { name: 'Conversation', exact: true }).waitFor()),
  },
]);
await as('auditor', [
  { name: 'ledger', go: (p) => p.goto(`${base}/ledger`) },
  { name: 'ledger-trace', go: (p) => p.goto(`${base}/ledger/${firstRequest}`) },
]);
await browser.close();
