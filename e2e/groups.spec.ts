import { directory, mailbox } from './support/outside.ts';
import { begins, cast, expect, pick, test } from './support/story.ts';

const group = 'tide-archive';
const job = 'internal auditor';

test('who is in a group by itself: its owner says so and sees first who comes in; they are in, and told; what is taken by hand stays so until it is given again', async ({
  as,
}) => {
  const [owner, auditor] = [await as('owner'), await as('auditor')];
  await owner.goto('/desk/groups');
  await owner.getByRole('link', { name: group, exact: true }).click();
  await expect(owner.getByRole('heading', { name: group, exact: true })).toBeVisible();
  await expect(owner.getByText('Say who it is, and here stands who comes in.', { exact: true })).toBeVisible();

  // Nothing is kept without why, and nothing that was chosen is lost by that.
  await pick(owner, 'Line 1: job', job);
  await expect(owner.getByText('It holds of 1 person: 1 comes in.', { exact: true })).toBeVisible();
  await expect(owner.getByText(`${cast.auditor} (${job})`, { exact: true })).toBeVisible();
  const keep = owner.getByRole('button', { name: 'Keep this condition: 1 comes in', exact: true });
  await keep.click();
  await expect(owner.getByRole('textbox', { name: 'Why (required)', exact: true })).toHaveAccessibleDescription(
    /Say why; whoever is let in reads this\./,
  );
  await owner.getByRole('textbox', { name: 'Why (required)', exact: true }).fill('They look whether the readings are as they were.');
  await keep.click();
  await expect(
    owner.getByText(begins(`Everybody who works here and of whom all is true that one of these lines says. Kept by ${cast.owner}`)),
  ).toBeVisible();
  await expect(async () => {
    await owner.reload();
    await expect(owner.getByText(/ in it: 1 by the condition, /)).toBeVisible({ timeout: 2000 });
  }).toPass();
  expect(await directory.memberships(group, cast.auditor)).toBe(1);
  expect((await mailbox.wait('auditor@skerrin.example', group, 'You are in')).text).toContain('They look whether the readings are as they were.');

  // They hold it like anything else, and give it back.
  await auditor.goto('/counter/things');
  const thing = auditor.getByRole('list', { name: 'My things', exact: true }).getByRole('listitem').filter({ hasText: group });
  await expect(thing).toContainText('Member of a group by its condition');
  await thing.getByText(/^Give it back/).click();
  await thing.getByRole('button', { name: `Give back ${group}`, exact: true }).click();
  await expect(async () => {
    await auditor.reload();
    await expect(thing).toHaveCount(0, { timeout: 2000 });
  }).toPass();
  expect(await directory.memberships(group, cast.auditor)).toBe(0);

  // The condition does not give again by itself what somebody let go of.
  await owner.reload();
  const not = owner.getByRole('region', { name: 'Not in it, though the condition holds of them', exact: true });
  await expect(not.getByRole('listitem')).toContainText(`${cast.auditor}, ${job}: taken out by ${cast.auditor}`);
  await not.getByRole('button', { name: `Let in again (${cast.auditor})`, exact: true }).click();
  await expect(not).toHaveCount(0);
  await expect.poll(() => directory.memberships(group, cast.auditor)).toBe(1);

  // It ends, and whoever was in by it goes out.
  await expect(async () => {
    await owner.reload();
    await owner.getByText('End the condition …', { exact: true }).click({ timeout: 2000 });
    await owner.getByRole('button', { name: 'End it, and take them out', exact: true }).click({ timeout: 2000 });
  }).toPass();
  await expect(owner.getByRole('button', { name: begins('Keep this condition') })).toBeVisible();
  await expect.poll(() => directory.memberships(group, cast.auditor)).toBe(0);
  await mailbox.wait('auditor@skerrin.example', group, 'is taken back');
});
