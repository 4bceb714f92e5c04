import type { Page } from '@playwright/test';
import { approve, begins, cast, expect, fresh, test, waitFor } from './support/story.ts';
import { house, mailbox } from './support/outside.ts';

/** Whenever this is run, a day that is still to come. */
const nextYear = new Date().getFullYear() + 1;

/** Asks for a guest; gives the number. */
async function askFor(requester: Page, name: string, mail: string): Promise<string> {
  await requester.goto('/counter');
  await requester
    .getByRole('link', { name: begins('Guest from a partner institute') })
    .first()
    .click();
  await requester.getByRole('textbox', { name: 'Their name (required)', exact: true }).fill(name);
  await requester.getByRole('textbox', { name: 'Their mail address (required)', exact: true }).fill(mail);
  await requester.getByRole('checkbox', { name: 'Tide exchange', exact: true }).click();
  await requester.getByRole('textbox', { name: 'What you do together (required)', exact: true }).fill('The tide tables of both coasts');
  const until = requester.getByRole('textbox', { name: 'Until (required)', exact: true });
  await until.fill('1.1.2020');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('They are a guest for a day at least: choose a day that is still to come.', { exact: true })).toBeVisible();
  await until.fill(`30.06.${nextYear}`);
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  return /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
}

test.afterAll(() => house.accept('later'));

test('a guest is invited by mail and waited for; one who has accepted is let in, stands among the things of whoever answers for them, and is sent home', async ({
  as,
}) => {
  const [requester, approver] = [await as('owner'), await as('approver')];
  const waits = `${fresh('sigga').replaceAll(' ', '.').toLowerCase()}@hafro.example`;
  await house.accept('later');
  const first = await askFor(requester, 'Sigga Hafrun', waits);
  await approve(approver, first, 'Guest from a partner institute');
  const invitation = await mailbox.wait(waits, 'Skerrin Hydrographic invites you as a guest');
  await expect(requester.getByText(/^The guest accepts, since/)).toBeVisible();
  expect((await house.guest(waits))?.rooms).toEqual([]);
  // What a guest sees is not ours: a page of the house.
  await approver.goto(/http:\S+/.exec(invitation.text)![0]);
  await approver.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(approver.getByText('You have accepted.', { exact: true })).toBeVisible();

  const at = `${fresh('olaf').replaceAll(' ', '.').toLowerCase()}@hafro.example`;
  const name = fresh('Olaf Hafrun');
  await house.accept('at once');
  const second = await askFor(requester, name, at);
  await approve(approver, second, 'Guest from a partner institute');
  await waitFor(requester, second, 'Fulfilled');
  expect((await house.guest(at))?.rooms).toEqual(['tide-exchange']);
  await mailbox.wait('owner@skerrin.example', 'has accepted and is a guest until', second);
  await requester.goto('/counter/things');
  const thing = requester.getByRole('list', { name: 'My things', exact: true }).getByRole('listitem').filter({ hasText: second });
  await expect(thing).toContainText(at);
  await expect(thing).toContainText(`Guest, until 30 Jun ${nextYear}`);
  await expect(thing).toContainText(`${cast.approver} agreed`);
  await thing.getByText(/^Send them home/).click();
  await thing.getByRole('button', { name: `Send home ${at}`, exact: true }).click();
  await expect.poll(async () => (await house.guest(at))?.removedAt).toBeTruthy();
});
