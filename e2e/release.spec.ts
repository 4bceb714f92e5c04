import { begins, choose, expect, fresh, state, test } from './support/story.ts';
import { insert, itemWith, publish, saved, step, told } from './support/workshop.ts';

test('a revision is planned for a day, as the draft is then, and taken back; a rule counts working days', async ({ as }) => {
  const name = fresh('Slipway booking');
  const { page } = await itemWith(as, name, { fields: [{ id: 'day', kind: 'date', label: 'First day', required: true }] }, [told('end')]);
  await publish(page);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await page.getByRole('button', { name: 'Rules between fields', exact: true }).click();
  await page.getByRole('button', { name: 'Add a rule', exact: true }).click();
  await choose(page.getByRole('combobox', { name: 'Rule 1: what must hold', exact: true }), 'A date is so many days after another day');
  await choose(page.getByRole('combobox', { name: 'Rule 1: the date', exact: true }), 'First day');
  await page
    .getByRole('textbox', { name: 'Rule 1: what is said where it does not', exact: true })
    .fill('Choose a day two working days from now, or later.');
  await choose(page.getByRole('combobox', { name: 'Rule 1: at which field', exact: true }), 'First day');
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision 2/ }).click();

  await page.getByRole('radio', { name: 'On a day, as the draft is now', exact: true }).check();
  await page.getByRole('button', { name: 'Publish revision 2 on that day', exact: true }).click();
  await expect(page.getByText('Choose a day and a time that are still to come.', { exact: true }).first()).toBeVisible();
  const tomorrow = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);
  await page
    .getByRole('combobox', { name: 'Day', exact: true })
    .or(page.getByRole('textbox', { name: 'Day', exact: true }))
    .fill(tomorrow);
  await page.getByRole('button', { name: 'Publish revision 2 on that day', exact: true }).click();
  const waits = page.getByRole('region', { name: 'To be published', exact: true });
  await expect(waits).toContainText(/^To be published \d+ \w{3} \d{4}, 08:00/);
  await page.getByRole('radio', { name: 'At once', exact: true }).check();
  await expect(page.getByRole('button', { name: 'Publish revision 2', exact: true })).toBeDisabled();
  await expect(page.getByText('Take back what is to be published first.', { exact: true })).toBeVisible();
  await waits.getByRole('button', { name: 'Take it back', exact: true }).click();
  await expect(waits).toHaveCount(0);
  await page.getByRole('button', { name: 'Publish revision 2', exact: true }).click();
  await expect(page.getByText(/^Revision 2 is offered since/)).toBeVisible();

  const requester = await as('requester');
  await requester.goto(`/counter?q=${encodeURIComponent(name)}`);
  await requester
    .getByRole('link', { name: begins(name) })
    .first()
    .click();
  const day = requester.getByRole('textbox', { name: 'First day (required)', exact: true });
  await day.fill(new Date().toISOString().slice(0, 10));
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Choose a day two working days from now, or later.', { exact: true })).toBeVisible();
  await day.fill(new Date(Date.now() + 6 * 86_400_000).toISOString().slice(0, 10));
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(state(requester)).toContainText('Fulfilled');
});

test('what the draft says otherwise than a revision is seen on the sheet, and follows every change', async ({ as }) => {
  const name = fresh('Gangway');
  const other = { ...told('second'), name: 'Tell it again' };
  const { page } = await itemWith(as, name, { fields: [{ id: 'why', kind: 'text', label: 'What for', required: true }] }, [told('end'), other]);
  await publish(page);
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await step(page, 'second').focus();
  await page.keyboard.press('Delete');
  await step(page, 'end').focus();
  await page.keyboard.press('F2');
  await page.getByRole('textbox', { name: 'Name of “Tell the end”', exact: true }).fill('Tell that it is over');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision 2/ }).click();
  await page.getByRole('button', { name: 'Compare', exact: true }).click();
  await page.getByRole('link', { name: 'See it on the sheet', exact: true }).click();
  const head = page.getByRole('status').filter({ hasText: 'Against revision 1' });
  await expect(head).toContainText('1 changed, 1 gone');
  await expect(step(page, 'end')).toContainText('changed');
  await expect(step(page, 'end')).toHaveAccessibleName(/Against the revision: Tell “Tell the end” is called “Tell that it is over” now\./);
  await page.getByRole('button', { name: 'What is gone', exact: true }).click();
  await expect(page.getByText('Tell “Tell it again” is gone.', { exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await insert(page, 'pause');
  await expect(head).toContainText('1 added, 1 changed, 1 gone');
  await page.getByRole('link', { name: 'Without revision 1', exact: true }).click();
  await expect(head).toHaveCount(0);
});
