import { begins, cast, choose, expect, fresh, test } from './support/story.ts';
import { office } from './support/outside.ts';

test('somebody starts: the feed tells it, the item is asked for as their manager, and stands in the Ledger; what no item knows says why', async ({
  as,
}) => {
  const family = fresh('Havnes').replace(' ', '-');
  const number = fresh('9').replace(' ', '');
  // The manager is Solveig Langskar, as the demo numbers its staff.
  const told = {
    given: 'Sunniva',
    family,
    department: 'Tides',
    place: 'Observatory',
    manager: '10004',
    contract: 'permanent',
    firstDay: '2027-03-01',
  };
  await office.tell({ ...told, employment: `${number}-1`, staffNumber: number, jobRole: 'Tide analyst' });
  await office.tell({ ...told, employment: `${number}x-1`, staffNumber: `${number}x`, jobRole: 'lighthouse keeper' });
  const designer = await as('designer');
  await designer.goto('/workshop/systems');
  await designer.getByRole('link', { name: 'Staff feed', exact: true }).click();
  await designer.getByRole('button', { name: 'Read the feed now', exact: true }).click();
  await designer.getByRole('searchbox', { name: 'Find by name or staff number', exact: true }).fill(number);
  const rows = designer.getByRole('row', { name: `Sunniva ${family}, Somebody starts`, exact: true });
  const asked = rows.filter({ hasText: 'Colleague starting' });
  await expect(asked).toContainText(`asked for as ${cast.owner}`);
  const odd = rows.filter({ hasText: 'Could not be asked for' });
  await expect(odd).toContainText('Job role: Choose “Job role”. The feed says “lighthouse keeper”.');
  await odd.getByRole('button', { name: `Ask for it: Sunniva ${family}, Somebody starts`, exact: true }).click();
  await expect(odd).toContainText('Could not be asked for');
  await asked.getByRole('link').first().click();
  await expect(designer.getByRole('heading', { level: 1, name: /Colleague starting/ })).toBeVisible();
  await expect(designer.getByText(family, { exact: true }).first()).toBeVisible();

  // Whoever it was asked for as has it among their requests.
  const owner = await as('owner');
  await owner.goto('/counter/requests');
  await owner
    .getByRole('link', { name: /Colleague starting/ })
    .first()
    .click();
  await expect(owner.getByText(family, { exact: true }).first()).toBeVisible();
});

test('a rule is made for who has another name, with what answers the form; it is followed, and let go again; the feed that fails says so', async ({
  as,
}) => {
  const designer = await as('designer');
  await designer.goto('/workshop/staff');
  await designer.getByRole('link', { name: 'Make a rule: Somebody has another name', exact: true }).click();
  await expect(designer.getByRole('heading', { level: 1, name: 'Somebody has another name', exact: true })).toBeVisible();
  await choose(designer.getByRole('combobox', { name: 'Then this item is asked for', exact: true }), 'Colleague moving');
  await designer.getByRole('button', { name: 'Show what its form asks', exact: true }).click();
  // What is called as the feed calls it is proposed.
  await expect(designer.getByRole('combobox', { name: 'Colleague (required)', exact: true })).toHaveText('Colleague, by the feed');
  await choose(designer.getByRole('combobox', { name: 'New department (required)', exact: true }), 'the words below, or nothing');
  await designer.getByRole('combobox', { name: 'Asked for as (required)', exact: true }).fill(cast.approver);
  await designer.getByRole('option', { name: begins(cast.approver) }).click();
  await designer.getByRole('button', { name: 'Ask for it from now on', exact: true }).click();
  await expect(designer.getByText('“New department” has to be filled in: say from what.', { exact: true })).toBeVisible();
  await designer.getByRole('textbox', { name: 'New department: always these words', exact: true }).fill('As before, under another name');
  await designer.getByRole('button', { name: 'Ask for it from now on', exact: true }).click();
  const rules = designer.getByRole('list', { name: 'Rules', exact: true });
  await expect(rules.getByRole('listitem').filter({ hasText: 'Somebody has another name' })).toContainText('Colleague moving');

  // Somebody of the institute, the 170th, marries.
  const family = fresh('Nesland').replace(' ', '-');
  await office.tell({
    ...(await office.last('10170')),
    family,
  });
  await designer.getByRole('button', { name: 'Read the feed now', exact: true }).click();
  const row = designer.getByRole('row', { name: new RegExp(`${family}, Somebody has another name$`) });
  await expect(row).toContainText('Colleague moving');
  await rules.getByRole('link', { name: 'Change the rule: Somebody has another name', exact: true }).click();
  await designer.getByRole('button', { name: 'Let nothing follow', exact: true }).click();
  await expect(rules.getByRole('listitem').filter({ hasText: 'Somebody has another name' })).toContainText('nothing follows');
  // It is kept as it was, should it be wanted again.
  await rules.getByRole('link', { name: 'Make a rule: Somebody has another name', exact: true }).click();
  await expect(designer.getByRole('textbox', { name: 'New department: always these words', exact: true })).toHaveValue(
    'As before, under another name',
  );
  await expect(designer.getByRole('button', { name: 'Let nothing follow', exact: true })).toHaveCount(0);
  await designer.getByRole('link', { name: 'Staff feed', exact: true }).first().click();

  await office.manner('failing');
  try {
    await designer.getByRole('button', { name: 'Read the feed now', exact: true }).click();
    await expect(designer.getByText(/The staff feed answered 503\. It is tried again every five minutes\.$/)).toBeVisible();
  } finally {
    await office.manner('well');
  }
  await designer.getByRole('button', { name: 'Read the feed now', exact: true }).click();
  await expect(designer.getByText(/, to its end\. \d+ people are known by it\.$/)).toBeVisible();
});
