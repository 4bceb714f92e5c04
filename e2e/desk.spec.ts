import { askToJoin, begins, cast, deaf, expect, openApproval, state, test, waitFor } from './support/story.ts';
import { directory, mailbox } from './support/outside.ts';

test.afterEach(() => directory.manner('well'));

test('a step the directory refuses is stuck with its cause; a technician retries it from the trace', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'old-soundings', 'Stuck on purpose');
  await directory.manner('refusing');
  const lead = await as('access.lead');
  await openApproval(lead, number);
  await lead.getByRole('button', { name: /^Approve/ }).click();
  await waitFor(requester, number, 'Stuck');
  await expect(state(requester)).toContainText('held up by a failure that a person at the desk must clear');
  await directory.manner('well');
  const auditor = await as('auditor');
  await auditor.goto('/ledger?state=stuck');
  await auditor.getByRole('link', { name: number, exact: true }).click();
  await expect(auditor.getByText('The directory answered 403: The directory refuses this change.', { exact: true }).first()).toBeVisible();
  // An auditor reads; only those who fulfil may retry.
  await expect(auditor.getByRole('button', { name: /again$/ })).toHaveCount(0);
  const technician = await as('technician');
  await technician.goto(`/ledger/${number.slice(2)}`);
  await technician.getByRole('button', { name: 'Try “Add to the group” again', exact: true }).click();
  await waitFor(requester, number, 'Fulfilled');
  await technician.reload();
  await expect(technician.getByText(/Idempotency key .+\/add#1\/1/)).toHaveCount(1);
});

test('approvals on a narrow screen: from the list to a decision and back', async ({ as }) => {
  const requester = await as('requester', { viewport: { width: 390, height: 844 } });
  const number = await askToJoin(requester, 'tide-archive', 'From the deck');
  const owner = await as('owner', { viewport: { width: 390, height: 844 } });
  await openApproval(owner, number);
  await owner.getByLabel('Comment', { exact: true }).fill('Aye');
  await owner.getByRole('button', { name: /^Approve/ }).click();
  await expect(owner.getByText(/^\s*You approved this\./)).toBeVisible();
  await owner.getByRole('link', { name: 'All approvals for me', exact: true }).click();
  await owner.getByRole('link', { name: 'Answered by me', exact: true }).click();
  await expect(owner.getByRole('row', { name: `${number}, Join a group, ${cast.requester}, approved`, exact: true })).toBeVisible();
});

test('an owner who asks for their own group is left out; the other owner is asked', async ({ as }) => {
  const owner = await as('owner');
  const number = await askToJoin(owner, 'tide-models', 'I own it, but I may not let myself in');
  await expect(state(owner)).toContainText(`waits for ${cast.approver},`);
  await owner.goto('/desk/approvals');
  await expect(owner.getByRole('link', { name: begins(number) })).toHaveCount(0);
});

test('withdrawn in two windows: the second is told that it had ended', async ({ as }) => {
  const [one, two] = [await as('requester'), await as('requester')];
  const number = await askToJoin(one, 'vessel-logs', 'Twice withdrawn');
  await deaf(two);
  await two.goto(`/counter/requests/${number.slice(2)}`);
  for (const page of [one, two]) await page.getByText('Withdraw this request …', { exact: true }).click();
  await one.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  await expect(state(one)).toContainText('Withdrawn');
  await two.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  await expect(two.getByText('This request had already ended as withdrawn. Nothing was changed.', { exact: true })).toBeVisible();
});

test('an approval opened before the request was withdrawn: the decision is refused with the reason', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-archive', 'Gone in a moment');
  const owner = await as('owner');
  await deaf(owner);
  await openApproval(owner, number);
  await requester.getByText('Withdraw this request …', { exact: true }).click();
  await requester.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  await expect(state(requester)).toContainText('Withdrawn');
  await owner.getByLabel('Comment', { exact: true }).fill('Yes of course');
  await owner.getByRole('button', { name: /^Approve/ }).click();
  await expect(owner.getByText(/This is not needed any more: the request was ended, \d+ \w+ \d{4}, \d\d:\d\d\. Nothing was changed\./)).toBeVisible();
});

test('mail about one request stays in one thread for each reader', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-archive', 'A thread');
  const asked = await mailbox.wait('owner@skerrin.example', number);
  await requester.getByText('Withdraw this request …', { exact: true }).click();
  await requester.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  const told = await mailbox.wait('owner@skerrin.example', number, 'No longer needed: Owners of the group agree');
  expect(told.inReplyTo).toBe(asked.messageId);
  expect(told.references).toEqual([asked.messageId]);
});

test('the Ledger sorts requests by state, and each state has its address', async ({ as }) => {
  const auditor = await as('auditor');
  await auditor.goto('/ledger');
  await auditor.getByRole('link', { name: 'Declined', exact: true }).click();
  await expect(auditor).toHaveURL(/state=declined/);
  await expect(auditor.getByRole('button', { name: 'state Declined', exact: true })).toBeVisible();
  const states = await auditor.getByRole('grid', { name: 'Requests', exact: true }).getByRole('row').allTextContents();
  expect(states.length).toBeGreaterThan(1);
  expect(states.slice(1).every((s) => s.includes('Declined'))).toBe(true);
  await auditor.goto('/ledger?state=lapsed');
  await expect(auditor.getByText('No request is like that.', { exact: true })).toBeVisible();
});

test('signing in wrongly keeps the name and says no more than it must; signing out ends the session', async ({ as, page }) => {
  await page.goto('/counter/requests');
  await expect(page).toHaveURL(/\/sign-in\?to=%2Fcounter%2Frequests$/);
  await page.getByLabel(/^User name or mail address/).fill('auditor');
  await page.getByLabel(/^Password/).fill('not the password');
  await page.getByRole('button', { name: /^Sign in/ }).click();
  await expect(page.getByText('The name or the password is not right.', { exact: true })).toBeVisible();
  await expect(page.getByLabel(/^User name or mail address/)).toHaveValue('auditor');
  await page.getByLabel(/^Password/).fill('lantern over quay');
  await page.getByRole('button', { name: /^Sign in/ }).click();
  await expect(page).toHaveURL(/\/counter\/requests$/);
  await page.getByRole('button', { name: /^Sign out/ }).click();
  await expect(page).toHaveURL(/\/sign-in/);
  await page.goto('/counter');
  await expect(page).toHaveURL(/\/sign-in/);
  // The other sessions of the same person go on.
  const other = await as('auditor');
  await other.goto('/ledger');
  await expect(other.getByRole('heading', { name: 'Requests', exact: true })).toBeVisible();
  // An address elsewhere is not followed.
  await page.goto('/sign-in?to=//elsewhere.example/x');
  await page.getByLabel('User name or mail address', { exact: true }).fill('auditor');
  await page.getByLabel('Password', { exact: true }).fill('lantern over quay');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page).toHaveURL(/\/counter$/);
});
