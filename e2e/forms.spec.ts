import { choose as chooseFrom, expect, pick, test } from './support/story.ts';
import { itemWith, publish, told, saved } from './support/workshop.ts';

test('a form: a section, how a name is written, the only one of its kind, what is looked up and locked, a price; previewed as somebody, tested, asked', async ({
  as,
}) => {
  const { page: designer, name } = await itemWith(
    as,
    'Berth for a guest',
    {
      fields: [
        { id: 'name', kind: 'text', label: 'Name of the boat', required: true },
        { id: 'nights', kind: 'number', label: 'Nights', required: true, min: 1, max: 9 },
        { id: 'boss', kind: 'person', label: 'Head', required: false },
      ],
    },
    [told('end')],
  );
  await designer.getByRole('link', { name: 'Ask', exact: true }).click();
  const fields = designer.getByRole('region', { name: 'Fields', exact: true });
  const settings = designer.getByRole('region', { name: 'Settings', exact: true });
  const preview = designer.getByRole('complementary', { name: 'Preview', exact: true });

  // A section with a note, moved to the top by keys.
  await designer.getByRole('button', { name: 'Add a field', exact: true }).click();
  await designer.getByRole('menuitem', { name: /^Section or note/ }).click();
  await expect(settings.getByRole('textbox', { name: 'Title', exact: true })).toBeFocused();
  await designer.keyboard.type('The berth');
  await settings.getByRole('textbox', { name: 'Note to the reader', exact: true }).fill('Guests lie at the outer pier.');
  await fields.getByRole('button', { name: /^The berth/ }).focus();
  for (let i = 0; i < 3; i++) await designer.keyboard.press('Alt+ArrowUp');
  await expect(preview.getByRole('group', { name: 'The berth', exact: true })).toContainText('Guests lie at the outer pier.');
  // The head is dragged above the nights.
  const grip = async (label: string) => {
    await fields.getByRole('button', { name: new RegExp(`^${label}`) }).hover();
    const box = (await fields.getByRole('listitem').filter({ hasText: label }).boundingBox())!;
    return { x: box.x + 10, y: box.y + box.height / 2 };
  };
  const [from, to] = [await grip('Head'), await grip('Nights')];
  await designer.mouse.move(from.x, from.y);
  await designer.mouse.down();
  await designer.mouse.move(from.x, to.y + 4, { steps: 8 });
  await designer.mouse.move(from.x, to.y, { steps: 2 });
  await designer.mouse.up();
  await expect(fields.getByRole('listitem')).toContainText(['The berth', 'Name of the boat', 'Head', 'Nights']);
  // What was dropped is kept before anything else is clicked.
  await saved(designer);

  // How the name is written, and that it is the only one.
  await fields.getByRole('button', { name: /^Name of the boat/ }).click();
  await settings.getByRole('checkbox', { name: 'It must be written in a certain way', exact: true }).click();
  await settings.getByRole('textbox', { name: 'What is said where it is not', exact: true }).fill('A name has no blanks.');
  await chooseFrom(settings.getByRole('combobox', { name: 'Must be the only one among', exact: true }), 'The open requests for this item');
  // The head is looked up, and locked.
  await fields.getByRole('button', { name: /^Head/ }).click();
  await chooseFrom(settings.getByRole('combobox', { name: 'Looked up', exact: true }), 'Their manager');
  await settings.getByRole('radio', { name: 'Nobody: they see what it begins with', exact: true }).click();
  await expect(fields.getByRole('button', { name: /^Head/ })).toContainText('locked');
  // A price for each night.
  await fields.getByRole('button', { name: 'Price', exact: true }).click();
  await settings.getByRole('button', { name: 'Add a line', exact: true }).click();
  await settings.getByRole('textbox', { name: 'Line 1: what is paid for (required)', exact: true }).fill('A night at the pier');
  await settings.getByRole('textbox', { name: 'Line 1: sum: currency', exact: true }).fill('eur');
  await settings.getByRole('textbox', { name: 'Line 1: sum', exact: true }).fill('12.50');
  await chooseFrom(settings.getByRole('combobox', { name: 'Line 1: times a number', exact: true }), 'Nights');

  // Seen by somebody, with what it would cost them; kept as a test.
  await pick(designer, 'Seen by', 'Tuva Fossness');
  await expect(preview.getByRole('status', { name: 'Head', exact: true })).toHaveText('Ragna Innervag');
  await preview.getByRole('textbox', { name: 'Nights (required)', exact: true }).fill('3');
  await expect(preview.getByRole('complementary', { name: 'What it costs', exact: true })).toContainText('37.50 EUR once');
  await preview.getByRole('textbox', { name: 'Name of the boat (required)', exact: true }).fill('Sea bird');
  await preview.getByRole('button', { name: 'Keep these answers as a test', exact: true }).click();
  await fields.getByRole('button', { name: /^Tests of the form/ }).click();
  await expect(settings.getByRole('textbox', { name: 'Test 1: with which sentence', exact: true })).toHaveValue('A name has no blanks.');
  await expect(settings.getByText('Refused now, at “Name of the boat”: A name has no blanks.', { exact: true })).toBeVisible();
  await settings.getByRole('textbox', { name: 'Test 1: with which sentence', exact: true }).fill('Another sentence.');
  await expect(settings.getByText(/The test “Refused 1” expects “Another sentence\.” It is told “A name has no blanks\.”/)).toBeVisible();
  await settings.getByRole('textbox', { name: 'Test 1: with which sentence', exact: true }).fill('A name has no blanks.');
  await expect(settings.getByText(/^The test “Refused 1” expects/)).toHaveCount(0);
  const schema = await designer.request.get((await settings.getByRole('link', { name: 'as JSON Schema', exact: true }).getAttribute('href'))!);
  expect(await schema.json()).toMatchObject({ title: name, required: ['name', 'nights'], properties: { boss: { readOnly: true } } });
  await publish(designer);

  // Asked: told while it is typed, priced, and taken once.
  const requester = await as('requester');
  await requester.goto('/counter');
  await requester.getByRole('link', { name: new RegExp(name) }).click();
  const boat = requester.getByRole('textbox', { name: 'Name of the boat (required)', exact: true });
  await expect(requester.getByRole('status', { name: 'Head', exact: true })).toHaveText('Ragna Innervag');
  await boat.fill('Sea bird');
  await requester.keyboard.press('Tab');
  await expect(boat).toHaveAccessibleDescription('A name has no blanks.');
  await boat.fill('Kittiwake-2');
  await expect(boat).not.toHaveAttribute('aria-invalid');
  await requester.getByRole('textbox', { name: 'Nights (required)', exact: true }).fill('2');
  await expect(requester.getByRole('complementary', { name: 'What it costs', exact: true })).toContainText('25.00 EUR once');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('Fulfilled', { exact: true })).toBeVisible();
  await expect(requester.getByText('Ragna Innervag', { exact: true })).toBeVisible();
});
