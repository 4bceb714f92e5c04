import { choose, expect, fresh, test } from './support/story.ts';

test('a ticket kind: moves made and taken back by keyboard, what the map says, a status added; saved, it counts at the Counter', async ({ as }) => {
  const page = await as('designer');
  const name = fresh('Complaint');
  await page.goto('/workshop/kinds');
  await page.getByRole('textbox', { name: 'Name of a new kind', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin a kind', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  await expect(page.getByRole('img', { name: 'Drawn from the grid: New, Read, In work, Waiting for you, Done, Closed', exact: true })).toBeVisible();
  // Arrows go from cell to cell, over the diagonal; Space makes a move and takes it back.
  const cell = (from: string, to: string, more = '') => page.getByRole('button', { name: `${from} to ${to}${more}`, exact: true });
  await cell('New', 'Read').focus();
  await page.keyboard.press('ArrowDown');
  await expect(cell('In work', 'Read')).toBeFocused();
  await page.keyboard.press('Space');
  await expect(cell('In work', 'Read')).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('region', { name: 'In work to Read', exact: true })).toContainText('the team it is with');
  await page.keyboard.press('Space');
  await expect(cell('In work', 'Read')).toHaveAttribute('aria-pressed', 'false');
  // A status that nothing leads to cannot be kept, and the sentence leads there.
  const says = page.getByRole('region', { name: 'What the map says', exact: true });
  await page.getByRole('button', { name: 'Add a status', exact: true }).click();
  await expect(says).toContainText('From “Status 7” no way leads to an end.');
  await expect(page.getByRole('button', { name: 'Save the kind', exact: true })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Looked at twice');
  await cell('Looked at twice', 'Done').click();
  await expect(says).toContainText('Every status can be reached and leads to an end.');
  await expect(page.getByRole('img', { name: /Looked at twice$/ })).toBeVisible();
  await page.getByRole('link', { name: 'Promises', exact: true }).click();
  await page
    .getByRole('spinbutton', { name: 'Promise 1: within: number', exact: true })
    .or(page.getByRole('textbox', { name: 'Promise 1: within: number', exact: true }))
    .fill('3');
  await page.getByRole('link', { name: 'Form', exact: true }).click();
  await page.getByRole('textbox', { name: 'What it is for, to whoever reports', exact: true }).fill(`${name}: something was not right`);
  await page.getByRole('switch', { name: 'People report it at the Counter', exact: true }).click();
  await page.getByRole('button', { name: 'Save the kind', exact: true }).click();
  await expect(page.getByText('Saved. It counts for open tickets too.', { exact: true })).toBeVisible();

  const requester = await as('requester');
  await requester.goto('/counter/report');
  await expect(requester.getByRole('radio', { name: `${name}: something was not right`, exact: true })).toBeVisible();
  // It is taken from the Counter again, so that others find there what they expect.
  await page.getByRole('switch', { name: 'People report it at the Counter', exact: true }).click();
  await page.getByRole('button', { name: 'Save the kind', exact: true }).click();
  await expect(page.getByText('Saved. It counts for open tickets too.', { exact: true })).toBeVisible();
});

test('a routing table: typed and pasted in words, looked through as it is typed, tried, saved', async ({ as }) => {
  const page = await as('designer');
  const name = fresh('Who gets what');
  await page.goto('/workshop/routing');
  await page.getByRole('textbox', { name: 'Name of a new table', exact: true }).fill(name);
  await choose(page.getByRole('combobox', { name: 'What goes by it', exact: true }), 'Tickets');
  await choose(page.getByRole('combobox', { name: 'What no row takes goes to', exact: true }), 'Workplace');
  await page.getByRole('button', { name: 'Begin a table', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  const says = page.getByRole('region', { name: 'What the table says', exact: true });
  await expect(says).toContainText('No row takes whatever comes');
  await page.getByRole('button', { name: 'Add a row', exact: true }).click();
  const cell = (row: number, column: string) => page.getByRole('textbox', { name: `Row ${row}, ${column}`, exact: true });
  // A block from a spreadsheet; rows that lack are added, and what cannot be read stays, with what is wrong.
  await cell(1, 'Kind').focus();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData(
      'text/plain',
      'Incident\tAccess\tany\tany\tDirectory and access\nIncident\tany\tLunnick Station\tany\tStores, in turn\nIncident\tPat\tany\tany\tStores\n',
    );
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(cell(2, 'goes to')).toHaveValue('Stores, in turn');
  await expect(page.getByText('No category is called “Pat”.', { exact: true })).toBeVisible();
  await expect(page.getByText('1 cell cannot be read yet.', { exact: true })).toBeVisible();
  await cell(3, 'Category').fill('pay');
  await page.keyboard.press('Enter');
  await expect(cell(3, 'Category')).toHaveValue('Pay');
  await expect(says).toContainText(
    'Rows 1 and 2 both take kind Incident; category Access; place Boat Shed, Kittiwake, Lunnick Station or Observatory, equally specific',
  );
  // Ctrl D fills from above, Ctrl Z takes back.
  await cell(3, 'Place').focus();
  await page.keyboard.press('Control+d');
  await expect(cell(3, 'Place')).toHaveValue('Lunnick Station');
  await page.keyboard.press('Control+z');
  await expect(cell(3, 'Place')).toHaveValue('any');
  const tried = page.getByRole('region', { name: 'Try a ticket', exact: true });
  await choose(tried.getByRole('combobox', { name: 'Kind', exact: true }), 'Incident');
  await choose(tried.getByRole('combobox', { name: 'Place', exact: true }), 'Observatory');
  await expect(tried.getByRole('status')).toContainText('Stores, in turn');
  await expect(tried).toContainText('Place climbs: Observatory, Lunnick Station, everywhere.');
  await page.getByRole('button', { name: 'Save the table', exact: true }).click();
  await expect(page.getByText('Saved. What comes in from now on goes by it.', { exact: true })).toBeVisible();
  await page.reload();
  await expect(cell(2, 'goes to')).toHaveValue('Stores, in turn');

  // Out as DMN 1.3, and in again; nothing is saved by that, and it is taken back.
  await choose(page.getByRole('combobox', { name: 'Which row counts', exact: true }), 'the first row wins');
  await page.getByRole('button', { name: 'Save the table', exact: true }).click();
  await expect(page.getByText('Saved. What comes in from now on goes by it.', { exact: true })).toBeVisible();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'DMN file', exact: true }).click()]);
  const file = await download.path();
  await page.getByRole('button', { name: 'Take row 1 off', exact: true }).click();
  await expect(page.getByText('Not saved yet.', { exact: true })).toBeVisible();
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Bring in a DMN file', exact: true }).click(),
  ]);
  await chooser.setFiles(file);
  await expect(page.getByText(/^\s*3 rows brought in\./)).toBeVisible();
  await expect(cell(1, 'goes to')).toHaveValue('Directory and access');
  await page.getByRole('button', { name: 'Take back', exact: true }).click();
  await expect(cell(1, 'goes to')).toHaveValue('Stores, in turn');

  // As it was before that: looked at, and saved it is so again.
  await page.getByText(/^History, 2 versions$/).click();
  await page
    .getByRole('list')
    .getByRole('link')
    .filter({ has: page.getByRole('time') })
    .last()
    .click();
  await expect(page.getByText(/Nothing is changed by looking; saved, it is so again\./)).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Which row counts', exact: true })).toContainText('the most specific row wins');
  await page.getByRole('button', { name: 'Save the table', exact: true }).click();
  await expect(page.getByText('Saved. What comes in from now on goes by it.', { exact: true })).toBeVisible();

  // Of many rows those in sight are drawn; the keyboard goes through all of them, and the row it is in stays, wherever one scrolls.
  await cell(3, 'Kind').focus();
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text/plain', 'Incident\tany\tany\tany\tStores\n'.repeat(300));
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  const drawn = page.getByRole('table', { name, exact: true }).getByRole('row');
  await expect(page.getByRole('table', { name, exact: true })).toHaveAttribute('aria-rowcount', '304');
  expect(await drawn.count()).toBeLessThan(100);
  for (let n = 3; n < 80; n++) await page.keyboard.press('ArrowDown');
  await expect(cell(80, 'Kind')).toBeFocused();
  await page.keyboard.type('Chan');
  await cell(80, 'Kind').hover();
  await page.mouse.wheel(0, -10_000);
  await expect(cell(1, 'Kind')).toBeInViewport();
  await expect(cell(80, 'Kind')).toHaveValue('Chan');
});

test('levels of priority are added, called anew and taken away; promises are for those there are', async ({ as }) => {
  const page = await as('designer');
  await page.goto('/workshop/kinds');
  await page.getByRole('textbox', { name: 'Name of a new kind', exact: true }).fill(fresh('Watch'));
  await page.getByRole('button', { name: 'Begin a kind', exact: true }).click();
  await page.getByRole('link', { name: 'Priority', exact: true }).click();
  const priorities = page.getByRole('region', { name: 'Priorities', exact: true });
  await priorities.getByRole('button', { name: 'Add a priority', exact: true }).click();
  await priorities.getByRole('textbox', { name: 'Priorities: 4', exact: true }).fill('none');
  await page.getByRole('region', { name: 'Impacts', exact: true }).getByRole('button', { name: 'Add an impact', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'Another impact, It can wait', exact: true }), 'none');
  await priorities.getByRole('button', { name: 'Remove the priority “medium”', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'Several people, Work is slowed down', exact: true })).toContainText('low');
  await page.getByRole('link', { name: 'Promises', exact: true }).click();
  await expect(page.getByRole('button', { name: /^Remove the promise/ })).toHaveCount(4);
  await choose(page.getByRole('combobox', { name: 'Promise 1: which hours count', exact: true }), 'round the clock');
  await choose(page.getByRole('combobox', { name: 'Promise 1: raised to when late', exact: true }), 'becomes low');
  await page.getByRole('button', { name: 'Save the kind', exact: true }).click();
  await expect(page.getByText('Saved. It counts for open tickets too.', { exact: true })).toBeVisible();
});

test('a move gets a gate; who is asked agrees on a phone, and the ticket goes where it was to go', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/kinds');
  await designer.getByRole('textbox', { name: 'Name of a new kind', exact: true }).fill(fresh('Outage'));
  await designer.getByRole('button', { name: 'Begin a kind', exact: true }).click();
  const cell = (more = '') => designer.getByRole('button', { name: `New to Done${more}`, exact: true });
  await cell().click();
  const move = designer.getByRole('region', { name: 'New to Done', exact: true });
  await move.getByRole('button', { name: 'Let somebody agree first', exact: true }).click();
  await expect(cell(', once it is agreed to')).toBeVisible();
  const says = designer.getByRole('region', { name: 'What the map says', exact: true });
  const save = designer.getByRole('button', { name: 'Save the kind', exact: true });
  await expect(says).toContainText('The gate from “New” to “Done”:');
  await expect(save).toBeDisabled();
  await choose(move.getByRole('combobox', { name: 'Approvers', exact: true }), 'The manager of a person');
  await expect(save).toBeEnabled();
  // Undone and done again: the gate is part of what is taken back.
  await designer.getByRole('button', { name: 'Take back', exact: true }).click();
  await expect(save).toBeDisabled();
  await choose(move.getByRole('combobox', { name: 'Approvers', exact: true }), 'The manager of a person');
  await save.click();
  await expect(designer.getByText('Saved. It counts for open tickets too.', { exact: true })).toBeVisible();

  // A change in the demo waits for the head of tides.
  const desk = await as('technician');
  await desk.goto('/desk/queue');
  await desk.getByRole('row').filter({ hasText: 'Newer numerical library on the tide machines' }).click();
  const asked = desk.getByRole('region', { name: 'What is asked', exact: true });
  await expect(asked).toContainText('It goes to “Planned” once it is agreed to');
  await expect(asked).toContainText('Ivar Tidemark has not answered');
  const approver = await as('approver', { viewport: { width: 390, height: 844 } });
  await approver.goto('/desk/approvals');
  await approver.getByRole('row').filter({ hasText: 'Newer numerical library on the tide machines' }).click();
  await expect(approver.getByText(/^\s*Only Sunday morning is free of runs\./)).toBeVisible();
  await approver.getByRole('textbox', { name: /^Comment/ }).fill('Sunday will do.');
  await approver.getByRole('button', { name: 'Approve for Solveig Langskar', exact: true }).click();
  await expect(approver.getByText(/^\s*You approved this\./)).toBeVisible();
  // The page that is open hears it.
  await expect(asked).toBeHidden();
  await desk.getByText(/^History, \d+ entries$/).click();
  await expect(desk.getByText(/moved it to “Planned”, as was agreed/)).toBeVisible();
});
