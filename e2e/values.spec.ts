import { mailbox } from './support/outside.ts';
import { begins, choose as chooseFrom, expect, pick, test, waitFor } from './support/story.ts';
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
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
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
  await expect(preview.getByRole('group', { name: 'Instruments, line 1', exact: true }).getByText(/^\s*For the sea/)).toBeVisible();
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
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
  await plain
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
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
        { id: 'wreck', kind: 'text', label: 'Which wreck', required: false },
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
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
  const choose = async (label: string, ...files: ReturnType<typeof file>[]) => {
    const chooser = requester.waitForEvent('filechooser');
    await requester.getByRole('button', { name: label, exact: true }).click();
    await (await chooser).setFiles(files);
  };
  // What is typed while files are on their way stays, and each file comes to those before it.
  const wreck = requester.getByRole('textbox', { name: 'Which wreck', exact: true });
  await requester.route('**/files', async (route) => {
    await wreck.press('End');
    await wreck.pressSequentially('.');
    await route.continue();
  });
  await choose('Sketches: Attach files', file('bow.pdf'), file('tool.pdf', Buffer.concat([Buffer.from('MZ'), Buffer.alloc(300)])), file('stern.pdf'));
  const sketches = requester.getByRole('list', { name: 'Sketches: attached', exact: true });
  await expect(sketches.getByRole('link', { name: 'bow.pdf', exact: true })).toBeVisible();
  await expect(sketches.getByRole('link', { name: 'stern.pdf', exact: true })).toBeVisible();
  await expect(requester.getByText(/“tool\.pdf” is of a kind that cannot be attached/)).toBeVisible();
  await expect(wreck).toHaveValue('...');
  await requester.unroute('**/files');
  await sketches.getByRole('button', { name: 'Take out stern.pdf', exact: true }).click();
  await expect(sketches.getByRole('link')).toHaveCount(1);
  await expect(requester.getByRole('button', { name: 'Sketches: Attach files', exact: true })).toBeFocused();
  await pick(requester, 'Who looks at it (required)', 'Ivar Tide', 'Ivar Tidemark');
  await expect(requester.getByText('Everything is filled in.', { exact: true })).toBeVisible();
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await expect(requester.getByRole('link', { name: 'bow.pdf', exact: true })).toBeVisible();

  const approver = await as('approver');
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number, exact: true }).click();
  const download = approver.waitForEvent('download');
  await approver.getByRole('link', { name: 'bow.pdf', exact: true }).click();
  expect((await download).suggestedFilename()).toBe('bow.pdf');
  await approver.getByRole('button', { name: /^Approve/ }).click();
  await waitFor(requester, number, 'Fulfilled');
  await mailbox.wait('requester@skerrin.example', 'Seen: bow.pdf', 'Done');

  const plain = await as('requester', { javaScriptEnabled: false });
  await plain.goto('/counter');
  await plain.getByRole('link', { name, exact: true }).first().click();
  await plain.getByLabel('Sketches (required)', { exact: true }).setInputFiles([file('keel.pdf')]);
  await plain.getByLabel('Permit', { exact: true }).setInputFiles(file('wrong.pdf', Buffer.from('only words')));
  await plain.getByRole('combobox', { name: 'Who looks at it (required)', exact: true }).fill('Ivar Tidemark');
  await plain.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(plain.getByText(/^\s*“wrong\.pdf” is a text of a kind that cannot be attached\./)).toBeVisible();
  await expect(plain.getByRole('link', { name: 'keel.pdf', exact: true })).toBeVisible();
  await plain.getByLabel('Permit', { exact: true }).setInputFiles(file('permit.pdf'));
  await plain.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(plain.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  await expect(plain.getByRole('link', { name: 'keel.pdf', exact: true })).toBeVisible();
  await expect(plain.getByRole('link', { name: 'permit.pdf', exact: true })).toBeVisible();
});

test('rules between fields: made by the designer, told while filling in and when sent, at the field they name; what is missing leads there; asked again', async ({
  as,
}) => {
  const { page: designer, name } = await itemWith(
    as,
    'Survey days',
    {
      fields: [
        { id: 'first', kind: 'date', label: 'First day', required: true },
        { id: 'last', kind: 'date', label: 'Last day', required: true },
        { id: 'night', kind: 'yesNo', label: 'At night too', required: false },
        { id: 'why', kind: 'text', label: 'Why at night', required: false },
      ],
    },
    [told('end')],
  );
  await designer.getByRole('link', { name: 'Ask', exact: true }).click();
  // A field that is required by another answer.
  await designer.getByRole('button', { name: /^Why at night/ }).click();
  await designer.getByRole('group', { name: 'Required sometimes', exact: true }).getByRole('button', { name: 'Only when …', exact: true }).click();
  await chooseFrom(designer.getByRole('combobox', { name: 'Required when, line 1: value', exact: true }), 'At night too (may have no value)');
  await chooseFrom(designer.getByRole('combobox', { name: 'Required when, line 1: compared with', exact: true }), 'yes');
  await expect(designer.getByRole('button', { name: /^Why at night/ })).toContainText('sometimes required');
  // A rule that compares one answer with another.
  await designer.getByRole('button', { name: 'Rules between fields', exact: true }).click();
  await designer.getByRole('button', { name: 'Add a rule', exact: true }).click();
  await expect(designer.getByText(/Rule 1 says nothing that must hold\./)).toBeVisible();
  await chooseFrom(designer.getByRole('combobox', { name: 'Rule 1, line 1: value', exact: true }), 'Last day');
  await chooseFrom(designer.getByRole('combobox', { name: 'Rule 1, line 1: test', exact: true }), 'is after');
  await chooseFrom(designer.getByRole('combobox', { name: 'Rule 1, line 1: with what', exact: true }), 'another value');
  await chooseFrom(designer.getByRole('combobox', { name: 'Rule 1, line 1: compared with', exact: true }), 'First day');
  await designer
    .getByRole('textbox', { name: 'Rule 1: what is said where it does not', exact: true })
    .fill('The last day comes after the first one.');
  await chooseFrom(designer.getByRole('combobox', { name: 'Rule 1: at which field', exact: true }), 'Last day');
  await expect(designer.getByText(/Rule 1 (says|has|names)/)).toHaveCount(0);
  await publish(designer);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: new RegExp(name) }).click();
  const field = (label: string) => requester.getByRole('textbox', { name: `${label} (required)`, exact: true });
  await requester.getByRole('link', { name: 'Last day', exact: true }).click();
  await expect(field('Last day')).toBeFocused();
  await field('Last day').fill('2 Mar 2027');
  await field('First day').fill('3 Mar 2027');
  await requester.keyboard.press('Tab');
  await expect(field('Last day')).toHaveAccessibleDescription(/The last day comes after the first one\./);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(field('Last day')).toBeFocused();
  await expect(field('Last day')).toHaveAccessibleDescription(/The last day comes after the first one\./);
  await field('Last day').fill('5 Mar 2027');
  await requester.keyboard.press('Tab');
  await expect(requester.getByText(/The last day comes after the first one\./)).toHaveCount(0);
  // Required once the other answer is yes.
  await expect(requester.getByRole('textbox', { name: 'Why at night', exact: true })).toBeVisible();
  await requester.getByRole('radiogroup', { name: 'At night too', exact: true }).getByRole('radio', { name: 'Yes', exact: true }).click();
  await expect(requester.getByRole('link', { name: 'Why at night', exact: true })).toBeVisible();
  await field('Why at night').fill('The tide is low then');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Fulfilled', { exact: true })).toBeVisible();
  await requester.getByRole('link', { name: 'Ask for it again', exact: true }).click();
  await expect(field('First day')).toHaveValue('3 Mar 2027');
  await expect(field('Why at night')).toHaveValue('The tide is low then');
  await expect(requester.getByText('Everything is filled in.', { exact: true })).toBeVisible();
});

test('what was typed and not sent is offered when the form is opened again, to the same person, until it is sent or forgotten', async ({ as }) => {
  const { page: designer, name } = await itemWith(
    as,
    'Begun and left',
    {
      fields: [
        { id: 'what', kind: 'text', label: 'What', required: true },
        { id: 'who', kind: 'person', label: 'For whom', required: false },
      ],
    },
    [told('end')],
  );
  await publish(designer);
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: new RegExp(name) }).click();
  const what = requester.getByRole('textbox', { name: 'What (required)', exact: true });
  await what.fill('A lead line');
  await pick(requester, 'For whom', 'Birk', 'Birk Saltvik');
  const address = requester.url();
  // Left and opened again; what is typed meanwhile does not take its place.
  await requester.reload();
  await expect(requester.getByText(/^You began this just now/)).toBeVisible();
  await expect(what).toHaveValue('');
  await what.fill('Something else');
  await requester.getByRole('button', { name: 'Go on with it', exact: true }).click();
  await expect(what).toHaveValue('A lead line');
  await expect(requester.getByRole('combobox', { name: 'For whom', exact: true })).toHaveValue('Birk Saltvik');
  await expect(requester.getByText(/^You began this/)).toHaveCount(0);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Fulfilled', { exact: true })).toBeVisible();
  await requester.goto(address);
  await expect(what).toHaveValue('');
  await expect(requester.getByText(/^You began this/)).toHaveCount(0);
  // What somebody else left on this browser is not offered.
  await requester.evaluate(
    ([item, text]) => localStorage.setItem(`asked 00000000-0000-4000-8000-000000000000 ${item}`, text!),
    [address.split('/').at(-1)!, JSON.stringify({ answers: { what: 'Of somebody else' }, names: {}, at: new Date().toISOString() })],
  );
  await requester.reload();
  await expect(what).toBeVisible();
  await expect(requester.getByText(/^You began this/)).toHaveCount(0);
  await what.fill('Not wanted');
  await requester.reload();
  await requester.getByRole('button', { name: 'Forget it', exact: true }).click();
  await requester.reload();
  await expect(what).toBeVisible();
  await expect(requester.getByText(/^You began this/)).toHaveCount(0);
});

test('signing out forgets what the browser kept of forms, and nothing else; a session that ended by itself forgets nothing', async ({ page }) => {
  const kept = () => page.evaluate(() => Object.keys(localStorage).sort());
  await page.goto('/sign-in');
  await page.evaluate(() => ['asked a b', 'asked c d', 'widths ledger'].forEach((key) => localStorage.setItem(key, '{}')));
  await page.goto('/sign-in?to=%2Fcounter');
  await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
  expect(await kept()).toEqual(['asked a b', 'asked c d', 'widths ledger']);
  await page.goto('/sign-in?out');
  await expect.poll(kept).toEqual(['widths ledger']);
});
