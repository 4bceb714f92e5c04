import type { Page } from '@playwright/test';
import { expect, scriptsHeld, test, type SignedIn } from './support/story.ts';

/** The parts that every screen is made of, by keyboard alone, once scripts have taken the page over. */
async function kit(as: SignedIn): Promise<Page> {
  const page = await as('requester');
  await page.goto('/kit');
  await expect(page.getByRole('combobox', { name: 'Port', exact: true })).toHaveText('Choose …');
  return page;
}

test('Select: opened by a key, a letter jumps, Escape leaves all as it was, and the focus comes back', async ({ as }) => {
  const page = await kit(as);
  const port = page.getByRole('combobox', { name: 'Port', exact: true });
  await port.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('option', { name: 'Choose …', exact: true })).toBeFocused();
  await page.keyboard.press('s');
  await expect(page.getByRole('option', { name: 'Stores', exact: true })).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('listbox')).toHaveCount(0);
  await expect(port).toBeFocused();
  await expect(port).toHaveText('Choose …');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option', { name: 'Choose …', exact: true })).toBeFocused();
  await page.keyboard.press('End');
  await expect(page.getByRole('option', { name: 'Lunnick Station', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(port).toHaveText('Lunnick Station');
  await expect(port).toBeFocused();
  await expect(page.getByRole('combobox', { name: 'Vessel', exact: true })).toHaveAccessibleDescription('A vessel has to be chosen.');
  await expect(page.getByRole('combobox', { name: 'Zone', exact: true })).toBeDisabled();
  await expect(page.getByRole('combobox', { name: 'Zone', exact: true })).toHaveText('Atlantic/Faroe');
  // Nothing says which: the first is chosen, as everywhere.
  await expect(page.getByRole('combobox', { name: 'Chart', exact: true })).toHaveText('Approaches');
});

test('Combobox: found by a part of its words, told when nothing has them, and the focus comes back', async ({ as }) => {
  const page = await kit(as);
  const tool = page.getByRole('combobox', { name: 'Instrument', exact: true });
  await tool.focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByPlaceholder('Type a part of it', { exact: true })).toBeFocused();
  await page.keyboard.type('sonar');
  await expect(page.getByRole('option')).toHaveText(['Side-scan sonar']);
  await page.keyboard.press('Enter');
  await expect(tool).toHaveText('Side-scan sonar');
  await expect(tool).toBeFocused();
  await page.keyboard.press('Enter');
  await page.keyboard.type('zzz');
  await expect(page.getByText('Nothing has these words.', { exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(tool).toHaveText('Side-scan sonar');
  await expect(tool).toBeFocused();
});

test('Combobox: of few things one is chosen by keys as well', async ({ as }) => {
  const page = await kit(as);
  const tide = page.getByRole('combobox', { name: 'Stream', exact: true });
  await tide.focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('fl');
  await expect(page.getByRole('option')).toHaveText(['Flood']);
  await page.keyboard.press('Enter');
  await expect(tide).toHaveText('Flood');
  await expect(tide).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByPlaceholder('Type a part of it', { exact: true })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(tide).toHaveText('Slack');
  await expect(tide).toBeFocused();
});

test('Checkbox: checked by the space bar and by its words', async ({ as }) => {
  const page = await kit(as);
  const ship = page.getByRole('checkbox', { name: 'It comes back by ship', exact: true });
  await ship.focus();
  await page.keyboard.press('Space');
  await expect(ship).toBeChecked();
  await page.getByText('It comes back by ship', { exact: true }).click();
  await expect(ship).not.toBeChecked();
});

test('Number: what is none stays, is told and is not taken; arrows go by one within the bounds', async ({ as }) => {
  const page = await kit(as);
  const copies = page.getByRole('textbox', { name: 'Copies', exact: true });
  await copies.fill('0');
  await expect(copies).toHaveAccessibleDescription('Type a whole number from 1 to 10.');
  await expect(copies).toHaveAttribute('aria-invalid', 'true');
  await copies.fill('abc');
  await page.keyboard.press('Tab');
  await expect(copies).toHaveValue('abc');
  await copies.fill('9');
  await expect(copies).not.toHaveAttribute('aria-invalid');
  await copies.press('ArrowUp');
  await copies.press('ArrowUp');
  await expect(copies).toHaveValue('10');
  await copies.press('ArrowDown');
  await expect(copies).toHaveValue('9');
  const depth = page.getByRole('textbox', { name: 'Depth in metres', exact: true });
  await depth.fill('0,10000000000000000001');
  await page.keyboard.press('Tab');
  await expect(depth).toHaveValue('0.10000000000000000001');
});

test('Date: typed as people type it, or picked from a month by keys; what is no day stays and is told', async ({ as }) => {
  const page = await kit(as);
  const day = page.getByRole('textbox', { name: 'First day', exact: true });
  await day.fill('31.11.2026');
  await page.keyboard.press('Tab');
  await expect(day).toHaveValue('31.11.2026');
  await expect(page.getByRole('alert').filter({ hasText: 'Type a day such as 26.11.2026 or 26 Nov.' })).toBeVisible();
  await day.fill('2026-3-9');
  await page.keyboard.press('Tab');
  await expect(day).toHaveValue('9 Mar 2026');
  await day.press('Alt+ArrowDown');
  const month = page.getByRole('dialog', { name: 'Pick a day', exact: true });
  await expect(month.getByRole('grid', { name: 'March 2026', exact: true })).toBeVisible();
  await expect(month.getByRole('button', { name: /Monday, March 9th, 2026/ })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await expect(day).toHaveValue('17 Mar 2026');
  await expect(day).toBeFocused();
  await day.press('Alt+ArrowDown');
  await expect(month).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(month).toHaveCount(0);
  await expect(day).toBeFocused();
  await expect(page.getByRole('textbox', { name: 'Last day', exact: true })).toHaveAccessibleDescription('The last day is after the first.');
});

test('Radio, menu, popover, name: by keys, and the focus comes back', async ({ as }) => {
  const page = await kit(as);
  await page.getByRole('radio', { name: 'Ebb', exact: true }).focus();
  await page.keyboard.press('Space');
  // Held for a moment, as a finger does.
  await page.keyboard.down('ArrowRight');
  await expect(page.getByRole('radio', { name: 'Flood', exact: true })).toBeFocused();
  await page.keyboard.up('ArrowRight');
  await expect(page.getByRole('radio', { name: 'Flood', exact: true })).toBeChecked();
  const acts = page.getByRole('button', { name: 'Acts', exact: true });
  await acts.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: 'Copy the chart', exact: true })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('menuitemcheckbox', { name: 'Show depths', exact: true })).toBeFocused();
  await page.keyboard.press('Space');
  await expect(page.getByRole('menuitemcheckbox', { name: 'Show depths', exact: true })).toBeChecked();
  await page.keyboard.press('Escape');
  await expect(acts).toBeFocused();
  const about = page.getByRole('button', { name: 'About this chart', exact: true });
  await about.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: 'About this chart', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(about).toBeFocused();
  const short = page.getByRole('textbox', { name: 'Short name', exact: true });
  await short.fill('Lunnick sound, wes');
  await expect(short).toHaveAccessibleDescription('2 characters left.');
  await page.keyboard.press('End');
  await page.keyboard.type('tern');
  await expect(short).toHaveValue('Lunnick sound, weste');
  await expect(short).toHaveAccessibleDescription('No more than 20 characters.');
});

test('List editor: what is added has the keyboard; moved and taken out, the keyboard stays in the list; the last one stays', async ({ as }) => {
  const page = await kit(as);
  const part = page.getByRole('region', { name: 'List editor', exact: true });
  const names = () => part.getByRole('textbox').evaluateAll((all) => all.map((x) => (x as HTMLInputElement).value));
  await part.getByRole('button', { name: 'Add a stop', exact: true }).press('Enter');
  await expect(part.getByRole('textbox', { name: 'Stop 4', exact: true })).toBeFocused();
  await page.keyboard.type('Stores');
  const up = part.getByRole('button', { name: 'Move the stop “Stores” up', exact: true });
  await up.press('Enter');
  await expect.poll(names).toEqual(['Torvay', 'Lunnick', 'Stores', 'Kittiwake shoal']);
  await expect(up).toBeFocused();
  await part.getByRole('button', { name: 'Remove the stop “Lunnick”', exact: true }).press('Enter');
  await expect.poll(names).toEqual(['Torvay', 'Stores', 'Kittiwake shoal']);
  await expect(part.getByRole('button', { name: 'Remove the stop “Stores”', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(part.getByRole('button', { name: 'Remove the stop “Kittiwake shoal”', exact: true })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect.poll(names).toEqual(['Torvay']);
  await expect(part.getByRole('button', { name: /^Remove / })).toHaveCount(0);
  await expect(part.getByRole('button', { name: 'Add a stop', exact: true })).toBeFocused();
  await expect(part.getByRole('button', { name: 'Move the stop “Torvay” up', exact: true })).toBeDisabled();
});

test('Lines of a form: the cell that is wrong says so, and each line is a group of its own', async ({ as }) => {
  const page = await kit(as);
  const line = (n: number) => page.getByRole('group', { name: `Soundings, line ${n}`, exact: true });
  await expect(line(1).getByRole('textbox', { name: 'Depth (required)', exact: true })).toHaveAttribute('aria-invalid', 'true');
  await expect(line(1).getByRole('textbox', { name: 'Where (required)', exact: true })).not.toHaveAttribute('aria-invalid', 'true');
  await line(1).getByRole('textbox', { name: 'Depth (required)', exact: true }).fill('12');
  await page.getByRole('region', { name: 'Lines of a form', exact: true }).getByRole('button', { name: 'Add a line', exact: true }).press('Enter');
  await expect(line(2).getByRole('textbox', { name: 'Where (required)', exact: true })).toBeFocused();
});

test('Switch and tabs: turned by the space bar, gone through by arrows', async ({ as }) => {
  const page = await kit(as);
  const depths = page.getByRole('switch', { name: 'Show the depths', exact: true });
  await depths.focus();
  await page.keyboard.press('Space');
  await expect(depths).toBeChecked();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('tab', { name: 'Chart', exact: true })).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('tab', { name: 'Soundings', exact: true })).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByRole('tabpanel', { name: 'Soundings', exact: true })).toHaveText('Here are the soundings.');
});

test('Tip: shows to the keyboard and under the pointer, can be pointed at, and Escape takes it away; one of a whole text does not show', async ({
  as,
}) => {
  const page = await kit(as);
  const tip = page.getByRole('tooltip');
  const gauge = page.getByRole('button', { name: 'Tide gauge', exact: true });
  await page.getByRole('tab', { name: 'Chart', exact: true }).focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(gauge).toBeFocused();
  await expect(tip).toHaveText('Goes up with the flood, down with the ebb');
  await page.keyboard.press('Escape');
  await expect(tip).toHaveCount(0);
  await expect(gauge).toBeFocused();
  const cut = page.getByRole('region', { name: 'Tip', exact: true }).getByText('A side-scan sonar of the second survey', { exact: true });
  await cut.hover();
  await expect(tip).toHaveText('A side-scan sonar of the second survey');
  const box = (await tip.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 5 });
  await expect(tip).toHaveCount(1);
  await cut.evaluate((e) => (e.style.width = '600px'));
  await gauge.hover();
  await expect(tip).toHaveText('Goes up with the flood, down with the ebb');
  await cut.hover();
  await expect(tip).toHaveCount(0);
  await page.waitForTimeout(600);
  await expect(tip).toHaveCount(0);
});

test('what is pressed while scripts come counts: the box is not taken from under the pointer', async ({ as }) => {
  const page = await as('technician');
  const come = await scriptsHeld(page);
  await page.goto('/desk/queue?what=ticket', { waitUntil: 'commit' });
  const box = page.getByRole('main').getByRole('checkbox').first();
  await box.hover();
  await page.mouse.down();
  // Scripts have taken over once they listen for what moves; a press that goes on for long after that is held to be none.
  const listens = page.waitForRequest(/\/live(\?|$)/);
  come();
  await listens;
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Take this one', exact: true })).toBeVisible();
  // Ours stands in its place from then on.
  await expect(page.locator('button[role=checkbox][aria-checked=true]')).toHaveCount(1);
});

test('what is chosen before scripts come is taken along: a list, one of a few, a box', async ({ as }) => {
  const page = await as('technician');
  const come = await scriptsHeld(page);
  await page.goto('/counter/report', { waitUntil: 'commit' });
  await page.getByRole('combobox', { name: 'What it is about', exact: true }).selectOption({ label: 'Field equipment' });
  await page.getByRole('radio', { name: 'Several people', exact: true }).check();
  const queue = await page.context().newPage();
  const comeThere = await scriptsHeld(queue);
  await queue.goto('/desk/queue?what=ticket', { waitUntil: 'commit' });
  await queue.getByRole('main').getByRole('checkbox').first().check();
  come();
  comeThere();
  // Ours in their place are buttons.
  await expect(page.locator('button[role=combobox]').filter({ hasText: 'Field equipment' })).toBeVisible();
  await expect(
    page.locator('button[role=radio][aria-checked=true]').and(page.getByRole('radio', { name: 'Several people', exact: true })),
  ).toBeVisible();
  await expect(queue.getByRole('button', { name: 'Take this one', exact: true })).toBeVisible();
  await queue.close();
});
