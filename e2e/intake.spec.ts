import { mail, mailbox, chat } from './support/outside.ts';
import { choose, expect, fresh, test } from './support/story.ts';

const at = '@nessmoor.skerrin.example';

test('somebody writes to the desk from the sea, is asked back and answers, all by mail', async ({ as }) => {
  const subject = fresh('Gyro drifts');
  await mail.send({ from: 'requester@skerrin.example', to: `desk${at}`, subject, text: 'Two degrees an hour since yesterday.' });
  const told = await mailbox.wait('requester@skerrin.example', 'It has come in as', subject);
  const number = /T-(\d+)/.exec(told.text)![1]!;
  const technician = await as('technician');
  await technician.goto(`/desk/queue/tickets/${number}`);
  const said = technician.getByRole('list', { name: 'Conversation', exact: true });
  await expect(said).toContainText('by mail');
  await technician.getByRole('textbox', { name: 'Write to Tuva', exact: true }).fill('Which one, of the bridge or of the survey?');
  await technician.getByRole('button', { name: 'Ask and hold', exact: true }).click();
  const asked = await mailbox.wait('requester@skerrin.example', 'Which one, of the bridge', subject);
  // Their program is away, and says so: that is no answer.
  await mail.send({
    from: 'requester@skerrin.example',
    to: asked.replyTo!,
    subject: `Re: ${subject}`,
    text: 'I am at sea.',
    headers: { 'Auto-Submitted': 'auto-replied' },
  });
  await expect(said).toContainText('Sent automatically: I am at sea.');
  await expect(technician.getByText('Waiting for you', { exact: true }).first()).toBeVisible();
  await mail.send({
    from: 'requester@skerrin.example',
    to: asked.replyTo!,
    subject: `Re: ${subject}`,
    text: `That of the survey.\n\nOn Friday, Nessmoor wrote:\n> ${asked.text.replaceAll('\n', '\n> ')}`,
    attachments: [{ filename: 'drift.csv', content: 'hour,degrees\n1,2\n' }],
  });
  await expect(said.getByRole('link', { name: 'drift.csv', exact: true })).toBeVisible();
  await expect(said.getByRole('listitem').filter({ hasText: 'That of the survey.' })).not.toContainText('Nessmoor wrote');
  await expect(technician.getByText('In work', { exact: true }).first()).toBeVisible();
});

test('what is said in a channel is a ticket, its number and its end are said in the thread', async ({ as }) => {
  const words = fresh('The printer on the second floor is silent');
  const root = await chat.sayIn('ask-the-desk', 'owner', words);
  const number = /T-(\d+)/.exec(await chat.waitIn('ask-the-desk', root, 'It has come in as'))![1]!;
  const technician = await as('administrator');
  await technician.goto(`/desk/queue/tickets/${number}`);
  await expect(technician.getByRole('list', { name: 'Conversation', exact: true })).toContainText('in chat');
  await technician.getByRole('textbox', { name: 'Write to Solveig', exact: true }).fill('It is plugged in again.');
  await technician.getByRole('button', { name: 'Done', exact: true }).click();
  await chat.waitIn('ask-the-desk', root, `T-${number}: done, tell us if not`);
  await chat.wait('owner', 'It is plugged in again.');
});

test('a designer opens an address, closes it and opens it again; who writes to it meanwhile is told', async ({ as }) => {
  const name = `boats-${Date.now().toString(36)}`;
  const page = await as('designer');
  await page.goto('/workshop/intake');
  await page.getByText('Take in mail to an address', { exact: true }).click();
  await page.getByRole('textbox', { name: 'Address', exact: true }).last().fill('two words');
  await page.getByRole('button', { name: 'Take in mail to it', exact: true }).click();
  await expect(page.getByText('An address is made of letters, digits and single dots or hyphens.', { exact: true })).toBeVisible();
  await page.getByRole('textbox', { name: 'Address', exact: true }).last().fill(name);
  await choose(page.getByRole('combobox', { name: 'It opens', exact: true }).last(), 'Request');
  await choose(page.getByRole('combobox', { name: 'About', exact: true }).last(), 'Rooms');
  await page.getByRole('button', { name: 'Take in mail to it', exact: true }).click();
  await expect(page.getByText('It is open: what comes in by it is a ticket from now on.', { exact: true })).toBeVisible();
  const line = page.getByText(`${name}${at}`, { exact: true });
  await line.click();
  await page.getByRole('listitem').filter({ hasText: name }).getByRole('button', { name: 'Close this address', exact: true }).click();
  await expect(page.getByText(`${name}${at} is closed: what comes there is refused with a sentence.`, { exact: true })).toBeVisible();
  await expect(mail.send({ from: 'owner@skerrin.example', to: `${name}${at}`, subject: 'x', text: 'y' })).rejects.toThrow(/550/);
  await page.getByRole('button', { name: 'Open it again', exact: true }).click();
  await expect(line).toBeVisible();
  const subject = fresh('A berth in May');
  await mail.send({ from: 'owner@skerrin.example', to: `${name}${at}`, subject, text: 'For two nights.' });
  await mailbox.wait('owner@skerrin.example', 'It has come in as', subject);
});
