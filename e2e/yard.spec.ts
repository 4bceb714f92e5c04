import type { Page } from '@playwright/test';
import { mailbox, yard } from './support/outside.ts';
import { approve, begins, choose, expect, fresh, test, waitFor } from './support/story.ts';

async function ask(page: Page, title: string): Promise<string> {
  await page.goto('/counter');
  await page
    .getByRole('link', { name: begins('Repair aboard') })
    .first()
    .click();
  await choose(page.getByRole('combobox', { name: 'Vessel (required)', exact: true }), 'Anseli');
  await page.getByRole('textbox', { name: 'What is wrong (required)', exact: true }).fill(title);
  await page.getByRole('textbox', { name: 'What there is to know (required)', exact: true }).fill('On the port side, since the autumn.');
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}
/** The item as the people of the yard have it before them. */
async function atTheYard(page: Page, title: string) {
  await page.goto(yard.page);
  return page.getByRole('region').filter({ has: page.getByRole('heading', { name: new RegExp(`^Y-\\d+: ${title}$`) }) });
}
async function writeThere(page: Page, title: string, words: string): Promise<void> {
  const item = await atTheYard(page, title);
  await item.getByRole('textbox', { name: 'Your name', exact: true }).fill('Eir Holm');
  await item.getByRole('textbox', { name: 'Comment', exact: true }).fill(words);
  await item.getByRole('button', { name: 'Write', exact: true }).click();
  await expect(item.getByText(new RegExp(`: ${words.replace('?', '\\?')}$`))).toBeVisible();
}
async function moveThere(page: Page, title: string, state: string, says: string): Promise<void> {
  const item = await atTheYard(page, title);
  await item.getByRole('combobox', { name: 'State', exact: true }).selectOption(state);
  await item.getByRole('textbox', { name: 'What is going on, or was done', exact: true }).fill(says);
  await item.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(item.getByText(new RegExp(`· ${state}$`))).toBeVisible();
}

test('something aboard goes to the tracker of the yard: its state and its words come here, ours go there, and it ends with what was done', async ({
  as,
}) => {
  const [requester, approver] = [await as('owner'), await as('approver')];
  const title = fresh('The port winch slips');
  const number = await ask(requester, title);
  await approve(approver, number, 'Repair aboard');
  await expect(requester.getByText(/^The yard looks after it: waits for Ternsound Yard, since/)).toBeVisible();
  await writeThere(approver, title, 'Does it slip under load?');
  const talk = requester.getByRole('list', { name: 'Conversation', exact: true });
  await expect(talk.getByRole('listitem').filter({ hasText: 'Does it slip under load?' })).toContainText('Eir Holm, Ternsound Yard');
  const box = requester.getByRole('textbox', { name: 'Write to Ternsound Yard', exact: true });
  await expect(box).toHaveAccessibleDescription('Ternsound Yard reads it, and is told at once.');
  await box.fill('Under load only.');
  await requester.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(talk.getByRole('listitem').filter({ hasText: 'Under load only.' })).toContainText('Also at Ternsound Yard');
  const item = await atTheYard(approver, title);
  await expect(item.getByText(/: Under load only\.$/)).toHaveCount(1);
  await moveThere(approver, title, 'in work', 'Taking the drum off');
  await expect(requester.getByText('“Taking the drum off”', { exact: true })).toBeVisible();
  await moveThere(approver, title, 'done', 'A new pawl');
  await waitFor(requester, number, 'Fulfilled');
  await expect(talk.getByRole('listitem')).toHaveCount(2);
  expect((await mailbox.wait('owner@skerrin.example', number, 'The yard is done')).text).toContain('What was done: A new pawl');
});

test('withdrawn it is called off at the yard', async ({ as }) => {
  const [requester, approver] = [await as('owner'), await as('approver')];
  const title = fresh('The galley hatch leaks');
  const number = await ask(requester, title);
  await approve(approver, number, 'Repair aboard');
  await expect(requester.getByText(/^The yard looks after it: waits for Ternsound Yard, since/)).toBeVisible();
  await requester.getByText('Withdraw this request …', { exact: true }).click();
  await requester.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  await waitFor(requester, number, 'Withdrawn');
  await expect(async () => {
    const item = await atTheYard(approver, title);
    await expect(item.getByText(/· called off$/)).toBeVisible({ timeout: 2000 });
  }).toPass();
});
