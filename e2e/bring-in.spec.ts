import { readFile } from 'node:fs/promises';
import { begins, expect, fresh, test } from './support/story.ts';

test('an item is taken as one file, brought in under another name, looked at, and taken back in one act; also before scripts load', async ({
  as,
}) => {
  const page = await as('designer');
  await page.goto('/workshop/items');
  await page.getByRole('link', { name: 'Processing machine', exact: true }).click();
  await page.getByRole('link', { name: /^Publish revision/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'with the rows of its tables', exact: true }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('Processing machine.json');
  const text = await readFile(await file.path(), 'utf8');

  // The same where it came from: nothing changes.
  await page.goto('/workshop/items');
  await page.getByRole('link', { name: 'Bring in a file', exact: true }).click();
  await page.getByLabel('The file', { exact: true }).setInputFiles({ name: 'machine.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await page.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  const would = page.getByRole('region', { name: 'What it would do', exact: true });
  await expect(would.getByText(/is the same here; nothing changes/)).toHaveCount(5);
  await expect(page.getByRole('button', { name: /^Take in/ })).toHaveCount(0);

  // Elsewhere nothing of it is there, and somebody is called otherwise.
  const name = fresh('Machine abroad');
  const abroad = text
    .replaceAll('Processing machines', `${name}: policy`)
    .replaceAll('Processing machine', name)
    .replaceAll('"Machine sizes"', JSON.stringify(`${name}: sizes`))
    .replaceAll('platform-admins', 'hosts-elsewhere');
  const box = page.getByRole('textbox', { name: 'Or what stands in it (required)', exact: true });
  await box.fill(abroad.slice(0, 3000));
  await page.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  await expect(page.getByText('This is not a whole file of an item: it is not JSON. It may have been cut off.', { exact: true })).toBeVisible();
  await box.fill(abroad);
  await page.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  await expect(would.getByText(`Reference table ${name}: sizes is made, with 5 rows.`, { exact: true })).toBeVisible();
  await page.getByRole('button', { name: `Take in “${name}”`, exact: true }).click();
  await expect(page.getByText('Say first who or what is meant by “hosts-elsewhere”. Nothing was taken in.', { exact: true })).toBeVisible();
  const meant = page.getByRole('combobox', { name: 'hosts-elsewhere (required)', exact: true });
  await meant.fill('platform');
  await page.getByRole('option', { name: /^platform-admins/ }).click();
  // Who was said is said still when it is looked at once more.
  await page.getByRole('button', { name: 'Say what it would do', exact: true }).click();
  await expect(page.getByText(/^\s*Say first who or what is meant/)).toHaveCount(0);
  await expect(meant).toHaveValue('platform-admins');
  await page.getByRole('button', { name: `Take in “${name}”`, exact: true }).click();
  await expect(page.getByText(`“${name}” was taken in.`, { exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Look at it', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  await expect(page.getByText('The check finds nothing', { exact: true })).toBeVisible();

  // Taken back by whoever opens the page, before scripts load as well.
  const plain = await as('designer', { javaScriptEnabled: false });
  await plain.goto('/workshop/bring-in');
  await plain.getByRole('button', { name: `Take it back (${name})`, exact: true }).click();
  await expect(plain.getByText(begins(`“${name}” was taken back.`))).toBeVisible();
  await page.reload();
  await expect(page.getByRole('heading', { level: 1, name, exact: true })).toHaveCount(0);
});
