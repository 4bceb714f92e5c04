import { readFileSync } from 'node:fs';
import Papa from 'papaparse';
import type { Page } from '@playwright/test';
import { askToJoin, cast, expect, fresh, openApproval, scriptsHeld, state, test } from './support/story.ts';

const grid = (page: Page, name: string) => page.getByRole('grid', { name, exact: true });
/** What each row of a list is called, without its heads. */
const rows = (page: Page, name: string) =>
  grid(page, name)
    .locator('tbody [data-row]')
    .evaluateAll((all) => all.map((e) => e.getAttribute('aria-label') ?? ''));

test('the Ledger is narrowed by chips, ordered by heads, and found in by words; the address holds all of it, and a view of it is kept', async ({
  as,
}) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'For the halyard survey');
  const page = await as('auditor');
  await page.goto('/ledger');
  await page.getByRole('button', { name: 'filter', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Requester', exact: true }).click();
  await page.getByRole('combobox', { name: 'Requester', exact: true }).fill('Tuva');
  await page.getByRole('option').first().click();
  await expect(page.getByRole('button', { name: `requester ${cast.requester}`, exact: true })).toBeVisible();
  await expect(page).toHaveURL(/requester=[0-9a-f-]{36}/);
  await page.keyboard.press('Escape');
  await expect.poll(async () => (await rows(page, 'Requests')).every((r) => r.endsWith(cast.requester))).toBe(true);
  // By days, typed as people type them.
  await page.getByRole('button', { name: 'filter', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Opened', exact: true }).click();
  const from = page.getByRole('textbox', { name: 'Opened from', exact: true });
  await from.fill('31.2.2026');
  await expect(page.getByText('Type a day such as 26.11.2026 or 26 Nov.', { exact: true })).toBeVisible();
  await from.fill('1.1.2026');
  await from.press('Tab');
  await expect(from).toHaveValue('1 Jan 2026');
  await expect(page.getByRole('button', { name: 'opened from 1 Jan 2026', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  // By words of what was asked.
  const words = page.getByRole('searchbox', { name: 'Find in what was asked, said and done', exact: true });
  await words.focus();
  await page.keyboard.type('hal');
  await expect(page).toHaveURL(/q=hal(&|$)/);
  await page.keyboard.type('yard');
  await expect(words).toHaveValue('halyard');
  // A view is kept as it was asked at that moment, though the list has not followed yet.
  const name = fresh('Halyards');
  await page.getByRole('button', { name: 'Keep this view', exact: true }).click();
  await page.getByRole('textbox', { name: 'Keep this view as', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText(`Kept as “${name}”`, { exact: true })).toBeVisible();
  await expect(page).toHaveURL(/q=halyard(&|$)/);
  await expect.poll(() => rows(page, 'Requests')).toEqual([`${number}, Join a group, ${cast.requester}`]);
  const address = new URL(page.url());
  await page.goto('/ledger');
  await page.getByRole('link', { name, exact: true }).click();
  await expect.poll(() => new URL(page.url()).searchParams.toString()).toBe(address.searchParams.toString());
  await expect.poll(() => rows(page, 'Requests')).toEqual([`${number}, Join a group, ${cast.requester}`]);
  await page.getByRole('link', { name: 'Show all', exact: true }).click();
  await expect.poll(async () => (await rows(page, 'Requests')).length).toBeGreaterThan(5);
  // Ordered by a head, and back again.
  await grid(page, 'Requests').getByRole('link', { name: 'Requester', exact: true }).click();
  await expect(grid(page, 'Requests').getByRole('columnheader', { name: 'Requester', exact: true })).toHaveAttribute('aria-sort', 'ascending');
  const up = await rows(page, 'Requests');
  await grid(page, 'Requests').getByRole('link', { name: 'Requester', exact: true }).click();
  await expect(grid(page, 'Requests').getByRole('columnheader', { name: 'Requester', exact: true })).toHaveAttribute('aria-sort', 'descending');
  await expect.poll(async () => (await rows(page, 'Requests'))[0]).not.toBe(up[0]);
  await page.getByRole('link', { name, exact: true }).hover();
  await page.getByRole('button', { name: `Forget the view “${name}”`, exact: true }).click();
  await expect(page.getByRole('link', { name, exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByRole('link', { name, exact: true })).toBeVisible();
});

test('columns are hidden and widened, and stay so; the list goes out as CSV with those that are shown', async ({ as }) => {
  const page = await as('auditor');
  await page.goto('/ledger?state=fulfilled');
  await page.getByRole('button', { name: 'Columns', exact: true }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Took', exact: true }).click();
  await expect(page.getByRole('menuitemcheckbox', { name: 'Took', exact: true })).not.toBeChecked();
  await page.getByRole('menuitemcheckbox', { name: 'Revision', exact: true }).click();
  await page.keyboard.press('Escape');
  const heads = grid(page, 'Requests').getByRole('columnheader');
  await expect(heads).toHaveText(['Request', 'Item', 'Requester', 'Opened', 'State', 'Ended', 'Promise', 'Revision']);
  const opened = heads.filter({ hasText: 'Opened' });
  const before = (await opened.boundingBox())!;
  await page.mouse.move(before.x + before.width - 3, before.y + 12);
  await page.mouse.down();
  await page.mouse.move(before.x + before.width + 47, before.y + 12, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => Math.round((await opened.boundingBox())!.width - before.width)).toBeGreaterThan(40);
  await page.reload();
  await expect.poll(async () => Math.round((await opened.boundingBox())!.width - before.width)).toBeGreaterThan(40);
  // By keyboard: the arrows move the edge, Enter gives the column its own width back.
  const edge = page.getByRole('separator', { name: 'Width of Opened', exact: true });
  const kept = Number(await edge.getAttribute('aria-valuenow'));
  await edge.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(edge).toHaveAttribute('aria-valuenow', String(kept - 16));
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(edge).toHaveAttribute('aria-valuenow', String(kept + 16));
  await page.keyboard.press('Enter');
  await expect.poll(async () => Math.round((await opened.boundingBox())!.width - before.width)).toBe(0);
  const listed = (await rows(page, 'Requests')).map((r) => r.split(',')[0]);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV', exact: true }).click();
  const file = await download;
  expect(file.suggestedFilename()).toMatch(/^ledger-\d{4}-\d\d-\d\d\.csv$/);
  const { data } = Papa.parse<string[]>(
    readFileSync((await file.path())!, 'utf8')
      .replace(/^\uFEFF/, '')
      .trimEnd(),
  );
  expect(data[0]).toEqual(['Request', 'Item', 'Requester', 'Opened', 'State', 'Ended', 'Promise (working minutes used)', 'Revision']);
  expect(data.slice(1).map((r) => r[0])).toEqual(listed);
});

test('tasks by keyboard alone: Down from anywhere, Space chooses, Enter opens, Escape closes; several are taken at once', async ({ as }) => {
  const page = await as('technician');
  await page.goto('/desk/queue?whose=untaken&what=task');
  await expect(page.getByRole('button', { name: 'Columns', exact: true })).toBeVisible();
  const all = await rows(page, 'Not taken');
  expect(all.length).toBeGreaterThan(2);
  const row = (n: number) => grid(page, 'Not taken').getByRole('row', { name: all[n]!, exact: true });
  await page.keyboard.press('ArrowDown');
  await expect(row(0)).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 2, name: all[1]!.replace(/^R-\d+, /, ''), exact: true })).toBeVisible();
  await expect(page.locator('[data-slip]')).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { level: 2 })).toHaveCount(0);
  await expect(row(1)).toBeFocused();
  await page.keyboard.press('Space');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Space');
  await expect(grid(page, 'Not taken').getByRole('row', { selected: true })).toHaveCount(2);
  await page.getByRole('button', { name: 'Take these 2', exact: true }).click();
  await expect.poll(async () => (await rows(page, 'Not taken')).length).toBe(all.length - 2);
  await page.getByRole('link', { name: /^Mine/ }).click();
  await expect.poll(() => rows(page, 'Mine')).toEqual(expect.arrayContaining(all.slice(0, 2)));
  // Given back, so that the next finds them as they were.
  for (const words of all.slice(0, 2)) {
    await grid(page, 'Mine').getByRole('row', { name: words, exact: true }).click();
    await page.getByRole('button', { name: 'Give it back to the team', exact: true }).click();
    await expect(grid(page, 'Mine').getByRole('row', { name: words, exact: true })).toHaveCount(0);
  }
});

test('pages that wait change by themselves: the approver’s list, the requester’s page and list, the trace', async ({ as }) => {
  const [owner, requester, mine, auditor] = [await as('owner'), await as('requester'), await as('requester'), await as('auditor')];
  await owner.goto('/desk/approvals');
  await mine.goto('/counter/requests');
  const listens = (page: Page) => page.waitForResponse((r) => r.url().includes('/live'));
  const number = await askToJoin(requester, 'tide-archive', 'Watching it move');
  const waits = `${number}, Join a group, ${cast.requester}, waits for you`;
  await expect(grid(owner, 'Approvals for me').getByRole('row', { name: waits, exact: true })).toBeVisible();
  await expect(owner.getByRole('status').filter({ hasText: /^changed \d\d:\d\d:\d\d$/ })).toBeVisible();
  await expect(mine.getByRole('link', { name: new RegExp(number) })).toBeVisible();
  const listening = listens(auditor);
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await listening;
  const other = await as('owner');
  await openApproval(other, number);
  await other.getByLabel('Comment', { exact: true }).fill('Seen at once');
  await other.getByRole('button', { name: /^Approve/ }).click();
  await expect(other.getByText(/^\s*You approved this\./)).toBeVisible();
  // Nobody reloads anything.
  await expect(state(requester)).toContainText('Fulfilled');
  await expect(mine.getByRole('link', { name: new RegExp(number) })).toContainText('Fulfilled');
  await expect(grid(owner, 'Approvals for me').getByRole('row', { name: waits, exact: true })).toHaveCount(0);
  await expect(auditor.getByText('Ended as fulfilled', { exact: true })).toBeVisible();
  await expect(auditor.getByText(/approved at the Desk \d+ \w+ \d{4}, \d\d:\d\d:\d\d “Seen at once”/)).toBeVisible();
});

test('who may not see a request hears nothing of it', async ({ as, baseURL, request }) => {
  const requester = await as('requester');
  const number = (await askToJoin(requester, 'vessel-logs', 'Private')).slice(2);
  const status = async (page: Page, query: string) => {
    await page.goto('/counter');
    return page.evaluate(async (address) => {
      const stop = new AbortController();
      const answer = await fetch(address, { signal: stop.signal });
      stop.abort();
      return `${answer.status} ${answer.headers.get('content-type')?.split(';')[0] ?? ''}`.trim();
    }, `/live${query}`);
  };
  expect(await status(requester, `?case=${number}`)).toBe('200 text/event-stream');
  const other = await as('approver');
  expect(await status(other, `?case=${number}`)).toBe('404');
  expect(await status(other, '?case=x')).toBe('404');
  expect(await status(await as('auditor'), `?case=${number}`)).toBe('200 text/event-stream');
  expect((await request.get(`${baseURL}/live`)).status()).toBe(401);
});

test('an item is archived and brought back, a draft deleted and had back, each by one act and its undo', async ({ as }) => {
  const page = await as('designer');
  const name = fresh('Put away');
  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  await page.goto('/workshop/items');
  const row = grid(page, 'Catalog items').getByRole('row', { name, exact: true });
  const more = async (act: string) => {
    await page.getByRole('button', { name: `More for ${name}`, exact: true }).click();
    await page.getByRole('menuitem', { name: act, exact: true }).click();
  };
  await more('Archive');
  await expect(row).toHaveCount(0);
  await expect(page).toHaveURL(/\/workshop\/items$/);
  await expect(page.getByText(`“${name}” is archived: it is not offered any more`, { exact: true })).toBeVisible();
  await page.goto('/workshop/items?state=archived');
  await expect(row).toBeVisible();
  await more('Bring it back');
  await expect(row).toHaveCount(0);
  await page.goto('/workshop/items');
  await more('Delete this draft');
  await expect(row).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(row).toBeVisible();
});

test('find anything: an act, a page, a step of the open plan, and a word that stands within a request', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'For the quadrant readings');
  const page = await as('designer');
  const find = async (words: string, option: RegExp, to: RegExp) => {
    await page.getByRole('button', { name: /^Find anything/ }).click();
    await page.keyboard.type(words);
    await page.getByRole('option', { name: option }).click();
    await expect(page).toHaveURL(to);
  };
  await page.goto('/counter');
  await find('quadrant', new RegExp(`^${number} `), new RegExp(`/ledger/${number.slice(2)}$`));
  await find('approval pol', /^Approval policies/, /\/workshop\/policies$/);
  await page.goto('/workshop/items');
  await page.getByRole('link', { name: 'Join a group', exact: true }).click();
  await page.waitForURL(/\/plan$/);
  await find('were they', /^Were they in already\?/, /step=which/);
  await find('begin an it', /^Begin an item/, /items\?new/);
});

test('a long list is read on as its end comes into sight, drawn where it is seen, and walked by keys from one end to the other', async ({ as }) => {
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: 'Join a group', exact: true }).first().click();
  await expect(requester.getByRole('button', { name: 'Send request', exact: true })).toBeVisible();
  const [revision, address] = [await requester.locator('input[name=revision]').inputValue(), requester.url()];
  const ask = (n: number) =>
    requester.request.post(address, {
      form: {
        revision,
        idempotencyKey: `${fresh('barometer')} ${n}`,
        'f.group': '',
        'f.group.name': 'vessel-logs',
        'f.work': 'daily',
        'f.reason': 'Barometer',
      },
      headers: { origin: new URL(address).origin },
      maxRedirects: 0,
    });
  for (let n = 0; n < 170; n += 17) await Promise.all(Array.from({ length: 17 }, (_, i) => ask(n + i)));
  const page = await as('auditor');
  await page.goto('/ledger?q=barometer');
  await expect(page.getByText('170', { exact: true })).toBeVisible();
  const list = grid(page, 'Requests');
  const first = (await rows(page, 'Requests'))[0]!;
  expect(await rows(page, 'Requests')).toHaveLength(50);
  await page.keyboard.press('ArrowDown');
  await expect(list.getByRole('row', { name: first, exact: true })).toBeFocused();
  // Each press goes to the last that has been read; then more has been read.
  await expect(async () => {
    await page.keyboard.press('End');
    expect(Number(await list.locator('[data-row]:focus').getAttribute('aria-rowindex'))).toBe(171);
  }).toPass();
  await expect(list.locator('[data-row]:focus')).toBeVisible();
  // Of so many only those about what is seen are drawn.
  expect((await rows(page, 'Requests')).length).toBeLessThan(100);
  await page.keyboard.press('Home');
  await expect(list.getByRole('row', { name: first, exact: true })).toBeFocused();
  await page.keyboard.press('PageDown');
  await page.keyboard.press('ArrowUp');
  await expect(list.locator('[data-row]:focus')).toBeVisible();
});

test('a list that was scrolled before scripts took over stays where it is', async ({ as }) => {
  const page = await as('auditor', { viewport: { width: 1280, height: 420 } });
  // The scripts wait until the list has been scrolled.
  const go = await scriptsHeld(page);
  await page.goto('/ledger', { waitUntil: 'commit' });
  const scroller = page.locator('[data-list-scroller]');
  await expect(page.getByRole('grid').getByRole('row').nth(5)).toBeAttached();
  // It can be scrolled once its styles are there; where it stands then is read, not what it was told.
  await expect
    .poll(() =>
      scroller.evaluate((e) => {
        e.scrollTop = 150;
        return e.scrollTop;
      }),
    )
    .toBe(150);
  await expect(page.getByText('Ctrl K', { exact: true })).toHaveCount(0);
  go();
  await expect(page.getByText('Ctrl K', { exact: true })).toBeVisible();
  expect(await scroller.evaluate((e) => e.scrollTop)).toBe(150);
});

test('a row that had the keyboard before scripts took over has it still: Tab leaves the list, and comes back to it', async ({ as }) => {
  const page = await as('auditor');
  const come = await scriptsHeld(page);
  await page.goto('/ledger', { waitUntil: 'commit' });
  const third = page.getByRole('grid').locator('[data-row]').nth(2);
  await third.focus();
  await expect(third).toHaveAttribute('tabindex', '-1');
  come();
  await expect(third).toHaveAttribute('tabindex', '0');
  await expect(third).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('grid').locator('[data-row]').nth(3)).toBeFocused();
});
