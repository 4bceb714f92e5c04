import { directory } from './support/outside.ts';
import { askToJoin, choose, expect, fresh, openApproval, test, waitFor } from './support/story.ts';
import { addField } from './support/workshop.ts';

/** When something fails, and when something new is set up: stuck steps, parts, systems. */
test('stuck: the Desk lists it with its cause; it is taken over with the values the step would have given', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'Stuck on purpose');
  await directory.manner('refusing');
  try {
    const approver = await as('approver');
    await openApproval(approver, number);
    await approver.getByRole('button', { name: /^Approve for/ }).click();
    await expect(approver.getByText(/^\s*You approved this\./)).toBeVisible();
    const technician = await as('technician');
    await expect(async () => {
      await technician.goto('/desk/stuck');
      await expect(technician.getByRole('link', { name: new RegExp(`${number}`) })).toBeVisible({ timeout: 2000 });
    }).toPass();
    await technician.getByRole('link', { name: new RegExp(`${number}`) }).click();
    await expect(technician.getByText(/^\s*Revision/).first()).toBeVisible();
    await technician.getByText('Take over …', { exact: true }).click();
    await technician.getByLabel('Why, and what was done', { exact: true }).fill('Added in the console of the directory');
    await technician.getByRole('button', { name: 'It was done by hand; go on', exact: true }).click();
    await expect(technician.getByText(/^\s*“Was already a member” must be a yes or no/)).toBeVisible();
    await choose(technician.getByLabel(/^Was already a member/), 'no');
    await technician.getByRole('button', { name: 'It was done by hand; go on', exact: true }).click();
    await expect(technician.getByText(/taken over by hand/)).toBeVisible();
    await expect(technician.getByText('Added in the console of the directory', { exact: true })).toBeVisible();
  } finally {
    await directory.manner('well');
  }
  await waitFor(requester, number, 'Fulfilled');
});

test('part: begun, drawn, published, and used in an item', async ({ as }) => {
  const page = await as('designer');
  const name = fresh('Label it');
  await page.goto('/workshop/items?kind=part&new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  await addField(page, 'Person');
  await page
    .getByLabel(/^Label/)
    .first()
    .fill('Who labels');
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await page.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await page.keyboard.type('Mark');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: /^Words the requester sees/ }).fill('Labelled');
  await expect(page.getByText('Draft saved', { exact: true })).toBeVisible();
  await page.getByRole('link', { name: /^Publish revision 1/ }).click();
  await page.getByRole('button', { name: 'Publish revision 1', exact: true }).click();
  await expect(page.getByText(/offered now/)).toBeVisible();

  await page.goto('/workshop/items?new');
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh('Uses a part'));
  await page.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await page.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await page.keyboard.type('Part');
  await page.keyboard.press('Enter');
  await choose(page.getByRole('combobox', { name: 'Part', exact: true }), name);
  await choose(page.getByRole('combobox', { name: 'Who labels (required)', exact: true }), 'Requester');
  await page.getByRole('link', { name: 'Sentences', exact: true }).click();
  await expect(page.getByRole('list', { name: 'The plan in sentences', exact: true })).toContainText(`Do the part “${name}” (who labels Requester).`);
  // Not offered at the Counter by itself.
  await page.goto(`/counter?q=${encodeURIComponent(name)}`);
  await expect(page.getByText('0 found', { exact: true })).toBeVisible();
});

test('system: registered by an administrator, its actions are offered to plans; a designer cannot register one', async ({ as }) => {
  const administrator = await as('administrator');
  const name = fresh('Berths');
  await administrator.goto('/workshop/systems/new');
  await administrator.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await administrator.getByRole('textbox', { name: /^Address/ }).fill('ftp://berths.example');
  await administrator.getByRole('button', { name: 'Add an action', exact: true }).click();
  await administrator.getByRole('button', { name: 'Register this system', exact: true }).click();
  // Each problem stands at its field, the first one has the keyboard, and what is put right is told no more.
  const address = administrator.getByRole('textbox', { name: 'Address (required)', exact: true });
  await expect(address).toBeFocused();
  await expect(address).toHaveAccessibleDescription('The address is an http or https URL.');
  const action = administrator.getByRole('textbox', { name: 'Name of the action', exact: true });
  await expect(action).toHaveAccessibleDescription('Every action needs a name.');
  await action.fill('Reserve a berth');
  await expect(action).toHaveAccessibleDescription('');
  await address.fill('https://berths.example');
  await expect(administrator.getByText(/The address is an http or https URL\./)).toHaveCount(0);
  await administrator.getByRole('button', { name: 'Register this system', exact: true }).click();
  await expect(administrator.getByRole('heading', { name, exact: true })).toBeVisible();

  // It answers later: asked about, and by a call back, for which a key is wanted.
  await choose(
    administrator.getByRole('combobox', { name: 'When Reserve a berth is done', exact: true }),
    'May be accepted first and answered later',
  );
  await administrator.getByRole('checkbox', { name: /^It calls back, signed with the key of its answers/ }).click();
  await administrator.getByRole('textbox', { name: 'How Reserve a berth stands: JSON Pointer', exact: true }).fill('/state');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(administrator.getByRole('textbox', { name: 'Words that mean Reserve a berth is done', exact: true })).toHaveAccessibleDescription(
    'Say which word means that it is done.',
  );
  await administrator.getByRole('textbox', { name: 'Words that mean Reserve a berth is done', exact: true }).fill('moored, fast');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  const key = administrator.getByRole('textbox', { name: 'Key of its answers', exact: true });
  await expect(key).toHaveAccessibleDescription(/State the key that the system signs its answers with\./);
  await key.fill('a-key-that-is-long-enough-to-sign-with');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(administrator.getByText(/^\s*The system is saved\./)).toBeVisible();
  await administrator.reload();
  await expect(administrator.getByRole('textbox', { name: 'Words that mean Reserve a berth is done', exact: true })).toHaveValue('moored, fast');
  await expect(administrator.getByText('One is kept, sealed. Left empty it stays.', { exact: true })).toBeVisible();

  const designer = await as('designer');
  await designer.goto('/workshop/systems');
  await expect(designer.getByRole('link', { name: /Register a system/ })).toHaveCount(0);
  await designer.getByRole('row', { name: new RegExp(name) }).click();
  await expect(
    designer.getByText(`${name} has no owner yet, so no item that gives something of it can be published.`, { exact: true }),
  ).toBeVisible();
  await expect(designer.getByRole('listitem').filter({ hasText: 'Reserve a berth' })).toBeVisible();
  await designer.goto('/workshop/items?new');
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh('Berth'));
  await designer.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await designer.waitForURL(/\/ask$/);
  await designer.getByRole('link', { name: 'Plan', exact: true }).click();
  await designer.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await designer.keyboard.type('Provision');
  await designer.keyboard.press('Enter');
  await designer.getByLabel('Action', { exact: true }).click();
  await expect(designer.getByRole('group', { name, exact: true }).getByRole('option')).toHaveText(['Reserve a berth']);
});
