import { askToJoin, cast, expect, pick, test } from './support/story.ts';

test('two groups are kept apart: a request that would bring them together is refused with why; who may makes an exception, and it is sent', async ({
  as,
}) => {
  const designer = await as('designer');
  await designer.goto('/desk/apart');
  const keep = designer.getByRole('region', { name: 'Keep two groups apart', exact: true });
  await keep.getByRole('button', { name: 'Keep them apart', exact: true }).click();
  await expect(keep.getByRole('combobox', { name: 'One group (required)', exact: true })).toHaveAccessibleDescription('Pick a group.');
  await pick(designer, 'One group (required)', 'survey-raw');
  await pick(designer, 'The other group (required)', 'vessel-logs');
  await keep.getByRole('textbox', { name: 'Why they are kept apart (required)', exact: true }).fill('Logs are checked by others than who surveys.');
  await pick(designer, 'Name somebody who can make an exception', cast['access.lead']);
  await keep.getByRole('button', { name: 'Keep them apart', exact: true }).click();
  const called = 'survey-raw and vessel-logs';
  const pair = designer.getByRole('list', { name: 'Groups kept apart', exact: true }).getByRole('listitem').filter({ hasText: 'Logs are checked' });
  await expect(pair).toContainText(`An exception is made by: ${cast['access.lead']}`);

  // The requester is in survey-raw: it is told while it is filled in, and refused when it is sent all the same.
  const requester = await as('requester');
  await requester.goto('/counter?q=join');
  await requester
    .getByRole('link', { name: /^Join a group/ })
    .first()
    .click();
  await pick(requester, 'Group (required)', 'vessel-logs');
  const group = requester.getByRole('combobox', { name: /^Group/ });
  const told =
    /Tuva Fossness has survey-raw, and it is kept apart from vessel-logs: Logs are checked by others than who surveys\. .* can make an exception\.$/;
  await expect(group).toHaveAccessibleDescription(told);
  await requester.getByLabel(/^What you need it for/).fill('Comparing logs');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(group).toBeFocused();
  await expect(group).toHaveAccessibleDescription(told);

  const lead = await as('access.lead');
  await lead.goto('/desk/queue');
  await lead.getByRole('link', { name: 'Kept apart', exact: true }).click();
  const its = lead.getByRole('list', { name: 'Groups kept apart', exact: true }).getByRole('listitem').filter({ hasText: 'Logs are checked' });
  await its.getByText('Make an exception …', { exact: true }).click();
  await its.getByRole('button', { name: 'Make this exception', exact: true }).click();
  await expect(its.getByRole('textbox', { name: 'Why (required)', exact: true })).toHaveAccessibleDescription('Say why; it stands in the log.');
  await pick(lead, 'Who may have both (required)', cast.requester);
  await its.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('For the spring survey only.');
  await its.getByRole('button', { name: 'Make this exception', exact: true }).click();
  await expect(its.getByRole('list', { name: `Exceptions from ${called}`, exact: true })).toContainText(
    `${cast.requester} may have both: “For the spring survey only.”`,
  );
  await askToJoin(requester, 'vessel-logs', 'Comparing logs');
  await its.getByRole('button', { name: `End the exception of ${cast.requester}`, exact: true }).click();
  await expect(its.getByRole('list', { name: `Exceptions from ${called}`, exact: true })).toHaveCount(0);

  await designer.reload();
  await pair.getByRole('button', { name: `Keep them apart no longer (${called})`, exact: true }).click();
  await expect(pair).toContainText('Not kept apart any more.');
});
