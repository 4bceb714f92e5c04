import { askToJoin, cast, deaf, expect, openApproval, state, test, waitFor } from './support/story.ts';
import { directory, mailbox } from './support/outside.ts';
import { worker } from './support/worker.ts';

test.afterEach(() => directory.manner('well'));

test('approved: the owner decides at the Desk, the directory gains the membership, mail goes out, the Ledger shows it', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'Reducing soundings to chart datum');
  await expect(state(requester)).toContainText(`waits for ${cast.approver} or ${cast.owner}`);

  const approver = await as('approver');
  await openApproval(approver, number);
  await expect(approver.getByText('Reducing soundings to chart datum', { exact: true })).toBeVisible();
  await expect(approver.getByLabel('Who asks', { exact: true })).toContainText('hydrographer, Hydrography, Quay House, floor 2');
  await approver.getByLabel('Comment', { exact: true }).fill('Welcome');
  await approver.getByRole('button', { name: `Approve for ${cast.requester}`, exact: true }).click();
  await expect(approver.getByText(/^\s*You approved this\./)).toBeVisible();

  await waitFor(requester, number, 'Fulfilled');
  expect(await directory.memberships('tide-models', cast.requester)).toBe(1);
  await mailbox.wait('requester@skerrin.example', number, 'You are in tide-models');
  await expect(requester.getByText('Ivar Tidemark: approved, “Welcome”', { exact: true })).toBeVisible();

  const auditor = await as('auditor');
  await auditor.goto('/ledger');
  await auditor.getByRole('link', { name: number, exact: true }).click();
  const gate = auditor.getByRole('listitem').filter({ hasText: 'Owners of the group agree' }).first();
  await expect(gate).toContainText('Ivar Tidemark: approved');
  await expect(gate).toContainText('Solveig Langskar: released without an answer');
  await gate.getByText('One way was not taken', { exact: true }).click();
  await expect(gate.getByText('When declined', { exact: true })).toBeVisible();
  await expect(gate).toContainText(/Ivar Tidemark: approved at the Desk \d+ \w+ \d{4}, \d\d:\d\d:\d\d “Welcome”/);
  await expect(auditor.getByText('Went on: Otherwise', { exact: true })).toBeVisible();
  await auditor.getByText('One way was not taken', { exact: true }).last().click();
  await expect(auditor.getByText('In already: Was already a member is yes', { exact: true })).toBeVisible();
  await auditor.getByText('Directory: Add a person to a group · done, one exchange', { exact: true }).click();
  await expect(auditor.getByText(/Idempotency key .+\/add#1\/0/)).toBeVisible();
  await expect(auditor.getByText('Ended as fulfilled', { exact: true })).toBeVisible();
});

test('declined: a reason is wanted, the requester reads it, nothing is changed in the directory', async ({ as }) => {
  const requester = await as('requester');
  const before = await directory.changes('tide-archive');
  const number = await askToJoin(requester, 'tide-archive', 'Curious');
  const owner = await as('owner');
  await openApproval(owner, number);
  await owner.getByRole('button', { name: 'Decline', exact: true }).click();
  await expect(owner.getByText('Say why you decline; the requester is told.', { exact: true }).first()).toBeVisible();
  await owner.getByLabel('Comment', { exact: true }).fill('The archive is being moved; ask again in May.');
  await owner.getByRole('button', { name: 'Decline', exact: true }).click();
  await expect(owner.getByText(/^\s*You declined this\./)).toBeVisible();
  await waitFor(requester, number, 'Declined');
  await expect(state(requester)).toContainText('The archive is being moved; ask again in May.');
  const mail = await mailbox.wait('requester@skerrin.example', number, 'Declined: tide-archive');
  expect(mail.text).toContain('Solveig Langskar declined your request to join tide-archive:');
  expect(await directory.changes('tide-archive')).toEqual(before);
});

test('group without owner: the gate asks whom it states, and says so before sending', async ({ as }) => {
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: 'Join a group', exact: true }).first().click();
  await requester.getByRole('combobox', { name: /^Group/ }).fill('old-soundings');
  await requester.getByRole('option', { name: /^old-soundings/ }).click();
  await expect(requester.getByLabel('What must be agreed', { exact: true })).toContainText(
    `Since old-soundings has no owner, ${cast['access.lead']} must agree.`,
  );
  const number = await askToJoin(requester, 'old-soundings', 'Comparing lead lines');
  await expect(state(requester)).toContainText(`waits for ${cast['access.lead']}`);
  const lead = await as('access.lead');
  await openApproval(lead, number);
  await lead.getByRole('button', { name: /^Approve/ }).click();
  await waitFor(requester, number, 'Fulfilled');
});

test('both owners decide at the same moment: one decision counts, the other is told by whom', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'Once more');
  const [first, second] = [await as('approver'), await as('owner')];
  await Promise.all([deaf(first), deaf(second)]);
  await Promise.all([openApproval(first, number), openApproval(second, number)]);
  await second.getByLabel('Comment', { exact: true }).fill('Not now');
  await Promise.all([first.getByRole('button', { name: /^Approve/ }).click(), second.getByRole('button', { name: 'Decline', exact: true }).click()]);
  const took = async (page: typeof first) => {
    await expect(page.getByText(/^(You approved this|You declined this|Already (approved|declined) by)/).first()).toBeVisible();
    return page
      .getByText(
        /Already (approved by Ivar Tidemark|declined by Solveig Langskar), \d+ \w+ \d{4}, \d\d:\d\d\. Your answer was noted and changes nothing/,
      )
      .count();
  };
  expect((await took(first)) + (await took(second))).toBe(1);
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await expect(
    auditor.getByText(/A decision by (Ivar Tidemark|Solveig Langskar) \((the step was no longer open|the request had ended)\)/),
  ).toBeVisible();
});

test('directory down for a while: tried again, then fulfilled, membership once', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'lunnick-instruments', 'Reading the gauge');
  await directory.manner('failing');
  const approver = await as('approver');
  await openApproval(approver, number);
  await approver.getByRole('button', { name: /^Approve/ }).click();
  const technician = await as('technician');
  await expect(async () => {
    await technician.goto(`/ledger/${number.slice(2)}`);
    await expect(technician.getByText(/^Directory: Add a person to a group · not answered yet, (?:[2-9]|\d{2,}) exchanges$/)).toBeVisible({
      timeout: 2000,
    });
  }).toPass();
  await technician.getByText(/^Directory: Add a person to a group ·/).click();
  await expect(technician.getByText(/The directory answered 503: The directory is down\./).first()).toBeVisible();
  await directory.manner('well');
  await waitFor(requester, number, 'Fulfilled');
  expect(await directory.memberships('lunnick-instruments', cast.requester)).toBe(1);
});

test('worker killed between commit and answer: another resumes, membership once', async ({ as }) => {
  const requester = await as('requester');
  const before = (await directory.changes('vessel-logs')).length;
  const number = await askToJoin(requester, 'chart-drafts', 'Checking my own soundings');
  // The head of charts is away; the delegate, who owns the group as well, is asked once.
  await directory.manner('slow', 2500);
  const mail = await mailbox.wait('charts.second@skerrin.example', number);
  const link = /http\S+\/desk\/decide\/\S+/.exec(mail.text)![0];
  const approver = await (await as('auditor')).context().browser()!.newPage();
  await approver.goto(link);
  await approver.getByRole('button', { name: /^Approve/ }).click();
  await expect(approver.getByRole('heading', { name: 'Approved', exact: true })).toBeVisible();
  await approver.close();
  // The call is on its way, the answer is not; now the worker dies.
  await new Promise((r) => setTimeout(r, 1200));
  await worker.kill();
  await directory.manner('well');
  await waitForStanding(requester, number);
  await worker.start();
  await waitFor(requester, number, 'Fulfilled');
  expect(await directory.memberships('chart-drafts', cast.requester)).toBe(1);
  expect((await directory.changes('chart-drafts')).filter((c) => c.change.startsWith('add members')).length).toBe(1);
  expect((await directory.changes('vessel-logs')).length).toBe(before);
});

test('the requester withdraws: approvers are told, nothing is changed', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'On second thought');
  await mailbox.wait('owner@skerrin.example', number);
  await requester.getByText('Withdraw this request …', { exact: true }).click();
  await requester.getByRole('button', { name: `Withdraw ${number}`, exact: true }).click();
  await expect(state(requester)).toContainText('Withdrawn');
  const told = await mailbox.wait('owner@skerrin.example', number, 'No longer needed: Owners of the group agree');
  expect(told.text).toContain('The request was withdrawn');
  const owner = await as('owner');
  await owner.goto('/desk/approvals?state=over');
  await expect(owner.getByRole('row', { name: `${number}, Join a group, ${cast.requester}, not needed any more`, exact: true })).toBeVisible();
});

test("somebody else's request, approval, draft or trace opened by its address is refused", async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'vessel-logs', 'Private');
  const approvals = await as('owner');
  await approvals.goto('/desk/approvals');
  const lead = await as('access.lead');
  const other = await lead.goto(`/counter/requests/${number.slice(2)}`);
  expect(other!.status()).toBe(404);
  await expect(lead.getByText('This request does not exist, or you may not see it.', { exact: true })).toBeVisible();
  const requesterLedger = await requester.goto(`/ledger/${number.slice(2)}`);
  expect(requesterLedger!.status()).toBe(404);
  expect((await requester.goto('/workshop/items'))!.status()).toBe(404);
  const approver = await as('approver');
  const tide = await askToJoin(requester, 'tide-models', 'Address');
  await openApproval(approver, tide);
  const address = new URL(approver.url()).pathname;
  expect((await requester.goto(address))!.status()).toBe(404);
  const posted = await requester.request.post(address, {
    form: { decision: 'approve', comment: '' },
    headers: { origin: process.env['PUBLIC_URL']! },
  });
  expect(posted.status()).toBe(404);
  await waitFor(requester, tide, 'Under way');
});

test('the link in the mail works once, acts only on a click, and says so afterwards', async ({ as, page }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-archive', 'By mail');
  const mail = await mailbox.wait('owner@skerrin.example', number);
  const link = /http\S+\/desk\/decide\/\S+/.exec(mail.text)![0];
  await page.goto(link);
  await page.goto(link);
  await waitFor(requester, number, 'Under way');
  await page.getByLabel('Comment', { exact: true }).fill('Fine by me');
  await page.getByRole('button', { name: /^Approve/ }).click();
  await expect(page.getByText(/Your answer was taken; the link is used up\./)).toBeVisible();
  await page.goto(link);
  await expect(page.getByRole('heading', { name: 'This link does not work any more', exact: true })).toBeVisible();
  await waitFor(requester, number, 'Fulfilled');
});

async function waitForStanding(page: Parameters<typeof state>[0], number: string): Promise<void> {
  await page.goto(`/counter/requests/${number.slice(2)}`);
  await expect(state(page)).toContainText('You are added to the group: waits for the directory');
}
