import { mailbox } from './support/outside.ts';
import { choose as chooseFrom, expect, pick, test, waitFor } from './support/story.ts';
import { itemWith, now, publish, told } from './support/workshop.ts';

test('values with structure: a sum, a place, a team and a mail address are asked for, compared, worked with and said', async ({ as }) => {
  const choose = {
    id: 'dear',
    kind: 'choose',
    name: 'Dear or cheap',
    expected: now,
    cases: [
      {
        id: 'dear',
        name: 'Dear',
        when: { compare: 'more', left: { ref: 'form.price' }, right: { literal: { amount: '1000', currency: 'EUR' } } },
        block: [{ ...told('tell'), name: 'Tell what it costs' }],
      },
    ],
    otherwise: [{ id: 'no', kind: 'finish', name: 'Too cheap', expected: now, outcome: 'declined' }],
  };
  choose.cases[0]!.block[0]!.body = [
    {
      text: [
        [
          { text: 'Twice that is ' },
          { ref: 'steps.twice.value' },
          { text: ', at ' },
          { ref: 'form.place' },
          { text: ', by ' },
          { ref: 'form.by' },
          { text: ', for ' },
          { ref: 'form.guest' },
          { text: '.' },
        ],
      ] as never,
    },
  ];
  const twice = {
    id: 'twice',
    kind: 'workOut',
    name: 'Twice the price',
    expected: now,
    feel: '{amount: form.price.amount * 2, currency: form.price.currency}',
    type: 'money',
  };
  const { page, name } = await itemWith(
    as,
    'Structured',
    {
      fields: [
        { id: 'price', kind: 'money', label: 'Price', required: true },
        { id: 'place', kind: 'location', label: 'Where', required: true },
        { id: 'by', kind: 'team', label: 'Who helps', required: true },
        { id: 'guest', kind: 'address', label: 'Mail of the guest', required: true },
      ],
    },
    [twice, choose],
  );
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name }).first().click();
  await requester.getByRole('textbox', { name: 'Price (required)', exact: true }).fill('1250.50');
  await requester.getByRole('combobox', { name: 'Where (required)', exact: true }).fill('chart');
  await requester.getByRole('option', { name: /^Chart Hall/ }).click();
  await requester.getByRole('combobox', { name: 'Who helps (required)', exact: true }).fill('store');
  await requester.getByRole('option', { name: 'Stores', exact: true }).click();
  await requester.getByRole('textbox', { name: 'Mail of the guest (required)', exact: true }).fill('guest at example');
  // An amount without its currency, and what is no address: each is said at its field, and nothing that was typed is lost.
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Price must be an amount and a currency such as 1250.50 EUR.', { exact: true })).toBeVisible();
  await expect(requester.getByText('Mail of the guest must be a mail address such as name@example.org.', { exact: true })).toBeVisible();
  await expect(requester.getByRole('textbox', { name: 'Price (required)', exact: true })).toHaveValue('1250.50');
  await requester.getByRole('textbox', { name: 'Price: currency', exact: true }).fill('eur');
  await requester.getByRole('textbox', { name: 'Mail of the guest (required)', exact: true }).fill('guest@example.org');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await waitFor(requester, number, 'Fulfilled');
  await expect(requester.getByText('1 250.50 EUR', { exact: true })).toBeVisible();
  const mail = await mailbox.wait('requester@skerrin.example', 'Twice that is', 'Done');
  expect(mail.text).toContain('Twice that is 2 501 EUR, at Chart Hall, by Stores, for guest@example.org.');
});

test('lines: a small table in the form, filled in line by line, worked through line by line; also without scripts', async ({ as }) => {
  const lines = {
    id: 'gear',
    kind: 'lines',
    label: 'Instruments',
    required: true,
    min: 2,
    columns: [
      { id: 'what', kind: 'text', label: 'Instrument', required: true },
      { id: 'many', kind: 'number', label: 'How many', required: true, min: 1, max: 9 },
    ],
  };
  const tell = {
    ...told('tell'),
    name: 'Tell of each',
    subject: [[{ text: 'For ' }, { ref: 'row.what' }]],
    body: [{ text: [[{ ref: 'row.many' }, { text: ' of ' }, { ref: 'row.what' }, { text: ', number ' }, { ref: 'row.number' }, { text: '.' }]] }],
  };
  const { page, name } = await itemWith(as, 'Lines', { fields: [lines] }, [
    { id: 'each', kind: 'forEach', name: 'Each instrument', expected: now, list: { ref: 'form.gear' }, body: [tell] },
  ]);
  // The designer adds a column; it stands in the preview at once.
  await page.goto(page.url().replace(/plan.*$/, 'ask?field=gear'));
  await page.getByRole('button', { name: 'Add a column', exact: true }).click();
  await page.keyboard.type('For the sea');
  await chooseFrom(page.getByRole('combobox', { name: 'Column 3: kind', exact: true }), 'Yes or no');
  const preview = page.getByRole('complementary', { name: 'Preview', exact: true });
  await expect(preview.getByRole('group', { name: 'Instruments, line 1', exact: true }).getByText('For the sea')).toBeVisible();
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name }).first().click();
  const line = (n: number) => requester.getByRole('group', { name: `Instruments, line ${n}`, exact: true });
  const fill = async (n: number, what: string, many: string) => {
    await line(n).getByRole('textbox', { name: 'Instrument (required)', exact: true }).fill(what);
    await line(n).getByRole('textbox', { name: 'How many (required)', exact: true }).fill(many);
    await line(n).getByRole('radio', { name: 'Yes', exact: true }).check();
  };
  await fill(1, 'Echo sounder', '2');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Instruments: at least 2 lines.', { exact: true })).toBeVisible();
  await requester.getByRole('button', { name: 'Add a line', exact: true }).click();
  await expect(line(2).getByRole('textbox', { name: 'Instrument (required)', exact: true })).toBeFocused();
  await fill(2, 'Wrong one', '1');
  await requester.getByRole('button', { name: 'Add a line', exact: true }).click();
  await fill(3, 'Tide gauge', '12');
  // A line in the middle goes; what is typed in the others stays.
  await requester.getByRole('button', { name: 'Remove line 2 of Instruments', exact: true }).click();
  await expect(line(3)).toHaveCount(0);
  await expect(line(2).getByRole('textbox', { name: 'How many (required)', exact: true })).toHaveValue('12');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Instruments, line 2: How many: at most 9.', { exact: true })).toBeVisible();
  await expect(line(2).getByRole('textbox', { name: 'How many (required)', exact: true })).toBeFocused();
  await line(2).getByRole('textbox', { name: 'How many (required)', exact: true }).fill('1');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await waitFor(requester, number, 'Fulfilled');
  await expect(requester.getByText('Echo sounder, 2, For the sea: yes; Tide gauge, 1, For the sea: yes', { exact: true })).toBeVisible();
  expect((await mailbox.wait('requester@skerrin.example', '2 of Echo sounder', 'For Echo sounder')).text).toContain('2 of Echo sounder, number 1.');
  expect((await mailbox.wait('requester@skerrin.example', '1 of Tide gauge', 'For Tide gauge')).text).toContain('1 of Tide gauge, number 2.');

  const plain = await as('technician', { javaScriptEnabled: false });
  await plain.goto(requester.url().replace(/requests.*$/, ''));
  await plain.getByRole('link', { name }).first().click();
  for (const [i, what] of ['Salinity probe', 'Current meter'].entries()) {
    await plain.locator(`[name="f.gear.${i}.what"]`).fill(what);
    await plain.locator(`[name="f.gear.${i}.many"]`).fill('1');
    await plain
      .getByRole('group', { name: `Instruments, line ${i + 1}`, exact: true })
      .getByRole('radio', { name: 'No', exact: true })
      .check();
  }
  await plain.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(plain.getByText('Salinity probe, 1, For the sea: no; Current meter, 1, For the sea: no', { exact: true })).toBeVisible();
});

test('files: attached, sent with the request, opened by the approver; one that cannot be attached says why; also before scripts load', async ({
  as,
}) => {
  const { page, name } = await itemWith(
    as,
    'Survey of a wreck',
    {
      fields: [
        { id: 'sketch', kind: 'files', label: 'Sketches', required: true, max: 3 },
        { id: 'permit', kind: 'file', label: 'Permit', required: false },
        { id: 'by', kind: 'person', label: 'Who looks at it', required: true },
      ],
    },
    [
      {
        id: 'ok',
        kind: 'gate',
        name: 'The approver agrees',
        expected: now,
        approvers: { from: 'person', person: { ref: 'form.by' } },
        rule: { rule: 'any' },
        ownRequest: 'skip',
        nobody: { then: 'fail' },
      },
      { ...told('end'), body: [{ text: [[{ text: 'Seen: ' }, { ref: 'form.sketch' }]] }] },
    ],
  );
  await publish(page);
  const pdf = Buffer.from('%PDF-1.7\n1 0 obj << >> endobj\ntrailer << >>\n%%EOF\n');
  const file = (called: string, buffer = pdf) => ({ name: called, mimeType: 'application/pdf', buffer });
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name }).first().click();
  const choose = async (label: string, ...files: ReturnType<typeof file>[]) => {
    const chooser = requester.waitForEvent('filechooser');
    await requester.getByRole('button', { name: label, exact: true }).click();
    await (await chooser).setFiles(files);
  };
  await choose('Sketches: Attach files', file('bow.pdf'), file('tool.pdf', Buffer.concat([Buffer.from('MZ'), Buffer.alloc(300)])), file('stern.pdf'));
  const sketches = requester.getByRole('list', { name: 'Sketches: attached' });
  await expect(sketches.getByRole('link', { name: 'bow.pdf' })).toBeVisible();
  await expect(sketches.getByRole('link', { name: 'stern.pdf' })).toBeVisible();
  await expect(requester.getByText(/“tool\.pdf” is of a kind that cannot be attached/)).toBeVisible();
  await sketches.getByRole('button', { name: 'Take out stern.pdf' }).click();
  await expect(sketches.getByRole('link')).toHaveCount(1);
  await expect(requester.getByRole('button', { name: 'Sketches: Attach files', exact: true })).toBeFocused();
  await pick(requester, 'Who looks at it (required)', 'Ivar Tide', 'Ivar Tidemark');
  await expect(requester.getByText('Everything is filled in.')).toBeVisible();
  await requester.getByRole('button', { name: 'Send request' }).click();
  await expect(requester.getByText('Your request is on its way.')).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await expect(requester.getByRole('link', { name: 'bow.pdf' })).toBeVisible();

  const approver = await as('approver');
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number }).click();
  const download = approver.waitForEvent('download');
  await approver.getByRole('link', { name: 'bow.pdf' }).click();
  expect((await download).suggestedFilename()).toBe('bow.pdf');
  await approver.getByRole('button', { name: 'Approve' }).click();
  await waitFor(requester, number, 'Fulfilled');
  await mailbox.wait('requester@skerrin.example', 'Seen: bow.pdf', 'Done');

  const plain = await as('requester', { javaScriptEnabled: false });
  await plain.goto('/counter');
  await plain.getByRole('link', { name }).first().click();
  await plain.getByLabel('Sketches (required)').setInputFiles([file('keel.pdf')]);
  await plain.getByLabel('Permit', { exact: true }).setInputFiles(file('wrong.pdf', Buffer.from('only words')));
  await plain.getByRole('combobox', { name: 'Who looks at it (required)' }).fill('Ivar Tidemark');
  await plain.getByRole('button', { name: 'Send request' }).click();
  await expect(plain.getByText('“wrong.pdf” is a text of a kind that cannot be attached.', { exact: false })).toBeVisible();
  await expect(plain.getByRole('link', { name: 'keel.pdf' })).toBeVisible();
  await plain.getByLabel('Permit', { exact: true }).setInputFiles(file('permit.pdf'));
  await plain.getByRole('button', { name: 'Send request' }).click();
  await expect(plain.getByText('Your request is on its way.')).toBeVisible();
  await expect(plain.getByRole('link', { name: 'keel.pdf' })).toBeVisible();
  await expect(plain.getByRole('link', { name: 'permit.pdf' })).toBeVisible();
});
