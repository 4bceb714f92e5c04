import { choose, expect, test } from './support/story.ts';
import { insert, itemWith, now, saved, sheet, step, told } from './support/workshop.ts';

/** The plan language on the sheet: every kind of step, by names and in sentences. */
test('every verb can be inserted by keyboard, says what it still lacks, and is kept', async ({ as }) => {
  const { page } = await itemWith(as, 'Every verb', { fields: [] }, [told('first')]);
  const verbs = [
    'Gate',
    'Task',
    'Provision',
    'Tell',
    'Ask back',
    'Find',
    'Work out',
    'Choose',
    'Together',
    'For each',
    'Repeat',
    'Guard',
    'Pause',
    'Mark',
    'Part',
    'Finish',
  ];
  for (const verb of verbs) {
    await insert(page, verb);
    await expect(page.getByRole('heading', { level: 2, name: verb, exact: true })).toBeVisible();
  }
  await saved(page);
  await page.reload();
  await expect(sheet(page).getByRole('row', { name: /^\d+ [A-Z][a-z ]+: / })).toHaveCount(verbs.length + 1);
  await expect(page.getByLabel('What the check finds', { exact: true })).toContainText('does not have an action yet');
});

test('sheet: wrap, unwrap, copy into another item, drag to where it may go, and all of it undone', async ({ as }) => {
  const { page } = await itemWith(as, 'Shapes', { fields: [] }, [told('a'), { ...told('b'), name: 'Tell again' }]);
  await step(page, 'b').click();
  await choose(page.getByLabel('Wrap this step', { exact: true }), 'Side by side with another branch');
  await expect(page.getByRole('heading', { level: 2, name: 'Together', exact: true })).toBeVisible();
  await expect(step(page, 'together')).toBeVisible();
  await step(page, 'b').click();
  await page.keyboard.press('Escape');
  await step(page, 'b').press('Control+c');
  await expect(page.getByText(/^\s*“Tell again” copied\./)).toBeVisible();
  await step(page, 'a').focus();
  await page.keyboard.press('Control+v');
  await expect(sheet(page).getByText('Tell again 2', { exact: true })).toBeVisible();
  await step(page, 'together').click();
  await page.getByRole('button', { name: /^Unwrap/ }).click();
  await expect(step(page, 'together')).toHaveCount(0);
  await expect(sheet(page).locator('[data-step]')).toHaveCount(3);
  await page.keyboard.press('Escape');

  // By its grip: the last step to the front.
  await step(page, 'b').hover();
  const grip = (await sheet(page).locator('[data-grip="b"]').boundingBox())!;
  await page.mouse.move(grip.x + 5, grip.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip.x + 5, grip.y - 12, { steps: 4 });
  const first = (await step(page, 'a').boundingBox())!;
  await page.mouse.move(grip.x + 5, first.y + 4, { steps: 12 });
  // Let go where the spot under the pointer says that it would be taken.
  await expect(sheet(page).locator('[data-over]')).toBeVisible();
  await page.mouse.up();
  await expect(async () => {
    const order = await sheet(page)
      .locator('[data-step]')
      .evaluateAll((all) => all.map((e) => e.getAttribute('data-step')));
    expect(order[0]).toBe('b');
  }).toPass();
  await saved(page);

  const other = await itemWith(as, 'Taker', { fields: [] }, [told('x')]);
  await step(other.page, 'x').focus();
  await other.page.keyboard.press('Control+v');
  await expect(sheet(other.page).getByText('Tell again', { exact: true })).toHaveCount(0);
  await page.bringToFront();
  await step(page, 'b').focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z');
  await expect(sheet(page).locator('[data-step]')).toHaveCount(2);
});

test('sentences: the plan as numbered sentences, edited in the same slip; findings are mended by a button', async ({ as }) => {
  const { page } = await itemWith(as, 'In words', { fields: [] }, [
    {
      id: 'agree',
      kind: 'gate',
      name: 'Agreement',
      expected: now,
      approvers: { from: 'managerOf', person: { ref: 'request.requester' } },
      rule: { rule: 'first' },
      ownRequest: 'allow',
      reminders: { after: 'P1D', times: 2 },
    },
    {
      id: 'often',
      kind: 'repeat',
      name: 'Look often',
      expected: now,
      body: [told('t')],
      until: { compare: 'more', left: { ref: 'request.now' }, right: { ref: 'request.opened' } },
    },
  ]);
  await page.getByRole('link', { name: 'Sentences', exact: true }).click();
  const script = page.getByRole('list', { name: 'The plan in sentences', exact: true });
  await expect(script).toContainText(
    'Ask the manager of Requester; the first reply decides. Remind them after 1 d of working time, at most 2 times.',
  );
  await expect(script).toContainText('2.1');
  const found = page.getByLabel('What the check finds', { exact: true });
  for (const name of ['Then the request fails', 'Ask their manager instead', 'At most 100 tries']) {
    const mend = found.getByRole('button', { name, exact: true });
    await mend.click();
    await expect(mend).toHaveCount(0);
  }
  await expect(found).toContainText('The check finds nothing');
  await script.getByRole('button', { name: /Agreement/ }).click();
  await page.getByLabel(/^Lapses when nobody answers/).check();
  await expect(script).toContainText('Lapses after 5 d of working time.');
  await saved(page);
  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'BPMN file', exact: true }).click()]);
  expect(file.suggestedFilename()).toMatch(/\.bpmn$/);
});
