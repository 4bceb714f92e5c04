import { begins, choose, expect, fresh, test } from './support/story.ts';

test('a system is registered from its OpenAPI document: what it offers is read, what cannot be taken is said, what is chosen can be used', async ({
  as,
}) => {
  const administrator = await as('administrator');
  const park = await (await fetch(`http://127.0.0.1:${process.env['MACHINES_PORT']}/openapi.json`)).json();
  const document = {
    ...(park as { paths: object }),
    paths: {
      ...(park as { paths: object }).paths,
      '/find': { get: { summary: 'Find a machine', parameters: [{ name: 'q', in: 'query', required: true, schema: { type: 'string' } }] } },
    },
  };
  const file = (name: string, text: string) => ({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
  await administrator.goto('/workshop/systems/new');
  await administrator.getByText('Read them from an OpenAPI document …', { exact: true }).click();
  const field = administrator.getByLabel('OpenAPI 3.0 or 3.1, as a JSON file', { exact: true });
  await field.setInputFiles(file('none.json', '{"swagger": "2.0"}'));
  await expect(administrator.getByText('This is no OpenAPI document of version 3.0 or 3.1.', { exact: true })).toBeVisible();
  await field.setInputFiles(file('park.json', JSON.stringify(document)));
  const offers = administrator.getByRole('list', { name: 'What Machine park offers', exact: true });
  await expect(offers.getByRole('checkbox', { name: /^Make a machine POST \/machines, answered later$/ })).toBeChecked();
  await expect(offers.getByRole('checkbox', { name: /^The machines there are GET \/machines, a list that says id, size, / })).not.toBeChecked();
  const sizes = offers.getByRole('checkbox', { name: /^The sizes there are GET \/sizes/ });
  await sizes.click();
  await expect(administrator.getByText(/^Find a machine: It wants “q” in its query, where nothing can be stated\.$/)).toBeVisible();
  await offers.getByRole('checkbox', { name: /^Lend a machine for more days/ }).click();
  await administrator.getByRole('button', { name: 'Add 6 actions and one list', exact: true }).click();
  await expect(administrator.getByText('6 actions and one list added. Look them over; nothing is saved yet.', { exact: true })).toBeVisible();
  await expect(administrator.getByRole('textbox', { name: 'Name (required)', exact: true })).toHaveValue('Machine park');
  const name = fresh('Other park');
  await administrator.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await administrator.getByRole('textbox', { name: 'Address (required)', exact: true }).fill('https://park.skerrin.example');
  await administrator.getByRole('button', { name: 'Register this system', exact: true }).click();
  await expect(administrator.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  // Each action is a line that says what it is; its settings stand below it while it is open.
  const line = (action: string) => administrator.getByRole('button', { name: begins(`${action} `) });
  await expect(line('Make a machine')).toHaveAccessibleName(/^Make a machine POST \/machines \d+ inputs · \d+ outputs · answered later$/);
  await expect(line('Make a machine')).toHaveAttribute('aria-expanded', 'false');
  await line('Make a machine').click();
  await expect(administrator.getByRole('textbox', { name: 'Path of Make a machine', exact: true })).toHaveValue('/machines');
  // What is there already is not offered again.
  await administrator.getByText('Read them from an OpenAPI document …', { exact: true }).click();
  await field.setInputFiles(file('park.json', JSON.stringify(document)));
  await expect(offers.getByRole('checkbox', { name: /^Make a machine/ })).toBeDisabled();
  await expect(sizes).toBeDisabled();
  await expect(administrator.getByRole('textbox', { name: 'Path of The sizes there are', exact: true })).toHaveValue('/sizes');

  await expect(administrator.getByRole('textbox', { name: 'Input 4 of Make a machine: at most', exact: true })).toHaveValue('180');
  await administrator
    .getByText(/^Only \d+ are known/)
    .first()
    .click();
  await expect(administrator.getByRole('textbox', { name: 'Input 1 of Make a machine: only these', exact: true })).toHaveValue(/^\S+\n\S+/);
  // What people hold after it, and where the system lists what it has: a list that says nothing of what it lists is not taken.
  await choose(administrator.getByRole('combobox', { name: 'Input 5 of Make a machine: type', exact: true }), 'person');
  await choose(administrator.getByRole('combobox', { name: 'Who holds something after Make a machine', exact: true }), 'Whoever “Owner” names holds');
  await administrator.getByRole('textbox', { name: 'Kind of thing after Make a machine', exact: true }).fill('machine');
  await administrator.getByRole('checkbox', { name: /^The system lists what it has of this \(Make a machine\)/ }).click();
  const path = administrator.getByRole('textbox', { name: 'Path of the list of Make a machine', exact: true });
  await path.fill('/machines/{id}');
  await administrator.getByRole('textbox', { name: 'Where its rows stand, of Make a machine: JSON Pointer', exact: true }).fill('/machines');
  // Something wrong in one that is shut: it is opened, and what is wrong has the keyboard.
  await line('Make a machine').click();
  await expect(path).toHaveCount(0);
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(path).toHaveAccessibleDescription('The list stands at one path: it has no { or }.');
  await expect(path).toBeFocused();
  await expect(line('Make a machine')).toHaveAccessibleName(/ 1 thing to put right$/);
  await path.fill('/machines');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(administrator.getByText('The system is saved. Plans act by it from the next call on.', { exact: true })).toBeVisible();
  // What an action is about: what it needs of that is known, and no plan states it.
  await line('Take a machine down').click();
  const about = administrator.getByRole('combobox', { name: 'What Take a machine down is about', exact: true });
  await choose(about, 'About what “Make a machine” gave');
  const known = administrator.getByRole('checkbox', { name: 'known of what it is about (input 1)', exact: true });
  await known.click();
  await choose(administrator.getByRole('combobox', { name: 'Input 1 of Take a machine down: type', exact: true }), 'number');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(administrator.getByRole('textbox', { name: 'Input 1 of Take a machine down: name', exact: true })).toHaveAccessibleDescription(
    '“Make a machine” takes and answers nothing of this name and type that could be known.',
  );
  await choose(administrator.getByRole('combobox', { name: 'Input 1 of Take a machine down: type', exact: true }), 'text');
  await administrator.getByRole('button', { name: 'Save this system', exact: true }).click();
  await expect(line('Take a machine down')).toHaveAccessibleName(/ · about what “Make a machine” gave$/);
  // That it is saved was said before, too: what stands there anew is what counts.
  await expect(async () => {
    await administrator.reload();
    await expect(line('Take a machine down')).toHaveAccessibleName(/ · about what “Make a machine” gave$/, { timeout: 2000 });
  }).toPass();
  await line('Take a machine down').click();
  await expect(about).toHaveText('About what “Make a machine” gave');
  await expect(known).toBeChecked();
  await administrator.goto('/ledger/differences');
  const readings = administrator.getByRole('list', { name: 'Readings', exact: true });
  await expect(readings.getByRole('listitem').filter({ hasText: name })).toContainText('not read yet; it is each night');
});
