import type { Page } from '@playwright/test';
import { begins, choose, expect, fresh, pick, test, waitFor } from './support/story.ts';
import { directory, mailbox } from './support/outside.ts';

/** As it is typed into a field for a date. */
const typed = (inDays: number) => new Date(Date.now() + inDays * 86_400_000).toISOString().slice(0, 10);
/** A name that no other test gives: letters only, since a user name is made of it. */
const letters = (of: string) =>
  of +
  Date.now()
    .toString(36)
    .replace(/\d/g, (d) => 'abcdefghij'[Number(d)]!);

async function begin(page: Page, item: string): Promise<void> {
  await page.goto('/counter');
  await page
    .getByRole('link', { name: begins(item) })
    .first()
    .click();
}
async function send(page: Page): Promise<string> {
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}
/** Opens the task of a request in the queue, where it comes by itself. */
async function openTask(technician: Page, number: string, task: string): Promise<void> {
  await technician.goto('/desk/queue');
  await technician.getByRole('row', { name: `${number}, ${task}`, exact: true }).click();
  await expect(technician.getByRole('heading', { level: 2, name: task, exact: true })).toBeVisible();
}

test('somebody begins: an account named after them, its first password in a sealed note; they leave, and it is closed', async ({ as }) => {
  const [family, owner] = [letters('Nes'), await as('owner')];
  const userName = `thordis.${family.toLowerCase()}`;
  await begin(owner, 'Colleague starting');
  await owner.getByRole('textbox', { name: 'Given names (required)', exact: true }).fill('Þórdís Björk');
  await owner.getByRole('textbox', { name: 'Family name (required)', exact: true }).fill(family);
  await owner.getByRole('textbox', { name: 'First day (required)', exact: true }).fill(typed(9));
  await choose(owner.getByRole('combobox', { name: 'Kind of contract (required)', exact: true }), 'Permanent');
  await choose(owner.getByRole('combobox', { name: 'Job role (required)', exact: true }), 'Tide analyst');
  await pick(owner, 'Mentor (required)', 'Birk Saltvik');
  const number = await send(owner);
  const approver = await as('approver');
  await approver.goto('/desk/approvals');
  await approver.getByRole('link', { name: number, exact: true }).click();
  await approver.getByRole('button', { name: /^Approve for/ }).click();
  await expect(approver.getByText(/^You approved this\./)).toBeVisible();

  const technician = await as('technician');
  await openTask(technician, number, 'Make the contract ready');
  await technician.getByRole('checkbox', { name: 'Contract signed by both', exact: true }).click();
  await technician.getByRole('checkbox', { name: 'Payroll told', exact: true }).click();
  await technician.getByRole('textbox', { name: 'Staff number (required)', exact: true }).fill(fresh('S'));
  await technician.getByRole('button', { name: 'Finish this task', exact: true }).click();

  // The account opens with what the note says, and the note is nobody else's.
  const mail = await mailbox.wait('owner@skerrin.example', 'A sealed note waits for you', number);
  await owner.goto(/http\S+\/counter\/notes\/\S+/.exec(mail.text)![0]);
  await owner.getByRole('button', { name: 'Open it, once', exact: true }).click();
  const password = (await owner.getByRole('code').textContent()) ?? '';
  expect(await directory.letsIn(userName, password)).toBe(true);
  expect(mail.text).not.toContain(password);
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await auditor.getByText(/^Directory: Make an account ·/).click();
  await expect(auditor.getByRole('main')).toContainText(userName);
  expect(await auditor.content()).not.toContain(password);
  // Their manager sees what they hold.
  await owner.goto('/counter/things?whose=people');
  await expect(owner.getByRole('listitem').filter({ hasText: number })).toContainText(userName);

  // They have left again: what they carry is handed in, then nobody gets in any more.
  await begin(owner, 'Colleague leaving');
  await pick(owner, 'Colleague (required)', `Þórdís Björk ${family}`);
  await owner.getByRole('textbox', { name: 'Last day (required)', exact: true }).fill(typed(-7));
  const leaving = await send(owner);
  await openTask(technician, leaving, 'Take what they hand in');
  await technician.getByRole('checkbox', { name: 'Keys and card', exact: true }).click();
  await technician.getByRole('checkbox', { name: 'Equipment', exact: true }).click();
  await technician.getByRole('button', { name: 'Finish this task', exact: true }).click();
  await waitFor(owner, leaving, 'Fulfilled');
  expect([await directory.isOpen(userName), await directory.letsIn(userName, password)]).toEqual([false, false]);
});

test('how user names are made: said with what it makes of some names, refused at the field with what was typed, and kept', async ({ as }) => {
  const administrator = await as('administrator');
  await administrator.goto('/workshop/systems/directory');
  const names = administrator.getByRole('region', { name: 'User names', exact: true });
  const first = names.getByRole('radio', { name: begins('Given name, a dot, family name: asa.lundeberg, thordis.vandersondrenes') });
  await expect(first).toBeChecked();
  await names.getByRole('radio', { name: begins('Family name, first letter of the given name: lundeberga') }).click();
  const most = names.getByRole('textbox', { name: 'At most so many signs', exact: true });
  await most.fill('3');
  await names.getByRole('button', { name: 'Name new accounts so', exact: true }).click();
  await expect(names.getByText('At least 6 signs.', { exact: true })).toBeVisible();
  await expect(most).toHaveValue('3');
  await most.fill('8');
  await names.getByRole('button', { name: 'Name new accounts so', exact: true }).click();
  await expect(administrator.getByRole('status').filter({ hasText: 'New accounts are named so from now on.' })).toBeVisible();
  await expect(names.getByRole('radio', { name: begins('Family name, first letter of the given name: lundeber, vandersø') })).toHaveCount(0);
  await expect(names.getByRole('radio', { name: begins('Family name, first letter of the given name: lundeber, vanderso, shchukin') })).toBeChecked();

  // A designer reads it; and it is set back before scripts load.
  const designer = await as('designer');
  await designer.goto('/workshop/systems/directory');
  await expect(
    designer.getByText(/^Family name, first letter of the given name, at most 8 signs; with an address at skerrin\.example\.$/),
  ).toBeVisible();
  const plain = await as('administrator', { javaScriptEnabled: false });
  await plain.goto('/workshop/systems/directory');
  await plain.getByRole('radio', { name: begins('Given name, a dot, family name') }).check();
  await plain.getByRole('textbox', { name: 'At most so many signs', exact: true }).fill('24');
  await plain.getByRole('button', { name: 'Name new accounts so', exact: true }).click();
  await expect(plain.getByRole('status').filter({ hasText: 'New accounts are named so from now on.' })).toBeVisible();
});
