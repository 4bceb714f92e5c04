import ICAL from 'ical.js';
import { createTransport } from 'nodemailer';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Invite, Step } from '../../core/plans/index.ts';
import { tell } from '../../core/testing/samples.ts';
import { sentence } from '../../core/values/index.ts';
import { stopClock } from '../clock.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { retryStep } from '../runs/commands.ts';
import { deliverMail } from '../mail/hand-over.ts';
import { world, type World } from '../testing/world.ts';
import { sayComing } from './answer.ts';
import { arrangeMeeting } from './arrange.ts';
import { meetingFor, meetingsOf } from './read.ts';

let w: World;
const monday = '2026-11-30T09:00:00.000Z';
beforeAll(async () => {
  w = await world({ replies: true });
});
afterAll(() => w.close());
// What one test arranges takes nobody's time in the next.
beforeEach(() => stopClock(new Date(monday)));
afterEach(async () => {
  await w.manner('calendars', 'well');
  await w.query(`update meeting set status = 'off' where status in ('planned', 'seeking')`);
});

const meet = (more: Partial<Invite> = {}) =>
  ({
    kind: 'invite',
    id: 'meet',
    name: 'Talk it over',
    expected: { min: 'PT0S', likely: 'PT1H', max: 'P1D' },
    who: [{ ref: 'form.crew' }],
    title: [[{ text: 'Talk about ' }, { ref: 'request.number' }]],
    body: [{ text: [[{ text: 'Bring your ' }, { ref: 'form.reason', bold: true }]] }],
    place: sentence('Chart Hall'),
    minutes: 45,
    within: 3,
    ...more,
  }) satisfies Step;
const ask = (more: Partial<Invite> = {}, ...after: Step[]) => w.askPlan({ steps: [meet(more), ...after, tell('end', 'Tell')] });
type Row = { id: string; status: string; sequence: number | null; begins: Date | null; tries: number; said: string | null };
const rowOf = async (run: { id: string }) =>
  (
    await w.query<Row>('select id, status, sequence, begins_at as begins, attempts as tries, last_error as said from meeting where run_id = $1', [
      run.id,
    ])
  )[0]!;
/** What the worker does, but for the timers: they lie ahead. */
async function tend() {
  for (const { id } of await w.query<{ id: string }>(`select id from meeting where status = 'seeking'`)) await arrangeMeeting(id);
  for (const { id } of await w.query<{ id: string }>('select id from message where sent_at is null and failed_at is null order by created_at, id'))
    await deliverMail(id);
}
const mailTo = async (who: string) => (await w.mails(who)).filter((m) => m.subject.includes('Talk about')).at(-1)!;
const eventIn = (calendar: string | undefined) => new ICAL.Component(ICAL.parse(calendar ?? '') as unknown[]).getFirstSubcomponent('vevent')!;
const said = async (run: { id: string }) =>
  Object.fromEntries(
    (
      await w.query<{ name: string; says: string | null }>(
        'select p.user_name as name, i.says from invited i join meeting m on m.id = i.meeting_id join person p on p.id = i.person_id where m.run_id = $1 and not i.gone',
        [run.id],
      )
    ).map((r) => [r.name, r.says]),
  );

describe('a meeting that a plan arranges', () => {
  it('is at the first time at which all are free, by their calendars, and each is told by mail (read by mailparser and ical.js)', async () => {
    await w.takenUp('ina', '2026-11-30T09:00:00Z', '2026-11-30T10:20:00Z');
    await w.takenUp('runa', '2026-11-30T11:00:00Z', '2026-11-30T12:00:00Z', { perhaps: true });
    const run = await ask();
    await tend();
    const row = await rowOf(run);
    expect(row).toMatchObject({ status: 'planned', sequence: 0, begins: new Date('2026-11-30T12:00:00Z') });
    expect((await w.request(run.id)).state.outputs['meet']).toEqual({ begins: '2026-11-30T12:00:00.000Z', ends: '2026-11-30T12:45:00.000Z' });
    expect((await w.request(run.id)).outcome).toBe('fulfilled');

    const mail = await mailTo('ina');
    expect(mail.subject).toBe(`Invitation: Talk about R-${run.number}`);
    for (const words of [
      'When: 30 Nov 2026, 12:00 to 12:45 (UTC)',
      'Where: Chart Hall',
      'Invited: Ina Strand, Runa Strand',
      'Bring your Tide tables',
    ])
      expect(mail.text).toContain(words);
    expect(mail.text).toContain(`/counter/meetings/${row.id}`);
    expect(mail.replyTo).toMatch(/^meeting\+[0-9a-f]{40}@nessmoor\.skerrin\.example$/);
    const event = new ICAL.Event(eventIn(mail.calendar));
    expect([event.uid, event.summary, event.location, event.description]).toEqual([
      `${row.id}@nessmoor.skerrin.example`,
      `Talk about R-${run.number}`,
      'Chart Hall',
      'Bring your Tide tables',
    ]);
    expect(event.organizer).toBe(`mailto:${mail.replyTo}`);
    expect(event.startDate.toJSDate()).toEqual(row.begins);
    // Nobody can answer for another: each has an address of their own.
    expect((await mailTo('runa')).replyTo).not.toBe(mail.replyTo);
    expect(await w.query('select invitation from message where invited_id is not null')).toEqual([{ invitation: null }, { invitation: null }]);
  });

  it('takes no time that another meeting of ours takes, also when both are arranged at once; one that somebody said no to leaves it free', async () => {
    const [one, two] = [await ask({ minutes: 30 }), await ask({ minutes: 30 })];
    const [a, b] = [await rowOf(one), await rowOf(two)];
    await Promise.all([arrangeMeeting(a.id), arrangeMeeting(b.id), arrangeMeeting(a.id)]);
    const begins = [(await rowOf(one)).begins!, (await rowOf(two)).begins!].map((d) => d.getTime());
    expect(Math.abs(begins[0]! - begins[1]!)).toBeGreaterThanOrEqual(30 * 60_000);
    expect(await w.query(`select from run_event where run_id = $1 and event ->> 'type' = 'answered'`, [one.id])).toHaveLength(1);
    for (const who of ['ina', 'runa'])
      expect(await sayComing(w.viewer(who), { meetingId: a.id, says: 'no', words: '', sequence: 0 })).toEqual({ ok: true });
    const three = await ask({ minutes: 30 });
    await tend();
    expect((await rowOf(three)).begins!.getTime()).toBe(begins[0]);
  });

  it('of whom no calendar is known is by their hours, and it is shown that their calendar was not seen', async () => {
    const run = await ask({ who: [{ ref: 'request.requester' }] });
    await tend();
    expect((await rowOf(run)).begins).toEqual(new Date(monday));
    const [shown] = await meetingsOf(run.caseId, w.id('tor'));
    expect(shown!.guests).toMatchObject([{ name: 'Tor Strand', says: null, unseen: true }]);
  });

  it('for which there is no time fails with the reason, and is looked for anew when it is tried again', async () => {
    await w.takenUp('ina', '2026-12-07T00:00:00Z', '2026-12-08T00:00:00Z');
    stopClock(new Date('2026-12-07T09:00:00Z'));
    const run = await ask({ within: 1 });
    await tend();
    const cause = 'There is no time from 7 Dec 2026, 09:00 to 7 Dec 2026, 23:59 at which all 2 who are invited work and are free for 45 minutes.';
    expect(await rowOf(run)).toMatchObject({ status: 'failed', said: cause, sequence: null });
    expect((await w.request(run.id)).state.root.current).toMatchObject({ phase: 'stuck', cause });
    stopClock(new Date('2026-12-08T09:00:00Z'));
    expect(await retryStep(w.viewer('dan', 'administrator'), { number: run.number, key: 'meet#1' } as never)).toEqual({ ok: true });
    await tend();
    expect(await rowOf(run)).toMatchObject({ status: 'planned', sequence: 0, begins: new Date('2026-12-08T09:00:00Z') });
  });

  it.each(['failing', 'poisonous'])('waits with growing pauses while the calendars are %s, and goes on when they are back', async (manner) => {
    await w.manner('calendars', manner);
    const run = await ask();
    await tend();
    await tend();
    expect(await rowOf(run)).toMatchObject({ status: 'seeking', tries: 2, said: expect.stringMatching(/^The calendars/) as unknown });
    await w.manner('calendars', 'well');
    await tend();
    expect((await rowOf(run)).status).toBe('planned');
  });

  it('gives up where they refuse', async () => {
    await w.manner('calendars', 'refusing');
    const run = await ask();
    await tend();
    expect(await rowOf(run)).toMatchObject({ status: 'failed', said: 'Nobody could say who is free. The calendars answered 403.' });
  });

  it('of a request that is withdrawn meanwhile is not arranged; one that was is off, and everybody is told', async () => {
    const early = await ask();
    await withdrawRequest(w.viewer('tor'), { number: early.number });
    await tend();
    expect(await rowOf(early)).toMatchObject({ status: 'off', sequence: null });

    const late = await ask({ waits: { again: 0 } });
    await tend();
    expect(await withdrawRequest(w.viewer('tor'), { number: late.number })).toEqual({ ok: true });
    await tend();
    const off = await mailTo('runa');
    expect(off.subject).toBe(`Off: Talk about R-${late.number}`);
    expect(off.calendar).toMatch(/^METHOD:CANCEL\r?$/m);
    const event = eventIn(off.calendar);
    expect([event.getFirstPropertyValue('sequence'), event.getFirstPropertyValue('status')]).toEqual([1, 'CANCELLED']);
    expect(event.getFirstPropertyValue('organizer')).toBe(`mailto:${off.replyTo}`);
  });

  it('lies ahead of a request that ends otherwise than fulfilled: it is off, too', async () => {
    const run = await ask({ notice: 'PT1H' }, { ...tell('no', 'Say no'), kind: 'finish', outcome: 'declined' } as never);
    await tend();
    expect((await w.request(run.id)).outcome).toBe('declined');
    await tend();
    expect((await w.mails('ina')).map((m) => m.subject)).toContain(`Off: Talk about R-${run.number}`);
  });
});

describe('what those who are invited say', () => {
  it('by their calendar, by words, or on the page, is waited for; then the plan goes on with who comes', async () => {
    const run = await ask({ who: [{ ref: 'form.crew' }, { ref: 'request.requester' }], waits: { again: 0 } });
    await tend();
    const { id } = await rowOf(run);
    expect(await w.answerInCalendar((await mailTo('ina')).n, 'maybe', 'From nine on')).toBe(200);
    expect(await said(run)).toEqual({ ina: 'maybe', runa: null, tor: null });
    expect(await w.answerInCalendar((await mailTo('ina')).n, 'yes')).toBe(200);
    expect(await w.replyTo((await mailTo('runa')).n, 'No\n\nAt sea until Thursday')).toBe(200);
    expect((await w.request(run.id)).outcome).toBeNull();
    const mine = await meetingFor(w.viewer('tor'), id);
    expect(mine).toMatchObject({
      title: `Talk about R-${run.number}`,
      sequence: 0,
      isOver: false,
      mine: { says: null },
      request: { number: run.number },
    });
    expect(mine!.guests.map((g) => [g.name, g.says, g.words])).toEqual([
      ['Ina Strand', 'yes', ''],
      ['Runa Strand', 'no', 'At sea until Thursday'],
      ['Tor Strand', null, ''],
    ]);
    expect(await sayComing(w.viewer('tor'), { meetingId: id, says: 'yes', words: 'With tea', sequence: 0 })).toEqual({ ok: true });
    const { state, outcome } = await w.request(run.id);
    expect(outcome).toBe('fulfilled');
    expect(state.outputs['meet']).toMatchObject({
      accepted: [{ person: w.id('ina') }, { person: w.id('tor') }],
      declined: [{ person: w.id('runa') }],
    });
    const logged = await w.query<{ detail: object }>(`select detail from change_log where object = 'meeting' and object_id = $1 order by id`, [id]);
    expect(logged.map((l) => l.detail)).toEqual([
      { says: 'maybe', via: 'mail reply', sequence: 0 },
      { says: 'yes', via: 'mail reply', sequence: 0 },
      { says: 'no', via: 'mail reply', sequence: 0 },
      { says: 'yes', via: 'portal', sequence: 0 },
    ]);
  });

  it('once the plan has gone on, is told to whoever asked where somebody cannot come, once', async () => {
    const run = await ask({ notice: 'PT1H' });
    await tend();
    await w.replyTo((await mailTo('ina')).n, 'No\nAt sea');
    await w.replyTo((await mailTo('ina')).n, 'No\nStill at sea');
    await w.replyTo((await mailTo('runa')).n, 'Yes');
    await tend();
    const told = (await w.mails('tor')).filter((m) => m.subject === `Cannot come: Ina Strand, Talk about R-${run.number}`);
    expect(told).toHaveLength(1);
    expect(told[0]!.text).toContain('“At sea”');
    expect(told[0]!.text).toContain(`/counter/requests/${run.number}`);
  });

  it('moves it where somebody cannot come; an answer to the time before is told so, and counts nothing', async () => {
    const run = await ask({ waits: { again: 1 } });
    await tend();
    const first = { ina: await mailTo('ina'), runa: await mailTo('runa') };
    const { id, begins } = await rowOf(run);
    await w.answerInCalendar(first.ina.n, 'yes');
    await w.answerInCalendar(first.runa.n, 'no');
    expect(await rowOf(run)).toMatchObject({ status: 'seeking' });
    expect(await sayComing(w.viewer('ina'), { meetingId: id, says: 'no', words: '', sequence: 0 })).toMatchObject({ ok: false, code: 'ended' });
    await tend();
    const moved = await rowOf(run);
    expect(moved).toMatchObject({ status: 'planned', sequence: 1 });
    expect(moved.begins!.getTime()).toBe(begins!.getTime() + 45 * 60_000);
    const second = await mailTo('ina');
    expect(second.subject).toBe(`Moved: Talk about R-${run.number}`);
    expect(new ICAL.Event(eventIn(second.calendar)).sequence).toBe(1);
    expect(eventIn(second.calendar).getFirstPropertyValue('uid')).toBe(eventIn(first.ina.calendar).getFirstPropertyValue('uid'));
    // Nobody has said anything of the new time.
    expect(await said(run)).toEqual({ ina: null, runa: null });
    await w.answerInCalendar(first.ina.n, 'no');
    await tend();
    expect((await w.mails('ina')).at(-1)!.text).toContain('has another time by now');
    expect(await sayComing(w.viewer('ina'), { meetingId: id, says: 'no', words: '', sequence: 0 })).toMatchObject({
      ok: false,
      code: 'changed-meanwhile',
    });
    expect(await said(run)).toEqual({ ina: null, runa: null });
    await w.answerInCalendar(second.n, 'yes');
    await w.replyTo((await mailTo('runa')).n, 'Yes');
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
  });

  it('and for which there is no other time is off, and that is told once, however often it is tried anew', async () => {
    stopClock(new Date('2026-12-14T09:00:00Z'));
    const run = await ask({ within: 1, notice: 'PT1H', waits: { again: 1 } });
    await tend();
    await w.takenUp('runa', '2026-12-14T10:45:00Z', '2026-12-15T00:00:00Z');
    await w.answerInCalendar((await mailTo('runa')).n, 'no');
    const offs = async () => (await w.mails('ina')).filter((m) => m.subject === `Off: Talk about R-${run.number}`).length;
    await tend();
    expect([(await rowOf(run)).status, await offs()]).toEqual(['failed', 1]);
    expect(await retryStep(w.viewer('dan', 'administrator'), { number: run.number, key: 'meet#1' } as never)).toEqual({ ok: true });
    stopClock(new Date('2026-12-14T15:50:00Z'));
    await tend();
    expect([(await rowOf(run)).status, await offs()]).toEqual(['failed', 1]);
    expect(await withdrawRequest(w.viewer('tor'), { number: run.number })).toEqual({ ok: true });
    await tend();
    expect(await offs()).toBe(1);
  });

  it('that is for another meeting, for somebody else, from elsewhere, automatic or unclear is not taken, and whoever was asked is told', async () => {
    const run = await ask({ waits: { again: 0 } });
    await tend();
    const [ina, runa] = [await mailTo('ina'), await mailTo('runa')];
    const transport = createTransport(`smtp://127.0.0.1:${w.settings.MAIL_IN_PORT}`);
    const reply = (uid: string, address: string) =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//x//EN',
        'METHOD:REPLY',
        'BEGIN:VEVENT',
        `UID:${uid}`,
        'SEQUENCE:0',
        `ATTENDEE;PARTSTAT=ACCEPTED:mailto:${address}`,
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n');
    const uid = String(eventIn(ina.calendar).getFirstPropertyValue('uid'));
    const send = (from: string, to: string, content: string | undefined, more = {}) =>
      transport.sendMail({ from, to, subject: 'Re', text: 'Yes', ...(content && { icalEvent: { method: 'REPLY', content } }), ...more });
    const told = async (who = 'ina') => (await tend(), (await w.mails(who)).at(-1)!.text);
    await send('ina@skerrin.example', ina.replyTo!, reply('another@nessmoor.skerrin.example', 'ina@skerrin.example'));
    expect(await told()).toContain('answered to another meeting');
    await send('ina@skerrin.example', ina.replyTo!, reply(uid, 'runa@skerrin.example'));
    expect(await told()).toContain('answered for runa@skerrin.example');
    await send('olav@skerrin.example', runa.replyTo!, reply(uid, 'runa@skerrin.example'));
    expect(await told('runa')).toContain('A reply came from olav@skerrin.example');
    await send('ina@skerrin.example', ina.replyTo!, 'BEGIN:VCALENDAR');
    expect(await told()).toContain('could not be read');
    const before = (await w.mails('ina')).length;
    await send('ina@skerrin.example', ina.replyTo!, undefined, { headers: { 'Auto-Submitted': 'auto-replied' } });
    await tend();
    expect((await w.mails('ina')).length).toBe(before);
    await send('ina@skerrin.example', ina.replyTo!, undefined, { text: 'Who is this?' });
    expect(await told()).toContain('Write Yes or No alone on the first line');
    await expect(send('ina@skerrin.example', `meeting+${'a'.repeat(40)}@nessmoor.skerrin.example`, undefined)).rejects.toThrow(/550/);
    expect(await said(run)).toEqual({ ina: null, runa: null });
  });

  it('is theirs alone to say, and only until it begins', async () => {
    const run = await ask({ waits: { again: 0 } });
    await tend();
    const { id, begins } = await rowOf(run);
    expect(await meetingFor(w.viewer('olav'), id)).toBeUndefined();
    expect(await sayComing(w.viewer('olav'), { meetingId: id, says: 'yes', words: '', sequence: 0 })).toMatchObject({ code: 'not-found' });
    expect(await sayComing(w.viewer('ina'), { meetingId: id, says: 'perhaps', words: '', sequence: 0 })).toMatchObject({ code: 'invalid' });
    expect(await sayComing(w.viewer('ina'), { meetingId: 'no id', says: 'yes', words: '', sequence: 0 })).toMatchObject({ code: 'not-found' });
    stopClock(begins!);
    expect(await sayComing(w.viewer('ina'), { meetingId: id, says: 'yes', words: '', sequence: 0 })).toMatchObject({
      ok: false,
      sentence: 'This meeting has begun already. Nothing was noted.',
    });
    await w.work();
    expect((await w.request(run.id)).state.outputs['meet']).toMatchObject({ accepted: [], declined: [] });
  });
});
