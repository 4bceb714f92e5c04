import { choose, expect, fresh, test } from './support/story.ts';
import { itemWith, now, publish, saved, text, told } from './support/workshop.ts';

test('a category has its picture, and the Counter is narrowed to it and to what lies within', async ({ as }) => {
  const name = fresh('Quay lamp');
  const { page } = await itemWith(as, name, { fields: [{ id: 'why', kind: 'text', label: 'What for', required: true }] }, [told('end')]);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await page.getByRole('textbox', { name: 'Category', exact: true }).fill('Harbour/Lamps');
  await saved(page);
  await publish(page);
  await page.goto('/workshop/categories');
  await choose(page.getByRole('combobox', { name: 'Picture of Harbour', exact: true }), 'Anchor');
  await page.getByRole('button', { name: 'Keep the picture of Harbour', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'Picture of Harbour', exact: true })).toHaveText('Anchor');

  const requester = await as('requester');
  await requester.goto('/counter');
  const categories = requester.getByRole('navigation', { name: 'Categories', exact: true });
  await categories.getByRole('link', { name: /^Harbour / }).click();
  await expect(requester.getByRole('link', { name: new RegExp(name) })).toBeVisible();
  await expect(requester.getByRole('link', { name: /^Join a group/ })).toHaveCount(0);
  await expect(requester.getByRole('heading', { level: 2, name: 'Harbour / Lamps', exact: true })).toBeVisible();
  await categories.getByRole('link', { name: /^Lamps / }).click();
  await expect(categories.getByRole('link', { name: /^Lamps / })).toHaveAttribute('aria-current', 'true');
  // The search stays within it; the category that is chosen leads out again.
  await requester.getByRole('searchbox', { name: 'Search what can be asked for', exact: true }).fill('group');
  await expect(requester.getByText(/^\s*Nothing that can be asked for matches “group”\./)).toBeVisible();
  await categories.getByRole('link', { name: /^Harbour / }).click();
  await expect(requester.getByRole('link', { name: /^Join a group/ })).toBeVisible();
});

test('whoever has a task corrects what it opens; a wrong answer is told at its field', async ({ as }) => {
  const name = fresh('Buoy paint');
  const form = { fields: [{ id: 'tins', kind: 'number', label: 'Tins', required: true, min: 1, max: 9 }] };
  const task = {
    id: 'mix',
    kind: 'task',
    name: fresh('Mix the paint'),
    expected: now,
    assignee: { from: { ref: 'request.requester' } },
    instructions: [{ text: text('Mix it.') }],
    checklist: [],
    fields: [],
    corrects: ['tins'],
  };
  const { page } = await itemWith(as, name, form, [task, told('end')]);
  await publish(page);
  const requester = await as('requester');
  await requester.goto(`/counter?q=${encodeURIComponent(name)}`);
  await requester
    .getByRole('link', { name: new RegExp(name) })
    .first()
    .click();
  await requester
    .getByRole('spinbutton', { name: 'Tins (required)', exact: true })
    .or(requester.getByRole('textbox', { name: 'Tins (required)', exact: true }))
    .fill('3');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await requester.goto('/desk/queue');
  await requester.getByRole('row', { name: new RegExp(task.name) }).click();
  const asked = requester.getByRole('region', { name: 'What was asked', exact: true });
  await expect(asked).toContainText('3');
  await asked.getByText('Correct what was asked: Tins', { exact: true }).click();
  const tins = asked.getByLabel('Tins (required)', { exact: true });
  await tins.fill('12');
  await asked.getByRole('button', { name: 'Correct what was asked', exact: true }).click();
  await expect(asked.getByText('Tins: at most 9.', { exact: true })).toBeVisible();
  await tins.fill('4');
  await asked.getByRole('button', { name: 'Correct what was asked', exact: true }).click();
  await expect(requester.getByText('What was asked is corrected; what follows reads it so.', { exact: true })).toBeVisible();
  await expect(asked.locator('dd').filter({ hasText: '4' })).toBeVisible();
});
