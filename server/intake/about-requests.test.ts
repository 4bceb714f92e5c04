import { createTransport, type SendMailOptions } from 'nodemailer';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Field } from '../../core/forms/index.ts';
import { passages, type Step } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { writeOnRequest } from '../conversation/request.ts';
import { myRequest } from '../requests/queries.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { openWay } from './commands.ts';

// Mails about requests: answers to what they ask, and words of all who deal with them.
let w: World;
let transport: ReturnType<typeof createTransport>;
beforeAll(async () => {
  w = await world({ replies: true });
  const { kindId } = await ticketKit(w);
  transport = createTransport(`smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`);
  const way = { via: 'mail', name: 'desk', kind: kindId, category: null, unknown: 'refuse', automatic: 'leave' };
  expect(await openWay(w.viewer('dan', 'designer'), way)).toMatchObject({ ok: true });
});
afterAll(() => w.close());

const send = (mail: SendMailOptions) =>
  transport.sendMail({ from: 'Tor Strand <tor@skerrin.example>', to: 'desk@nessmoor.skerrin.example', subject: 'A word', text: 'Hello.', ...mail });
const to = (number: number) => `desk+r${number}@nessmoor.skerrin.example`;
const numbers = async () =>
  (await w.query<{ number: string }>("select number from service_case where kind = 'ticket' order by number")).map((r) => Number(r.number));
const latest = async (user: string) => (await w.mails(user)).at(-1)!;
const work: Step = step('task', 'look', { assignee: { team: 'desk' }, instructions: passages('Look'), checklist: [], fields: [] });
const said = async (number: number) => (await myRequest(w.viewer('tor'), number))!.words.map((x) => [x.by, x.from, x.via, x.text]);

it('answers what a request asks of who asked it, and the plan goes on; what is not taken says why, and where to answer', async () => {
  const question = (id: string, fields: Field[]): Step => step('askBack', id, { question: sentence(`About ${id}?`), fields });
  const shape = { pieces: [{ of: 'any' as const, least: 1, most: 20 }], sentence: 'At most 20 characters.' };
  const words: Field = { id: 'words', kind: 'text', label: 'In words', required: true, shape };
  const plan = { steps: [question('berth', [words]), question('two', [words, { ...words, id: 'more' }]), tell('end', 'End')] };
  const made = await w.askPlan(plan, 'tor');
  await w.work();
  const asked = await latest('tor');
  expect(asked).toMatchObject({ replyTo: `desk+r${made.number}@nessmoor.skerrin.example` });
  expect(asked.text).toContain('About berth?\n\nAnswer this mail in a few words, or answer it on its page:');
  const before = await numbers();
  // Too long: said in the thread, and nothing is answered.
  expect(await w.replyTo(asked.n, 'By the third berth of the inner harbour.')).toBe(200);
  await w.work();
  expect((await latest('tor')).text).toMatch(/^What you wrote was not taken as the answer\. .*At most 20 characters\..*\/counter\/requests\/\d+/s);
  await send({
    to: `desk+r${made.number}@nessmoor.skerrin.example`,
    text: 'North 3\n\n> About berth?',
    messageId: '<berth@skerrin.example>',
    attachments: [{ filename: 'berth.txt', content: 'x' }],
  });
  const answered = () =>
    w.query<{ values: object; came_as: string | null }>('select values, came_as from question where run_id = $1 order by opened_at', [made.id]);
  expect((await answered())[0]).toEqual({ values: { words: 'North 3' }, came_as: '<berth@skerrin.example>' });
  await w.work();
  // What was attached stands with it.
  const said = (await myRequest(w.viewer('tor'), made.number))!.words;
  expect(said.map((x) => [x.text, x.files.map((f) => f.name)])).toEqual([
    ['About berth?', []],
    ['North 3', []],
    ['About two?', []],
    ['(Attached to the answer.)', ['berth.txt']],
  ]);
  // Where we ended between the answer and what came with it, the same mail again brings that, and no second answer.
  await w.asOwner("update stored_file set case_id = null, word_id = null; delete from case_word where text = '(Attached to the answer.)'");
  await send({
    to: `desk+r${made.number}@nessmoor.skerrin.example`,
    text: 'North 3',
    messageId: '<berth@skerrin.example>',
    attachments: [{ filename: 'berth.txt', content: 'x' }],
  });
  expect((await myRequest(w.viewer('tor'), made.number))!.words.map((x) => x.files.length)).toEqual([0, 0, 0, 1]);
  // The same mail again is nothing new; somebody else's is no answer, and opens a ticket as any mail does.
  await send({ to: `desk+r${made.number}@nessmoor.skerrin.example`, text: 'North 3', messageId: '<berth@skerrin.example>' });
  await send({ to: `desk+r${made.number}@nessmoor.skerrin.example`, text: 'Away.', headers: { 'Auto-Submitted': 'auto-replied' } });
  expect(await numbers()).toEqual(before);
  expect((await answered())[1]).toEqual({ values: null, came_as: null });
  await w.work();
  // What asks for more than words is answered on its page, and says so.
  const more = (await w.mails('tor')).findLast((m) => m.text.includes('About two?'))!;
  expect(more.text).not.toContain('Answer this mail');
  await send({ text: 'This and that', inReplyTo: more.messageId, references: [more.messageId] });
  await w.work();
  expect((await latest('tor')).text).toContain('This cannot be answered by mail, and what you wrote was not taken.');
  // What answers another mail of ours is no answer to a question that happens to be open.
  await send({ text: 'Thank you.', inReplyTo: asked.messageId, references: [asked.messageId] });
  expect(await numbers()).toHaveLength(before.length + 1);
  await send({ from: 'ina@skerrin.example', to: `desk+r${made.number}@nessmoor.skerrin.example`, text: 'I know.' });
  expect(await numbers()).toHaveLength(before.length + 2);
  expect((await answered())[1]).toEqual({ values: null, came_as: null });
});

it('who asked and who has the task write to each other in the thread, and all of it stands on their page', async () => {
  const before = await numbers();
  const made = await w.askPlan({ steps: [work] }, 'tor');
  await w.query('update task set taken_by = $1 where run_id = $2', [w.id('dan'), made.id]);
  await send({ to: to(made.number), text: 'It is for the spring.\n\n> What is it for?' });
  await w.work();
  const told = await latest('dan');
  expect(told.subject).toBe(`Tor Strand writes about Item, R-${made.number}`.replace('Item', (await myRequest(w.viewer('tor'), made.number))!.item));
  expect(told.text).toMatch(/^It is for the spring\.\n[^]*What you answer to this mail, Tor Strand reads\./);
  expect(told).toMatchObject({ replyTo: to(made.number) });
  expect(await w.replyTo(told.n, 'Which spring?')).toBe(200);
  await w.work();
  const asked = await latest('tor');
  expect(asked.text).toMatch(/^Which spring\?\n[^]*Answer this mail, or write on its page:\n\n[^]*\/counter\/requests\/\d+/);
  expect(await w.replyTo(asked.n, 'The next one.')).toBe(200);
  await send({ to: to(made.number), text: 'The next one, see here.', attachments: [{ filename: 'spring.txt', content: 'x' }] });
  expect(await said(made.number)).toEqual([
    ['Tor Strand', 'requester', 'mail', 'It is for the spring.'],
    ['Dan Strand', 'desk', 'mail', 'Which spring?'],
    ['Tor Strand', 'requester', 'mail', 'The next one.'],
    ['Tor Strand', 'requester', 'mail', 'The next one, see here.'],
  ]);
  expect((await myRequest(w.viewer('tor'), made.number))!.words.at(-1)!.files.map((f) => f.name)).toEqual(['spring.txt']);
  expect(await numbers()).toEqual(before);
});

it('the same mail twice is one word; what a program writes is none; of anybody else, or where nobody reads it, it opens a ticket that follows', async () => {
  const made = await w.askPlan({ steps: [gate({ approvers: { from: 'managerOf', person: { ref: 'request.requester' } } }), work] }, 'tor');
  const before = await numbers();
  const messageId = '<spring@skerrin.example>';
  await send({ to: to(made.number), messageId });
  await Promise.all([send({ to: to(made.number), messageId }), send({ to: to(made.number), messageId })]);
  await send({ to: to(made.number), text: 'I am away.', headers: { 'Auto-Submitted': 'auto-replied' } });
  expect(await said(made.number)).toHaveLength(1);
  expect(await numbers()).toEqual(before);
  // The approver, who was told, answers.
  await w.work();
  const told = await latest('runa');
  expect(await w.replyTo(told.n, 'Why now?')).toBe(200);
  expect(await said(made.number)).toHaveLength(2);
  // Somebody who has no part in it.
  await send({ from: 'ina@skerrin.example', to: to(made.number), text: 'Me too.' });
  expect(await numbers()).toHaveLength(before.length + 1);
  await w.query("update service_case set outcome = 'declined' where number = $1", [made.number]);
  await w.query('update gate set closed_at = now() where run_id = $1', [made.id]);
  await send({ to: to(made.number), text: 'Once more, please.' });
  expect(await numbers()).toHaveLength(before.length + 2);
  const follows = await w.query("select from case_link l join service_case c on c.id = l.to_id where l.how = 'follows' and c.number = $1", [
    made.number,
  ]);
  expect(follows).toHaveLength(2);
  expect(await writeOnRequest(w.viewer('runa'), { number: made.number, words: 'Late', once: '' })).toMatchObject({ code: 'not-found' });
});
