import type { Page } from '@playwright/test';
import { chat, mailbox } from './support/outside.ts';
import { choose, expect, fresh, state, test, waitFor, type SignedIn } from './support/story.ts';

/** The plan language as its users meet it: every kind of step, the sheet by names and in sentences, and a request through all parties. */
const sheet = (page: Page) => page.getByRole('treegrid', { name: 'Plan sheet', exact: true });
const step = (page: Page, id: string) => sheet(page).locator(`[data-step="${id}"]`);
const saved = (page: Page) => expect(page.getByText('Draft saved')).toBeVisible();
const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };
const text = (words: string) => [[{ text: words }]];

/** A blank item whose draft is put in place over the same address that the editor saves to. */
async function itemWith(as: SignedIn, name: string, form: object, steps: object[]): Promise<{ page: Page; name: string }> {
  const page = await as('designer');
  const called = fresh(name);
  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(called);
  await page.getByRole('button', { name: 'Begin blank' }).click();
  await page.waitForURL(/\/ask$/);
  const status = await page.evaluate(
    async ({ url, draft }) =>
      (await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ version: 1, draft }) })).status,
    {
      url: page.url().replace(/ask$/, 'draft'),
      draft: { name: called, summary: 'For a test', category: 'Test', form, plan: { steps } },
    },
  );
  expect(status).toBe(200);
  await page.goto(page.url().replace(/ask$/, 'plan'));
  await expect(sheet(page)).toBeVisible();
  return { page, name: called };
}

async function insert(page: Page, verb: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step at the end' }).click();
  await page.keyboard.type(verb);
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-slip-first]')).toBeFocused();
}
async function publish(page: Page): Promise<void> {
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision/ }).click();
  await page.getByRole('button', { name: /^Publish revision/ }).click();
  await expect(page.getByText('offered now')).toBeVisible();
}
const told = (id: string) => ({
  id,
  kind: 'tell',
  name: 'Tell the end',
  expected: now,
  to: { ref: 'request.requester' },
  subject: text('Done'),
  body: [{ text: text('All is done.') }],
});

test('every verb can be inserted by keyboard, says what it still lacks, and is kept', async ({ as }) => {
  const { page } = await itemWith(as, 'Every verb', { fields: [] }, [told('first')]);
  const verbs = [
    'Gate',
    'Task',
    'Provision',
    'Tell',
    'Ask back',
    'Find',
    'Work out',
    'Choose',
    'Together',
    'For each',
    'Repeat',
    'Guard',
    'Pause',
    'Mark',
    'Part',
    'Finish',
  ];
  for (const verb of verbs) {
    await insert(page, verb);
    await expect(page.getByRole('heading', { level: 2, name: verb, exact: true })).toBeVisible();
  }
  await saved(page);
  await page.reload();
  await expect(sheet(page).getByRole('row', { name: /^\d+ [A-Z][a-z ]+: / })).toHaveCount(verbs.length + 1);
  await expect(page.getByLabel('What the check finds')).toContainText('does not have an action yet');
});

test('a request through every party: sent back, corrected, approved, asked, done as a task, added to, told', async ({ as }) => {
  const form = {
    fields: [
      { id: 'what', kind: 'text', label: 'What', required: true },
      { id: 'days', kind: 'number', label: 'Days', required: true, min: 1, max: 30 },
    ],
  };
  const { page, name } = await itemWith(as, 'All parties', form, [
    {
      id: 'agree',
      kind: 'gate',
      name: 'Agreement',
      expected: now,
      rule: { rule: 'first' },
      ownRequest: 'skip',
      nobody: { then: 'fail' },
      sendBack: true,
      corrects: ['days'],
    },
    {
      id: 'ask',
      kind: 'askBack',
      name: 'Ask when',
      expected: now,
      question: text('Which month?'),
      fields: [{ id: 'month', kind: 'text', label: 'Month', required: true }],
    },
    {
      id: 'work',
      kind: 'task',
      name: 'Do the work',
      expected: now,
      instructions: [{ text: [[{ text: 'In ' }, { ref: 'steps.ask.month' }, { text: ' for ' }, { ref: 'form.days' }, { text: ' days.' }]] }],
      checklist: [{ id: 'one', words: 'Looked at it' }],
      fields: [{ id: 'tag', kind: 'text', label: 'Asset tag', required: true }],
      due: { within: 'P1D' },
    },
    { id: 'ready', kind: 'mark', name: 'Ready', expected: now, shows: 'milestone', words: 'It is ready' },
    { ...told('end'), body: [{ text: [[{ text: 'The tag is ' }, { ref: 'steps.work.tag' }, { text: '.' }]] }] },
  ]);
  await step(page, 'agree').click();
  await page.getByRole('combobox', { name: 'Add a named approver' }).fill('Ivar');
  await page.getByRole('option', { name: /Ivar Tidemark/ }).click();
  await step(page, 'work').click();
  await choose(page.getByRole('combobox', { name: 'Who does it', exact: true }), 'A team');
  await choose(page.getByLabel('Which team'), 'Workplace');
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name }).first().click();
  await requester.getByLabel(/^What \(/).fill('A shelf');
  await requester.getByLabel(/^Days/).fill('40');
  await requester.getByRole('button', { name: 'Send request' }).click();
  await expect(requester.getByText('Days: at most 30.')).toBeVisible();
  await requester.getByLabel(/^Days/).fill('3');
  await requester.getByRole('button', { name: 'Send request' }).click();
  await expect(requester.getByText('Your request is on its way.')).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];

  const approver = await as('approver');
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number }).first().click();
  await approver.getByLabel('Comment').fill('Which shelf?');
  await approver.getByRole('button', { name: 'Send back to be corrected' }).click();
  await expect(approver.getByText('Your answer is not needed any more.')).toBeVisible();

  await requester.reload();
  await expect(requester.getByText('Which shelf?').first()).toBeVisible();
  await requester.getByLabel(/^What \(/).fill('A shelf for charts');
  await requester.getByRole('button', { name: 'Send it again' }).click();
  await expect(requester.getByRole('heading', { name: 'Sent back to you' })).toHaveCount(0);

  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number }).first().click();
  await expect(approver.getByText('A shelf for charts')).toBeVisible();
  await approver.getByText('Correct before you decide').click();
  await approver.getByLabel(/^Days/).fill('5');
  await approver.getByRole('button', { name: /^Approve for/ }).click();
  await expect(approver.getByText('You approved this.')).toBeVisible();

  await requester.reload();
  await requester.getByLabel(/^Month/).fill('May');
  await requester.getByRole('button', { name: 'Send my answer' }).click();

  const technician = await as('technician');
  await technician.goto('/desk/tasks');
  await technician.getByRole('link', { name: new RegExp(number) }).click();
  await expect(technician.getByText('In May for 5 days.')).toBeVisible();
  await technician.getByRole('button', { name: 'Take it' }).click();
  await expect(technician.getByText('you have it')).toBeVisible();
  await technician.getByText('Add a task, an approval or a question to this request').click();
  await technician.getByLabel('Name', { exact: false }).fill('Label the shelf');
  await technician.getByLabel('What is to be done').last().fill('Put the number on it.');
  await choose(technician.getByLabel('Team', { exact: true }), 'Workplace');
  await technician.getByRole('button', { name: 'Add the task' }).click();
  await technician.waitForURL(/added/);
  await technician.getByRole('button', { name: 'Finish this task' }).click();
  await expect(technician.getByText('2 things are missing before this is finished.')).toBeVisible();
  await technician.getByLabel('Looked at it').check();
  await technician.getByLabel(/^Asset tag/).fill('T-4711');
  await technician.getByRole('button', { name: 'Finish this task' }).click();
  await expect(technician.getByText(/Finished by Birk Saltvik/)).toBeVisible();

  await requester.reload();
  await expect(requester.getByLabel('Milestones')).toContainText('It is ready (to come)');
  await technician.goto('/desk/tasks');
  await technician.getByRole('row', { name: `${number}, Label the shelf`, exact: true }).click();
  await technician.getByRole('button', { name: 'Finish this task' }).click();
  await waitFor(requester, number, 'Fulfilled');
  await expect(requester.getByLabel('Milestones')).toContainText('It is ready (reached)');
  await mailbox.wait('requester@skerrin.example', 'T-4711', 'Done');
});

test('messages: bold, lists and links by keyboard, in the preview, kept, and in the mail that goes out', async ({ as }) => {
  const { page, name } = await itemWith(as, 'Formatted', { fields: [] }, [told('end')]);
  await step(page, 'end').click();
  const message = page.getByRole('textbox', { name: 'Message' });
  await message.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+b');
  await expect(page.getByRole('button', { name: 'Bold' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Control+End');
  // The caret is drawn at the end before anybody goes on.
  await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => setTimeout(drawn))));
  await page.keyboard.press('Enter');
  await expect(message.getByRole('paragraph')).toHaveCount(2);
  await page.keyboard.press('Control+b');
  await expect(page.getByRole('button', { name: 'Bold' })).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'List with points' }).click();
  await expect(message.getByRole('listitem')).toHaveCount(1);
  await expect(message).toBeFocused();
  await page.keyboard.type('first');
  await page.keyboard.press('Enter');
  await page.keyboard.type('the ');
  await page.getByRole('button', { name: 'Link' }).click();
  const address = page.getByLabel('Address the words lead to');
  await address.fill('javascript:alert(1)');
  await page.keyboard.press('Enter');
  await expect(page.getByText('A link begins with https://')).toBeVisible();
  await address.fill('https://guide.skerrin.example/start');
  await page.keyboard.press('Enter');
  await expect(message.getByRole('listitem')).toHaveCount(2);
  await saved(page);

  await page.getByText('Preview with sample answers').click();
  const preview = page.getByRole('document', { name: 'The message as it would read' });
  await expect(preview.locator('strong')).toHaveText('All is done.');
  await expect(preview.getByRole('link')).toHaveAttribute('href', 'https://guide.skerrin.example/start');
  await page.reload();
  await step(page, 'end').click();
  await expect(message.locator('strong')).toHaveText('All is done.');
  await expect(message.locator('ul li')).toHaveText(['first', 'the https://guide.skerrin.example/start']);
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name }).first().click();
  await requester.getByRole('button', { name: 'Send request' }).click();
  await waitFor(requester, /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0], 'Fulfilled');
  const mail = await mailbox.wait('requester@skerrin.example', 'guide.skerrin.example/start', 'Done');
  expect(mail.html).toContain('<p><strong>All is done.</strong></p>');
  expect(mail.html).toContain(
    '<ul><li>first</li><li>the <a href="https://guide.skerrin.example/start">https://guide.skerrin.example/start</a></li></ul>',
  );
  expect(mail.text).toContain('- the https://guide.skerrin.example/start');
});

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

test('sheet: wrap, unwrap, copy into another item, drag to where it may go, and all of it undone', async ({ as }) => {
  const { page } = await itemWith(as, 'Shapes', { fields: [] }, [told('a'), { ...told('b'), name: 'Tell again' }]);
  await step(page, 'b').click();
  await choose(page.getByLabel('Wrap this step'), 'Side by side with another branch');
  await expect(page.getByRole('heading', { level: 2, name: 'Together', exact: true })).toBeVisible();
  await expect(step(page, 'together')).toBeVisible();
  await step(page, 'b').click();
  await page.keyboard.press('Escape');
  await step(page, 'b').press('Control+c');
  await expect(page.getByText('“Tell again” copied.')).toBeVisible();
  await step(page, 'a').focus();
  await page.keyboard.press('Control+v');
  await expect(sheet(page).getByText('Tell again 2', { exact: true })).toBeVisible();
  await step(page, 'together').click();
  await page.getByRole('button', { name: /^Unwrap/ }).click();
  await expect(step(page, 'together')).toHaveCount(0);
  await expect(sheet(page).locator('[data-step]')).toHaveCount(3);
  await page.keyboard.press('Escape');

  // By its grip: the last step to the front.
  await step(page, 'b').hover();
  const grip = (await sheet(page).locator('[data-grip="b"]').boundingBox())!;
  await page.mouse.move(grip.x + 5, grip.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip.x + 5, grip.y - 12, { steps: 4 });
  const first = (await step(page, 'a').boundingBox())!;
  await page.mouse.move(grip.x + 5, first.y + 4, { steps: 12 });
  // Let go where the spot under the pointer says that it would be taken.
  await expect(sheet(page).locator('[data-over]')).toBeVisible();
  await page.mouse.up();
  await expect(async () => {
    const order = await sheet(page)
      .locator('[data-step]')
      .evaluateAll((all) => all.map((e) => e.getAttribute('data-step')));
    expect(order[0]).toBe('b');
  }).toPass();
  await saved(page);

  const other = await itemWith(as, 'Taker', { fields: [] }, [told('x')]);
  await step(other.page, 'x').focus();
  await other.page.keyboard.press('Control+v');
  await expect(sheet(other.page).getByText('Tell again', { exact: true })).toHaveCount(0);
  await page.bringToFront();
  await step(page, 'b').focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  await expect(sheet(page).locator('[data-step]')).toHaveCount(2);
});

test('sentences: the plan as numbered sentences, edited in the same slip; findings are mended by a button', async ({ as }) => {
  const { page } = await itemWith(as, 'In words', { fields: [] }, [
    {
      id: 'agree',
      kind: 'gate',
      name: 'Agreement',
      expected: now,
      approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
      rule: { rule: 'first' },
      ownRequest: 'allow',
      reminders: { after: 'P1D', times: 2 },
    },
    {
      id: 'often',
      kind: 'repeat',
      name: 'Look often',
      expected: now,
      body: [told('t')],
      until: { compare: 'more', left: { ref: 'request.now' }, right: { ref: 'request.opened' } },
    },
  ]);
  await page.getByRole('link', { name: 'Sentences', exact: true }).click();
  const script = page.getByRole('list', { name: 'The plan in sentences', exact: true });
  await expect(script).toContainText(
    'Ask the manager of Requester; the first reply decides. Remind them after 1 d of working time, at most 2 times.',
  );
  await expect(script).toContainText('2.1');
  const found = page.getByLabel('What the check finds');
  for (const name of ['Then the request fails', 'Ask their manager instead', 'At most 100 tries']) {
    const mend = found.getByRole('button', { name, exact: true });
    await mend.click();
    await expect(mend).toHaveCount(0);
  }
  await expect(found).toContainText('The check finds nothing');
  await script.getByRole('button', { name: /Agreement/ }).click();
  await page.getByLabel('Lapses when nobody answers').check();
  await expect(script).toContainText('Lapses after 5 d of working time.');
  await saved(page);
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'BPMN file' }).click()]);
  expect(file.suggestedFilename()).toMatch(/\.bpmn$/);
});

test('policy: changed in one place, said at the Counter before sending; the approval is answered in chat', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/policies');
  await designer.getByRole('link', { name: 'Processing machines' }).click();
  await expect(designer.getByRole('link', { name: 'Processing machine', exact: true })).toBeVisible();
  const limit = designer.getByLabel('Line 2, line 1: compared with');
  const before = Number(await limit.inputValue());
  await limit.fill(String(before + 1));
  await designer.getByLabel('What changed and why').fill('Machines have become cheaper');
  await designer.getByRole('button', { name: 'Change it everywhere, from the next gate on' }).click();
  await expect(designer.getByText('Machines have become cheaper')).toBeVisible();

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: 'Processing machine' }).first().click();
  await requester.getByLabel(/^Processors/).fill(String(before));
  await requester.getByLabel(/^What it computes/).fill('Tides');
  await expect(requester.getByText('Nobody has to agree')).toBeVisible();
  await requester.getByLabel(/^Processors/).fill(String(before + 1));
  await expect(requester.getByText('Ivar Tidemark (by the policy Processing machines) must agree.')).toBeVisible();
  await requester.getByRole('button', { name: 'Send request' }).click();
  await expect(requester.getByText('Your request is on its way.')).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await chat.answer('approver', number, 'Approve');
  await expect(async () => {
    await requester.reload();
    await expect(state(requester)).toContainText('The machine is set up');
  }).toPass({ timeout: 60_000 });
});
