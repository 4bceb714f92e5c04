import type { Page } from '@playwright/test';
import { signal } from './support/signal.ts';
import { expect, fresh, scriptsHeld, test, type SignedIn } from './support/story.ts';
import { sheet, saved } from './support/workshop.ts';

/** The plan sheet read downwards, as a designer works on it by keys and by mouse. */
const line = (page: Page, words: string) => sheet(page).getByRole('row', { name: new RegExp(`^${words.replaceAll('.', '\\.')}(?=[ .:]|$)`) });
/** Puts the keyboard on a line; the sheet is ready for keys once it says that the line is chosen. */
async function onto(page: Page, words: string): Promise<void> {
  await line(page, words).focus();
  await expect(line(page, words)).toHaveAttribute('aria-selected', 'true');
}
/** The lines as they are read out, without their sentences. */
const lines = (page: Page) =>
  sheet(page)
    .getByRole('row')
    .evaluateAll((all) =>
      all.flatMap((e) => (e.hasAttribute('data-line') ? [(e.getAttribute('aria-label') ?? '').split('. ')[0]!.replace(/\.$/, '')] : [])),
    );

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const hours = (n: number) => ({ min: `PT${n}H`, likely: `PT${n}H`, max: `PT${n}H` });
const words = (text: string) => [[{ text }]];
const tell = (id: string, name: string) => ({
  id,
  kind: 'tell',
  name,
  expected: now,
  to: { ref: 'request.requester' },
  subject: words('Hello'),
  body: [{ text: words('Hello.') }],
});
const gate = (id: string, name: string) => ({
  id,
  kind: 'gate',
  name,
  expected: hours(4),
  approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
  nobody: { then: 'fail' },
  rule: { rule: 'first' },
  ownRequest: 'skip',
});
const together = {
  id: 'beside',
  kind: 'together',
  name: 'Side by side',
  expected: now,
  join: 'all',
  branches: [
    { id: 'left', name: 'Left', block: [tell('l1', 'Tell left'), gate('inner', 'Inner gate')] },
    { id: 'right', name: 'Right', block: [] },
  ],
};

async function itemWith(as: SignedIn, name: string, steps: object[]): Promise<Page> {
  const page = await as('designer');
  const called = fresh(name);
  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(called);
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  const draft = { name: called, summary: 'For a test', category: 'Test', form: { fields: [] }, plan: { steps } };
  const status = await page.evaluate(
    async ({ url, body }) =>
      (await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })).status,
    { url: page.url().replace(/ask$/, 'draft'), body: { version: 1, draft } },
  );
  expect(status).toBe(200);
  await page.goto(page.url().replace(/ask$/, 'plan'));
  await expect(sheet(page)).toBeVisible();
  return page;
}

test('by keys: lines are walked, folded, renamed, chosen together, moved across blocks, and pasted into an empty branch', async ({ as }) => {
  const page = await itemWith(as, 'Sheet by keys', [tell('a', 'First'), tell('b', 'Second'), tell('c', 'Third'), together]);
  await onto(page, '1 Tell: First');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(sheet(page).getByRole('row', { selected: true })).toHaveCount(2);
  // Both go down together, past the third, and into the step with branches above them.
  await page.keyboard.press('Alt+ArrowDown');
  await expect
    .poll(() => lines(page))
    .toEqual([
      '1 Tell: Third',
      '2 Tell: First',
      '3 Tell: Second',
      '4 Together: Side by side',
      '4a Left',
      '4a.1 Tell: Tell left',
      '4a.2 Gate: Inner gate',
      '4b Right',
    ]);
  await page.keyboard.press('Alt+ArrowDown');
  await page.keyboard.press('Alt+ArrowRight');
  await expect
    .poll(() => lines(page))
    .toEqual([
      '1 Tell: Third',
      '2 Together: Side by side',
      '2a Left',
      '2a.1 Tell: Tell left',
      '2a.2 Gate: Inner gate',
      '2b Right',
      '2b.1 Tell: First',
      '2b.2 Tell: Second',
    ]);
  await expect(line(page, '2b.2 Tell: Second')).toBeFocused();
  // On into the neighbouring branch, and out of the block.
  await page.keyboard.press('Alt+ArrowUp');
  await expect
    .poll(async () => (await lines(page)).slice(-4))
    .toEqual(['2a.2 Gate: Inner gate', '2a.3 Tell: First', '2a.4 Tell: Second', '2b Right']);
  await page.keyboard.press('Alt+ArrowLeft');
  await expect.poll(async () => (await lines(page)).slice(-2)).toEqual(['3 Tell: First', '4 Tell: Second']);
  // Cut together, pasted into the branch that is empty.
  await page.keyboard.press('Control+x');
  await expect.poll(() => lines(page)).toHaveLength(6);
  await onto(page, '2b Right');
  await page.keyboard.press('Control+v');
  await expect.poll(async () => (await lines(page)).slice(-2)).toEqual(['2b.1 Tell: First', '2b.2 Tell: Second']);
  // To what it hangs on, folded, unfolded.
  await page.keyboard.press('ArrowLeft');
  await expect(line(page, '2b Right')).toBeFocused();
  await page.keyboard.press('ArrowLeft');
  await expect(line(page, '2b Right')).toHaveAttribute('aria-expanded', 'false');
  await expect(line(page, '2b Right')).toContainText('2 steps: Requester');
  await expect.poll(() => lines(page)).toHaveLength(6);
  await expect(page).toHaveURL(/folded=beside%2Fright/);
  await page.reload();
  await expect.poll(() => lines(page)).toHaveLength(6);
  await onto(page, '2b Right');
  await page.keyboard.press('ArrowRight');
  await expect(line(page, '2b Right')).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('ArrowRight');
  await expect(line(page, '2b.1 Tell: First')).toBeFocused();
  // Renamed where it stands; Escape leaves it as it was.
  await page.keyboard.press('F2');
  await expect(page.getByRole('textbox', { name: 'Name of “First”', exact: true })).toBeFocused();
  await page.keyboard.type('Begin here');
  await page.keyboard.press('Enter');
  await expect(line(page, '2b.1 Tell: Begin here')).toBeFocused();
  await page.keyboard.press('F2');
  await page.keyboard.type('Not this');
  await page.keyboard.press('Escape');
  await expect(line(page, '2b.1 Tell: Begin here')).toBeFocused();
  // What is found follows an act, and its undoing back to what was loaded.
  await saved(page);
  await page.reload();
  const check = page.getByRole('heading', { level: 2, name: /^The check finds/ });
  const before = (await check.textContent())!;
  await onto(page, '2b.1 Tell: Begin here');
  await page.keyboard.press('a');
  await page.keyboard.type('provision');
  await page.keyboard.press('Enter');
  await expect(check).not.toHaveText(before);
  await expect(
    page.getByRole('complementary', { name: 'Settings of “Provision”', exact: true }).getByRole('textbox', { name: 'Name (required)', exact: true }),
  ).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(line(page, '2b.2 Provision: Provision')).toBeFocused();
  await page.keyboard.press('Control+z');
  await expect(check).toHaveText(before);
  // Escape on the sheet closes the settings.
  await line(page, '2b.1 Tell: Begin here').click();
  await expect(page.getByRole('complementary', { name: /^Settings of/ })).toBeVisible();
  await line(page, '2b.1 Tell: Begin here').press('Escape');
  await expect(page.getByRole('complementary', { name: /^Settings of/ })).toHaveCount(0);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys of the plan sheet', exact: true })).toContainText('rename a step where it stands');
  await page.keyboard.press('Escape');
  await saved(page);
});

test('a line that had the keyboard before scripts took over has it still, and hears the next key', async ({ as }) => {
  const page = await itemWith(as, 'Keyboard first', [tell('a', 'First'), tell('b', 'Second')]);
  const come = await scriptsHeld(page);
  await page.goto(page.url().split('?')[0]!, { waitUntil: 'commit' });
  await line(page, '2 Tell: Second').focus();
  await expect(line(page, '2 Tell: Second')).toHaveAttribute('aria-selected', 'false');
  come();
  await expect(line(page, '2 Tell: Second')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('ArrowUp');
  await expect(line(page, '1 Tell: First')).toBeFocused();
});

test('a page that was read anew before what was saved last had arrived shows it all the same', async ({ as }) => {
  const page = await itemWith(as, 'Read too early', [tell('a', 'First'), tell('b', 'Second')]);
  // The page is read at once; what comes of that is shown only once the draft is saved from the page before.
  const early = signal();
  const kept = page.waitForResponse((r) => r.url().endsWith('/draft') && r.request().method() === 'POST');
  await page.route(/\/plan(\?|$)/, async (route) => {
    const response = await route.fetch();
    early.give();
    await (await kept).finished();
    await route.fulfill({ response });
  });
  await onto(page, '2 Tell: Second');
  const anew = page.evaluate(() => window.location.reload());
  await early.given;
  await page.keyboard.press('Delete');
  await Promise.all([anew, page.waitForEvent('load')]);
  await expect.poll(() => lines(page)).toEqual(['1 Tell: First']);
  await saved(page);
  // What is done next is no conflict with it.
  await onto(page, '1 Tell: First');
  await page.keyboard.press('Control+d');
  await expect.poll(() => lines(page)).toHaveLength(2);
  await saved(page);
});

test('a gate in a branch side by side holds up that branch and says so; what a step takes and gives is marked', async ({ as }) => {
  const page = await itemWith(as, 'Locks and values', [
    gate('outer', 'Outer gate'),
    together,
    {
      id: 'which',
      kind: 'choose',
      name: 'Which',
      expected: now,
      cases: [
        {
          id: 'yes',
          name: 'Yes',
          when: { compare: 'is', left: { ref: 'steps.outer.outcome' }, right: { literal: 'approved' } },
          block: [tell('y', 'Tell yes')],
        },
      ],
      otherwise: [],
    },
  ]);
  await expect(line(page, '2a.2 Gate: Inner gate')).toHaveAccessibleName(/Holds up the branch “Left” only\./);
  await expect(line(page, '2a.2 Gate: Inner gate')).toContainText('holds up “Left” only');
  await expect(line(page, '1 Gate: Outer gate')).not.toHaveAccessibleName(/Holds up the branch/);
  await expect(sheet(page).getByRole('columnheader')).toHaveText(['begins', 'Step', 'The manager of Requester', 'Requester']);
  await expect(line(page, '2 Together')).toContainText('4 h');
  await onto(page, '3 Choose');
  await expect(line(page, '1 Gate: Outer gate')).toHaveAccessibleName(/gives Decision\./);
  await onto(page, '1 Gate: Outer gate');
  await expect(line(page, '3 Choose')).toHaveAccessibleName(/takes Decision\./);
  await expect(line(page, '1 Gate: Outer gate')).not.toHaveAccessibleName(/gives Decision\./);
});

test('by mouse: a line is dragged into an empty and into a folded branch; a blank plan takes what is pasted', async ({ as }) => {
  const page = await itemWith(as, 'Sheet by mouse', [tell('a', 'First'), tell('b', 'Second'), together]);
  const drag = async (what: string, grip: string, to: { line: string; below: number; right: number }) => {
    await line(page, what).hover();
    const from = (await sheet(page).locator(`[data-grip="${grip}"]`).boundingBox())!;
    await page.mouse.move(from.x + 5, from.y + 8);
    await page.mouse.down();
    await page.mouse.move(from.x + 5, from.y + 24, { steps: 3 });
    const over = (await line(page, to.line).boundingBox())!;
    await page.mouse.move(over.x + to.right, over.y + to.below, { steps: 10 });
    await expect(sheet(page).locator('[data-over]')).toBeVisible();
    await page.mouse.up();
  };
  await drag('1 Tell: First', 'a', { line: '3b Right', below: 24, right: 132 });
  await expect.poll(async () => (await lines(page)).slice(-2)).toEqual(['2b Right', '2b.1 Tell: First']);
  await onto(page, '2a Left');
  await page.keyboard.press('ArrowLeft');
  await drag('1 Tell: Second', 'b', { line: '2a Left', below: 24, right: 132 });
  await onto(page, '1a Left');
  await page.keyboard.press('ArrowRight');
  await expect
    .poll(() => lines(page))
    .toEqual([
      '1 Together: Side by side',
      '1a Left',
      '1a.1 Tell: Second',
      '1a.2 Tell: Tell left',
      '1a.3 Gate: Inner gate',
      '1b Right',
      '1b.1 Tell: First',
    ]);
  await line(page, '1a.1 Tell: Second').click();
  await page.keyboard.press('Escape');
  await line(page, '1a.1 Tell: Second').press('Control+c');
  await saved(page);
  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh('Blank to paste into'));
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await sheet(page).getByRole('row', { name: 'The plan has no step yet', exact: true }).press('Control+v');
  await expect.poll(() => lines(page)).toEqual(['1 Tell: Second']);
});

test('a step is found by what people call it, the overview goes to a line, and all folds and unfolds', async ({ as }) => {
  const page = await itemWith(as, 'Called otherwise', [tell('a', 'First'), together, tell('z', 'Last')]);
  for (const [called, verb] of [
    ['sign-off', 'Gate'],
    ['loop', 'Repeat'],
    ['if', 'Choose'],
    ['notify', 'Tell'],
    ['fallback', 'Guard'],
    ['wait', 'Pause'],
    ['stop', 'Finish'],
  ] as const) {
    await page.getByRole('button', { name: 'Add a step at the end', exact: true }).click();
    const menu = page.getByRole('dialog', { name: /^Insert a step/ });
    await page.keyboard.type(called);
    await expect(menu.getByRole('option').first()).toContainText(verb);
    await page.keyboard.press('Escape');
    await expect(menu).toHaveCount(0);
  }
  // The menu stands in the window, however low that is.
  await page.setViewportSize({ width: 1280, height: 420 });
  await page.getByRole('button', { name: 'Add a step at the end', exact: true }).click();
  const box = (await page.getByRole('dialog', { name: /^Insert a step/ }).boundingBox())!;
  expect(box.y).toBeGreaterThanOrEqual(0);
  expect(box.y + box.height).toBeLessThanOrEqual(420);
  await page.keyboard.press('Escape');
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.getByRole('button', { name: 'Fold all', exact: true }).click();
  await expect.poll(() => lines(page)).toEqual(['1 Tell: First', '2 Together: Side by side', '3 Tell: Last']);
  await page.getByRole('button', { name: 'Unfold all', exact: true }).click();
  await expect.poll(() => lines(page)).toHaveLength(7);
  await page.getByRole('link', { name: 'Overview', exact: true }).click();
  const overview = page.getByRole('img', { name: /^Overview of the plan: 5 steps by 2 parties\./ });
  // The sixth line of seven.
  await overview.click({ position: { x: 120, y: 24 + 6 * 12 + 4 } });
  await expect(line(page, '3 Tell: Last')).toBeFocused();
});

test('by mouse, farther than is in sight: the sheet scrolls under what is dragged, and it is dropped where it is shown', async ({ as }) => {
  const page = await itemWith(
    as,
    'Long sheet',
    Array.from({ length: 60 }, (_, i) => tell(`s${i}`, `Step ${i + 1}`)),
  );
  await line(page, '1 Tell: Step 1').hover();
  const from = (await sheet(page).locator('[data-grip="s0"]').boundingBox())!;
  const box = (await page.locator('[data-sheet-scroller]').boundingBox())!;
  await page.mouse.move(from.x + 5, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 5, from.y + 24, { steps: 3 });
  // Held at the lower edge, the sheet goes on to its end.
  await page.mouse.move(from.x + 5, box.y + box.height - 12, { steps: 10 });
  await expect(line(page, '60 Tell: Step 60')).toBeVisible();
  await expect
    .poll(() => page.locator('[data-sheet-scroller]').evaluate((e) => Math.round(e.scrollHeight - e.clientHeight - e.scrollTop)))
    .toBeLessThan(2);
  const last = (await line(page, '60 Tell: Step 60').boundingBox())!;
  await page.mouse.move(from.x + 5, last.y + 2, { steps: 5 });
  await expect(sheet(page).locator('[data-over]')).toBeVisible();
  await page.mouse.up();
  // Before the last: its upper half was pointed at.
  await expect.poll(async () => (await lines(page)).slice(-2)).toEqual(['59 Tell: Step 1', '60 Tell: Step 60']);
  await expect(line(page, '59 Tell: Step 1')).toBeFocused();
});
