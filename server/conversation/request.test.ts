import { Readable } from 'node:stream';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { passages, type Step } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { approvalFor } from '../approvals/queries.ts';
import { db } from '../db/database.ts';
import { keepFile } from '../files/keep.ts';
import { fileFor } from '../files/queries.ts';
import { personOutside } from '../outside/person.ts';
import { answerQuestion, withdrawRequest } from '../requests/commands.ts';
import { myRequest } from '../requests/queries.ts';
import { ledger } from '../runs/ledger.ts';
import { trace } from '../runs/queries.ts';
import { askedOf } from '../../core/lists/index.ts';
import { finishTask, takeTask, writeFromTask } from '../tasks/commands.ts';
import { taskFor } from '../tasks/queries.ts';
import { reportTicket } from '../tickets/report.ts';
import { ticketFor } from '../tickets/queries.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { writeOnRequest } from './request.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const work: Step = step('task', 'look', { assignee: { team: 'desk' }, instructions: passages('Look'), checklist: [], fields: [] });
const agree = gate({ approvers: { from: 'managerOf', person: { ref: 'request.requester' } } });
const tor = () => w.viewer('tor');
const runa = () => w.viewer('runa', 'teamMember');
const taskIn = async (id: string) => (await w.query<{ id: string }>('select id from task where run_id = $1 and closed_at is null', [id]))[0]!.id;
const asTor = (number: number, words: string, once: string = crypto.randomUUID()) =>
  writeOnRequest(tor(), { number, words, once, asRequester: true });
/** To whom mails with these words went. */
const toldOf = async (words: string) =>
  (
    await w.query<{ name: string }>('select p.user_name as name from message m join person p on p.id = m.to_id where m.text like $1 order by 1', [
      `%${words}%`,
    ])
  ).map((r) => r.name);

describe('who asked writes about a request', () => {
  it('to those who have its open tasks: the team, then whoever took it; with what was asked and answered it is one conversation', async () => {
    const question: Step = step('askBack', 'which', {
      question: sentence('Which berth?'),
      fields: [{ id: 'berth', kind: 'choice', label: 'Berth', required: true, options: [{ value: 'n3', label: 'North 3' }] }],
    });
    const made = await w.askPlan({ steps: [question, work, tell('end', 'End')] }, 'tor');
    const [asked] = (await myRequest(tor(), made.number))!.questions;
    expect(await answerQuestion(tor(), { id: asked!.id, values: { berth: 'n3' } })).toEqual({ ok: true });
    expect((await myRequest(tor(), made.number))!.readBy).toEqual(['Directory and access']);
    expect(await asTor(made.number, 'It may also be the **outer** berth.')).toEqual({ ok: true });
    const members = await w.query<{ name: string }>(
      'select p.user_name as name from team_member m join person p on p.id = m.person_id where m.team_id = $1 order by 1',
      [w.teamId],
    );
    expect(await toldOf('outer')).toEqual(members.map((m) => m.name));
    const id = await taskIn(made.id);
    await takeTask(runa(), { id, give: false });
    expect((await myRequest(tor(), made.number))!.readBy).toEqual(['Directory and access']);
    await asTor(made.number, 'Or the inner one.');
    expect(await toldOf('inner')).toEqual(['runa']);
    expect(await writeFromTask(runa(), { id, words: 'The inner one it is.' })).toEqual({ ok: true });
    expect(await writeFromTask(runa(), { id, words: 'They change their mind a lot.', inside: true })).toEqual({ ok: true });
    expect(await toldOf('inner one it is')).toEqual(['tor']);
    expect(await toldOf('change their mind')).toEqual([]);
    const said = (words: { from: string; inside: boolean; text: string }[]) => words.map((x) => [x.from, x.text]);
    const open = [
      ['desk', 'Which berth?'],
      ['requester', 'North 3'],
      ['requester', 'It may also be the outer berth.'],
      ['requester', 'Or the inner one.'],
      ['desk', 'The inner one it is.'],
    ];
    expect(said((await myRequest(tor(), made.number))!.words)).toEqual(open);
    expect(said((await taskFor(runa(), id))!.words)).toEqual([...open, ['desk', 'They change their mind a lot.']]);
    // The words of the mail stand once on their page: in the conversation, not among the messages too.
    expect((await myRequest(tor(), made.number))!.told.map((m) => m.text).join()).not.toContain('inner one');
    const read = await trace(w.viewer('ina', 'auditor'), made.number);
    expect(read?.sealed === false && said(read.words)).toHaveLength(6);
    const own = await trace(w.viewer('tor', 'teamMember'), made.number);
    expect(own?.sealed === false && said(own.words)).toEqual(open);
  });

  it('to the approvers while nobody has a task; they answer without deciding', async () => {
    const made = await w.askPlan({ steps: [agree, work] }, 'tor');
    const [{ id }] = (await w.query<{ id: string }>('select a.id from approval a join gate g on g.id = a.gate_id where g.run_id = $1', [
      made.id,
    ])) as [{ id: string }];
    expect((await myRequest(tor(), made.number))!.readBy).toEqual(['Runa Strand']);
    expect(await asTor(made.number, 'It is for the spring.')).toEqual({ ok: true });
    expect(await toldOf('for the spring')).toEqual(['runa']);
    const [mail] = await w.query<{ text: string }>("select text from message where text like '%for the spring%'");
    expect(mail!.text).toContain(`/desk/approvals/${id}`);
    expect((await approvalFor(runa(), id))!.words.map((x) => x.text)).toEqual(['It is for the spring.']);
    expect(await writeOnRequest(runa(), { number: made.number, words: 'Which spring?', once: '' })).toEqual({ ok: true });
    expect(await toldOf('Which spring')).toEqual(['tor']);
    expect((await approvalFor(runa(), id))!.status).toBe('waiting');
  });

  it('to nobody where nothing is to be done: what was written is refused, and reported it follows the request', async () => {
    const kit = await ticketKit(w);
    const made = await w.askPlan({ steps: [work] }, 'tor');
    await finishTask(runa(), { id: await taskIn(made.id), values: {}, checked: [] });
    expect((await myRequest(tor(), made.number))!.readBy).toEqual([]);
    expect(await asTor(made.number, 'It does not start.')).toMatchObject({
      ok: false,
      code: 'ended',
      sentence: expect.stringContaining('has ended'),
    });
    expect((await myRequest(tor(), made.number))!.words).toEqual([]);
    const report = { kindId: kit.kindId, subject: 'It does not start', words: 'Not at all.', answers: {} };
    const opened = await reportTicket(tor(), { ...report, idempotencyKey: 'follows', follows: made.number });
    expect(opened).toMatchObject({ ok: true });
    const t = await ticketFor(w.viewer('ina', 'auditor'), (opened as { number: number }).number);
    expect(t!.related.map((r) => [r.number, r.how])).toEqual([[`R-${made.number}`, 'follows']]);
    // A request of somebody else is followed by nothing of theirs.
    const other = await reportTicket(w.viewer('ina'), { ...report, idempotencyKey: 'follows too', follows: made.number });
    expect((await ticketFor(w.viewer('ina', 'auditor'), (other as { number: number }).number))!.related).toEqual([]);
  });

  it('sent twice it is one; other words under the same key are kept; nothing at all is refused, and so is too much', async () => {
    const made = await w.askPlan({ steps: [work] }, 'tor');
    const [a, b] = await Promise.all([asTor(made.number, 'Once.', 'k1'), asTor(made.number, 'Once.', 'k1')]);
    expect([a, b, await asTor(made.number, 'Once.', 'k1'), await asTor(made.number, 'Another.', 'k1')]).toEqual(Array(4).fill({ ok: true }));
    expect((await myRequest(tor(), made.number))!.words.map((x) => x.text)).toEqual(['Once.', 'Another.']);
    expect(await asTor(made.number, '  ')).toMatchObject({ code: 'invalid', problems: [{ field: 'words' }] });
    expect(await asTor(made.number, 'x'.repeat(8001))).toMatchObject({ code: 'invalid', problems: [{ field: 'words' }] });
  });

  it('not without end: who writes sixty in ten minutes is told when to go on, and the desk is not held', async () => {
    const made = await w.askPlan({ steps: [work] }, 'olav');
    const olav = w.viewer('olav');
    const results = [];
    for (let i = 0; i < 62; i++) results.push(await writeOnRequest(olav, { number: made.number, words: `${i}`, once: '', asRequester: true }));
    expect(results.filter((r) => r.ok)).toHaveLength(60);
    expect(results.at(-1)).toMatchObject({ code: 'too-many-tries', sentence: expect.stringMatching(/still here; send it in 10 minutes\.$/) });
    expect((await myRequest(olav, made.number))!.words).toHaveLength(60);
    expect(await writeOnRequest(runa(), { number: made.number, words: 'Yes?', once: '' })).toEqual({ ok: true });
  });

  it('with files, which those read who read the word: the desk and who asked, not others, nor who asked those of a note', async () => {
    const made = await w.askPlan({ steps: [work] }, 'tor');
    const brought = async (who: ReturnType<typeof tor>) => {
      const kept = await keepFile(who, { name: 'berth.txt', stream: Readable.from(['North 3']) });
      if (!kept.ok) throw new Error(kept.sentence);
      return kept.file.id;
    };
    const [theirs, ours] = [await brought(tor()), await brought(runa())];
    const once = crypto.randomUUID();
    expect(await writeOnRequest(tor(), { number: made.number, words: '', files: [theirs], once, asRequester: true })).toEqual({ ok: true });
    expect(await writeOnRequest(tor(), { number: made.number, words: 'Again', files: [theirs], once: '', asRequester: true })).toMatchObject({
      code: 'invalid',
    });
    expect(await writeFromTask(runa(), { id: await taskIn(made.id), words: 'See', files: [ours], inside: true })).toEqual({ ok: true });
    const reads = async (who: string, id: string) => (await fileFor(w.viewer(who), id)) !== undefined;
    expect([await reads('tor', theirs), await reads('runa', theirs), await reads('ina', theirs)]).toEqual([true, true, false]);
    expect([await reads('tor', ours), await reads('runa', ours), await reads('dan', ours)]).toEqual([false, true, true]);
  });

  it('nobody else writes: not others, not within the desk as who asked, not the desk once it has nothing to do', async () => {
    const made = await w.askPlan({ steps: [work] }, 'tor');
    const word = { number: made.number, words: 'Hello', once: '' };
    expect(await writeOnRequest(w.viewer('ina'), word)).toMatchObject({ code: 'not-found' });
    expect(await writeOnRequest(w.viewer('ina'), { ...word, asRequester: true })).toMatchObject({ code: 'not-found' });
    expect(await writeOnRequest(tor(), word)).toMatchObject({ code: 'not-allowed' });
    expect(await writeOnRequest(tor(), { ...word, inside: true, asRequester: true })).toMatchObject({ code: 'not-allowed' });
    expect(await writeOnRequest(runa(), word)).toEqual({ ok: true });
    expect(await withdrawRequest(tor(), { number: made.number })).toEqual({ ok: true });
    expect(await writeOnRequest(runa(), word)).toMatchObject({ code: 'not-found' });
  });

  it('is found by its words in the Ledger', async () => {
    const made = await w.askPlan({ steps: [work] }, 'tor');
    await asTor(made.number, 'By the theodolite of the boathouse.');
    const found = await ledger(w.viewer('ina', 'auditor'), askedOf('ledger', 'q=theodolite'));
    expect(found!.rows.map((r) => r.number)).toEqual([made.number]);
  });

  it('from outside as well', async () => {
    const made = await w.askPlan({ steps: [work] }, 'tor');
    const viewer = await db().transaction((tx) => personOutside(tx, { name: 'Oda Vik', email: 'oda@partner.example' }));
    await w.query('update service_case set requester_id = $1 where number = $2', [viewer.id, made.number]);
    expect(await writeOnRequest(viewer, { number: made.number, words: 'From afar.', once: '', asRequester: true })).toEqual({ ok: true });
    expect(await toldOf('From afar')).not.toEqual([]);
    // They have no sign-in, and so no way to a file.
    const id = await taskIn(made.id);
    const kept = await keepFile(runa(), { name: 'berth.txt', stream: Readable.from(['North 3']) });
    const files = kept.ok ? [kept.file.id] : [];
    expect(await writeFromTask(runa(), { id, words: 'See', files })).toMatchObject({ code: 'invalid', problems: [{ field: 'file' }] });
    expect(await writeFromTask(runa(), { id, words: 'See', files, inside: true })).toEqual({ ok: true });
  });
});
