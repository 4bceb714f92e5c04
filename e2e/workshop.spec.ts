import { askToJoin, begins, cast, choicesOf, choose, expect, fresh, openApproval, openItem, test, waitFor } from './support/story.ts';
import { addField, itemWith, now, publish, saved, sheet, step, text, told } from './support/workshop.ts';
import { directory } from './support/outside.ts';

const stepNames = (page: import('@playwright/test').Page) =>
  sheet(page)
    .locator('[data-step]')
    .evaluateAll((all) => all.map((e) => /^\S+ [^:]+: ([^.]+)\./.exec(e.getAttribute('aria-label') ?? '')?.[1] ?? ''));

test('from idea to access granted: a designer begins an item blank, builds it, publishes it; somebody asks; it is done', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Begin an item', exact: true }).click();
  // The name is checked while it is typed.
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill('join a GROUP');
  await expect(designer.getByText('There is an item called “join a GROUP” already. Choose another name.', { exact: true })).toBeVisible();
  await expect(designer.getByRole('button', { name: 'Begin blank', exact: true })).toBeDisabled();
  const name = fresh('Read the logs');
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await designer.getByRole('button', { name: 'Begin blank', exact: true }).click();

  // Ask: two fields, one shown only sometimes, with the preview beside.
  await addField(designer, 'Group');
  await addField(designer, 'Choice');
  await expect(designer.getByLabel(/^Label/)).toBeFocused();
  await designer.keyboard.type('How long');
  await designer.getByLabel('Choice 1', { exact: true }).fill('A while');
  await designer.getByLabel('Choice 2', { exact: true }).fill('For good');
  await addField(designer, 'Long text');
  await expect(designer.getByRole('heading', { level: 2, name: 'Long text', exact: true })).toBeVisible();
  await designer.getByLabel(/^Label/).fill('What you need it for');
  await designer.getByRole('button', { name: 'Only when …', exact: true }).click();
  await choose(designer.getByLabel('Shown when, line 1: value', { exact: true }), 'How long');
  await choose(designer.getByLabel('Shown when, line 1: compared with', { exact: true }), 'For good');
  const preview = designer.getByRole('complementary', { name: 'Preview', exact: true });
  await expect(preview.getByLabel(/^What you need it for/)).toHaveCount(0);
  await choose(preview.getByLabel(/^How long/), 'For good');
  await expect(preview.getByLabel(/^What you need it for/)).toBeVisible();

  // Plan: a gate and a provision by the menu of verbs, each mended until the check is content.
  await designer.getByRole('link', { name: 'Plan', exact: true }).click();
  await designer.getByRole('button', { name: 'First step of the plan', exact: true }).click();
  await designer.keyboard.type('gate');
  await designer.keyboard.press('Enter');
  await expect(designer.getByRole('list', { name: 'Findings', exact: true })).toContainText('may find nobody to ask');
  await choose(designer.getByLabel('Approvers', { exact: true }), 'The owners of a group');
  await choose(designer.getByLabel('If there is nobody to ask', { exact: true }), 'End as Failed, and tell the requester');
  await designer.getByRole('button', { name: 'Add a step at the end', exact: true }).click();
  await designer.keyboard.type('prov');
  await designer.keyboard.press('Enter');
  await choose(designer.getByLabel('Action', { exact: true }), 'Add a person to a group');
  await choose(designer.getByLabel('Group (required)', { exact: true }), 'Group');

  // Publishing is refused while something stops it, saying what.
  await designer.getByRole('link', { name: /^Publish revision 1/ }).click();
  await expect(designer.getByRole('heading', { name: 'One finding stops it', exact: true })).toBeVisible();
  await expect(designer.getByRole('button', { name: 'Publish revision 1', exact: true })).toBeDisabled();
  await designer.getByRole('link', { name: '“Provision” does not have “Person” yet.', exact: true }).click();
  await choose(designer.getByLabel('Person (required)', { exact: true }), 'Requester');
  await designer.getByRole('link', { name: /^Publish revision 1/ }).click();
  await expect(designer.getByRole('heading', { name: 'Worth a look', exact: true })).toBeVisible();
  await expect(
    designer.getByRole('main').getByText('A request can reach the end of the plan without its requester having been told.', { exact: true }),
  ).toBeVisible();
  await designer.getByLabel('What changed and why', { exact: true }).fill('First try');
  await designer.getByRole('button', { name: 'Publish revision 1', exact: true }).click();
  // It gives access through the directory: somebody who answers for the directory has to consent, and is not the designer.
  await expect(designer.getByText(/Not published yet\..*Gudrun Eidholm.* has to consent first/)).toBeVisible();
  const lead = await as('access.lead');
  await lead.goto('/desk/approvals');
  await lead.getByRole('link', { name: 'Consents', exact: true }).click();
  const asked = lead.getByRole('listitem').filter({ hasText: name });
  await expect(asked).toContainText('is to give people: Directory: Add a person to a group');
  await asked.getByRole('button', { name: 'Consent', exact: true }).click();
  await expect(lead.getByRole('listitem').filter({ hasText: name })).toContainText('Consented');
  await designer.getByRole('button', { name: 'Publish revision 1', exact: true }).click();
  await expect(designer.getByLabel('Revisions', { exact: true }).getByText(/offered now/)).toBeVisible();

  const requester = await as('requester');
  await requester.goto('/counter?q=logs');
  await requester.getByRole('link', { name, exact: true }).click();
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText('2 answers need another look.', { exact: true })).toBeVisible();
  await requester.getByRole('combobox', { name: /^Group/ }).fill('vessel-log');
  await requester.getByRole('option', { name: /vessel-logs/ }).click();
  await choose(requester.getByLabel(/^How long/), 'A while');
  await requester.getByRole('button', { name: 'Send request', exact: true }).click();
  await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
  await expect(requester.getByLabel('Where it stands', { exact: true })).toContainText('waits for Orm Uttervag');
});

test('a copy can be broken; the original is untouched and requests under way keep their revision', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer
    .getByRole('row', { name: 'Join a group', exact: true })
    .getByRole('link', { name: /^Begin a copy/ })
    .click();
  await expect(designer.getByRole('textbox', { name: 'Name (required)', exact: true })).toHaveValue('Join a group, tried out');
  const name = fresh('Tried out');
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await designer.getByRole('button', { name: 'Begin the copy', exact: true }).click();
  await expect(designer.getByRole('heading', { level: 1, name, exact: true })).toBeVisible();
  await designer.getByRole('link', { name: 'Plan', exact: true }).click();
  await sheet(designer).locator('[data-step="add"]').focus();
  await designer.keyboard.press('Delete');
  await expect(designer.getByText(/uses a value of “Add to the group”, a step that is not there any more/)).toBeVisible();
  await expect(designer.getByText('Draft saved', { exact: true })).toBeVisible();
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Join a group', exact: true }).click();
  await expect(sheet(designer).locator('[data-step="add"]')).toBeVisible();
  await expect(designer.getByText('The check finds nothing', { exact: true })).toBeVisible();
});

test('the plan sheet by keyboard alone: insert, move, duplicate, remove, undo, redo', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items?new');
  await designer.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh('Keyboard only'));
  await designer.keyboard.press('Enter');
  await designer.getByRole('link', { name: 'Plan', exact: true }).click();
  await designer.getByRole('button', { name: 'First step of the plan', exact: true }).focus();
  await designer.keyboard.press('Enter');
  await designer.keyboard.type('tell');
  await designer.keyboard.press('Enter');
  await expect(designer.locator('[data-slip-first]')).toBeFocused();
  await designer.keyboard.press('Escape');
  await expect(sheet(designer).locator('[data-step="tell"]')).toBeFocused();
  await designer.keyboard.press('a');
  await designer.keyboard.type('finish');
  await designer.keyboard.press('Enter');
  await expect(designer.locator('[data-slip-first]')).toHaveValue('Finish');
  await expect(designer.locator('[data-slip-first]')).toBeFocused();
  await designer.keyboard.press('Escape');
  await expect(sheet(designer).locator('[data-step="finish"]')).toBeFocused();
  await expect.poll(() => stepNames(designer)).toEqual(['Tell', 'Finish']);
  await designer.keyboard.press('Alt+ArrowUp');
  await expect.poll(() => stepNames(designer)).toEqual(['Finish', 'Tell']);
  await designer.keyboard.press('Control+z');
  await expect.poll(() => stepNames(designer)).toEqual(['Tell', 'Finish']);
  await designer.keyboard.press('Home');
  await designer.keyboard.press('Control+d');
  await expect(sheet(designer).locator('[data-step="tell2"]')).toBeFocused();
  await expect.poll(() => stepNames(designer)).toEqual(['Tell', 'Tell 2', 'Finish']);
  await designer.keyboard.press('Delete');
  await expect.poll(() => stepNames(designer)).toEqual(['Tell', 'Finish']);
  await designer.keyboard.press('Control+z');
  await designer.keyboard.press('Control+z');
  await designer.keyboard.press('Control+y');
  await expect.poll(() => stepNames(designer)).toEqual(['Tell', 'Tell 2', 'Finish']);
  await designer.keyboard.press('b');
  await designer.keyboard.type('choose');
  await designer.keyboard.press('Enter');
  await expect(designer.getByLabel('Name of case 1', { exact: true })).toBeVisible();
  await expect(designer.getByRole('button', { name: 'first step here, in “First case”', exact: true })).toBeVisible();
  await expect(designer.getByText(/^\s*Draft saved/)).toBeVisible();
  await designer.reload();
  await expect.poll(async () => (await stepNames(designer)).sort()).toEqual(['Choose', 'Finish', 'Tell', 'Tell 2']);
});

test('messages hold values picked from what exists at that point', async ({ as }) => {
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Join a group', exact: true }).click();
  await sheet(designer).locator('[data-step="tellWelcome"]').click();
  const insert = designer.getByLabel('Insert a value into Message', { exact: true });
  expect(await choicesOf(insert)).toContain('Was already a member');
  await sheet(designer).locator('[data-step="tellDeclined"]').click();
  await expect(designer.locator('[data-slip-first="tellDeclined"]')).toBeVisible();
  const declined = await choicesOf(insert);
  expect(declined).toContain('Comment');
  expect(declined).not.toContain('Was already a member');
  await designer.getByRole('textbox', { name: 'Message', exact: true }).click();
  await designer.keyboard.press('Control+End');
  await choose(insert, 'Requester');
  await expect(designer.getByRole('textbox', { name: 'Message', exact: true })).toContainText('Requester');
  await expect(designer.getByText('Draft saved', { exact: true })).toBeVisible();
  await sheet(designer).locator('[data-step="owners"]').focus();
  await designer.keyboard.press('Control+z');
  await expect(designer.getByText('Draft saved', { exact: true })).toBeVisible();
});

test('two people edit one draft: the second is told, nothing is lost, and either version can be kept', async ({ as }) => {
  const [one, two] = [await as('designer'), await as('designer')];
  await one.goto('/workshop/items?new');
  await one.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(fresh('Shared by two'));
  await one.getByRole('button', { name: 'Begin blank', exact: true }).click();
  await one.waitForURL(/\/ask$/);
  await two.goto(one.url());
  await one.getByLabel('Purpose', { exact: true }).fill('What one wrote');
  await expect(one.getByText('Draft saved', { exact: true })).toBeVisible();
  await two.getByLabel('Purpose', { exact: true }).fill('What two wrote');
  await expect(two.getByText(/^\s*Somebody else has saved this draft meanwhile\./)).toBeVisible();
  await expect(two.getByLabel('Purpose', { exact: true })).toHaveValue('What two wrote');
  await two.getByRole('button', { name: /^Take theirs/ }).click();
  await expect(two.getByLabel('Purpose', { exact: true })).toHaveValue('What one wrote');
  await two.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(two.getByLabel('Purpose', { exact: true })).toHaveValue('What two wrote');
  await expect(two.getByText('Draft saved', { exact: true })).toBeVisible();
});

test('a new revision serves new requests; those under way end on the one they began with', async ({ as }) => {
  const requester = await as('requester');
  const number = await askToJoin(requester, 'tide-models', 'On the first revision');
  const designer = await as('designer');
  await designer.goto('/workshop/items');
  await designer.getByRole('link', { name: 'Join a group', exact: true }).click();
  await designer.getByRole('link', { name: 'Ask', exact: true }).click();
  await designer.getByLabel('Purpose', { exact: true }).fill(fresh('Get access to what a group opens. Its owners decide, mostly within a day.'));
  await expect(designer.getByText('Draft saved', { exact: true })).toBeVisible();
  const toPublish = designer.getByRole('link', { name: /^Publish revision/ });
  const next = Number(/\d+/.exec((await toPublish.textContent()) ?? '')![0]);
  await toPublish.click();
  await designer.getByRole('button', { name: `Publish revision ${next}`, exact: true }).click();
  await expect(designer.getByLabel('Revisions', { exact: true }).getByRole('listitem').getByText(`Revision ${next}`, { exact: true })).toBeVisible();
  await expect(designer.getByRole('status').filter({ hasText: `Revision ${next} is offered since` })).toBeVisible();
  await expect(designer.getByRole('button', { name: `Publish revision ${next + 1}`, exact: true })).toBeDisabled();
  const approver = await as('approver');
  await openApproval(approver, number);
  await approver.getByRole('button', { name: /^Approve/ }).click();
  await waitFor(requester, number, 'Fulfilled');
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${number.slice(2)}`);
  await expect(auditor.getByText(begins(`Revision ${next - 1} ·`))).toBeVisible();
  expect(await directory.memberships('tide-models', cast.requester)).toBe(1);
});

test('requests that wait go over to a new revision, where what they have done is the same; others say why they stay', async ({ as }) => {
  const asks = (id: string, label: string) => ({
    id,
    kind: 'askBack',
    name: `Ask for the ${label.toLowerCase()}`,
    expected: now,
    question: text(`Which ${label.toLowerCase()}?`),
    fields: [{ id: 'answer', kind: 'text', label, required: true }],
  });
  const { page, name } = await itemWith(as, 'Go over', { fields: [] }, [asks('month', 'Month'), asks('boat', 'Boat'), told('end')]);
  await publish(page);
  const requester = await as('requester');
  const ask = async () => {
    await openItem(requester, name);
    await requester.getByRole('button', { name: 'Send request', exact: true }).click();
    await expect(requester.getByText(/^\s*Your request is on its way\./)).toBeVisible();
    return /R-\d+/.exec((await requester.getByText(/^R-\d+$/).textContent()) ?? '')![0];
  };
  const goes = await ask();
  const stays = await ask();
  await requester.getByRole('textbox', { name: 'Month (required)', exact: true }).fill('May');
  await requester.getByRole('button', { name: 'Send my answer', exact: true }).click();
  await expect(requester.getByRole('textbox', { name: 'Boat (required)', exact: true })).toBeVisible();

  // Something comes between the two questions: who waits at the first has done the same, who waits at the second has not.
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await step(page, 'month').focus();
  await page.keyboard.press('a');
  await page.keyboard.type('milestone');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Words the requester sees (required)', exact: true }).fill('Half way');
  await publish(page);
  const revisions = page.getByRole('complementary', { name: 'Revisions', exact: true });
  await expect(revisions.getByText(/^\s*2 requests under way on it/)).toBeVisible();
  await revisions.getByRole('link', { name: 'Which can go over to revision 2', exact: true }).click();
  const behind = page.getByRole('region', { name: 'Requests on earlier revisions', exact: true });
  await expect(behind.getByText('“Ask for the boat” has begun where the new revision has “Mark”.', { exact: true })).toBeVisible();
  await behind.getByRole('button', { name: 'Move 1 request to revision 2', exact: true }).click();
  await expect(behind.getByText('1 request went over to revision 2.', { exact: true })).toBeVisible();
  await expect(behind.getByRole('link', { name: goes, exact: true })).toHaveCount(0);
  await expect(behind.getByRole('link', { name: stays, exact: true })).toBeVisible();
  const auditor = await as('auditor');
  await auditor.goto(`/ledger/${goes.slice(2)}`);
  await expect(auditor.getByText(/^\s*Revision 2 ·/)).toBeVisible();
});

test('an item is begun from a template: the check names the team that is wanting, and nothing else', async ({ as }) => {
  const page = await as('designer');
  await page.goto('/workshop/items?new');
  const name = fresh('Ask the chart room');
  await choose(page.getByRole('combobox', { name: 'Begin from', exact: true }), 'A question to a team');
  await expect(page.getByText('Ask a team something; it answers from its task.', { exact: true })).toBeVisible();
  await page.getByRole('textbox', { name: 'Name (required)', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Begin from it', exact: true }).click();
  await page.getByRole('link', { name: 'Plan', exact: true }).click();
  await expect(page.getByText('“Answer the question” does not have anyone to do it yet.', { exact: true })).toBeVisible();
  await expect(page.getByRole('heading', { level: 2, name: 'The check finds one thing', exact: true })).toBeVisible();
  await step(page, 'answer').click();
  await choose(page.getByRole('combobox', { name: 'Who does it', exact: true }), 'A team');
  await choose(page.getByRole('combobox', { name: 'Which team', exact: true }), 'Charts helpdesk');
  await expect(page.getByRole('heading', { level: 2, name: 'The check finds nothing', exact: true })).toBeVisible();
  await publish(page);
});

test('an earlier revision is put into the draft, undone by one act, and published as the next', async ({ as }) => {
  const { page, name } = await itemWith(as, 'There and back', { fields: [] }, [told('end')]);
  await publish(page);
  await expect(page.getByRole('button', { name: 'Put revision 1 into the draft', exact: true })).toHaveCount(0);
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  const purpose = page.getByRole('textbox', { name: 'Purpose', exact: true });
  await purpose.fill('Otherwise');
  await addField(page, 'Number');
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision 2/ }).click();
  // What changed since, in words.
  await page.getByRole('button', { name: 'Compare', exact: true }).click();
  const compared = page.getByRole('region', { name: 'From revision 1 to the draft', exact: true });
  await expect(compared.getByRole('listitem')).toHaveText(['The purpose: “For a test” became “Otherwise”.', 'The form asks “Number” too.']);
  await page.getByRole('button', { name: 'Put revision 1 into the draft', exact: true }).click();
  await expect(page.getByText('The draft is as revision 1 was', { exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Ask', exact: true }).click();
  await expect(purpose).toHaveValue('For a test');
  await expect(page.getByText('The form asks nothing yet.', { exact: true })).toBeVisible();
  await expect(page.getByRole('heading', { name, exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await expect(purpose).toHaveValue('Otherwise');
  await page.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect(purpose).toHaveValue('For a test');
  await saved(page);
  await page.getByRole('link', { name: /^Publish revision 2/ }).click();
  await page.getByRole('textbox', { name: 'What changed and why', exact: true }).fill('As it was at first');
  await page.getByRole('button', { name: 'Publish revision 2', exact: true }).click();
  await expect(page.getByText(/^Revision 2 is offered since/)).toBeVisible();
});
