import type { Page } from '@playwright/test';
import { spaces } from './support/outside.ts';
import { approve, begins, cast, choose, expect, pick, test, waitFor } from './support/story.ts';

const mark = Date.now().toString(36);

async function fill(page: Page, name: string): Promise<void> {
  await page.goto('/counter');
  await page
    .getByRole('link', { name: begins('Project space') })
    .first()
    .click();
  await page.getByRole('textbox', { name: 'Name of the space (required)', exact: true }).fill(name);
  await pick(page, 'Begins with (required)', 'Survey');
  await page.getByRole('textbox', { name: 'What it is for (required)', exact: true }).fill('Soundings of the sound');
  for (const owner of [cast.owner, cast.approver]) await pick(page, 'Owners (required)', owner);
}
async function send(page: Page): Promise<string> {
  await page.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(page.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await page.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}

test('a project space: asked for, agreed to by those who are to own it, open; its name is taken from then on, and an owner names another', async ({
  as,
}) => {
  const [requester, owner, approver] = [await as('requester'), await as('owner'), await as('approver')];
  const name = `torvay-${mark}`;
  await fill(requester, name);
  const number = await send(requester);
  await approve(owner, number, 'Project space');
  await approve(approver, number, 'Project space');
  await waitFor(requester, number, 'Fulfilled');
  expect(await spaces.find(name)).toMatchObject({ state: 'open', template: 'survey', owners: [expect.any(String), expect.any(String)] });

  // Its name is taken, which is said before anything is sent; what the system said of it just now counts for some seconds.
  await fill(requester, name);
  const box = requester.getByRole('textbox', { name: 'Name of the space (required)', exact: true });
  await expect(async () => {
    await box.fill('');
    await box.fill(name);
    await expect(box).toHaveAccessibleDescription(/Name of the space is taken already\. Choose another\./, { timeout: 15_000 });
  }).toPass();

  // Who owns it finds it among their things, and names somebody else.
  await owner.goto('/counter/things');
  const thing = owner.getByRole('list', { name: 'My things', exact: true }).getByRole('listitem').filter({ hasText: name });
  await expect(thing).toContainText('project space');
  await thing.getByRole('link', { name: begins('Another owner for a project space') }).click();
  await expect(owner.getByRole('status', { name: /^Its name/ })).toHaveText(name);
  await pick(owner, 'Who is to own it (required)', cast.technician);
  await owner.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('I go to sea.');
  const another = await send(owner);
  const technician = await as('technician');
  await approve(technician, another, 'Another owner for a project space');
  await waitFor(owner, another, 'Fulfilled');
  await owner.goto('/counter/things');
  await thing.getByText(/^Give it back/).click();
  await thing.getByRole('button', { name: `Give back ${name}`, exact: true }).click();
  await expect(async () => {
    await owner.reload();
    await expect(thing).toHaveCount(0, { timeout: 5000 });
  }).toPass();
  expect((await spaces.find(name))!.owners).toHaveLength(2);

  // Nobody uses it: at the next reading its first owner is asked, and lets it be closed.
  await spaces.use(name, 120);
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByRole('link', { name: 'Project spaces', exact: true }).click();
  await designer.getByRole('button', { name: 'Read it now', exact: true }).click();
  await expect(designer.getByRole('row').filter({ hasText: name })).toContainText('120');
  await designer.getByRole('link', { name, exact: true }).click();
  await expect(designer.getByRole('region', { name: `Row ${name}`, exact: true })).toBeVisible();
  const followed = designer.getByRole('list', { name: 'What followed', exact: true });
  await expect(async () => {
    await designer.reload();
    await expect(followed).toContainText(`was asked for as ${cast.approver}`, { timeout: 5000 });
  }).toPass();
  const still = /R-\d+/.exec((await followed.textContent()) ?? '')![0];
  await approver.goto(`/counter/requests/${still.slice(2)}`);
  await expect(approver.getByText(/^Nobody has used the project space/).first()).toBeVisible();
  await choose(approver.getByRole('combobox', { name: 'The space (required)', exact: true }), 'Can be closed');
  await approver.getByRole('button', { name: 'Send my answer', exact: true }).click();
  await waitFor(approver, still, 'Fulfilled');
  expect(await spaces.find(name)).toMatchObject({ state: 'closed' });
});

test('where the system of the spaces refuses, the space is set up by hand; the table of spaces says which are open', async ({ as }) => {
  const [requester, owner, approver] = [await as('requester'), await as('owner'), await as('approver')];
  const name = `lunnick-${mark}`;
  await fill(requester, name);
  const number = await send(requester);
  await approve(owner, number, 'Project space');
  // Somebody takes the name past us meanwhile.
  await spaces.prepare(name);
  await approve(approver, number, 'Project space');
  await waitFor(requester, number, 'The space is set up');
  const designer = await as('designer');
  await designer.goto('/workshop/tables');
  await designer.getByRole('link', { name: 'Project spaces', exact: true }).click();
  await expect(designer.getByRole('status').filter({ hasText: 'Read from Project spaces (The spaces that are open) every 5 minutes' })).toBeVisible();
  await designer.getByRole('button', { name: 'Read it now', exact: true }).click();
  await expect(designer.getByRole('columnheader', { name: /^Days without use/ })).toBeVisible();
  await expect(designer.getByRole('link', { name, exact: true })).toHaveCount(0);
});
