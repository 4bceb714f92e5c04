import type { Page } from '@playwright/test';
import { mailbox } from './support/outside.ts';
import { askToJoin, choose, expect, fresh, openApproval, state, test } from './support/story.ts';

/** Opens the first open task that is called so, of one request or of any; gives the number of its request. */
async function openTask(page: Page, name: string, of = '\\d+'): Promise<string> {
  await page.goto('/desk/queue');
  const row = page.getByRole('row', { name: new RegExp(`^R-${of}, ${name}$`) }).first();
  await row.click();
  await expect(page.getByRole('heading', { level: 2, name, exact: true })).toBeVisible();
  return (await row.getAttribute('aria-label'))!.slice(2).split(',')[0]!;
}

test('a task: what is filled in is kept and said so; who has it and who asked write to each other, and a question is asked and answered', async ({
  as,
}) => {
  const technician = await as('technician');
  const number = await openTask(technician, 'Set the machine up');
  await technician.getByRole('button', { name: 'Keep what is filled in', exact: true }).click();
  await expect(technician.getByRole('status').filter({ hasText: 'What is filled in is kept.' })).toBeVisible();
  const requester = await as('requester');
  await requester.goto(`/counter/requests/${number}`);

  // Words go to and fro, and stand on both pages without either being read anew.
  const word = fresh('It comes on Friday');
  const box = technician.getByRole('textbox', { name: 'Write to Tuva', exact: true });
  await technician.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(technician.getByText('Write something.', { exact: true })).toBeVisible();
  await box.fill(word);
  await technician.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(technician.getByRole('status').filter({ hasText: 'Sent.' })).toBeVisible();
  await mailbox.wait('requester@skerrin.example', word, number);
  const theirs = requester.getByRole('list', { name: 'Conversation', exact: true });
  const ours = technician.getByRole('list', { name: 'Conversation', exact: true });
  await expect(theirs).toContainText(word);
  const back = fresh('Friday is fine');
  await requester.getByRole('textbox', { name: 'Write to the desk', exact: true }).fill(back);
  await requester.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(requester.getByRole('textbox', { name: 'Write to the desk', exact: true })).toHaveValue('');
  await expect(ours).toContainText(back);
  await box.fill('She is away on Monday.');
  await technician.getByRole('button', { name: 'Note for the desk', exact: true }).click();
  await expect(ours).toContainText('Note, Birk Saltvik');

  const question = fresh('Which berth');
  await technician.getByText('Add a task, an approval or a question to this request', { exact: true }).click();
  await choose(technician.getByRole('combobox', { name: 'What', exact: true }), 'A question to the requester');
  await technician.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(question);
  await technician.getByRole('textbox', { name: 'The question (required)', exact: true }).fill(`${question}?`);
  await technician.getByRole('button', { name: 'Ask', exact: true }).click();
  await expect(ours).toContainText(`${question}?Not answered yet.`);
  const section = requester.getByRole('region', { name: question, exact: true });
  await section.getByRole('textbox', { name: 'Your answer (required)', exact: true }).fill('The one by the slip');
  await section.getByRole('button', { name: 'Send my answer', exact: true }).click();
  await expect(section).toHaveCount(0);
  // The task changes by itself.
  await expect(ours).toContainText('The one by the slip');
  await expect(theirs).toContainText('The one by the slip');
  await expect(theirs).not.toContainText('She is away on Monday.');
});

test('what came of sending is seen also where drawing takes longer than reading: the page is not read anew before it stands there', async ({
  as,
}) => {
  const technician = await as('technician');
  // What is drawn is drawn a second and a half after it is there; what is kept moves the page, which would be read anew before.
  await technician.addInitScript(() => {
    const send = MessagePort.prototype.postMessage as (this: MessagePort, ...words: unknown[]) => void;
    MessagePort.prototype.postMessage = function (this: MessagePort, ...words: unknown[]) {
      setTimeout(() => send.apply(this, words), 1500);
    };
  });
  await openTask(technician, 'Set the machine up');
  await technician.getByRole('button', { name: 'Keep what is filled in', exact: true }).click();
  await expect(technician.getByRole('status').filter({ hasText: 'What is filled in is kept.' })).toBeVisible();
});

test('a task is handed over to a person, who has it with what is filled in, and on to a team; the trace says so', async ({ as }) => {
  const technician = await as('technician');
  const number = await openTask(technician, 'Find a desk');
  await technician.getByRole('textbox', { name: 'Room and desk (required)', exact: true }).fill('Chart Hall 2');
  await technician.getByRole('button', { name: 'Keep what is filled in', exact: true }).click();
  await expect(technician.getByText('What is filled in is kept.', { exact: true })).toBeVisible();
  await technician.getByText('Hand this task over', { exact: true }).click();
  await technician.getByRole('button', { name: 'Hand it over, with what is filled in', exact: true }).click();
  await expect(technician.getByText('Name a person or choose a team.', { exact: true }).first()).toBeVisible();
  // Another window takes a task: this one is read anew, and keeps what it said and what is open.
  const other = await technician.context().newPage();
  await openTask(other, 'Prepare it: Hydrographer, Stores, Laptop');
  await other.getByRole('button', { name: 'Take it', exact: true }).click();
  await expect(technician.getByText(/^changed /)).toBeVisible();
  await expect(technician.getByText('Name a person or choose a team.', { exact: true }).first()).toBeVisible();
  await technician.getByRole('combobox', { name: 'To a person', exact: true }).fill('Gudrun');
  await technician.getByRole('option').first().click();
  await technician.getByRole('button', { name: 'Hand it over, with what is filled in', exact: true }).click();
  await technician.waitForURL(/\/desk\/queue$/);
  const lead = await as('access.lead');
  await openTask(lead, 'Find a desk', number);
  await expect(lead.getByRole('textbox', { name: 'Room and desk (required)', exact: true })).toHaveValue('Chart Hall 2');
  await lead.getByText('Hand this task over', { exact: true }).click();
  await choose(lead.getByRole('combobox', { name: 'Or to a team', exact: true }), 'Workplace');
  await lead.getByRole('button', { name: 'Hand it over, with what is filled in', exact: true }).click();
  await lead.waitForURL(/\/desk\/queue$/);
  await openTask(technician, 'Find a desk', number);
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number}`);
  await expect(auditor.getByText(/^Birk Saltvik handed it over \d+ \w+ \d{4}, \d\d:\d\d:\d\d$/)).toBeVisible();
  await expect(auditor.getByText(/^Gudrun Eidholm handed it over /)).toBeVisible();
});

test('the form: errors vanish when corrected and the first has the keyboard; what must be agreed stands before Send, on a phone too', async ({
  as,
}) => {
  const page = await as('requester', { viewport: { width: 390, height: 844 } });
  await page.goto('/counter');
  await page.getByRole('link', { name: 'Join a group', exact: true }).first().click();
  await page.getByRole('combobox', { name: 'Group (required)', exact: true }).fill('tide-models');
  await page.getByRole('option', { name: /tide-models/ }).click();
  const agreed = page.getByRole('complementary', { name: 'What must be agreed', exact: true });
  await expect(agreed).toContainText('must agree');
  const send = page.getByRole('button', { name: 'Send request', exact: true });
  expect((await agreed.boundingBox())!.y).toBeLessThan((await send.boundingBox())!.y);
  await send.click();
  const why = page.getByRole('textbox', { name: 'What you need it for (required)', exact: true });
  await expect(why).toBeFocused();
  await expect(why).toHaveAttribute('aria-invalid', 'true');
  await why.fill('Reading the gauge');
  await expect(why).not.toHaveAttribute('aria-invalid');
  await expect(page.getByText(/One answer needs another look\./)).toHaveCount(0);
});

test('an approval on a phone: approve and decline are in sight before anything is scrolled', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-archive', 'In sight');
  await expect(state(requester)).toContainText('The owners of the group agree: waits for');
  const owner = await as('owner', { viewport: { width: 390, height: 844 } });
  await openApproval(owner, number);
  for (const name of [/^Approve for/, /^Decline$/]) await expect(owner.getByRole('button', { name, exact: true })).toBeInViewport();

  // Who asked is asked back without anything being decided, and answers.
  await owner.getByText('Write to Tuva before you decide', { exact: true }).click();
  await owner.getByRole('textbox', { name: 'Write to Tuva', exact: true }).fill('For which year?');
  await owner.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(owner.getByText('Sent.', { exact: true })).toBeVisible();
  await expect(requester.getByRole('list', { name: 'Conversation', exact: true })).toContainText('For which year?');
  await requester.getByRole('textbox', { name: 'Write to the desk', exact: true }).fill('For this one.');
  await requester.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(owner.getByRole('list', { name: 'Conversation', exact: true })).toContainText('For this one.');
  await expect(owner.getByRole('button', { name: /^Approve for/ })).toBeVisible();
});
