import { readFileSync } from 'node:fs';
import { readPdf } from '../server/testing/pdf.ts';
import { expect, test } from './support/story.ts';

test('an auditor reads who decided what and in which words, says how the file is named, and takes it with what the chain of the log has of each', async ({
  as,
}) => {
  const auditor = await as('auditor');
  await auditor.goto('/ledger');
  await auditor.getByRole('link', { name: 'Decisions', exact: true }).click();
  await expect(auditor.getByRole('heading', { level: 1, name: /^Decisions/ })).toBeVisible();
  await expect(auditor.getByRole('row').filter({ hasText: 'Welcome news.' }).first()).toContainText('At the Desk');
  await auditor.getByText('How the file is named …', { exact: true }).click();
  const name = auditor.getByRole('textbox', { name: 'Name of the file', exact: true });
  await name.fill('Agreed {who}');
  await auditor.getByRole('button', { name: 'Name files so', exact: true }).click();
  await expect(name).toHaveAccessibleDescription(/In braces stands one of: day, from, to, item, state\.$/);
  await name.fill('Skerrin, {state} {from} to {to}');
  await auditor.getByRole('button', { name: 'Name files so', exact: true }).click();
  await expect(auditor.getByText('How the file is named …', { exact: true })).toBeVisible();
  await auditor.goto('/ledger/decisions?state=approved&decided=2026-01-01..2199-12-31&columns=decided,who,words,way,link,hash');
  const [file] = await Promise.all([auditor.waitForEvent('download'), auditor.getByRole('link', { name: /CSV$/ }).click()]);
  expect(file.suggestedFilename()).toBe('Skerrin, Approved 2026-01-01 to 2199-12-31.csv');
  const lines = readFileSync(await file.path(), 'utf8').split('\r\n');
  expect(lines[0]).toMatch(/^\uFEFFDecided,Who,In which words,By which way,Link of the chain,Hash$/);
  expect(lines.find((l) => l.includes('Welcome news.'))).toMatch(/,At the Desk,\d+,[0-9a-f]{64}$/);

  // The same on paper, of one request as its trace leads there.
  await auditor.getByRole('row').filter({ hasText: 'Welcome news.' }).first().getByRole('link').first().click();
  await auditor.getByRole('link', { name: 'Its decisions, as evidence', exact: true }).click();
  await expect(auditor.getByRole('row').filter({ hasText: 'Welcome news.' })).toHaveCount(1);
  const [paper] = await Promise.all([auditor.waitForEvent('download'), auditor.getByRole('link', { name: 'PDF', exact: true }).click()]);
  expect(paper.suggestedFilename()).toMatch(/^Skerrin.*\.pdf$/);
  const { pages, wide } = await readPdf(readFileSync(await paper.path()));
  expect(wide).toBe(true);
  const words = pages.join(' ').replaceAll(/\s+/g, ' ');
  const [, hash] = /,([0-9a-f]{64})$/.exec(lines.find((l) => l.includes('Welcome news.'))!)!;
  expect(words).toContain('“Welcome news.”');
  expect(words.replaceAll(' ', '')).toContain(hash);
  expect(words).toMatch(/the chain ended with link \d+, whose hash was ([0-9a-f]{8} ?){8}\./);
});
