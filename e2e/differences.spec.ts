import { begins, cast, expect, test } from './support/story.ts';
import { mailbox, park } from './support/outside.ts';

test('a machine made past the desk is found when the park is read, taken back from whoever is named, who is told; an auditor reads what became of it', async ({
  as,
}) => {
  const id = await park.makePast('somebody unknown');
  const administrator = await as('administrator');
  await administrator.goto('/ledger');
  await administrator.getByRole('link', { name: 'Differences', exact: true }).click();
  const reading = administrator.getByRole('list', { name: 'Readings', exact: true }).getByRole('listitem').filter({ hasText: 'Machine park' });
  await reading.getByRole('button', { name: 'Read Machine park now', exact: true }).click();
  // It is read while one looks on, and the row comes by itself.
  const row = administrator.getByRole('row', { name: new RegExp(`^${id}\\S*, nobody, There, held by nobody$`) });
  await expect(row).toBeVisible();
  await row.click();
  const slip = administrator.getByRole('article');
  await expect(slip.getByText('Machine park has it, and does not say whose it is; nobody was given it here.', { exact: true })).toBeVisible();
  await slip.getByRole('button', { name: 'Settle it', exact: true }).click();
  await expect(slip.getByText('Choose what is to be done.', { exact: true })).toBeVisible();
  await slip.getByRole('radio', { name: 'Take it back', exact: true }).click();
  await slip.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('Nobody asked for it.');
  await slip.getByRole('button', { name: 'Take it back', exact: true }).click();
  await expect(slip.getByText('Choose whose it is.', { exact: true })).toBeVisible();
  await slip.getByRole('combobox', { name: 'Whose it is', exact: true }).fill(cast.requester);
  await administrator.getByRole('option', { name: begins(cast.requester) }).click();
  await slip.getByRole('button', { name: 'Take it back', exact: true }).click();
  await expect(slip.getByText(new RegExp(`^Taken back by ${cast.administrator}, `))).toBeVisible();
  await expect.poll(() => park.changes(id)).toEqual(['made', 'taken down']);
  expect((await mailbox.wait('requester@skerrin.example', id)).text).toContain('“Nobody asked for it.”');

  const auditor = await as('auditor');
  await auditor.goto('/ledger/differences?state=settled');
  const theirs = auditor.getByRole('row', { name: new RegExp(`^${id}\\S*, ${cast.requester}, `) });
  await expect(theirs).toContainText('“Nobody asked for it.”');
  await theirs.click();
  await expect(auditor.getByRole('article').getByText('An administrator decides what becomes of it.', { exact: true })).toHaveCount(0);
  await auditor
    .getByRole('article')
    .getByRole('link', { name: /^R-\d+$/ })
    .click();
  await expect(auditor.getByRole('heading', { level: 1, name: /Found in Machine park: machine/ })).toBeVisible();
  await expect(auditor.getByText('Nobody asked for it.', { exact: true }).first()).toBeVisible();
});

test('before scripts load: what the directory has otherwise is left as it is, with why, by whoever may; an auditor may not', async ({ as }) => {
  const auditor = await as('auditor');
  await auditor.goto('/ledger/differences?state=open');
  await expect(auditor.getByRole('button', { name: /^Read / })).toHaveCount(0);
  const administrator = await as('administrator', { javaScriptEnabled: false });
  await administrator.goto('/ledger/differences?state=open');
  const row = administrator.getByRole('row', { name: /, finance-read, |^finance-read, / });
  await row.getByRole('link').first().click();
  const slip = administrator.getByRole('article');
  await slip.getByRole('button', { name: 'Settle it', exact: true }).click();
  await expect(slip.getByText('Choose what is to be done.', { exact: true })).toBeVisible();
  await slip.getByRole('radio', { name: 'Leave it as it is', exact: true }).check();
  await slip.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('They count the stores this week.');
  await slip.getByRole('button', { name: 'Settle it', exact: true }).click();
  await expect(slip.getByText(/^\s*Left as it is by/)).toBeVisible();
  await auditor.goto('/ledger/differences?state=left&q=group');
  await expect(auditor.getByRole('row', { name: /^finance-read, / }).filter({ hasText: 'They count the stores this week.' })).toBeVisible();
});
