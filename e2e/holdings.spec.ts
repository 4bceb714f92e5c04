import { askToJoin, cast, expect, openApproval, test, waitFor } from './support/story.ts';

test('what a request gave stands among one’s things, with who agreed; the Ledger lists it, is narrowed, and leads to its trace', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'platform-admins', 'For the winter tables');
  const owner = await as('administrator');
  await openApproval(owner, number);
  await owner.getByRole('textbox', { name: 'Comment', exact: true }).fill('Until the tables are out.');
  await owner.getByRole('button', { name: /^Approve for/ }).click();
  await expect(owner.getByText(/^You approved this\./)).toBeVisible();
  await waitFor(requester, number, 'Fulfilled');
  await requester.getByRole('link', { name: 'My things', exact: true }).click();
  const thing = requester.getByRole('listitem').filter({ hasText: number });
  await expect(thing).toContainText('platform-admins');
  await expect(thing).toContainText(`${cast.administrator} agreed: “Until the tables are out.”`);
  const auditor = await as('auditor');
  await auditor.goto('/ledger');
  await auditor.getByRole('link', { name: 'Holdings', exact: true }).click();
  await auditor.getByRole('link', { name: 'Held', exact: true }).click();
  await expect(auditor).toHaveURL(/state=held/);
  const row = auditor.getByRole('row', { name: `${cast.requester}, platform-admins, ${number}`, exact: true });
  await expect(row).toContainText('Until the tables are out.');
  await row.click();
  await expect(auditor.getByRole('heading', { level: 1, name: new RegExp(`^${number} `) })).toBeVisible();
});
