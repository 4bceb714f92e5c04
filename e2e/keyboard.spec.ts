import type { Page } from '@playwright/test';
import { expect, fresh, test } from './support/story.ts';
import { saved, sheet } from './support/workshop.ts';

/** Only keys are pressed here: where the keyboard is and where it goes next is what is tried. */
const focused = (page: Page) => page.locator(':focus');

/** Goes on by Tab, or back, until what is called that has the keyboard. */
async function tabTo(page: Page, name: string | RegExp, key: 'Tab' | 'Shift+Tab' = 'Tab'): Promise<void> {
  for (let presses = 0; presses < 40; presses++) {
    const on = focused(page);
    if ((await on.count()) > 0 && named(await on.ariaSnapshot(), name)) return;
    await page.keyboard.press(key);
  }
  throw new Error(`Forty presses of ${key} did not come to ${String(name)}.`);
}
/** Whether the first line of an aria snapshot (`- textbox "Name": …`) has this name. */
const named = (snapshot: string, name: string | RegExp): boolean => {
  const own = /"((?:[^"\\]|\\.)*)"/.exec(snapshot.split('\n')[0]!)?.[1]?.replaceAll('\\"', '"') ?? '';
  return typeof name === 'string' ? own === name : name.test(own);
};

/** Chooses in the list that this opens: by its words where it is searched, else by arrows from its first line. */
async function pick(page: Page, list: string | RegExp, words: string): Promise<void> {
  await tabTo(page, list);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option').first()).toBeVisible();
  if ((await page.locator('[cmdk-input]').count()) > 0) await page.keyboard.type(words);
  else {
    // Letters that are a second apart begin another word in such a list; arrows mean the same however slow the machine is.
    const lines = await page.getByRole('option').allTextContents();
    // Each press counts from where the keyboard stands when it comes: it is waited for until it has gone on.
    const on = (line: number) => expect(page.locator('[role=option]:focus')).toHaveText(lines[line]!);
    await page.keyboard.press('Home');
    await on(0);
    const wanted = lines.findIndex((line) => line.includes(words));
    for (let line = 1; line <= wanted; line++) {
      await page.keyboard.press('ArrowDown');
      await on(line);
    }
  }
  await expect(page.locator('[role=option]:focus, [cmdk-item][aria-selected=true]')).toContainText(words);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option')).toHaveCount(0);
  await expect(focused(page)).toContainText(words);
}

async function write(page: Page, field: string | RegExp, words: string): Promise<void> {
  await tabTo(page, field);
  await page.keyboard.press('Control+a');
  await page.keyboard.type(words);
}

async function field(page: Page, kind: string, label: string, way: 'Tab' | 'Shift+Tab'): Promise<void> {
  await tabTo(page, 'Add a field', way);
  await page.keyboard.press('Enter');
  await page.keyboard.type(kind);
  await expect(page.getByRole('menuitem', { name: new RegExp(`^${kind}`) }).and(focused(page))).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('textbox', { name: 'Label (required)', exact: true })).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(label);
}

/** Inserts a step by a key of the sheet, finds its verb by what people call it, names it, sets it, and goes back to its line. */
async function step(page: Page, key: string, called: string, name: string, set: () => Promise<void> = () => Promise.resolve()): Promise<void> {
  await page.keyboard.press(key);
  await expect(page.getByRole('dialog').getByRole('combobox')).toBeFocused();
  await page.keyboard.type(called);
  await expect(page.locator('[cmdk-item][aria-selected=true]')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('textbox', { name: 'Name (required)', exact: true })).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(name);
  await set();
  await page.keyboard.press('Escape');
  await expect(focused(page)).toHaveAccessibleName(new RegExp(`^\\d\\S* \\w+( \\w+)?: ${name}\\.`));
}

async function goTo(page: Page, asked: string, option: RegExp): Promise<void> {
  await expect(page.getByText('Ctrl K', { exact: true })).toBeVisible();
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('dialog', { name: 'Find anything', exact: true }).getByRole('combobox')).toBeFocused();
  await page.keyboard.type(asked);
  await expect(page.getByRole('option', { name: option }).and(page.locator('[aria-selected=true]'))).toBeVisible();
  await page.keyboard.press('Enter');
}

test('by keyboard alone: an item of thirteen steps from blank to published', async ({ as }) => {
  const page = await as('designer');
  const name = fresh('Survey crew');
  await page.goto('/counter');
  await goTo(page, 'begin an item', /^Begin an item/);
  await expect(page.getByRole('textbox', { name: 'Name (required)', exact: true })).toBeFocused();
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/ask$/);
  await expect(page.getByRole('heading', { name, exact: true })).toBeVisible();

  await field(page, 'Choice', 'Which survey', 'Tab');
  await write(page, 'Choice 1', 'Harbour');
  await write(page, 'Choice 2', 'Open sea');
  await field(page, 'Date', 'First day', 'Shift+Tab');
  await field(page, 'Person', 'Crew leader', 'Shift+Tab');
  await goTo(page, 'plan', /^Plan/);
  await expect(sheet(page)).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('row', { name: 'The plan has no step yet', exact: true })).toBeFocused();

  const byTeam = (team: string, words: string) => async () => {
    await pick(page, 'Who does it', 'A team');
    await pick(page, 'Which team', team);
    await write(page, 'Instructions', words);
  };
  await step(page, 'Enter', 'approval', 'Leader agrees', async () => {
    await pick(page, 'Approvers', 'The manager of a person');
    await pick(page, 'If there is nobody to ask', 'Let it pass');
  });
  await step(page, 'a', 'if', 'By survey', async () => {
    await write(page, 'Name of case 1', 'Open sea');
    await pick(page, 'Case 1, line 1: value', 'Which survey');
    await pick(page, 'Case 1, line 1: compared with', 'Open sea');
  });
  await step(page, 'i', 'task', 'Pack for the sea', byTeam('Stores', 'Pack the sounders.'));
  for (const _ of [1, 2]) await page.keyboard.press('ArrowUp');
  await step(page, 'i', 'task', 'Pack for the harbour', byTeam('Stores', 'Pack the lead lines.'));
  for (const _ of [1, 2, 3, 4]) await page.keyboard.press('ArrowUp');
  await step(page, 'a', 'parallel', 'Side by side');
  await step(page, 'i', 'task', 'Book the berth', byTeam('Workplace', 'Book it.'));
  for (const _ of [1, 2]) await page.keyboard.press('ArrowUp');
  await step(page, 'i', 'task', 'Hand out the charts', byTeam('Charts helpdesk', 'Hand them out.'));
  for (const _ of [1, 2, 3, 4]) await page.keyboard.press('ArrowUp');
  await step(page, 'a', 'wait', 'Until the first day', async () => {
    await pick(page, 'Until', 'The desk opens on a date');
    await pick(page, 'Which date', 'First day');
  });
  await step(page, 'a', 'find', 'Who leads the leader', async () => {
    await pick(page, 'Look up', 'The manager of a person');
    await pick(page, 'Which person', 'Crew leader');
  });
  await step(page, 'a', 'calculate', 'Twice the days', () => write(page, 'Expression (FEEL)', '2 * 5'));
  await step(page, 'a', 'milestone', 'Ready', () => write(page, 'Words the requester sees (required)', 'Everything is ready'));
  await step(page, 'a', 'mail', 'Tell the requester', async () => {
    await write(page, 'Subject', 'The crew is ready');
    await write(page, 'Message', 'All is packed and booked.');
  });
  await step(page, 'a', 'end', 'Done', () => pick(page, 'Outcome', 'Fulfilled'));
  await expect(page.getByText('The check finds nothing', { exact: true })).toBeVisible();
  await saved(page);
  const rows = sheet(page).getByRole('row');
  await expect(rows).toHaveCount(18);

  await goTo(page, 'publish', /^Publish/);
  await write(page, 'What changed and why', 'The first one');
  // Past when that is: at once.
  for (const _ of [1, 2]) await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^Revision 1 is offered since/)).toBeVisible();
});
