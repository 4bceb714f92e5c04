import type { Page } from '@playwright/test';
import { mailbox, park } from './support/outside.ts';
import { begins, choose, expect, fresh, pick, test, waitFor, type SignedIn } from './support/story.ts';
import { itemWith, now, publish, told } from './support/workshop.ts';

/** The keys of a grid are told where they count. */
const keysCount = (page: Page) => expect(page.getByText(/^F2 edits · Ctrl D fills down/)).toBeVisible();

/** A table of sizes with five rows, kept by hand by the technician's group; put in place over the addresses that its pages send to. */
async function sizesKept(as: SignedIn): Promise<string> {
  const designer = await as('designer');
  const name = fresh('Boat sizes');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table', { exact: true }).fill(name);
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Columns and key', exact: true }).click();
  await pick(designer, 'Kept by', 'platform-admins');
  const owners = (JSON.parse(await designer.locator('input[name="definition"]').inputValue()) as { owners: object }).owners;
  const definition = {
    name,
    purpose: 'For a test',
    owners,
    columns: [
      { id: 'size', kind: 'text', label: 'Size', required: true },
      { id: 'processors', kind: 'number', label: 'Processors', required: true, min: 1, max: 64 },
      { id: 'memory', kind: 'number', label: 'Memory', required: true, min: 1, max: 1024, unit: 'GB' },
      { id: 'daily', kind: 'money', label: 'A day costs', required: true, unit: 'EUR' },
      {
        id: 'stands',
        kind: 'choice',
        label: 'Where it runs',
        required: true,
        options: [
          { value: 'hall', label: 'Machine hall at Quay House' },
          { value: 'lunnick', label: 'Lunnick Station' },
        ],
      },
    ],
    key: ['size'],
  };
  const cells = [
    'Size;Processors;Memory;A day costs;Where it runs',
    'Small;1;4;0.00;hall',
    'Medium;2;16;1.60;hall',
    'Large;4;32;3.20;hall',
    'Large, much memory;4;128;5.75;lunnick',
    'Very large;16;128;12.80;lunnick',
  ].join('\n');
  const sent = await designer.evaluate(
    async ([columns, sheet]) => {
      const post = (to: string, body: Record<string, string>) => fetch(to, { method: 'POST', body: new URLSearchParams(body) }).then((r) => r.ok);
      const base = location.pathname.replace(/\/columns$/, '');
      return (await post(`${base}/columns`, { version: '1', definition: columns! })) && post(`${base}/sheet`, { act: 'put', sheet: sheet! });
    },
    [JSON.stringify(definition), cells],
  );
  expect(sent).toBe(true);
  return name;
}

/** Reference tables as their users meet them: kept row by row and by the sheet, offered in forms, read by plans at the moment of use. */
test('a table is begun, filled from a spreadsheet, offered in a form and read by the plan; a changed row counts from the next use on', async ({
  as,
}) => {
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table', { exact: true }).fill('Berths');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await expect(designer.getByText(/^No row yet\. Type into the first line/)).toBeVisible();

  await designer.getByRole('link', { name: 'Columns and key', exact: true }).click();
  await designer.getByRole('textbox', { name: 'Column 1: label', exact: true }).fill('Berth');
  for (const [at, label, kind] of [
    [2, 'Depth', 'Number'],
    [3, 'Warden', 'Person'],
  ] as const) {
    await designer.getByRole('button', { name: 'Add a column', exact: true }).click();
    await designer.getByRole('textbox', { name: `Column ${at}: label`, exact: true }).fill(label);
    await choose(designer.getByRole('combobox', { name: `Column ${at}: kind`, exact: true }), kind);
  }
  await designer.getByRole('textbox', { name: 'Column 2: Unit', exact: true }).fill('m');
  await designer.getByRole('button', { name: 'Change the table', exact: true }).click();
  await expect(designer.getByText('Everything is kept.', { exact: true })).toBeVisible();

  await designer.getByRole('link', { name: 'As a sheet of cells', exact: true }).click();
  await designer
    .getByLabel('Cells (required)', { exact: true })
    .fill('berth\tdepth\twarden\nNorth\t4,5\tBirk Saltvik\nSouth\t9\tBirk Saltvik\nWest\tdeep\tNobody here');
  await designer.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  const preview = designer.getByRole('region', { name: 'What it would do', exact: true });
  await expect(preview.getByText('Adds 2 rows, changes 0 rows.', { exact: true })).toBeVisible();
  await expect(
    preview.getByText('Line 4: Depth: “deep” is not a number. Warden: “Nobody here” is not known, or not by this name alone.', { exact: true }),
  ).toBeVisible();
  await designer.getByRole('button', { name: 'Put in 2 rows, leave the others out', exact: true }).click();
  await expect(designer.getByRole('row', { name: 'Open North North 4.5 Birk Saltvik', exact: true })).toBeVisible();
  const table = /tables\/([0-9a-f-]{36})/.exec(designer.url())![1]!;

  const { page, name: item } = await itemWith(as, 'Moor a boat', { fields: [{ id: 'berth', kind: 'row', label: 'Berth', required: true, table }] }, [
    {
      id: 'ok',
      kind: 'gate',
      name: 'The warden agrees',
      expected: now,
      approvers: { from: 'person', person: { ref: 'form.berth.warden' } },
      rule: { rule: 'any' },
      ownRequest: 'skip',
      nobody: { then: 'fail' },
    },
    { ...told('end'), body: [{ text: [[{ text: 'There are ' }, { ref: 'form.berth.depth' }, { text: ' m of water.' }]] }] },
  ]);
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins(item) })
    .first()
    .click();
  await pick(requester, 'Berth (required)', 'nor', 'North');
  await expect(requester.getByText('Birk Saltvik must agree.', { exact: true })).toBeVisible();
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];

  // While the warden is asked, the water falls: the row is changed, by keyboard alone.
  await designer.goto(`/workshop/tables/${table}`);
  await keysCount(designer);
  await designer.getByRole('grid', { name: 'Rows of Berths', exact: true }).focus();
  await designer.keyboard.press('Control+Enter');
  const slip = designer.getByRole('region', { name: 'Row North', exact: true });
  await slip.getByRole('textbox', { name: 'Depth (required)', exact: true }).fill('3.5');
  await designer.keyboard.press('Enter');
  await expect(slip.getByText(/^\s*Depth: 4\.5 became 3\.5/)).toBeVisible();

  const warden = await as('technician');
  await warden.goto('/desk/approvals');
  await warden.getByRole('link', { name: number, exact: true }).click();
  await expect(warden.getByText('North', { exact: true })).toBeVisible();
  await warden.getByRole('button', { name: /^Approve/ }).click();
  await waitFor(requester, number, 'Fulfilled');
  await mailbox.wait('requester@skerrin.example', 'There are 3.5 m of water.', 'Done');

  // What is read stays: the column cannot go while the plan reads it, and says who reads it.
  await designer.goto(`/workshop/tables/${table}/columns`);
  await expect(designer.getByText('Reads Depth, Warden', { exact: true })).toBeVisible();
  await designer.getByRole('button', { name: 'Remove “Depth”', exact: true }).click();
  await designer.getByRole('button', { name: 'Change the table', exact: true }).click();
  await expect(designer.getByRole('alert')).toContainText('“Depth” is read by “Moor a boat');

  // Taken off, a row is offered no more; it can be brought back.
  await designer.goto(`/workshop/tables/${table}?row=South`);
  await designer.getByRole('button', { name: 'Take it off the table', exact: true }).click();
  await expect(designer.getByText('Taken off. What has picked it can still read it; nobody else is offered it.', { exact: true })).toBeVisible();
  await expect(designer.getByRole('link', { name: 'Open South', exact: true })).toHaveCount(0);
  await designer.getByRole('button', { name: 'Bring it back as it was', exact: true }).click();
  await expect(designer.getByRole('row', { name: 'Open South South 9 Birk Saltvik', exact: true })).toBeVisible();
});

test('a file of cells: read in its encoding, said before it is put in, and not put in once something else stands there', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table', { exact: true }).fill('Buoys');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Paste cells from a spreadsheet', exact: true }).click();
  const cells = designer.getByLabel('Cells (required)', { exact: true });
  const chooser = designer.getByLabel('Or a file', { exact: true });
  for (const [encoding, buffer] of [
    ['UTF-16', Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from('Name\nØvre skjær\n', 'utf16le')])],
    ['Western European', Buffer.from('Name\nØvre skjær\n', 'latin1')],
    ['UTF-8', Buffer.from('Name\nØvre skjær\n')],
  ] as const) {
    await cells.fill('');
    await chooser.setInputFiles({ name: 'buoys.csv', mimeType: 'text/csv', buffer });
    await expect(cells, encoding).toHaveValue('Name\nØvre skjær\n');
  }
  await designer.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  const put = designer.getByRole('button', { name: 'Put in 1 row', exact: true });
  await expect(put).toBeVisible();
  await cells.fill('Name\nØvre skjær\nNedre skjær');
  await expect(put).toHaveCount(0);
  await designer.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  await designer.getByRole('button', { name: 'Put in 2 rows', exact: true }).click();
  await expect(designer.getByRole('row', { name: 'Open Nedre skjær Nedre skjær', exact: true })).toBeVisible();

  // Found by a part of it; what is not there says so, and what was changed of another tab is not overwritten.
  await designer.getByRole('textbox', { name: 'Find in the rows', exact: true }).fill('nedre');
  await expect(designer.getByRole('link', { name: 'Open Øvre skjær', exact: true })).toHaveCount(0);
  await designer.getByRole('link', { name: 'Open Nedre skjær', exact: true }).click();
  await expect(designer.getByRole('textbox', { name: 'Name (required)', exact: true })).toHaveValue('Nedre skjær');
  const other = await as('designer');
  await other.goto(designer.url());
  await other.getByRole('button', { name: 'Take it off the table', exact: true }).click();
  await expect(other.getByText(/^\s*Taken off\./)).toBeVisible();
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill('Nedre skjær, lit');
  await designer.getByRole('button', { name: 'Save the row', exact: true }).click();
  await expect(designer.getByRole('alert')).toContainText('Somebody else has changed this row meanwhile.');
  await expect(designer.getByRole('textbox', { name: 'Name (required)', exact: true })).toHaveValue('Nedre skjær, lit');
});

test('a row before scripts load: filled in, refused at its cells with what was typed, kept; and a sheet of cells', async ({ as }) => {
  const designer = await as('designer', { javaScriptEnabled: false });
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table', { exact: true }).fill('Instruments of the hall');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Add a row', exact: true }).click();
  await designer.getByRole('button', { name: 'Add the row', exact: true }).click();
  await expect(designer.getByText('Fill in “Name”.', { exact: true })).toBeVisible();
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill('Tide gauge');
  await designer.getByRole('button', { name: 'Add the row', exact: true }).click();
  await expect(designer.getByRole('heading', { name: 'Tide gauge', exact: true })).toBeVisible();
  await designer.getByRole('link', { name: 'As a sheet of cells', exact: true }).click();
  await designer.getByLabel('Cells (required)', { exact: true }).fill('Name\nTide gauge\nEcho sounder');
  await designer.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  await expect(designer.getByText('Adds 1 row, changes 0 rows; 1 row is as it was.', { exact: true })).toBeVisible();
  await expect(designer.getByLabel('Cells (required)', { exact: true })).toHaveValue('Name\r\nTide gauge\r\nEcho sounder'.replaceAll('\r', ''));
  await designer.getByRole('button', { name: 'Put in 1 row', exact: true }).click();
  await expect(designer.getByRole('row', { name: 'Echo sounder', exact: true })).toBeVisible();
});

test('the grid of a table by keyboard: typed, refused at the cell, taken back, a block copied and pasted, filled down, kept by those who own it', async ({
  as,
}) => {
  const name = await sizesKept(as);
  const keeper = await as('technician');
  await keeper.goto('/desk/tables');
  await keeper.getByRole('link', { name, exact: true }).click();
  const grid = keeper.getByRole('grid', { name: `Rows of ${name}`, exact: true });
  const cells = (words: string) => keeper.getByRole('row', { name: words, exact: true });
  await expect(cells('Open Large Large 4 32 3.20 EUR Machine hall at Quay House')).toBeVisible();
  await expect(keeper.getByRole('link', { name: 'Columns and key', exact: true })).toHaveCount(0);
  const press = async (...keys: string[]) => {
    for (const key of keys) await keeper.keyboard.press(key);
  };

  // A new row in the last line, cell by cell; the choice that begins so is taken.
  await keysCount(keeper);
  await grid.focus();
  await press('Control+End', 'Home');
  for (const text of ['Tiny', '1', '2', '0.40']) {
    await keeper.keyboard.type(text);
    await press('Tab');
  }
  await keeper.keyboard.type('lun');
  await press('Enter');
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();
  await expect(cells('Open Tiny Tiny 1 2 0.40 EUR Lunnick Station')).toBeVisible();

  // What cannot be taken stands in its cell, with why; typed over, it goes in.
  await press('Control+Home', 'ArrowDown', 'ArrowRight');
  await keeper.keyboard.type('many');
  await press('Enter');
  await expect(keeper.getByText('One cell is refused.', { exact: true })).toBeVisible();
  await press('ArrowUp');
  await expect(keeper.getByText('Processors: “many” is not a number.', { exact: true })).toBeVisible();
  await press('Control+z');
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();

  // F2 edits what stands there; Escape leaves it.
  await press('F2');
  await expect(keeper.getByRole('textbox', { name: 'Processors', exact: true })).toHaveValue('4');
  await keeper.keyboard.type('0');
  await press('Escape');
  await expect(cells('Open Large, much memory Large, much memory 4 128 5.75 EUR Lunnick Station')).toBeVisible();

  // Two rows are copied and pasted below the last; their keys are there already, so those cells are refused, and then renamed.
  await press('Control+Home', 'Shift+ArrowDown', 'Shift+End', 'Control+c', 'Control+End', 'Home', 'Control+v');
  await expect(keeper.getByText(/^2 cells are refused\.$/)).toBeVisible();
  await keeper.keyboard.type('Copy one');
  await press('Enter');
  await keeper.keyboard.type('Copy two');
  await press('Enter');
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();
  await expect(cells('Open Copy two Copy two 4 128 5.75 EUR Lunnick Station')).toBeVisible();
  // Filled down, and everything taken off again with one key, and had back by undo.
  await press('ArrowUp', 'ArrowUp', 'ArrowRight', 'ArrowRight', 'Shift+ArrowDown', 'Control+d');
  await expect(cells('Open Copy two Copy two 4 32 5.75 EUR Lunnick Station')).toBeVisible();
  await press('Shift+Delete');
  await expect(keeper.getByRole('link', { name: 'Open Copy one', exact: true })).toHaveCount(0);
  await press('Control+z');
  await expect(cells('Open Copy two Copy two 4 32 5.75 EUR Lunnick Station')).toBeVisible();
  await press('Control+y');
  await expect(keeper.getByRole('link', { name: 'Open Copy two', exact: true })).toHaveCount(0);
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();

  // Sorted and narrowed, as the address says.
  await press('Control+Home', 'ArrowRight', 'Alt+ArrowDown');
  await expect(keeper.getByRole('columnheader', { name: 'Processors', exact: true })).toHaveAttribute('aria-sort', 'descending');
  await expect(keeper.getByRole('row').nth(1)).toContainText('Very large');
  await keeper.getByRole('textbox', { name: 'Find in the rows', exact: true }).fill('tiny');
  await expect(keeper.getByText('1 of 6', { exact: true })).toBeVisible();
  expect(keeper.url()).toContain('sort=-processors');
  // The row that was added goes again, and what is kept is what a designer sees.
  await grid.focus();
  await press('Control+Home', 'Shift+Delete');
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();
  const designer = await as('designer');
  await designer.goto(keeper.url().replace('/desk/', '/workshop/').split('?')[0]!);
  await expect(designer.getByText('5 of 5', { exact: true })).toBeVisible();
});

test('what was changed in a table is told act by act and taken back, by who keeps it; and the table stands as it did on a day', async ({ as }) => {
  const name = await sizesKept(as);
  const keeper = await as('technician');
  await keeper.goto('/desk/tables');
  await keeper.getByRole('link', { name, exact: true }).click();
  const grid = keeper.getByRole('grid', { name: `Rows of ${name}`, exact: true });
  await expect(keeper.getByRole('row', { name: 'Open Large Large 4 32 3.20 EUR Machine hall at Quay House', exact: true })).toBeVisible();
  await keysCount(keeper);
  await grid.focus();
  for (const key of ['Control+End', 'ArrowUp', 'Home', 'ArrowRight']) await keeper.keyboard.press(key);
  await keeper.keyboard.type('63');
  await keeper.keyboard.press('Enter');
  await expect(keeper.getByText('Keeping …', { exact: true })).toHaveCount(0);
  await expect(keeper.getByText('Everything is kept.', { exact: true })).toBeVisible();
  await keeper.getByRole('link', { name: 'What was changed', exact: true }).click();
  const latest = keeper.getByRole('main').getByRole('listitem').first();
  await expect(latest).toContainText(/Processors: \d+ became 63/);
  await latest.getByRole('button', { name: /^Take it back/ }).click();
  await expect(keeper.getByText('Taken back: 1 row is as before.', { exact: true })).toBeVisible();
  await expect(latest).toContainText(/Processors: 63 became \d+/);
  // Before there was any.
  await keeper.getByRole('textbox', { name: 'As it stood at the end of', exact: true }).fill('2 Jan 2020');
  await keeper.getByRole('button', { name: 'Show it', exact: true }).click();
  await expect(keeper.getByText('It had no rows on 2 Jan 2020.', { exact: true })).toBeVisible();
  await keeper.goto(`${keeper.url().split('?')[0]}?day=2199-01-01`);
  await expect(keeper.getByRole('region', { name: 'The rows on 1 Jan 2199', exact: true }).getByRole('row')).toHaveCount(6);
});

test('a table is read from what a system lists: chosen, each column from its own; it follows the system, and nobody types into it', async ({
  as,
}) => {
  const designer = await as('designer');
  const name = fresh('Sizes of the park');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table', { exact: true }).fill(name);
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Columns and key', exact: true }).click();
  await designer.getByRole('textbox', { name: 'Column 1: label', exact: true }).fill('Size');
  await choose(designer.getByRole('combobox', { name: 'Rows come from', exact: true }), 'Machine park: The sizes there are');
  // What is called the same is read from there; what the list says besides becomes columns.
  await expect(designer.getByRole('combobox', { name: '“Size” is read from', exact: true })).toHaveText('Size');
  await designer.getByRole('button', { name: 'Add columns for these 5', exact: true }).click();
  await choose(designer.getByRole('combobox', { name: 'Column 2: kind', exact: true }), 'Number');
  const second = designer.getByRole('combobox', { name: '“Processors” is read from', exact: true });
  await choose(second, 'Nothing');
  const wanting = designer.getByText(
    '“Processors” is read from nowhere, and nobody types into a table that is read: say which column of the list it is, or take it off.',
    { exact: true },
  );
  await expect(wanting).toBeVisible();
  await expect(designer.getByRole('button', { name: 'Change the table', exact: true })).toBeDisabled();
  await choose(second, 'Processors');
  await expect(wanting).toHaveCount(0);
  await designer.getByRole('button', { name: 'Change the table', exact: true }).click();
  await expect(designer.getByText('Everything is kept.', { exact: true })).toBeVisible();

  await designer.getByRole('link', { name: /^Rows/ }).click();
  await expect(designer.getByRole('status').filter({ hasText: 'Read from Machine park (The sizes there are) every 5 minutes, last' })).toBeVisible();
  const cells = (words: string) => designer.getByRole('row', { name: words, exact: true });
  await expect(cells('Large 4 32 3.20 hall 120')).toBeVisible();
  await expect(designer.getByRole('link', { name: 'Add a row', exact: true })).toHaveCount(0);
  await designer.getByRole('link', { name: 'Large', exact: true }).click();
  const row = designer.getByRole('region', { name: 'Row Large', exact: true });
  await expect(row.getByRole('definition')).toHaveText(['Large', '4', '32', '3.20', 'hall', '120']);
  await expect(row.getByRole('textbox')).toHaveCount(0);

  // The park has another size; it is there once the list is read, and gone again.
  const before = await park.sizes();
  try {
    await park.setSizes([...before, { id: 'Tiny', processors: 1, memoryGb: 2, dayEur: '0.10', region: 'lunnick' }]);
    await designer.getByRole('button', { name: 'Read it now', exact: true }).click();
    await expect(cells('Tiny 1 2 0.10 lunnick 180')).toBeVisible();
  } finally {
    await park.setSizes(before);
  }
  await designer.getByRole('button', { name: 'Read it now', exact: true }).click();
  await expect(cells('Tiny 1 2 0.10 lunnick 180')).toHaveCount(0);
  await designer.getByRole('link', { name: 'Rows taken off', exact: true }).click();
  await expect(cells('Tiny 1 2 0.10 lunnick 180')).toBeVisible();
  await designer.getByRole('link', { name: 'What was changed', exact: true }).click();
  const latest = designer.getByRole('main').getByRole('listitem').first();
  await expect(latest).toContainText('as it was read');
  await expect(designer.getByRole('button', { name: /^Take it back/ })).toHaveCount(0);
  await designer.getByRole('link', { name: 'As a sheet of cells', exact: true }).click();
  await expect(designer.getByText(/Its rows are read from a system, so nothing is put in here\.$/)).toBeVisible();
});
