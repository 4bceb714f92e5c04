import { begins, expect, fresh, pick, state, test } from './support/story.ts';
import { itemWith, now, publish, saved, text, told } from './support/workshop.ts';

const task = (id: string, name: string, forRequester: string) => ({
  id,
  kind: 'task',
  name,
  forRequester,
  expected: now,
  assignee: { person: { literal: { person: '' } } },
  instructions: [{ text: text('Do it.') }],
  checklist: [],
  fields: [],
});

test('asked for somebody else by who leads them; both follow it; withdrawn, its closing comes first', async ({ as }) => {
  const name = fresh('Lent anchor');
  const fetching = fresh('Fetch the anchor');
  const { page } = await itemWith(as, name, { fields: [{ id: 'why', kind: 'text', label: 'What it is for', required: true }] }, [
    { ...task('hand', 'Hand the anchor over', 'The anchor is handed over'), assignee: { from: { ref: 'request.for' } } },
    told('end'),
    {
      id: 'close',
      kind: 'closing',
      name: 'The anchor comes back',
      expected: now,
      withdrawn: [{ ...task('fetch', fetching, 'The anchor is fetched'), assignee: { from: { ref: 'request.for' } } }],
    },
  ]);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await page.getByRole('checkbox', { name: /^Can be asked for on behalf of others/ }).check();
  await expect(page.getByRole('checkbox', { name: 'By managers, for the people they lead', exact: true })).toBeChecked();
  await saved(page);
  await publish(page);

  const manager = await as('approver');
  await manager.goto(`/counter?q=${encodeURIComponent(name)}`);
  await manager
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
  await manager.getByRole('textbox', { name: 'What it is for (required)', exact: true }).fill('The survey boat');
  await pick(manager, 'For whom', 'Tuva', 'Tuva Fossness');
  await manager.getByRole('button', { name: 'Send request', exact: true }).click();
  // Who does not lead them is told so at the field, and nothing typed is lost.
  await expect(manager.getByText(/^You may not ask for Tuva Fossness: /)).toBeVisible();
  await expect(manager.getByRole('textbox', { name: 'What it is for (required)', exact: true })).toHaveValue('The survey boat');
  await pick(manager, 'For whom', 'Solveig', 'Solveig Langskar');
  await expect(manager.getByText(/^You may not ask for/)).toHaveCount(0);
  await manager.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(manager.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  await expect(manager.getByText(/^\s*You asked for Solveig Langskar/)).toBeVisible();

  const owner = await as('owner');
  await owner.goto('/counter/requests');
  const row = owner.getByRole('listitem').filter({ hasText: name });
  await expect(row).toContainText('asked for you by Ivar Tidemark');
  await row.getByRole('link').click();
  await expect(owner.getByText(/^\s*Ivar Tidemark asked for you/)).toBeVisible();
  await expect(owner.getByText('Withdraw this request …', { exact: true })).toHaveCount(0);

  await manager.getByText('Withdraw this request …', { exact: true }).click();
  await manager.getByRole('button', { name: /^Withdraw R-\d+$/ }).click();
  await expect(state(manager)).toContainText('Withdrawn; what was begun is being wound up');
  // The page of whom it is for changes by itself.
  await expect(state(owner)).toContainText('Withdrawn; what was begun is being wound up');
  await owner.goto('/desk/queue');
  await owner.getByRole('row', { name: new RegExp(fetching) }).click();
  await owner.getByRole('button', { name: 'Finish this task', exact: true }).click();
  await expect(owner.getByText(/^Finished by Solveig Langskar/)).toBeVisible();
  await expect(manager.getByText(/Withdrawn by the requester\./)).toBeVisible();
});
