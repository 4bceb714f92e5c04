import { chat, mailbox } from './support/outside.ts';
import { begins, choose, expect, pick, state, test, waitFor } from './support/story.ts';
import { itemWith, now, publish, saved, step, text, told } from './support/workshop.ts';

/** The plan language as its users meet it: a request through all parties, messages, policies. */
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
  await page.getByRole('combobox', { name: 'Add a named approver', exact: true }).fill('Ivar');
  await page.getByRole('option', { name: /Ivar Tidemark/ }).click();
  await step(page, 'work').click();
  await choose(page.getByRole('combobox', { name: 'Who does it', exact: true }), 'A team');
  await choose(page.getByLabel('Which team', { exact: true }), 'Workplace');
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
  await requester.getByLabel(/^What \(/).fill('A shelf');
  await requester.getByLabel(/^Days/).fill('40');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Days: at most 30.', { exact: true })).toBeVisible();
  await requester.getByLabel(/^Days/).fill('3');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];

  const approver = await as('approver');
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number, exact: true }).first().click();
  await approver.getByLabel('Comment', { exact: true }).fill('Which shelf?');
  await approver.getByRole('button', { name: 'Send back to be corrected', exact: true }).click();
  await expect(approver.getByText(/^\s*Your answer is not needed any more\./)).toBeVisible();

  await requester.reload();
  await expect(requester.getByText(/^\s*Which shelf\?/).first()).toBeVisible();
  await requester.getByLabel(/^What \(/).fill('A shelf for charts');
  await requester.getByRole('button', { name: 'Send it again', exact: true }).click();
  await expect(requester.getByRole('heading', { name: /^Sent back to you/ })).toHaveCount(0);

  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number, exact: true }).first().click();
  await expect(approver.getByText('A shelf for charts', { exact: true })).toBeVisible();
  await approver.getByText(/^\s*Correct before you decide/).click();
  await approver.getByLabel(/^Days/).fill('5');
  await approver.getByRole('button', { name: /^Approve for/ }).click();
  await expect(approver.getByText(/^\s*You approved this\./)).toBeVisible();

  await requester.reload();
  await requester.getByLabel(/^Month/).fill('May');
  await requester.getByRole('button', { name: 'Send my answer', exact: true }).click();

  const technician = await as('technician');
  await technician.goto('/desk/queue');
  await technician.getByRole('link', { name: new RegExp(number) }).click();
  await expect(technician.getByText('In May for 5 days.', { exact: true })).toBeVisible();
  await technician.getByRole('button', { name: 'Take it', exact: true }).click();
  await expect(technician.getByText(/you have it/)).toBeVisible();
  await technician.getByText('Add a task, an approval or a question to this request', { exact: true }).click();
  await technician.getByLabel(/^Name/).fill('Label the shelf');
  await technician
    .getByLabel(/^What is to be done/)
    .last()
    .fill('Put the number on it.');
  await choose(technician.getByLabel('Team', { exact: true }), 'Workplace');
  await technician.getByRole('button', { name: 'Add the task', exact: true }).click();
  await technician.waitForURL(/added/);
  await technician.getByRole('button', { name: 'Finish this task', exact: true }).click();
  await expect(technician.getByText('2 things are missing before this is finished.', { exact: true })).toBeVisible();
  await technician.getByLabel('Looked at it', { exact: true }).check();
  await technician.getByLabel(/^Asset tag/).fill('T-4711');
  await technician.getByRole('button', { name: 'Finish this task', exact: true }).click();
  await expect(technician.getByText(/Finished by Birk Saltvik/)).toBeVisible();

  await requester.reload();
  await expect(requester.getByLabel(/^Milestones/)).toContainText('It is ready (to come)');
  await technician.goto('/desk/queue');
  await technician.getByRole('row', { name: `${number}, Label the shelf`, exact: true }).click();
  await technician.getByRole('button', { name: 'Finish this task', exact: true }).click();
  await waitFor(requester, number, 'Fulfilled');
  await expect(requester.getByLabel('Milestones', { exact: true })).toContainText('It is ready (reached)');
  await mailbox.wait('requester@skerrin.example', 'T-4711', 'Done');
});

test('messages: bold, lists and links by keyboard, in the preview, kept, and in the mail that goes out', async ({ as }) => {
  const { page, name } = await itemWith(as, 'Formatted', { fields: [] }, [told('end')]);
  await step(page, 'end').click();
  const message = page.getByRole('textbox', { name: 'Message', exact: true });
  await message.click();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+b');
  await expect(page.getByRole('button', { name: 'Bold', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Control+End');
  // The caret is drawn at the end before anybody goes on.
  await page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => setTimeout(drawn))));
  await page.keyboard.press('Enter');
  await expect(message.getByRole('paragraph')).toHaveCount(2);
  await page.keyboard.press('Control+b');
  await expect(page.getByRole('button', { name: 'Bold', exact: true })).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'List with points', exact: true }).click();
  await expect(message.getByRole('listitem')).toHaveCount(1);
  await expect(message).toBeFocused();
  await page.keyboard.type('first');
  await page.keyboard.press('Enter');
  await page.keyboard.type('the ');
  await page.getByRole('button', { name: 'Link', exact: true }).click();
  const address = page.getByLabel('Address the words lead to', { exact: true });
  await address.fill('javascript:alert(1)');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^\s*A link begins with https:\/\//)).toBeVisible();
  await address.fill('https://guide.skerrin.example/start');
  await page.keyboard.press('Enter');
  await expect(message.getByRole('listitem')).toHaveCount(2);
  await saved(page);

  await page.getByText('Preview with sample answers', { exact: true }).click();
  const preview = page.getByRole('document', { name: 'The message as it would read', exact: true });
  await expect(preview.locator('strong')).toHaveText('All is done.');
  await expect(preview.getByRole('link')).toHaveAttribute('href', 'https://guide.skerrin.example/start');
  await page.reload();
  await step(page, 'end').click();
  await expect(message.locator('strong')).toHaveText('All is done.');
  await expect(message.locator('ul li')).toHaveText(['first', 'the https://guide.skerrin.example/start']);
  await publish(page);

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await waitFor(requester, /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0], 'Fulfilled');
  const mail = await mailbox.wait('requester@skerrin.example', 'guide.skerrin.example/start', 'Done');
  expect(mail.html).toContain('<p><strong>All is done.</strong></p>');
  expect(mail.html).toContain(
    '<ul><li>first</li><li>the <a href="https://guide.skerrin.example/start">https://guide.skerrin.example/start</a></li></ul>',
  );
  expect(mail.text).toContain('- the https://guide.skerrin.example/start');
});

test('policy: changed in one place, said at the Counter before sending; the approval is answered in chat', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/policies');
  await designer.getByRole('link', { name: 'Processing machines', exact: true }).click();
  await expect(designer.getByRole('link', { name: 'Processing machine', exact: true })).toBeVisible();
  const limit = designer.getByLabel('Line 2, line 1: compared with', { exact: true });
  const before = Number(await limit.inputValue());
  await limit.fill(String(before + 1));
  await designer.getByLabel('What changed and why', { exact: true }).fill('Machines have become cheaper');
  await designer.getByRole('button', { name: 'Change it everywhere, from the next gate on', exact: true }).click();
  await expect(designer.getByText('Machines have become cheaper', { exact: true })).toBeVisible();

  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: 'Processing machine', exact: true }).first().click();
  // Of the table of sizes: as many processors as need nobody's word any more, and then more.
  expect(before).toBe(2);
  await pick(requester, 'Size (required)', 'Medium');
  await requester.getByLabel(/^What it computes/).fill('Tides');
  await expect(requester.getByText(/^\s*Nobody has to agree/)).toBeVisible();
  await pick(requester, 'Size (required)', 'Large', 'Large, much memory');
  await expect(requester.getByText(/^\s*Ivar Tidemark \(by the policy Processing machines\) must agree\./)).toBeVisible();
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await chat.answer('approver', number, 'Approve');
  await expect(async () => {
    await requester.reload();
    await expect(state(requester)).toContainText('The machine is set up');
  }).toPass();
});
