import { chat, mailbox } from './support/outside.ts';
import { signal } from './support/signal.ts';
import { choose, expect, fresh, test } from './support/story.ts';

test('a tablet does not charge at Lunnick: from a telephone to closed, with a question back', async ({ as }) => {
  const subject = fresh('Tablet does not charge');
  // On a telephone, at Lunnick.
  const owner = await as('owner');
  await owner.setViewportSize({ width: 390, height: 844 });
  await owner.goto('/counter/report');
  await owner.getByRole('radio', { name: 'Something does not work as it should.', exact: true }).click();
  await owner.getByRole('button', { name: 'Report it', exact: true }).click();
  await expect(owner.getByText('Say in a line what it is about.', { exact: true })).toBeVisible();
  await owner.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill(subject);
  await owner
    .getByRole('textbox', { name: 'What happens, and what you have tried (required)', exact: true })
    .fill('It says it charges, but the number falls.');
  await choose(owner.getByRole('combobox', { name: 'What it is about', exact: true }), 'Field equipment');
  await expect(owner.getByRole('combobox', { name: 'Where', exact: true })).toHaveValue('Observatory');
  await owner.getByRole('radio', { name: 'Several people', exact: true }).click();
  await owner.getByRole('radio', { name: 'Work stands still', exact: true }).click();
  await owner.getByRole('button', { name: 'Report it', exact: true }).click();
  await expect(owner.getByRole('heading', { level: 1, name: subject, exact: true })).toBeVisible();
  const number = /It has come in as (T-\d+)\./.exec(await owner.getByRole('status').filter({ hasText: 'It has come in as' }).innerText())![1]!;
  await mailbox.wait('owner@skerrin.example', `It has come in as ${number}.`, subject);

  // The one it is routed to is told, and finds it in the queue by working time left.
  await chat.wait('technician', number);
  const technician = await as('technician');
  await technician.goto('/desk/queue');
  const line = technician.getByRole('row', { name: `${number}, ${subject}`, exact: true });
  await expect(line).toContainText('high');
  await expect(line.getByRole('img')).toHaveAccessibleName(/ of 4 h used, /);
  await line.click();
  await expect(technician.getByRole('heading', { level: 2, name: subject, exact: true })).toBeVisible();
  const box = technician.getByRole('textbox', { name: 'Write to Solveig', exact: true });
  // A question wants a word; what there is to say is said, and the clock is held.
  await technician.getByRole('button', { name: 'Ask and hold', exact: true }).click();
  await expect(technician.getByText('“Waiting for you” needs a word to the requester.', { exact: true })).toBeVisible();
  await box.fill('Which number is on the back?');
  await technician.getByRole('button', { name: 'Ask and hold', exact: true }).click();
  await expect(line).toContainText('Waiting for you');
  await expect(line).toContainText('held');
  await mailbox.wait('owner@skerrin.example', 'Which number is on the back?', number);

  // Her page has changed by itself; the answer lets the clock go on.
  await expect(owner.getByText('The desk waits for your answer. The time you take does not count against it.', { exact: true })).toBeVisible();
  await owner.getByRole('textbox', { name: 'Your answer', exact: true }).fill('FT-0148.');
  await owner.getByRole('button', { name: 'Send my answer', exact: true }).click();
  await expect(owner.getByText('somebody is on it', { exact: true })).toBeVisible();
  const said = technician.getByRole('list', { name: 'Conversation', exact: true });
  await expect(said).toContainText('FT-0148.');
  await expect(said).toContainText('waiting for Solveig Langskar');
  await expect(line).toContainText('In work');

  // A note stays within the desk; done is told, and can be said not to be.
  await box.fill('Second one with this port.');
  await technician.getByRole('button', { name: 'Note for the desk', exact: true }).click();
  await expect(said).toContainText('Note, Birk Saltvik');
  await box.fill('It has a new port.');
  await technician.getByRole('button', { name: 'Done', exact: true }).click();
  await expect(technician.getByText('Sent and moved.', { exact: true })).toBeVisible();
  await expect(technician.getByText('the promise was kept', { exact: true })).toBeVisible();
  await expect(owner.getByText('Did it help?', { exact: true })).toBeVisible();
  await expect(owner.getByText(/Second one with this port\./)).toHaveCount(0);
  await owner.getByRole('textbox', { name: 'It is not done: what is still wrong', exact: true }).fill('It is empty again.');
  await owner.getByRole('button', { name: 'Send, and take it up again', exact: true }).click();
  await expect(owner.getByText('somebody is on it', { exact: true })).toBeVisible();
  await expect(said).toContainText('It is empty again.');
  await box.fill('Now it is a new battery.');
  await technician.getByRole('button', { name: 'Done', exact: true }).click();
  await owner.getByRole('button', { name: 'Yes, it did', exact: true }).click();
  await expect(owner.getByText('Thank you. The desk knows.', { exact: true })).toBeVisible();
  await owner.getByRole('button', { name: 'Close it for good', exact: true }).click();
  await expect(owner.getByText(/^\s*This is closed for good\./)).toBeVisible();
  await owner.goto('/counter/requests');
  await expect(owner.getByRole('link', { name: new RegExp(number) })).toContainText('closed');
});

test('two agents on one ticket: the second is told, and what they wrote is still there; it is given, judged and its history says why', async ({
  as,
}) => {
  const subject = fresh('Door stays locked');
  const [lead, technician] = [await as('technician'), await as('technician')];
  // Somebody calls.
  await lead.goto('/counter/report?call');
  await lead.getByRole('combobox', { name: 'Who is on the telephone (required)', exact: true }).fill('Liv Kelp');
  await lead.getByRole('option').first().click();
  await lead.getByRole('radio', { name: 'Incident', exact: true }).click();
  await lead.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill(subject);
  await lead
    .getByRole('textbox', { name: 'What happens, and what you have tried (required)', exact: true })
    .fill('My badge is green, the door is not.');
  await lead.getByRole('button', { name: 'Report it', exact: true }).click();
  await lead.waitForURL(/\/desk\/queue\/tickets\/\d+$/);
  const address = new URL(lead.url()).pathname;
  await expect(lead.getByRole('list', { name: 'Conversation', exact: true })).toContainText('by telephone');
  await technician.goto(address);
  const box = technician.getByRole('textbox', { name: 'Write to Liv', exact: true });
  await box.fill('We send somebody up.');
  await lead.getByRole('textbox', { name: 'Write to Liv', exact: true }).fill('It was the relay.');
  await lead.getByRole('button', { name: 'Done', exact: true }).click();
  await expect(lead.getByText('Sent and moved.', { exact: true })).toBeVisible();
  // The page of the other has changed by itself; what is typed there stays.
  await expect(technician.getByRole('list', { name: 'Conversation', exact: true })).toContainText('It was the relay.');
  await expect(box).toHaveText('We send somebody up.');
  await choose(technician.getByRole('combobox', { name: 'Move it to', exact: true }), 'In work (reopens it)');
  await technician.getByRole('button', { name: 'Send, and move it to “In work”', exact: true }).click();
  await expect(box).toHaveText('');
  await technician.getByText('Judge its priority anew', { exact: true }).click();
  await choose(technician.getByRole('combobox', { name: 'Urgency', exact: true }), 'Work stands still');
  await technician.getByRole('textbox', { name: 'Reason', exact: true }).fill('the boat leaves at noon');
  await technician.getByRole('button', { name: 'Set its priority', exact: true }).click();
  await technician.getByText('Give it to somebody else', { exact: true }).click();
  await choose(technician.getByRole('combobox', { name: 'To a team', exact: true }), 'Stores');
  await technician.getByRole('textbox', { name: 'Why', exact: true }).fill('they have the relay');
  await technician.getByRole('button', { name: 'Give it, and tell them', exact: true }).click();
  await technician.getByText(/^History, \d+ entries$/).click();
  for (const words of [
    /set its priority to medium \(One person; Work stands still\): the boat leaves at noon$/,
    /gave it to Stores: they have the relay$/,
  ])
    await expect(technician.getByText(words)).toBeVisible();
});

test('what is typed while the editor is on its way is in it once it is there, to the last letter', async ({ as }) => {
  const page = await as('technician');
  const fetched = signal();
  // A machine that draws seldom: no key may wait for a frame.
  await page.addInitScript(() => {
    const frame = window.requestAnimationFrame.bind(window);
    window.requestAnimationFrame = (then) => window.setTimeout(() => frame(then), 300);
  });
  await page.route(/\/rich-editor-[^/]+\.js$/, async (route) => {
    await fetched.given;
    await route.continue();
  });
  await page.goto('/desk/queue?what=ticket');
  await page.getByRole('row', { name: /^T-/ }).first().click();
  const box = page.getByRole('textbox', { name: /^Write to / });
  const typed = 'The relay is behind the third panel, and the key to it hangs in Stores.';
  const typing = box.pressSequentially(typed, { delay: 25 });
  await expect(box).toHaveValue(/^The relay is behind/);
  fetched.give();
  await typing;
  await expect(page.getByRole('toolbar', { name: /^Format Write to / })).toBeVisible();
  await expect(box).toHaveText(typed);
  await expect(box).toBeFocused();
});

test('what is typed in a report finds what can be asked for instead, and what was reported already', async ({ as }) => {
  const page = await as('requester');
  await page.goto('/counter/report');
  await page.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill('I need a processing machine, and the payslip is missing');
  const beside = page.getByRole('complementary', { name: 'What may answer it', exact: true });
  await expect(beside.getByRole('link', { name: 'Processing machine', exact: true })).toBeVisible();
  await expect(beside.getByRole('link', { name: 'Payslip missing for two of the crew', exact: true })).toBeVisible();
  // What others have reported is told by its number alone.
  await page.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill('The sounder log does not open');
  await expect(beside.getByText(/^Somebody else has reported something like this at Quay House, and it is open\./)).toBeVisible();
  await expect(beside.getByText(/will not open/)).toHaveCount(0);
});

test('two reports of the same are joined, and taken out again; another matter is split off; the two at the desk see each other', async ({ as }) => {
  const [one, two] = [fresh('Winch will not turn'), fresh('Winch is stuck')];
  const report = async (part: 'requester' | 'owner', subject: string) => {
    const page = await as(part);
    await page.goto('/counter/report');
    await page.getByRole('radio', { name: 'Something does not work as it should.', exact: true }).click();
    await page.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill(subject);
    await page.getByRole('textbox', { name: 'What happens, and what you have tried (required)', exact: true }).fill(`${subject}: it hums.`);
    await page.getByRole('button', { name: 'Report it', exact: true }).click();
    await page.waitForURL(/\/counter\/tickets\/\d+/);
    return { page, number: /tickets\/(\d+)/.exec(page.url())![1]! };
  };
  const [first, second] = [await report('requester', one), await report('owner', two)];
  const [technician, administrator] = [await as('technician'), await as('administrator')];
  await technician.goto(`/desk/queue/tickets/${second.number}`);
  await administrator.goto(`/desk/queue/tickets/${second.number}`);
  await expect(technician.getByText('Also here: Ylva Stormness, reading', { exact: true })).toBeVisible();
  await administrator.getByRole('textbox', { name: 'Write to Solveig', exact: true }).fill('I look at');
  await expect(technician.getByText('Also here: Ylva Stormness, writing', { exact: true })).toBeVisible();
  await administrator.goto('/desk/queue');
  await expect(technician.getByText(/^\s*Also here:/)).toHaveCount(0);

  await technician.getByText('Join, link, split, or begin something from here', { exact: true }).click();
  await technician.getByRole('textbox', { name: 'Number of another', exact: true }).fill(`T-${first.number}`);
  await technician.getByRole('button', { name: 'Join this into it', exact: true }).click();
  await expect(technician.getByRole('heading', { level: 2, name: one, exact: true })).toBeVisible();
  await expect(technician.getByText(`T-${second.number} went into this one.`, { exact: true })).toBeVisible();
  // What is said now, both who asked read.
  const box = technician.getByRole('textbox', { name: 'Write to Tuva', exact: true });
  await box.fill('The fuse is being changed.');
  await technician.getByRole('button', { name: 'Send', exact: true }).click();
  for (const { page } of [first, second])
    await expect(page.getByRole('list', { name: 'Conversation', exact: true })).toContainText('The fuse is being changed.');
  await technician.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(technician.getByText('It goes on by itself again.', { exact: true })).toBeVisible();
  await expect(technician.getByText(`T-${second.number} went into this one.`, { exact: true })).toHaveCount(0);

  await technician.getByText('Join, link, split, or begin something from here', { exact: true }).click();
  const other = fresh('Hook is bent');
  await technician.getByRole('textbox', { name: 'Another matter in it', exact: true }).fill(other);
  await technician.getByRole('button', { name: 'Split it off', exact: true }).click();
  await expect(technician.getByRole('heading', { level: 2, name: other, exact: true })).toBeVisible();
  await expect(technician.getByRole('region', { name: 'What it has to do with', exact: true })).toContainText(`T-${first.number}`);

  // Something from the catalog, begun from here, and back.
  await technician.getByText('Join, link, split, or begin something from here', { exact: true }).click();
  await technician.getByRole('combobox', { name: 'Something from the catalog', exact: true }).fill('Join a');
  await technician.getByRole('option').first().click();
  await technician.getByRole('button', { name: 'Begin it from here', exact: true }).click();
  await expect(technician.getByText(/^\s*Begun from/)).toBeVisible();
});

test('several of the queue are written to and given at once', async ({ as }) => {
  const [a, b] = [fresh('Buoy light is out'), fresh('Buoy bell is silent')];
  const requester = await as('requester');
  for (const subject of [a, b]) {
    await requester.goto('/counter/report');
    await requester.getByRole('radio', { name: 'Something does not work as it should.', exact: true }).click();
    await requester.getByRole('textbox', { name: 'In a line (required)', exact: true }).fill(subject);
    await requester.getByRole('textbox', { name: 'What happens, and what you have tried (required)', exact: true }).fill('Since last night.');
    await requester.getByRole('button', { name: 'Report it', exact: true }).click();
    await requester.waitForURL(/\/counter\/tickets\/\d+/);
  }
  const technician = await as('technician');
  await technician.goto('/desk/queue?what=ticket&q=Buoy');
  for (const subject of [a, b])
    await technician
      .getByRole('row', { name: new RegExp(subject) })
      .getByRole('checkbox')
      .click();
  await technician.getByRole('button', { name: 'Give or write …', exact: true }).click();
  const dialog = technician.getByRole('dialog', { name: '2 are chosen', exact: true });
  await dialog.getByRole('textbox', { name: 'The same words to each', exact: true }).fill('The boat goes out at noon.');
  await dialog.getByRole('button', { name: 'Send to who asked', exact: true }).click();
  await expect(technician.getByText('2 were written to.', { exact: true })).toBeVisible();
  await expect(requester.getByRole('list', { name: 'Conversation', exact: true })).toContainText('The boat goes out at noon.');
});
