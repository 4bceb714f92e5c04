import type { Page } from '@playwright/test';
import { expect, test, type SignedIn } from './support/story.ts';

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
  await expect(page.getByPlaceholder('Type a part of it')).toBeFocused();
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

test('Checkbox: checked by the space bar and by its words', async ({ as }) => {
  const page = await kit(as);
  const ship = page.getByRole('checkbox', { name: 'It comes back by ship', exact: true });
  await ship.focus();
  await page.keyboard.press('Space');
  await expect(ship).toBeChecked();
  await page.getByText('It comes back by ship', { exact: true }).click();
  await expect(ship).not.toBeChecked();
});
