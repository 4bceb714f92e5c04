import type { Page } from '@playwright/test';
import { mailbox } from './support/outside.ts';
import { begins, cast, choose, expect, pick, test, waitFor } from './support/story.ts';

const group = 'lunnick-instruments';
async function ask(page: Page, what: string, who: string): Promise<string> {
  await page.goto('/counter');
  await page
    .getByRole('link', { name: begins('Owners of a group') })
    .first()
    .click();
  await pick(page, 'Group (required)', group);
  await choose(page.getByRole('combobox', { name: 'What is to change (required)', exact: true }), what);
  await pick(page, 'Who (required)', who);
  await page.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('The readings change hands.');
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}
async function agree(page: Page, number: string) {
  await page.goto('/desk/approvals');
  await page.getByRole('link', { name: number, exact: true }).click();
  await page.getByRole('button', { name: /^Approve for/ }).click();
  await expect(page.getByText(/^You approved this\./)).toBeVisible();
}

test('who owns a group changes: those who own it agree, the new owner is told and asked from then on, and the last one stays', async ({ as }) => {
  const [requester, approver, owner] = [await as('requester'), await as('approver'), await as('owner')];
  const added = await ask(requester, 'Somebody becomes an owner', cast.owner);
  await agree(approver, added);
  await waitFor(requester, added, 'Fulfilled');
  await mailbox.wait('owner@skerrin.example', 'The readings change hands.', `You own ${group}`);
  // Whoever owns it is asked from now on.
  const off = await ask(requester, 'Somebody is no owner any more', cast.owner);
  await agree(owner, off);
  await waitFor(requester, off, 'Fulfilled');
  const last = await ask(requester, 'Somebody is no owner any more', cast.approver);
  await agree(approver, last);
  await waitFor(requester, last, 'Failed');
  await mailbox.wait('requester@skerrin.example', 'A group has one owner at least', `${group} keeps its owner, ${last}`);
});
