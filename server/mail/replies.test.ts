import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { world, type World } from '../testing/world.ts';
import { createTransport } from 'nodemailer';
import { readChat, sayInChat } from '../chat/intake.ts';
import { deliverMail } from './hand-over.ts';
import { postAll } from './post.ts';

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world({ replies: true });
  item = await w.item();
});
afterAll(() => w.close());
const latest = async (user: string) => (await w.mails(user)).at(-1)!;

describe('approvals answered by mail', () => {
  it('decide with the comment, thread to the message that asked (RFC 5322), and are answered in the same thread', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const asked = await latest('boss');
    expect(asked.replyTo).toMatch(/^decide\+/);
    expect(await w.replyTo(asked.n, 'Approve\nGood timing.')).toBe(200);
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
    expect((await w.approvals(id))[0]).toMatchObject({ status: 'approved', comment: 'Good timing.' });
    const answer = await latest('boss');
    expect([answer.text.trim(), answer.inReplyTo]).toEqual(['Your answer was taken: approved.', asked.messageId]);
    const logged = await w.query<{ detail: { via: string } }>("select detail from change_log where object = 'approval' and object_id = $1", [
      (await w.approvals(id))[0]!.id,
    ]);
    expect(logged[0]!.detail.via).toBe('mail reply');
  });

  it('that are not understood decide nothing and say how; a second reply, and one to a closed gate, are told so', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const asked = await latest('boss');
    await w.replyTo(asked.n, 'Who is this?');
    await w.work();
    expect((await w.request(id)).outcome).toBeNull();
    expect((await latest('boss')).text).toContain('not understood');
    await w.replyTo(asked.n, 'Decline\nnot this season');
    await w.work();
    expect(await w.request(id)).toMatchObject({ outcome: 'declined', reason: 'not this season' });
    await w.replyTo(asked.n, 'Approve');
    await w.work();
    expect((await latest('boss')).text).toContain('used already');
    expect(await w.request(id)).toMatchObject({ outcome: 'declined' });
  });

  it('count whatever letters a mail program writes the address in', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const to = (await latest('boss')).replyTo!.toUpperCase();
    await createTransport(`smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`).sendMail({
      from: 'boss@skerrin.example',
      to,
      subject: 'Re',
      text: 'Approve',
    });
    expect((await w.approvals(id))[0]).toMatchObject({ status: 'approved' });
  });

  it('from somebody else, automatic ones, and to addresses nobody has decide nothing', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const asked = await latest('boss');
    const transport = createTransport(`smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`);
    const send = (from: string, to: string, headers = {}) => transport.sendMail({ from, to, subject: 'Re', text: 'Approve', headers });
    await send('ina@skerrin.example', asked.replyTo!);
    await send('boss@skerrin.example', asked.replyTo!, { 'Auto-Submitted': 'auto-replied' });
    await expect(send('boss@skerrin.example', 'desk@nessmoor.skerrin.example')).rejects.toThrow(/550/);
    await expect(send('boss@skerrin.example', `decide+${'x'.repeat(43)}@nessmoor.skerrin.example`)).rejects.toThrow(/550/);
    expect((await w.request(id)).outcome).toBeNull();
    await w.work();
    expect((await latest('boss')).text).toContain('only you can answer');
  });

  it('that trip over something of ours are put aside, and whoever sent them hears of it; with the database away they come again', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const asked = await latest('boss');
    const breakWith = (code: string) =>
      w.asOwner(`create or replace function break_it() returns trigger language plpgsql as $$ begin raise exception 'no' using errcode = '${code}'; end $$;
        create or replace trigger break_it before update on approval for each row execute function break_it()`);
    const aside = () => w.query<{ source: string; cause: string }>("select source, cause from set_aside where source = 'mail'");
    const reply = () => w.replyTo(asked.n, 'Approve');
    await breakWith('40001');
    expect(await reply()).toBe(502);
    expect(await aside()).toEqual([]);
    await breakWith('22000');
    expect(await reply()).toBe(502);
    expect(await aside()).toEqual([{ source: 'mail', cause: 'no' }]);
    await w.asOwner('drop trigger break_it on approval');
    expect(await reply()).toBe(200);
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });
});

describe('approvals answered in chat', () => {
  it('come as a message with buttons, are decided in their thread, once, and the portal shows the same', async () => {
    const answered = async () => {
      for (const j of await w.query<{ payload: Parameters<typeof sayInChat>[0] }>(
        "select payload from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id where t.identifier = 'sayInChat' order by j.id",
      ))
        await sayInChat(j.payload);
    };
    const { id } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    await w.work();
    const before = await w.chatEvents('boss');
    const root = before.findLast((e) => e.content.body.includes('Your approval is asked for'))!;
    expect(root.content).toMatchObject({ 'nessmoor.buttons': ['Approve', 'Decline'] });
    const thread = root.content['m.relates_to']?.event_id ?? root.event_id;
    await w.say('boss', thread, 'Approve');
    await readChat();
    await readChat();
    // The answer is a job of the same transaction: killed before it is sent, it is sent by the next worker, and once.
    await answered();
    await answered();
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
    expect((await w.approvals(id))[0]).toMatchObject({ status: 'approved' });
    const said = (await w.chatEvents('boss')).slice(before.length).map((e) => e.content.body);
    expect(said.filter((b) => b.startsWith('Your answer was taken'))).toHaveLength(1);
    await w.say('boss', thread, 'Decline\nafter all');
    await readChat();
    await answered();
    expect((await w.chatEvents('boss')).at(-1)!.content.body).toContain('Already approved by');
  });

  it('are said to each in the order in which they came, in the thread that the first begins; what was tried in vain holds nothing up', async () => {
    const { caseId } = await w.ask(w.viewer('tor'), item.id, 'orphan-files');
    const post = (key: string, at: number) =>
      w.db().transaction((tx) => postAll(tx, [{ caseId, key, to: olav, subject: key, text: '', via: 'chat' }], new Date(Date.now() - at)));
    const olav = { id: w.id('olav'), email: 'olav@skerrin.example' };
    for (const [key, at] of [
      ['first', 900],
      ['second', 800],
      ['third', 700],
    ] as const)
      await post(key, at);
    const idOf = async (key: string) =>
      (await w.query<{ id: string }>('select id from message where case_id = $1 and key = $2', [caseId, key]))[0]!.id;
    const said = async () => (await w.chatEvents('olav')).map((e) => [e.content.body.trim(), e.content['m.relates_to']?.event_id]);
    await deliverMail(await idOf('second'));
    expect(await said()).toEqual([]);
    const again = await w.query<{ run_at: Date }>('select run_at from graphile_worker.jobs where key = $1', [`mail:${await idOf('second')}`]);
    expect(again).toHaveLength(1);
    await w.query("update message set attempts = 1, last_error = 'no' where id = $1", [await idOf('first')]);
    await deliverMail(await idOf('second'));
    await deliverMail(await idOf('third'));
    const [root] = await w.chatEvents('olav');
    expect(await said()).toEqual([
      ['second', undefined],
      ['third', root!.event_id],
    ]);
  });
});
