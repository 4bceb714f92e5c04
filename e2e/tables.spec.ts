import { mailbox } from './support/outside.ts';
import { expect, pick, test, waitFor } from './support/story.ts';
import { itemWith, now, publish, told } from './support/workshop.ts';

/** Reference tables as their users meet them: kept row by row and by the sheet, offered in forms, read by plans at the moment of use. */
test('a table is begun, filled from a spreadsheet, offered in a form and read by the plan; a changed row counts from the next use on', async ({
  as,
}) => {
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table').fill('Berths');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await expect(designer.getByText('No row yet. Add one, or put in many at once.')).toBeVisible();

  await designer.getByRole('link', { name: 'Columns and key' }).click();
  await designer.getByRole('textbox', { name: 'Column 1: label' }).fill('Berth');
  for (const [at, label, kind] of [
    [2, 'Depth', 'Number'],
    [3, 'Warden', 'Person'],
  ] as const) {
    await designer.getByRole('button', { name: 'Add a column' }).click();
    await designer.getByRole('textbox', { name: `Column ${at}: label` }).fill(label);
    await designer.getByRole('combobox', { name: `Column ${at}: kind` }).click();
    await designer.getByRole('option', { name: kind, exact: true }).click();
  }
  await designer.getByRole('textbox', { name: 'Column 2: Unit' }).fill('m');
  await designer.getByRole('button', { name: 'Change the table' }).click();
  await expect(designer.getByRole('button', { name: 'Change the table' })).toBeDisabled();

  await designer.getByRole('link', { name: 'As a sheet of cells' }).click();
  await designer
    .getByLabel('Cells (required)')
    .fill('berth\tdepth\twarden\nNorth\t4,5\tBirk Saltvik\nSouth\t9\tBirk Saltvik\nWest\tdeep\tNobody here');
  await designer.getByRole('button', { name: 'Say what it would do' }).click();
  const preview = designer.getByRole('region', { name: 'What it would do' });
  await expect(preview.getByText('Adds 2 rows, changes 0 rows.')).toBeVisible();
  await expect(
    preview.getByText('Line 4: Depth: “deep” is not a number. Warden: “Nobody here” is not known, or not by this name alone.'),
  ).toBeVisible();
  await designer.getByRole('button', { name: 'Put in 2 rows, leave the others out' }).click();
  await expect(designer.getByRole('row', { name: 'North 4.5 Birk Saltvik' })).toBeVisible();
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
  await requester.getByRole('link', { name: item }).first().click();
  await pick(requester, 'Berth (required)', 'nor', 'North');
  await expect(requester.getByText('Birk Saltvik must agree.')).toBeVisible();
  await requester.getByRole('button', { name: 'Send request' }).click();
  await expect(requester.getByText('Your request is on its way.')).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];

  // While the warden is asked, the water falls: the row is changed, by keyboard alone.
  await designer.goto(`/workshop/tables/${table}`);
  await designer.getByRole('link', { name: 'North' }).focus();
  await designer.keyboard.press('Enter');
  const slip = designer.getByRole('region', { name: 'Row North' });
  await slip.getByRole('textbox', { name: 'Depth (required)' }).fill('3.5');
  await designer.keyboard.press('Enter');
  await expect(slip.getByText('Depth: 4.5 became 3.5')).toBeVisible();

  const warden = await as('technician');
  await warden.goto('/desk/approvals');
  await warden.getByRole('link', { name: number }).click();
  await expect(warden.getByText('North')).toBeVisible();
  await warden.getByRole('button', { name: 'Approve' }).click();
  await waitFor(requester, number, 'Fulfilled');
  await mailbox.wait('requester@skerrin.example', 'There are 3.5 m of water.', 'Done');

  // What is read stays: the column cannot go while the plan reads it, and says who reads it.
  await designer.goto(`/workshop/tables/${table}/columns`);
  await expect(designer.getByText('Reads Depth, Warden')).toBeVisible();
  await designer.getByRole('button', { name: 'Remove “Depth”' }).click();
  await designer.getByRole('button', { name: 'Change the table' }).click();
  await expect(designer.getByRole('alert')).toContainText('“Depth” is read by “Moor a boat');

  // Taken off, a row is offered no more; it can be brought back.
  await designer.goto(`/workshop/tables/${table}?row=South`);
  await designer.getByRole('button', { name: 'Take it off the table' }).click();
  await expect(designer.getByText('Taken off. What has picked it can still read it; nobody else is offered it.')).toBeVisible();
  await expect(designer.getByRole('row', { name: /^South/ })).toHaveCount(0);
  await designer.getByRole('button', { name: 'Bring it back as it was' }).click();
  await expect(designer.getByRole('row', { name: /^South/ })).toBeVisible();
});

test('a file of cells: read in its encoding, said before it is put in, and not put in once something else stands there', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table').fill('Buoys');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Paste cells from a spreadsheet' }).click();
  const cells = designer.getByLabel('Cells (required)');
  const chooser = designer.getByLabel('Or a file');
  for (const [encoding, buffer] of [
    ['UTF-16', Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from('Name\nØvre skjær\n', 'utf16le')])],
    ['Western European', Buffer.from('Name\nØvre skjær\n', 'latin1')],
    ['UTF-8', Buffer.from('Name\nØvre skjær\n')],
  ] as const) {
    await cells.fill('');
    await chooser.setInputFiles({ name: 'buoys.csv', mimeType: 'text/csv', buffer });
    await expect(cells, encoding).toHaveValue('Name\nØvre skjær\n');
  }
  await designer.getByRole('button', { name: 'Say what it would do' }).click();
  const put = designer.getByRole('button', { name: 'Put in 1 row' });
  await expect(put).toBeVisible();
  await cells.fill('Name\nØvre skjær\nNedre skjær');
  await expect(put).toHaveCount(0);
  await designer.getByRole('button', { name: 'Say what it would do' }).click();
  await designer.getByRole('button', { name: 'Put in 2 rows' }).click();
  await expect(designer.getByRole('row', { name: 'Nedre skjær' })).toBeVisible();

  // Found by a part of it; what is not there says so, and what was changed of another tab is not overwritten.
  await designer.getByRole('textbox', { name: 'Find in the rows' }).fill('nedre');
  await designer.getByRole('button', { name: 'Find', exact: true }).click();
  await expect(designer.getByRole('row', { name: 'Øvre skjær' })).toHaveCount(0);
  await designer.getByRole('link', { name: 'Nedre skjær' }).click();
  const other = await as('designer');
  await other.goto(designer.url());
  await other.getByRole('button', { name: 'Take it off the table' }).click();
  await expect(other.getByText('Taken off.', { exact: false })).toBeVisible();
  await designer.getByRole('textbox', { name: 'Name (required)' }).fill('Nedre skjær, lit');
  await designer.getByRole('button', { name: 'Save the row' }).click();
  await expect(designer.getByRole('alert')).toContainText('Somebody else has changed this row meanwhile.');
  await expect(designer.getByRole('textbox', { name: 'Name (required)' })).toHaveValue('Nedre skjær, lit');
});

test('a row before scripts load: filled in, refused at its cells with what was typed, kept; and a sheet of cells', async ({ as }) => {
  const designer = await as('designer', { javaScriptEnabled: false });
  await designer.goto('/workshop/tables');
  await designer.getByLabel('Begin a table').fill('Instruments of the hall');
  await designer.getByRole('button', { name: 'Begin', exact: true }).click();
  await designer.getByRole('link', { name: 'Add a row' }).click();
  await designer.getByRole('button', { name: 'Add the row' }).click();
  await expect(designer.getByText('Fill in “Name”.')).toBeVisible();
  await designer.getByRole('textbox', { name: 'Name (required)' }).fill('Tide gauge');
  await designer.getByRole('button', { name: 'Add the row' }).click();
  await expect(designer.getByRole('heading', { name: 'Tide gauge' })).toBeVisible();
  await designer.getByRole('link', { name: 'As a sheet of cells' }).click();
  await designer.getByLabel('Cells (required)').fill('Name\nTide gauge\nEcho sounder');
  await designer.getByRole('button', { name: 'Say what it would do' }).click();
  await expect(designer.getByText('Adds 1 row, changes 0 rows; 1 row is as it was.')).toBeVisible();
  await expect(designer.getByLabel('Cells (required)')).toHaveValue('Name\r\nTide gauge\r\nEcho sounder'.replaceAll('\r', ''));
  await designer.getByRole('button', { name: 'Put in 1 row' }).click();
  await expect(designer.getByRole('row', { name: 'Echo sounder' })).toBeVisible();
});
