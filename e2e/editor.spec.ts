import type { Page } from '@playwright/test';
import { choicesOf, choose, expect, fresh, test, type SignedIn } from './support/story.ts';
import { addField, insert, itemWith, now, saved, sheet, step, told } from './support/workshop.ts';

/** A copy of the demo's item, for this test alone. */
async function copy(as: SignedIn, name: string, leaf: 'ask' | 'plan'): Promise<Page> {
  const page = await as('designer');
  await page.goto('/workshop/items');
  await page
    .getByRole('row', { name: 'Join a group', exact: true })
    .getByRole('link', { name: /^Begin a copy/ })
    .click();
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh(name));
  await page.getByRole('button', { name: 'Begin the copy', exact: true }).click();
  await page.waitForURL(/\/ask$/);
  if (leaf === 'plan') {
    await page.getByRole('link', { name: 'Plan', exact: true }).click();
    await expect(step(page, 'owners')).toBeVisible();
  }
  return page;
}
test('Ask: fields are added, ordered, renamed and removed; undo reaches from one leaf into the other', async ({ as }) => {
  const page = await copy(as, 'Fields in order', 'ask');
  const fields = page.getByLabel('Fields', { exact: true });
  const labels = () => fields.locator('ol button.grow > span:first-child').allTextContents();
  await addField(page, 'Person');
  await expect(page.getByLabel(/^Label/)).toBeFocused();
  await page.getByLabel(/^Label/).fill('Colleague');
  await page.getByLabel('Help', { exact: true }).fill('Who works on it with you.');
  await page.getByLabel('An answer is required', { exact: true }).uncheck();
  await page.getByRole('button', { name: 'Move “Colleague” up', exact: true }).click();
  expect((await labels()).map((l) => l.trim())).toEqual(['Group', 'Kind of work', 'Name of the survey', 'Colleague', 'What you need it for']);
  const preview = page.getByRole('complementary', { name: 'Preview', exact: true });
  await expect(preview.getByText('Who works on it with you.', { exact: true })).toBeVisible();
  // By keyboard too: Alt with an arrow on the field itself.
  await fields.getByRole('button', { name: /^Colleague/ }).press('Alt+ArrowUp');
  expect((await labels())[2]!.trim()).toBe('Colleague');
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await step(page, 'owners').focus();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await expect(fields.getByRole('button', { name: /^Colleague/ })).toBeVisible();
  expect((await labels()).map((l) => l.trim())).toEqual(['Group', 'Kind of work', 'Name of the survey', 'What you need it for', 'Colleague']);
  await fields.getByRole('button', { name: /^Colleague/ }).click();
  await page.getByRole('button', { name: 'Remove “Colleague”', exact: true }).click();
  await saved(page);
  await page.reload();
  await expect(fields.getByRole('button', { name: /^What you need it for/ })).toBeVisible();
  expect(await labels()).toHaveLength(4);
});

test('Ask: removing a field that the plan uses is found at once, with the way there', async ({ as }) => {
  const page = await copy(as, 'Field gone', 'ask');
  await page.getByRole('button', { name: /^Group Group/ }).click();
  await page.getByRole('button', { name: 'Remove “Group”', exact: true }).click();
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  const found = page.getByLabel('What the check finds', { exact: true });
  await expect(found).toContainText('Approvers of “Owners of the group agree” uses “Group”, which the form does not ask any more.');
  await found.getByRole('link', { name: /^Approvers of/ }).click();
  await expect(page.getByLabel('Which group', { exact: true })).toHaveText('A value that does not exist here');
  await expect(step(page, 'owners')).toHaveAccessibleName(/Stops publishing: Approvers/);
});

test('Gate: every setting of it, in words on the sheet and kept', async ({ as }) => {
  const page = await copy(as, 'Gate settings', 'plan');
  await step(page, 'owners').click();
  await choose(page.getByLabel('Approvers', { exact: true }), 'The manager of a person');
  await expect(sheet(page).getByText('The manager of Requester', { exact: true })).toBeVisible();
  await choose(page.getByLabel('Rule', { exact: true }), 'At least so many must approve');
  await page.getByLabel('How many must approve', { exact: true }).fill('3');
  await choose(page.getByLabel('If the requester is among them', { exact: true }), 'Let them decide on their own request');
  await expect(page.getByRole('list', { name: 'Findings', exact: true })).toContainText('requesters may approve their own request');
  await choose(page.getByLabel('Approvers', { exact: true }), 'Named people, or choose …');
  await page.getByRole('combobox', { name: 'Add a named approver', exact: true }).fill('solveig langs');
  await page.getByRole('option', { name: /Solveig Langskar/ }).click();
  await page.getByRole('combobox', { name: 'Add a named approver', exact: true }).fill('ivar tidemark');
  await page.getByRole('option', { name: /Ivar Tidemark/ }).click();
  await expect(page.getByRole('list', { name: 'Findings', exact: true })).toContainText('wants 3 approvals and asks 2');
  await page.getByLabel('How many must approve', { exact: true }).fill('2');
  await expect(page.getByText(/wants 3 approvals/)).toHaveCount(0);
  await expect(sheet(page).getByText('Solveig Langskar, Ivar Tidemark', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Do not ask Ivar Tidemark', exact: true }).click();
  await page.getByRole('combobox', { name: 'Whom to ask instead', exact: true }).fill('una rav');
  await page.getByRole('option', { name: /Una Ravnskar/ }).click();
  await page.getByLabel(/^Steps of its own when approved/).check();
  await expect(page.getByRole('button', { name: 'first step here, in “When approved”', exact: true })).toBeVisible();
  await page.getByLabel('At least: number', { exact: true }).fill('1');
  await choose(page.getByLabel('At least: unit', { exact: true }), 'h');
  await saved(page);
  await page.reload();
  await expect(page.getByLabel('Rule', { exact: true })).toHaveText('At least so many must approve');
  await expect(page.getByLabel('How many must approve', { exact: true })).toHaveValue('2');
  await expect(page.getByRole('combobox', { name: 'Whom to ask instead', exact: true })).toHaveValue('Una Ravnskar');
  await expect(page.getByLabel('At least: number', { exact: true })).toHaveValue('1');
});

test('Gate: owners of a group that the form does not ask for: said why, what was stays, and mended by a button', async ({ as }) => {
  const page = await copy(as, 'No group', 'ask');
  await page.getByRole('button', { name: /^Group Group/ }).click();
  await page.getByRole('button', { name: 'Remove “Group”', exact: true }).click();
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await step(page, 'owners').click();
  const approvers = page.getByRole('combobox', { name: 'Approvers', exact: true });
  await choose(approvers, 'The manager of a person');
  await expect(sheet(page).getByText('The manager of Requester', { exact: true })).toBeVisible();
  await choose(approvers, 'The owners of a group');
  await expect(page.getByRole('alert')).toContainText(
    'The form asks for no group, so there are no owners to ask. Until it does, the approvers stay as they were.',
  );
  await expect(sheet(page).getByText('The manager of Requester', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Ask for a group in the form', exact: true }).click();
  await expect(page.getByRole('combobox', { name: 'Which group', exact: true })).toHaveText('Group');
  await saved(page);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await expect(page.getByLabel('Fields', { exact: true }).getByRole('button', { name: /^Group Group/ })).toBeVisible();
  // One act, undone as one: the field and the approvers.
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByLabel('Fields', { exact: true }).getByRole('button', { name: /^Group Group/ })).toHaveCount(0);
});

test('Gate: nothing is chosen where forgetting would be wrong; what is no number of reminders is told; a reminder too late is found', async ({
  as,
}) => {
  const page = await copy(as, 'Not chosen', 'plan');
  await step(page, 'owners').click();
  await choose(page.getByRole('combobox', { name: 'Approvers', exact: true }), 'A team');
  await expect(page.getByText('Until that is chosen, it stays as it was.', { exact: true })).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Which team', exact: true })).toHaveText('Choose a team …');
  await expect(sheet(page).getByText('The owners of Group', { exact: true })).toBeVisible();
  await choose(page.getByRole('combobox', { name: 'Which team', exact: true }), 'Directory and access');
  await expect(sheet(page).getByRole('columnheader', { name: 'Directory and access', exact: true })).toBeVisible();
  await page.getByRole('checkbox', { name: /^Remind those who have not answered/ }).check();
  const times = page.getByRole('textbox', { name: 'Reminders at most', exact: true });
  for (const typed of ['0', '-1', 'abc', '11']) {
    await times.fill(typed);
    await expect(page.getByRole('alert')).toHaveText('Type a whole number from 1 to 10.');
    await expect(times).toHaveValue(typed);
  }
  await times.fill('1');
  await expect(page.getByRole('alert')).toHaveCount(0);
  const findings = page.getByRole('list', { name: 'Findings', exact: true });
  await page.getByRole('checkbox', { name: /^Lapses when nobody answers/ }).check();
  await page.getByLabel('Remind after working time: number', { exact: true }).fill('9');
  await expect(findings).toContainText('nobody is ever reminded');
  await page.getByLabel('Remind after working time: number', { exact: true }).fill('2');
  await expect(findings.getByText(/nobody is ever reminded/)).toHaveCount(0);
  // What the requester reads is written for them, and shown what it is when it is left empty.
  const forRequester = page.getByRole('textbox', { name: 'Name for the requester', exact: true });
  await expect(forRequester).toHaveValue('The owners of the group agree');
  await forRequester.fill('');
  await expect(forRequester).toHaveAccessibleDescription(/^Left empty they read: “.+”\.$/);
  await saved(page);
});

test('Conditions: “any of these” stays chosen while a line is not whole', async ({ as }) => {
  const page = await copy(as, 'Any of these', 'plan');
  await insert(page, 'Choose');
  await page.getByRole('button', { name: 'Add a case', exact: true }).click();
  await expect(page.getByRole('textbox', { name: 'Name of case 2', exact: true })).toBeFocused();
  await choose(page.getByRole('combobox', { name: 'Case 1, line 1: value', exact: true }), 'Kind of work');
  await choose(page.getByRole('combobox', { name: 'Case 1, line 1: compared with', exact: true }), 'A survey');
  await page.getByRole('button', { name: 'Add a comparison', exact: true }).first().click();
  const joined = page.getByRole('combobox', { name: 'Case 1: how the lines are joined', exact: true });
  await choose(joined, 'Any of these holds');
  await expect(joined).toHaveText('Any of these holds');
  await choose(page.getByRole('combobox', { name: 'Case 1, line 2: value', exact: true }), 'Name of the survey (may have no value)');
  await choose(page.getByRole('combobox', { name: 'Case 1, line 2: test', exact: true }), 'has a value');
  await expect(joined).toHaveText('Any of these holds');
  await expect(
    sheet(page)
      .getByRole('row', { name: /Kind of work is A survey or Name of the survey has a value/ })
      .first(),
  ).toBeVisible();
  // A line taken out leaves the keyboard where something is added.
  await page.getByRole('button', { name: 'Remove line 2', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Add a comparison', exact: true }).first()).toBeFocused();
  await saved(page);
});

test('Choose: cases with conditions on what exists at that point; lines follow at once', async ({ as }) => {
  const page = await copy(as, 'Choose settings', 'plan');
  await insert(page, 'choose');
  await expect(page.getByRole('list', { name: 'Findings', exact: true })).toContainText('does not have a condition for the case “First case” yet');
  await page.getByLabel('Name of case 1', { exact: true }).fill('A survey');
  await choose(page.getByLabel('Case 1, line 1: value', { exact: true }), 'Kind of work');
  await choose(page.getByLabel('Case 1, line 1: compared with', { exact: true }), 'A survey');
  await expect(sheet(page).getByText('A survey: Kind of work is A survey', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Add a comparison', exact: true }).click();
  await choose(page.getByLabel('Case 1, line 2: value', { exact: true }), 'Name of the survey (may have no value)');
  await choose(page.getByLabel('Case 1, line 2: test', { exact: true }), 'has a value');
  await choose(page.getByLabel('Case 1: how the lines are joined', { exact: true }), 'Any of these holds');
  await expect(sheet(page).getByText('A survey: Kind of work is A survey or Name of the survey has a value', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Remove line 2', exact: true }).click();
  await page.getByRole('button', { name: 'Add a case', exact: true }).click();
  await choose(page.getByLabel('Case 2, line 1: value', { exact: true }), 'Was already a member');
  await choose(page.getByLabel('Case 2, line 1: compared with', { exact: true }), 'no');
  await expect(sheet(page).getByText('Case 2: Was already a member is no', { exact: true })).toBeVisible();
  await sheet(page).getByRole('button', { name: 'first step here, in “A survey: Kind of work is A survey”', exact: true }).click();
  await page.keyboard.type('tell');
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-slip-first]')).toHaveValue('Tell');
  await saved(page);
  await page.reload();
  await expect(step(page, 'tell')).toBeVisible();
  await expect(sheet(page).getByText('Case 2: Was already a member is no', { exact: true })).toBeVisible();
});

test('Provision and Finish: action, values of the right type, tries in words; outcome', async ({ as }) => {
  const page = await copy(as, 'Provision settings', 'plan');
  await insert(page, 'provision');
  await choose(page.getByLabel('Action', { exact: true }), 'Take a person out of a group');
  const group = page.getByLabel('Group (required)', { exact: true });
  // Only values of the type the action wants are offered.
  expect(await choicesOf(group)).toEqual(['Pick a value …', 'Group']);
  await choose(group, 'Group');
  await choose(page.getByLabel('Person (required)', { exact: true }), 'Decided by (may have no value)');
  await expect(page.getByRole('list', { name: 'Findings', exact: true })).toContainText(
    'Person of “Provision” uses “Decided by” of “Owners of the group agree”, which may have no value here.',
  );
  await page.getByLabel('Tries again', { exact: true }).fill('3');
  await page.getByLabel('First pause, s', { exact: true }).fill('10');
  await expect(page.getByText(/^\s*Tried again 3 times within 70 s/)).toBeVisible();
  await insert(page, 'finish');
  await choose(page.getByLabel('Outcome', { exact: true }), 'Failed');
  await insert(page, 'tell');
  await expect(page.getByLabel('What the check finds', { exact: true })).toContainText('“Tell” is never reached: the request has ended before it.');
  await page.getByRole('button', { name: 'Move up (Alt ↑)', exact: true }).click();
  await expect(page.getByText(/is never reached/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Remove (Delete)', exact: true }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(step(page, 'tell')).toBeVisible();
});

test('a plan of three hundred steps stays quick to type in', async ({ as }) => {
  const page = await copy(as, 'Three hundred', 'plan');
  const address = page.url().replace(/plan.*$/, 'draft');
  const filled = await page.evaluate(async (url) => {
    const { draft, version } = (await (await fetch(url)).json()) as {
      draft: { plan: { steps: { id: string; kind: string; name: string }[] } };
      version: number;
    };
    const tell = draft.plan.steps.at(-1) as unknown as { otherwise: { id: string; name: string }[] };
    const template = tell.otherwise[0]!;
    for (let i = 0; i < 294; i++) draft.plan.steps.push({ ...template, id: `more${i}`, name: `Step number ${i}` } as never);
    return (await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ version, draft }) })).status;
  }, address);
  expect(filled).toBe(200);
  await page.reload();
  // Lines out of sight are not drawn; the finder goes there, wherever the keyboard is on the sheet.
  await step(page, 'owners').focus();
  await expect(step(page, 'more150')).toHaveCount(0);
  await page.keyboard.press('Control+f');
  await page.keyboard.type('step number 150');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('search').getByRole('status')).toHaveText('1 of 1');
  await page.keyboard.press('Escape');
  await expect(step(page, 'more150')).toBeFocused();
  await page.keyboard.press('Enter');
  const name = page.locator('[data-slip-first]');
  await name.focus();
  const times = await page.evaluate(async () => {
    const input = document.querySelector<HTMLInputElement>('[data-slip-first]')!;
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
    const all: number[] = [];
    for (let i = 0; i < 15; i++) {
      const began = performance.now();
      set.call(input, `Step number 150 ${'x'.repeat(i + 1)}`);
      input.dispatchEvent(new Event('input', { bubbles: true }));
      await new Promise((painted) => requestAnimationFrame(() => setTimeout(painted)));
      all.push(performance.now() - began);
    }
    return all.toSorted((a, b) => a - b);
  });
  console.log(`    typing to paint in a plan of 300 steps: median ${Math.round(times[7]!)} ms, slowest ${Math.round(times[14]!)} ms`);
  await expect(step(page, 'more150')).toContainText('Step number 150 x');
  await saved(page);
});

test('Promise: a time for the whole and for a milestone, and a team that is told when it is near; all are kept', async ({ as }) => {
  const known = { id: 'known', kind: 'mark', name: 'The berth is known', expected: now, shows: 'milestone', words: 'We know where' };
  const { page } = await itemWith(as, 'A mooring in time', { fields: [] }, [known, told('end')]);
  await step(page, 'known').click();
  await page.getByRole('checkbox', { name: /^Promised to the requester/ }).check();
  const open = () => page.getByText('Promised time, taking back', { exact: true }).click();
  await open();
  await page.getByRole('checkbox', { name: /^Promise a time/ }).check();
  await page.getByRole('checkbox', { name: /^Tell a team when it is near/ }).check();
  await choose(page.getByRole('combobox', { name: 'Which team', exact: true }), 'Stores');
  await page.getByRole('textbox', { name: 'Once % of it are used', exact: true }).fill('60');
  await saved(page);
  await page.reload();
  await step(page, 'known').click();
  await expect(page.getByRole('checkbox', { name: /^Promised to the requester/ })).toBeChecked();
  await open();
  await expect(page.getByRole('checkbox', { name: /^Tell a team when it is near/ })).toBeChecked();
  await expect(page.getByRole('combobox', { name: 'Which team', exact: true })).toHaveText('Stores');
  await expect(page.getByRole('textbox', { name: 'Once % of it are used', exact: true })).toHaveValue('60');
});
