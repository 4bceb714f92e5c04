import { and, eq, isNull } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { changingOf } from '../calls/changing.ts';
import { giveBack } from '../holdings/commands.ts';
import { action } from '../systems/index.ts';
import { retryStep } from '../runs/commands.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { submitRequest } from '../requests/submit.ts';

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world();
  item = await w.item();
});
afterAll(() => w.close());

const decide: World['decide'] = (...how) => w.decide(...how);
const members = async (group = 'tide-models') => (await w.scimGroup(group)).members.map((m) => m.value);
const changesFor = async (runId: string) => (await w.journal()).filter((j) => j.key?.startsWith(runId));

describe('a request to join a group', () => {
  it('approved: membership once, mail in one thread, the other owner is told it is no longer needed', async () => {
    const { id, number } = await w.ask(w.viewer('tor'), item.id);
    await w.work();
    const asked = await w.mails('ina');
    expect(asked.at(-1)).toMatchObject({ subject: `Your approval is asked for: Join a group, R-${number}`, deliveries: 1 });
    expect(asked.at(-1)!.text).toContain('Why: Tide tables');
    expect(await decide('ina', id, 'approve', 'Welcome')).toEqual({ ok: true });
    await w.work();
    await w.work();
    expect(await w.request(id)).toMatchObject({ outcome: 'fulfilled', seq: 4 });
    expect((await members()).filter((m) => m === w.scimUser('tor'))).toHaveLength(1);
    expect(await changesFor(id)).toHaveLength(1);
    const told = (await w.mails('olav')).filter((m) => m.subject.includes(`R-${number}`));
    expect(told.map((m) => m.subject)).toEqual([
      `Your approval is asked for: Join a group, R-${number}`,
      `No longer needed: Owners agree, R-${number}`,
    ]);
    expect(told[1]!.inReplyTo).toBe(told[0]!.messageId);
    expect(told[1]!.text).toContain('approved by Ina Strand');
    expect((await w.mails('tor')).at(-1)!.text).toContain(`Number R-${number}`);
    await replays(w, id);
  });

  it('declined: the requester is told why, nothing changes in the directory', async () => {
    const { id } = await w.ask(w.viewer('runa'), item.id);
    expect(await decide('olav', id, 'decline')).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'comment' }] });
    expect(await decide('olav', id, 'decline', 'Not this quarter')).toEqual({ ok: true });
    await w.work();
    expect(await w.request(id)).toMatchObject({ outcome: 'declined', reason: 'Not this quarter' });
    expect(await members()).not.toContain(w.scimUser('runa'));
    expect(await changesFor(id)).toEqual([]);
  });

  it('group without owner: the gate asks whom it states', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    expect((await w.approvals(id)).map((a) => a.personId)).toEqual([w.id('boss')]);
  });

  it('both owners decide at the same moment: one decision counts, the other is told by whom', async () => {
    const { id } = await w.ask(w.viewer('boss'), item.id);
    const results = await Promise.all([decide('ina', id, 'approve'), decide('olav', id, 'decline', 'No')]);
    expect(results.filter((r) => r.ok)).toHaveLength(1);
    const late = results.find((r) => !r.ok);
    expect(late).toMatchObject({
      code: 'already-decided',
      sentence: expect.stringMatching(/^Already (approved by Ina|declined by Olav) Strand, /),
    });
    const [ignored] = await w.query<{ ignored: string }>('select ignored from run_event where run_id = $1 and ignored is not null', [id]);
    expect(ignored).toEqual({ ignored: 'not-open' });
    await w.work();
    await replays(w, id);
  });

  it('directory down for a while: tried again with growing pauses, then fulfilled, membership once', async () => {
    const { id } = await w.ask(w.viewer('dan'), item.id);
    await decide('ina', id, 'approve');
    await w.manner('directory', 'failing');
    await w.work();
    await w.work();
    await w.manner('directory', 'well');
    expect((await w.request(id)).outcome).toBeNull();
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
    const tries = await w.query<{ n: number; ok: string; said: string }>(
      'select n, ok, said from call_try t join call c on c.id = t.call_id where c.run_id = $1 order by n',
      [id],
    );
    expect(tries.map((t) => t.ok)).toEqual(['no', 'no', 'yes']);
    expect(tries[0]!.said).toBe('The directory answered 503: The directory is down.');
    const [job] = await w.query<{ pause: number }>(
      'select extract(epoch from c.due_at - t.ended_at)::float as pause from call c join call_try t on t.call_id = c.id and t.n = 2 where c.run_id = $1',
      [id],
    );
    expect(job!.pause).toBeGreaterThan(3.5);
    expect(await changesFor(id)).toHaveLength(1);
  });

  it('a call repeated after the answer was lost changes nothing twice, and what it did is held', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await decide('boss', id, 'approve');
    const [call] = await w.db().select().from(w.schema.call).where(eq(w.schema.call.runId, id));
    // What a worker does that dies between the call and the record of its answer.
    await (await action(w.db(), 'directory.addMember'))!.run(call!.inputs, call!.idempotencyKey, '', changingOf(call!.id));
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
    expect(await changesFor(id)).toHaveLength(1);
    expect(await w.query(`select outputs -> 'already' as already from call where run_id = $1`, [id])).toEqual([{ already: false }]);
    const held = () => w.query('select ended_at is null as held from holding where run_id = $1', [id]);
    expect(await held()).toEqual([{ held: true }]);

    // The same of what is taken back.
    const [its] = await w.query<{ id: string }>('select id from holding where run_id = $1', [id]);
    expect(await giveBack(w.viewer('tor'), { id: its!.id, why: '' })).toEqual({ ok: true });
    const [back] = await w
      .db()
      .select()
      .from(w.schema.call)
      .where(and(eq(w.schema.call.runId, id), isNull(w.schema.call.closedAt)));
    await (await action(w.db(), 'directory.removeMember'))!.run(back!.inputs, back!.idempotencyKey, '', changingOf(back!.id));
    await w.work();
    expect(await w.query(`select outputs -> 'was' as was from call where id = $1`, [back!.id])).toEqual([{ was: true }]);
    expect(await held()).toEqual([{ held: false }]);
  });

  it('the directory refuses: the step is stuck with the cause, a person retries, then it is done', async () => {
    const { id, number } = await w.ask(w.viewer('runa'), item.id);
    await decide('ina', id, 'approve');
    await w.manner('directory', 'refusing');
    await w.work();
    await w.manner('directory', 'well');
    const [stuck] = await w.query<{ stuck_cause: string }>('select stuck_cause from run_step where run_id = $1 and stuck_cause is not null', [id]);
    expect(stuck!.stuck_cause).toBe('The directory answered 403: The directory refuses this change.');
    expect(await retryStep(w.viewer('tor'), { number, key: 'add#1' })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await retryStep(w.viewer('dan', 'teamMember'), { number, key: 'add#1' })).toEqual({ ok: true });
    expect(await retryStep(w.viewer('dan', 'teamMember'), { number, key: 'add#1' })).toMatchObject({ ok: false, code: 'not-found' });
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });

  it('withdrawn: approvals are released, approvers told, a second withdrawal is refused', async () => {
    const { id, number } = await w.ask(w.viewer('dan'), item.id, 'orphan-files');
    expect(await withdrawRequest(w.viewer('tor'), { number })).toMatchObject({ ok: false, code: 'not-found' });
    expect(await withdrawRequest(w.viewer('dan'), { number })).toEqual({ ok: true });
    expect((await w.approvals(id)).map((a) => a.status)).toEqual(['released']);
    expect(await withdrawRequest(w.viewer('dan'), { number })).toMatchObject({ code: 'ended' });
    expect(await decide('boss', id, 'approve')).toMatchObject({ code: 'already-decided', sentence: expect.stringContaining('not needed any more') });
    await replays(w, id);
  });

  it('withdrawn while the call is under way: the late answer is taken, what it gave is a holding, the outcome stays', async () => {
    const { id, number } = await w.ask(w.viewer('ina'), item.id);
    await decide('olav', id, 'approve');
    await w.manner('directory', 'slow', 2500);
    const working = w.work();
    await new Promise((r) => setTimeout(r, 1200));
    expect(await withdrawRequest(w.viewer('ina'), { number })).toEqual({ ok: true });
    await working;
    await w.manner('directory', 'well');
    expect(await w.request(id)).toMatchObject({ outcome: 'withdrawn' });
    const late = await w.query<{ ignored: string }>("select ignored from run_event where run_id = $1 and event->>'type' = 'answered'", [id]);
    expect(late).toEqual([{ ignored: null }]);
    expect(await w.query('select kind, ended_at from holding where run_id = $1', [id])).toEqual([{ kind: 'group', ended_at: null }]);
    await replays(w, id);
  });

  it('the mail server down: mail waits and goes out once; a refused address is given up with the reason', async () => {
    await w.manner('mailbox', 'failing');
    const { id } = await w.ask(w.viewer('tor'), item.id);
    await w.work();
    await w.manner('mailbox', 'well');
    await w.work();
    await w.work();
    const mine = await w.query<{ attempts: number; message_id: string }>(
      'select attempts, message_id from message where run_id = $1 and sent_at is not null',
      [id],
    );
    expect(mine.map((m) => m.attempts)).toEqual([2, 2]);
    const all = [...(await w.mails('ina')), ...(await w.mails('olav'))].filter((m) => mine.some((x) => x.message_id === m.messageId));
    expect(all.map((m) => m.deliveries)).toEqual([1, 1]);
    await w.manner('mailbox', 'refusing');
    const other = await w.ask(w.viewer('tor'), item.id);
    await w.work();
    await w.manner('mailbox', 'well');
    const refused = await w.query<{ last_error: string }>('select last_error from message where run_id = $1 and failed_at is not null', [other.id]);
    expect(refused).toHaveLength(2);
    expect(refused[0]!.last_error).toContain('550');
    // Somebody without an address is reached in the portal only; the mail says why it did not go out.
    await w.query("update person set email = '' where user_name = 'ina'");
    const third = await w.ask(w.viewer('tor'), item.id);
    await w.work();
    await w.query("update person set email = 'ina@skerrin.example' where user_name = 'ina'");
    expect(await w.query('select last_error from message where run_id = $1 and failed_at is not null', [third.id])).toEqual([
      { last_error: 'The directory has no mail address of theirs.' },
    ]);
  });

  it('sent twice by the same screen: one request', async () => {
    const input = {
      itemId: item.id,
      revision: 1,
      answers: { group: { group: w.groupId('tide-models') }, reason: 'x', kind: 'daily' },
      idempotencyKey: 'same-screen',
    };
    const [a, b] = await Promise.all([submitRequest(w.viewer('tor'), input), submitRequest(w.viewer('tor'), input)]);
    expect(a.ok && b.ok && a.number === b.number).toBe(true);
  });

  it('of many sent at once each gets its own answer: opened, refused, unknown, the same twice, and one the database cannot keep', async () => {
    const good = { group: { group: w.groupId('tide-models') }, reason: 'x', kind: 'daily' };
    const send = (idempotencyKey: string, answers: Record<string, unknown> = good, itemId = item.id, revision = 1, who = 'tor') =>
      submitRequest(w.viewer(who), { itemId, revision, answers, idempotencyKey: idempotencyKey });
    const before = await w.query<{ n: number }>('select count(*)::int as n from service_case');
    // The first is under way when the others come, so that those go together.
    const results = await Promise.allSettled([
      send('m0'),
      send('m1'),
      send('m2', { ...good, reason: '' }),
      send('m3', good, crypto.randomUUID()),
      send('m4', good, 'no-id'),
      send('m5', good, item.id, 7),
      send('m6', good, item.id, 1, 'olav'),
      send('m1'),
      send('m0'),
      send('no\u0000key'),
      send('m7'),
    ]);
    const said = results.map((r) => (r.status === 'rejected' ? 'rejected' : r.value.ok ? 'opened' : r.value.code));
    const [opened, missing] = ['opened', 'not-found'];
    expect(said).toEqual([opened, opened, 'invalid', missing, missing, 'changed-meanwhile', opened, opened, opened, 'rejected', opened]);
    const number = (i: number) => {
      const r = results[i]!;
      return r.status === 'fulfilled' && r.value.ok ? r.value.number : undefined;
    };
    expect([number(7), number(8)]).toEqual([number(1), number(0)]);
    const [after] = await w.query<{ n: number }>('select count(*)::int as n from service_case');
    expect(after!.n - before[0]!.n).toBe(4);
    // Each is whole: asked by who sent it, with a run under way that asks its approver.
    for (const [i, who] of [
      [1, 'tor'],
      [6, 'olav'],
      [7, 'tor'],
    ] as const) {
      const rows = await w.query(
        `select k.requester_id as who, (select count(*)::int from approval a join gate g on g.id = a.gate_id where g.run_id = u.id) as asked
         from service_case k join run u on u.case_id = k.id where k.number = $1`,
        [number(i)],
      );
      expect(rows).toEqual([{ who: w.id(who), asked: expect.any(Number) }]);
      expect((rows[0] as { asked: number }).asked).toBeGreaterThan(0);
    }
  });

  it('answers that do not fit are refused at their field and nothing is opened', async () => {
    const before = await w.query<{ n: string }>('select count(*) as n from service_case');
    const result = await submitRequest(w.viewer('tor'), {
      itemId: item.id,
      revision: 1,
      answers: { group: { group: 'not-a-group' }, kind: 'daily' },
      idempotencyKey: 'k',
    });
    expect(result).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'group' }, { field: 'reason' }] });
    expect(await submitRequest(w.viewer('tor'), { itemId: item.id, revision: 7, answers: {}, idempotencyKey: 'k' })).toMatchObject({
      code: 'changed-meanwhile',
    });
    expect(await w.query('select count(*) as n from service_case')).toEqual(before);
  });
});
