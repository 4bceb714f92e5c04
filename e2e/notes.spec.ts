import { begins, expect, pick, test } from './support/story.ts';
import { mailbox, robots } from './support/outside.ts';

test('a password is set by a robot and read once, in a sealed note; nobody else reads it, and no message or trace has it', async ({ as }) => {
  const requester = await as('requester');
  await requester.setViewportSize({ width: 390, height: 844 });
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins('Reset my password') })
    .first()
    .click();
  await expect(requester.getByRole('status', { name: 'Account', exact: true })).toHaveText('requester@skerrin.example');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  const number = /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  await requester.getByRole('link', { name: 'Sealed note: new password', exact: true }).click();
  await expect(requester.getByRole('heading', { level: 1, name: 'Sealed note: new password', exact: true })).toBeVisible();
  const address = new URL(requester.url()).pathname;
  const mail = await mailbox.wait('requester@skerrin.example', address, number);
  await requester.getByRole('button', { name: 'Open it, once', exact: true }).click();
  await expect(requester.getByText(/^The note is open\./)).toBeVisible();
  const says = requester.getByRole('code');
  const password = (await says.textContent()) ?? '';
  expect(await robots.opens('requester@skerrin.example', password)).toBe(true);
  expect(mail.text).not.toContain(password);
  await requester.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await requester.getByRole('button', { name: 'Copy new password', exact: true }).click();
  await expect(requester.getByText('It is on the clipboard.', { exact: true })).toBeVisible();
  expect(await requester.evaluate(() => navigator.clipboard.readText())).toBe(password);
  await requester.reload();
  await expect(requester.getByText(/^\s*Opened by Tuva Fossness/)).toBeVisible();
  await expect(requester.getByText(password, { exact: true })).toHaveCount(0);

  const auditor = await as('auditor');
  expect((await auditor.goto(address))?.status()).toBe(404);
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await auditor.getByText(/^Robots: Set a new password · done, \d exchanges$/).click();
  await expect(auditor.getByText(/^Sealed note for Tuva Fossness \(New password\): opened by Tuva Fossness/)).toBeVisible();
  expect(await auditor.content()).not.toContain(password);
});

test('before scripts load: the first sign-in to a machine is read, lost, and made anew by the park', async ({ as }) => {
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins('Processing machine') })
    .first()
    .click();
  await pick(requester, 'Size (required)', 'Small');
  await requester.getByLabel(/^What it computes/).fill('Depths off the northern skerries');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  const note = requester.getByRole('link', { name: 'Sealed note: first sign-in', exact: true });
  await expect(note).toBeVisible();
  const address = (await note.getAttribute('href')) ?? '';

  const plain = await as('requester', { javaScriptEnabled: false });
  await plain.goto(address);
  await plain.getByRole('button', { name: 'Open it, once', exact: true }).click();
  const first = (await plain.getByRole('code').textContent()) ?? '';
  expect(first).toMatch(/^[\w-]{16}$/);
  await plain.goto(address);
  await plain.getByRole('button', { name: 'Have it made anew', exact: true }).click();
  // Whether that is under way or done already when the page comes: it is not asked for twice.
  await expect(plain.getByRole('button', { name: 'Have it made anew', exact: true })).toHaveCount(0);
  const again = requester.getByRole('link', { name: 'Sealed note: sign-in', exact: true });
  await expect(async () => {
    await requester.goto('/counter/things');
    await expect(again).toBeVisible({ timeout: 1000 });
  }).toPass();
  await plain.goto((await again.getAttribute('href')) ?? '');
  await plain.getByRole('button', { name: 'Open it, once', exact: true }).click();
  await expect(plain.getByRole('code')).toHaveText(/^[\w-]{16}$/);
  expect(await plain.getByRole('code').textContent()).not.toBe(first);
});
