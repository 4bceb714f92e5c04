import { approve, askToJoin, begins, cast, expect, fresh, openApproval, pick, test, waitFor } from './support/story.ts';
import { mailbox, park } from './support/outside.ts';

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
  await expect(auditor.getByRole('article').getByText('“Until the tables are out.”', { exact: true })).toBeVisible();
  await auditor.getByRole('article').getByRole('link', { name: number, exact: true }).click();
  await expect(auditor.getByRole('heading', { level: 1, name: new RegExp(`^${number} `) })).toBeVisible();
});

test('a machine: made by the park while its requester watches, held and lent until a day, lent for longer by a request about it, given back, and taken down; the Ledger says how it was answered', async ({
  as,
}) => {
  const requester = await as('requester');
  const purpose = fresh('Tides of the outer sound');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins('Processing machine') })
    .first()
    .click();
  await pick(requester, 'Size (required)', 'Small');
  await requester.getByLabel(/^What it computes/).fill(purpose);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  // What the park says on the way stands there by itself, and goes on by itself.
  await expect(requester.getByText(/^The machine is made: waits for Machine park/)).toBeVisible();
  await expect(requester.getByText(/^“(Finding room for it|Copying the image|Starting it|Waiting for its first sign of life)”$/)).toBeVisible();
  await expect(requester.getByText(/^The machine is set up: waits for/)).toBeVisible();

  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await auditor.getByText(/^Machine park: Make a machine · done, \d exchanges$/).click();
  await expect(auditor.getByText(/Sent: Accepted: Finding room for it/)).toBeVisible();
  await expect(auditor.getByText(/(Called back|Asked): Done/)).toBeVisible();

  await requester.getByRole('link', { name: 'My things', exact: true }).click();
  const thing = requester.getByRole('list', { name: 'My things', exact: true }).getByRole('listitem').filter({ hasText: number });
  await expect(thing).toContainText(/m-[0-9a-f]{8}\.science\.skerrin\.example/);
  await expect(thing).toContainText(/Machine, lent until \d+ \w+ \d{4}/);
  const [address] = /m-[0-9a-f]{8}/.exec((await thing.textContent()) ?? '')!;
  // The machine is picked, and what is known of it stands there; another day of it stands there once the park has said so.
  const before = /lent until (\d+ \w+ \d{4})/.exec((await thing.textContent()) ?? '')![1]!;
  await thing.getByRole('link', { name: begins('Processing machine for longer') }).click();
  await expect(requester.getByRole('combobox', { name: 'Your machine (required)', exact: true })).toHaveValue(new RegExp(`^${address}`));
  await expect(requester.getByRole('status', { name: 'Size', exact: true })).toHaveText('Small');
  await expect(requester.getByRole('status', { name: 'Lent until now', exact: true })).toHaveText(before);
  await requester.getByLabel(/^Days in all from now on/).fill('14');
  await requester.getByLabel(/^What it still computes/).fill(purpose);
  await expect(requester.getByText('This is not longer than it is lent already.', { exact: true })).toBeVisible();
  await requester.getByLabel(/^Days in all from now on/).fill('60');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await requester.waitForURL(/\/counter\/requests\/\d+\?sent/);
  const more = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await waitFor(requester, more, 'Fulfilled');
  await requester.getByRole('link', { name: 'My things', exact: true }).click();
  await expect(thing).not.toContainText(`lent until ${before}`);
  await auditor.goto('/ledger/holdings?state=held');
  await auditor.getByRole('row', { name: new RegExp(`^${cast.requester}, ${address}`) }).click();
  await expect(auditor.getByRole('article').getByText(new RegExp(`, ${before} before$`))).toBeVisible();
  await expect(auditor.getByRole('article').getByRole('link', { name: more, exact: true })).toBeVisible();
  // Another size of it: what it is now is refused, and what it costs from then on stands with it.
  await requester.getByRole('link', { name: 'My things', exact: true }).click();
  await thing.getByRole('link', { name: begins('Another size for a processing machine') }).click();
  await expect(requester.getByRole('status', { name: 'Size until now', exact: true })).toHaveText('Small');
  await pick(requester, 'Size from now on (required)', 'Small');
  await expect(requester.getByText('It has this size already.', { exact: true })).toBeVisible();
  await pick(requester, 'Size from now on (required)', 'Medium');
  await requester.getByLabel(/^Why/).fill(purpose);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await requester.waitForURL(/\/counter\/requests\/\d+\?sent/);
  const other = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  const approver = await as('approver');
  await approve(approver, other, 'Another size for a processing machine');
  await waitFor(requester, other, 'Fulfilled');
  await requester.getByRole('link', { name: 'My things', exact: true }).click();
  await expect(thing).toContainText(/Costs 1\.90 EUR per day/);
  await thing.getByText(/^Give it back/).click();
  await thing.getByRole('textbox', { name: 'Why, if it helps somebody to know', exact: true }).fill('The tides are reckoned.');
  await thing.getByRole('button', { name: new RegExp(`^Give back ${address}`) }).click();
  await expect(thing.getByText(/^Being given back since/)).toBeVisible();
  await expect.poll(() => park.changes(address)).toEqual(['made', 'extended', 'asked to resize', 'resized', 'taken down']);
  await expect(async () => {
    await requester.reload();
    await expect(thing).toHaveCount(0, { timeout: 1000 });
  }).toPass();
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await expect(auditor.getByText('The tides are reckoned.', { exact: true })).toBeVisible();
});

test('an administrator takes something back in the Ledger: says why, and sees what becomes of it; whoever has it is told', async ({ as }) => {
  const auditor = await as('auditor');
  const number = await askToJoin(auditor, 'platform-admins', 'For the autumn tables');
  const administrator = await as('administrator');
  await openApproval(administrator, number);
  await administrator.getByRole('button', { name: /^Approve for/ }).click();
  await waitFor(auditor, number, 'Fulfilled');
  await administrator.goto('/ledger/holdings?state=held');
  await administrator.getByRole('row', { name: `${cast.auditor}, platform-admins, ${number}`, exact: true }).click();
  const slip = administrator.getByRole('article');
  await slip.getByRole('button', { name: 'Take back platform-admins', exact: true }).click();
  await expect(slip.getByText('Say why; whoever has it is told.', { exact: true })).toBeVisible();
  await slip.getByRole('textbox', { name: `Why it is taken back from ${cast.auditor} (required)`, exact: true }).fill('The autumn is over.');
  await slip.getByRole('button', { name: 'Take back platform-admins', exact: true }).click();
  await expect(slip.getByText(/^(Being taken back|Given back), taken by Ylva Stormness, /)).toBeVisible();
  await expect(async () => {
    await administrator.reload();
    await expect(slip.getByText(/^Given back, taken by Ylva Stormness, /)).toBeVisible({ timeout: 1000 });
  }).toPass();
  expect((await mailbox.wait('auditor@skerrin.example', 'The autumn is over.', number)).text).toContain('takes back platform-admins');
});

test('before scripts load: a manager takes something back from one of theirs, has to say why, and they are told', async ({ as }) => {
  const owner = await as('owner');
  const number = await askToJoin(owner, 'platform-admins', 'For the night of the spring tide');
  const administrator = await as('administrator');
  await openApproval(administrator, number);
  await administrator.getByRole('button', { name: /^Approve for/ }).click();
  await waitFor(owner, number, 'Fulfilled');
  const manager = await as('approver', { javaScriptEnabled: false });
  await manager.goto('/counter/things?whose=people');
  const thing = manager.getByRole('listitem').filter({ hasText: number });
  await thing.getByText(/^Take it back/).click();
  await thing.getByRole('button', { name: 'Take back platform-admins', exact: true }).click();
  await expect(thing.getByText('Say why; whoever has it is told.', { exact: true })).toBeVisible();
  await thing.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('The spring tide is over.');
  await thing.getByRole('button', { name: 'Take back platform-admins', exact: true }).click();
  await expect(thing).toContainText(/Being taken back since/);
  expect((await mailbox.wait('owner@skerrin.example', 'The spring tide is over.', number)).text).toContain('takes back platform-admins');
});
