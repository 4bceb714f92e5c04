import { readFileSync } from 'node:fs';
import type { Download, Page } from '@playwright/test';
import { readPdf } from '../server/testing/pdf.ts';
import { mailbox } from './support/outside.ts';
import { choose, expect, openItem, test } from './support/story.ts';
import { insert, itemWith, publish, saved } from './support/workshop.ts';

const form = {
  fields: [
    { id: 'reason', kind: 'text', label: 'What for', required: true },
    {
      id: 'things',
      kind: 'lines',
      label: 'Things',
      required: true,
      min: 1,
      max: 5,
      columns: [
        { id: 'what', kind: 'text', label: 'Thing', required: true },
        { id: 'many', kind: 'number', label: 'How many', required: true },
      ],
    },
  ],
};
const had = async (page: Page, link: ReturnType<Page['getByRole']>) => {
  const [file] = await Promise.all([page.waitForEvent('download'), link.click()]);
  return file;
};
const read = async (file: Download) => readPdf(readFileSync(await file.path()));

test('a letter is designed, looked at before anybody asked, written for a request, had from its page, and goes with the mail', async ({ as }) => {
  const { page, name } = await itemWith(as, 'Loan paper', form, []);
  await page.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await page.keyboard.type('certificate');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'File name', exact: true }).fill('Loan');
  await page.getByRole('textbox', { name: 'Head of each page', exact: true }).fill('Skerrin Hydrographic');
  await page.getByRole('textbox', { name: 'Title', exact: true }).fill('What is lent');
  await page.getByRole('textbox', { name: 'Letter', exact: true }).fill('You take with you for: ');
  await choose(page.getByLabel('Insert a value into Letter', { exact: true }), 'What for');
  await page.getByRole('switch', { name: 'A table below passage 1', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'A row for each of', exact: true }), 'Things');
  const columns = page.getByRole('group', { name: 'Columns of the table below passage 1', exact: true });
  await expect(columns.getByRole('textbox', { name: 'Head of column 2', exact: true })).toHaveValue('How many');
  await columns.getByRole('textbox', { name: 'Head of column 2', exact: true }).fill('Pieces');
  await saved(page);
  const sample = await read(await had(page, page.getByRole('link', { name: 'This letter as PDF, with the names of values', exact: true })));
  expect(sample.title).toBe('What is lent');
  for (const words of ['[What for]', '[Thing]', '[Pieces]', 'Page 1 of 1', 'Skerrin Hydrographic']) expect(sample.pages[0]).toContain(words);

  await page.keyboard.press('Escape');
  await insert(page, 'tell');
  await page.getByRole('textbox', { name: 'Subject', exact: true }).fill('Your loan paper');
  await page.getByRole('textbox', { name: 'Message', exact: true }).fill(`It goes with this mail: ${name}`);
  await page.getByRole('button', { name: 'Add a file', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'File 1', exact: true })).toHaveText('Letter');
  await publish(page);

  const requester = await as('requester');
  await openItem(requester, name);
  await requester.getByRole('textbox', { name: 'What for (required)', exact: true }).fill('A survey in the sound');
  const line = requester.getByRole('group', { name: 'Things, line 1', exact: true });
  await line.getByRole('textbox', { name: 'Thing (required)', exact: true }).fill('Tide gauge');
  await line.getByRole('textbox', { name: 'How many (required)', exact: true }).fill('2');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  const letters = requester.getByRole('region', { name: 'Letters', exact: true });
  const letter = await had(requester, letters.getByRole('link', { name: 'Loan.pdf', exact: true }));
  expect(letter.suggestedFilename()).toBe('Loan.pdf');
  const { pages } = await read(letter);
  for (const words of ['A survey in the sound', 'Tide gauge', 'Pieces', '2']) expect(pages[0]).toContain(words);
  const mail = await mailbox.wait('requester@skerrin.example', name, 'Your loan paper');
  expect(mail.files?.map((f) => f.name)).toEqual(['Loan.pdf']);
  expect(Buffer.from(mail.files![0]!.base64, 'base64').equals(readFileSync(await letter.path()))).toBe(true);

  await requester.getByText(/^Your loan paper/).click();
  await expect(requester.getByText(/^It goes with this mail/)).toBeVisible();
  await expect(requester.getByRole('link', { name: 'Loan.pdf', exact: true })).toHaveCount(2);

  // Nobody else has it.
  const address = await letters.getByRole('link', { name: 'Loan.pdf', exact: true }).getAttribute('href');
  expect((await (await as('owner')).request.get(address!)).status()).toBe(404);
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await expect(auditor.getByRole('link', { name: 'Loan.pdf', exact: true }).first()).toBeVisible();
});
