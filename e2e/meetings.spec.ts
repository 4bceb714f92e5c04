import type { Page } from '@playwright/test';
import { calendars, mailbox } from './support/outside.ts';
import { begins, choose, expect, openItem, pick, state, test } from './support/story.ts';
import { insert, itemWith, publish, saved } from './support/workshop.ts';

const form = {
  fields: [
    { id: 'who', kind: 'person', label: 'Whom you meet', required: true },
    { id: 'from', kind: 'date', label: 'From which day', required: true },
  ],
};
/** Goes to ask for it, and says that it is Solveig whom they meet. */
async function toAsk(page: Page, name: string) {
  await openItem(page, name);
  await pick(page, 'Whom you meet (required)', 'Solveig Langskar');
}
const main = (page: Page) => page.getByRole('main');
const meetings = (page: Page) => page.getByRole('region', { name: 'Meetings', exact: true });
const silent = (page: Page) =>
  meetings(page)
    .getByRole('listitem')
    .filter({ hasText: /^\s*Solveig Langskar: has not answered$/ });

test('a meeting is designed, arranged where all are free, moved when one cannot come, and agreed on by calendar and on the page', async ({ as }) => {
  const { page, name } = await itemWith(as, 'Talk about tides', form, []);
  await page.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await page.keyboard.type('appointment');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Invite someone', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'Invited 1', exact: true }), 'Whom you meet');
  await page.getByRole('button', { name: 'Invite someone', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'Invited 2', exact: true }), 'Requester');
  await page.getByRole('textbox', { name: 'Title', exact: true }).fill(name);
  await page.getByRole('textbox', { name: 'Place', exact: true }).fill('Chart Hall');
  await choose(page.getByRole('combobox', { name: 'From', exact: true }), 'From which day');
  await page.getByRole('textbox', { name: 'Words', exact: true }).fill('Bring your tables.');
  await page.getByRole('checkbox', { name: /^Wait until everybody has answered/ }).click();
  await expect(page.getByRole('textbox', { name: 'Another time, where somebody cannot come times at most', exact: true })).toHaveValue('1');
  await saved(page);
  await page.keyboard.press('Escape');
  await insert(page, 'tell');
  await page.getByRole('textbox', { name: 'Subject', exact: true }).fill('It is agreed');
  await page.getByRole('textbox', { name: 'Message', exact: true }).fill(`You meet: ${name}. Come: `);
  await choose(page.getByLabel('Insert a value into Message', { exact: true }), 'Begins');
  await publish(page);

  const requester = await as('requester');
  await toAsk(requester, name);
  const day = nextMonday();
  await requester.getByRole('textbox', { name: 'From which day (required)', exact: true }).fill(day);
  // Solveig is taken all that Monday, so it is on Tuesday at the earliest.
  await calendars.takes('owner@skerrin.example', `${day}T00:00:00Z`, `${day}T23:00:00Z`);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  await expect(silent(requester)).toBeVisible();
  const when = await meetings(requester)
    .getByText(/^\d+ \w+ 20\d\d, \d\d:\d\d to/)
    .textContent();
  expect(new Date(`${when!.split(',')[0]} UTC`).getTime()).toBeGreaterThan(Date.parse(day));

  const mail = await mailbox.wait('owner@skerrin.example', name, 'Invitation');
  // Her desk is an hour ahead, and her mail says so.
  const hers = /^When: (.* \(Europe\/Oslo\))$/m.exec(mail.text)![1]!;
  expect(await mailbox.answer(mail.n, 'no')).toBe(200);
  const moved = await mailbox.wait('owner@skerrin.example', name, 'Moved');
  expect(/^When: (.*)$/m.exec(moved.text)![1]).not.toBe(hers);
  expect(await mailbox.answer(moved.n, 'yes', 'Better so')).toBe(200);

  await requester.goto('/counter/requests');
  await requester.getByRole('region', { name: 'Meetings you are invited to', exact: true }).getByRole('link', { name, exact: true }).click();
  await expect(main(requester).getByText(/^Bring your tables\.$/)).toBeVisible();
  await expect(main(requester).getByRole('listitem').filter({ hasText: 'Solveig Langskar: comes “Better so”' })).toBeVisible();
  // By keyboard alone, and with too many words first: what was typed stays.
  await requester.getByRole('textbox', { name: 'A word with it', exact: true }).fill('With tea');
  await requester.keyboard.press('Tab');
  await expect(requester.getByRole('button', { name: 'I will come', exact: true })).toBeFocused();
  await requester.keyboard.press('Enter');
  await expect(requester.getByRole('status').filter({ hasText: 'You said that you come.' })).toBeVisible();
  await main(requester)
    .getByRole('link', { name: begins(name) })
    .click();
  await expect(state(requester)).toContainText('Fulfilled');
  const told = await mailbox.wait('requester@skerrin.example', name, 'It is agreed');
  expect(told.text).toMatch(/Come: \d+ \w+ 20\d\d, \d\d:\d\d/);

  // Nobody else has it.
  const address = await meetings(requester)
    .getByRole('link', { name: `Say whether you come (${name})`, exact: true })
    .getAttribute('href');
  expect((await (await as('technician')).request.get(address!)).status()).toBe(404);
});

test('a meeting of a request that is withdrawn is off, and those invited are told', async ({ as }) => {
  const { page: designer, name } = await itemWith(as, 'Talk about charts', form, [
    {
      id: 'meet',
      kind: 'invite',
      name: 'Meet',
      expected: { min: 'PT0S', likely: 'PT1H', max: 'P1D' },
      who: [{ ref: 'form.who' }],
      title: [[{ text: 'Charts ' }, { ref: 'request.number' }]],
      body: [{ text: [[{ text: 'As always.' }]] }],
      minutes: 30,
      from: { ref: 'form.from' },
      within: 5,
      waits: { again: 0 },
    },
    {
      id: 'end',
      kind: 'tell',
      name: 'Tell',
      expected: { min: 'PT0S', likely: 'PT0S', max: 'PT0S' },
      to: { ref: 'request.requester' },
      subject: [[{ text: 'Done' }]],
      body: [{ text: [[{ text: 'Done.' }]] }],
    },
  ]);
  await publish(designer);
  const requester = await as('requester');
  await toAsk(requester, name);
  await requester.getByRole('textbox', { name: 'From which day (required)', exact: true }).fill(nextMonday());
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(silent(requester)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  const mail = await mailbox.wait('owner@skerrin.example', number, 'Invitation: Charts');
  await requester.getByText(/^Withdraw this request/).click();
  await requester.getByRole('button', { name: /^Withdraw R-/ }).click();
  await expect(meetings(requester).getByText(/does not take place/)).toBeVisible();
  await mailbox.wait('owner@skerrin.example', number, 'Off: Charts');
  const owner = await as('owner');
  await owner.goto(/\/counter\/meetings\/\S+/.exec(mail.text)![0]);
  await expect(owner.getByRole('status').filter({ hasText: 'This meeting does not take place. Nobody need come.' })).toBeVisible();
  await expect(owner.getByRole('button', { name: 'I will come', exact: true })).toHaveCount(0);
});

/** The Monday after the next, as it is typed. */
function nextMonday(): string {
  const day = new Date();
  day.setUTCDate(day.getUTCDate() + ((8 - day.getUTCDay()) % 7 || 7) + 7);
  return day.toISOString().slice(0, 10);
}
