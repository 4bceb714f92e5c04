import { begins, expect, fresh, state, test } from './support/story.ts';
import { itemWith, publish, told } from './support/workshop.ts';

test('several things in one go: put together, changed, taken out and back, sent as an order that is over with its last', async ({ as }) => {
  const gate = {
    id: 'ask',
    kind: 'gate',
    name: 'The manager agrees',
    forRequester: 'Your manager agrees',
    expected: { min: 'PT10M', likely: 'PT4H', max: 'P3D' },
    approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
    rule: { rule: 'all' },
    ownRequest: 'skip',
    nobody: { then: 'pass' },
  };
  const names: string[] = [];
  const items: [string, object[]][] = [
    ['Lead line', [told('end')]],
    ['Sextant', [gate, told('end')]],
  ];
  for (const [what, steps] of items) {
    const name = fresh(what);
    const form = { fields: [{ id: 'why', kind: 'text', label: 'What it is for', required: true }] };
    const { page, name: called } = await itemWith(as, name, form, steps);
    await publish(page);
    await page.context().close();
    names.push(called);
  }
  const page = await as('requester');
  const fill = async (name: string, why: string) => {
    await page.goto(`/counter?q=${encodeURIComponent(name)}`);
    await page
      .getByRole('link', { name: begins(name) })
      .first()
      .click();
    await page.getByRole('button', { name: 'Put into the basket', exact: true }).click();
    // Nothing is put there that the form would not take.
    await expect(page.getByRole('textbox', { name: 'What it is for (required)', exact: true })).toBeFocused();
    await page.getByRole('textbox', { name: 'What it is for (required)', exact: true }).fill(why);
    await page.getByRole('button', { name: 'Put into the basket', exact: true }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Basket', exact: true })).toBeVisible();
  };
  await fill(names[0]!, 'The inner bay');
  await fill(names[1]!, 'The outer bay');
  await expect(page.getByRole('link', { name: 'Basket 2 inside', exact: true })).toBeVisible();

  await page.getByRole('link', { name: `Change ${names[0]}`, exact: true }).click();
  await page.getByRole('textbox', { name: 'What it is for (required)', exact: true }).fill('The whole bay');
  await page.getByRole('button', { name: 'Keep it in the basket', exact: true }).click();
  const first = page.getByRole('listitem', { name: names[0], exact: true });
  await expect(first).toContainText('The whole bay');
  await page.getByRole('button', { name: `Take out ${names[1]}`, exact: true }).click();
  await expect(page.getByRole('button', { name: 'Send this request', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Put it back', exact: true }).click();

  await page.getByRole('button', { name: 'Send all 2 requests', exact: true }).click();
  await expect(page.getByText(/^\s*Everything in your basket is on its way\./)).toBeVisible();
  await expect(page.getByRole('heading', { level: 1, name: 'Order of 2 things', exact: true })).toBeVisible();
  // The page changes by itself: the first is over at once, the second waits for the manager.
  await expect(state(page)).toContainText('1 of 2 over');
  const order = page.url();
  await page.getByRole('link', { name: new RegExp(names[1]!) }).click();
  await page.getByText('Withdraw this request …', { exact: true }).click();
  await page.getByRole('button', { name: /^Withdraw R-\d+$/ }).click();
  await expect(state(page)).toContainText('Withdrawn');
  await page.getByRole('link', { name: /^of order R-\d+$/ }).click();
  await page.waitForURL(order.split('?')[0]!);
  await expect(state(page)).toContainText('All of it is over');
  await page.goto('/counter/basket');
  await expect(page.getByText(/There is nothing in your basket\./)).toBeVisible();
});
