import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { askedOf } from '../../core/lists/index.ts';
import { usualHours } from '../../core/calendar/index.ts';
import { withoutStatus } from '../../core/statuses/index.ts';
import { passages } from '../../core/plans/index.ts';
import { withoutLevel } from '../../core/targets/index.ts';
import { step } from '../../core/testing/samples.ts';
import { shiftClock } from '../clock.ts';
import { changeHours, createHours, giveHours } from '../hours/commands.ts';
import { eq } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { location, person } from '../db/schema/index.ts';
import { addLocation, addTeam } from '../people/commands.ts';
import { queueCount, queueFor } from '../queue/list.ts';
import { myCases } from '../requests/mine.ts';
import { itIs, ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { giveTicket, judgeTicket, sayWhetherHelped, writeOnTicket } from './commands.ts';
import { likelyAnswers } from './likely.ts';
import { myTicket, ticketFor } from './queries.ts';
import { reportTicket } from './report.ts';
import { recount, ticketTime } from './time.ts';

let w: World;
let kit: Awaited<ReturnType<typeof ticketKit>>;
beforeAll(async () => {
  w = await world();
  kit = await ticketKit(w);
});
afterEach(() => shiftClock(0));
afterAll(() => w.close());

const dan = () => w.viewer('dan', 'teamMember');
const runa = () => w.viewer('runa', 'teamMember');
const tor = () => w.viewer('tor');
let sent = 0;
const write = (who: ReturnType<typeof dan>, number: number, words: string, more: Partial<Parameters<typeof writeOnTicket>[1]> = {}) =>
  writeOnTicket(who, { number, words, inside: false, once: `once-${++sent}`, ...more });
const move = (who: ReturnType<typeof dan>, number: number, from: string, to: string, words = '') => write(who, number, words, { move: { from, to } });
const caseOf = async (number: number) => (await w.query<{ id: string }>('select id from service_case where number = $1', [number]))[0]!.id;
const row = async (number: number) =>
  (
    await w.query<{ due_at: Date | null; next_at: Date | null; status: string; holder_id: string | null; team_id: string | null }>(
      'select t.* from ticket t join service_case c on c.id = t.case_id where c.number = $1',
      [number],
    )
  )[0]!;

describe('a report', () => {
  it('is a ticket with a number, goes to whom the table names, and both are told at once', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor', { impact: 'many', urgency: 'now' });
    expect(await kit.state(number)).toMatchObject({ status: 'fresh', priority: 'high', team: w.teamId });
    // High: four hours of work, Monday to Friday, 8 to 16.
    expect((await row(number)).due_at?.toISOString()).toBe('2026-11-25T13:00:00.000Z');
    await w.work();
    const [mine] = await w.mails('tor');
    expect([mine?.subject, mine?.text]).toEqual([`Tablet does not charge, T-${number}`, expect.stringContaining(`It has come in as T-${number}.`)]);
    const theirs = (await w.mails('runa')).find((m) => m.subject === `New incident: Tablet does not charge, T-${number}`);
    expect(theirs?.text).toMatch(/Incident, high priority[\s\S]*From Tor Strand[\s\S]*It says it charges[\s\S]*\/desk\/queue\/tickets\//);
  });

  it('sent twice is one ticket, also at once', async () => {
    const report = kit.reported();
    const [a, b] = await Promise.all([reportTicket(tor(), report), reportTicket(tor(), report)]);
    expect(a.ok && b.ok && a.number === b.number).toBe(true);
    expect(await reportTicket(tor(), report)).toEqual(a);
    expect(
      await w.query(
        "select from case_word where text like 'It says%' and once is null and case_id in (select id from service_case where idempotency_key = $1)",
        [report.idempotencyKey],
      ),
    ).toHaveLength(1);
  });

  it('that lacks something, or names what is not there, is refused in a sentence', async () => {
    const says = async (more: Parameters<typeof kit.reported>[0]) => {
      const result = await reportTicket(tor(), kit.reported(more));
      return result.ok ? 'opened' : (result.problems?.[0]?.sentence ?? result.sentence);
    };
    expect(await says({ subject: ' ' })).toBe('Say in a line what it is about.');
    expect(await says({ words: '' })).toBe('Say what happens, and what you have tried.');
    expect(await says({ category: 'Pay' })).toBe('This category is not offered any more. Choose another.');
    expect(await says({ placeId: w.id('tor') })).toBe('This place is not known any more. Choose another.');
    expect(await says({ placeId: 'here' })).toBe('Choose from what is offered.');
    expect(await says({ kindId: w.id('tor') })).toBe('This kind of ticket does not exist, or you may not see it.');
    expect(await says({ urgency: 'at once' })).toBe('Say how bad it is by what is offered.');
    expect(await says({ forWhom: w.id('ina') })).toBe('You may not report something for somebody else.');
  });

  it('by telephone stands under the name of whoever called', async () => {
    const made = await reportTicket(dan(), kit.reported({ forWhom: w.id('ina') }));
    if (!made.ok) throw new Error(made.sentence);
    expect((await myTicket(w.viewer('ina'), made.number))?.words[0]).toMatchObject({ by: 'Ina Strand', via: 'phone' });
    expect(await myTicket(dan(), made.number)).toBeUndefined();
  });

  it('a thousand in a minute from one person: a clear word, and nothing of others is held up', async () => {
    const olav = w.viewer('olav');
    const all = await Promise.all(Array.from({ length: 40 }, (_, i) => reportTicket(olav, kit.reported({ subject: `Again ${i}` }))));
    expect(all.filter((r) => r.ok)).toHaveLength(30);
    expect(all.flatMap((r) => (r.ok ? [] : [r.sentence]))[0]).toMatch(
      /^That is a lot at once\. What you wrote is still here; send it in \d+ minutes\.$/,
    );
    expect((await reportTicket(tor(), kit.reported())).ok).toBe(true);
  });

  it('finds while it is typed what can be asked for instead, and what the reporter has reported', async () => {
    await w.item('Join a group');
    const number = await kit.report('ina', { subject: 'Projector flickers in the chart hall' });
    const found = await likelyAnswers(w.viewer('ina'), 'the projector is dark');
    expect(found.tickets).toEqual([{ number, subject: 'Projector flickers in the chart hall' }]);
    expect((await likelyAnswers(w.viewer('ina'), 'cannot open the group folder')).items.map((i) => i.name)).toContain('Join a group');
    expect((await likelyAnswers(tor(), 'projector')).tickets).toEqual([]);
    expect(await likelyAnswers(tor(), 'it is not')).toEqual({ items: [], tickets: [], others: undefined });
  });

  it('and how many others around them have reported something like it: their number, and nothing of what they said', async () => {
    const [quay] = await db().select({ id: location.id }).from(location).where(eq(location.name, 'Quay House'));
    const floors: string[] = [];
    for (const name of ['Floor of charts', 'Floor of tides']) {
      const made = await addLocation('host', { name, kind: 'floor', parentId: quay!.id });
      if (made.ok) floors.push(made.id);
    }
    const away = await addLocation('host', { name: 'Skerry', kind: 'site' });
    const works = (who: string, place: string | null) =>
      db()
        .update(person)
        .set({ locationId: place })
        .where(eq(person.id, w.id(who)));
    await works('ina', floors[0]!);
    await works('boss', floors[1]!);
    await works('tor', away.ok ? away.id : null);
    await kit.report('ina', { subject: 'Plotter gives blank sheets' });
    await kit.report('tor', { subject: 'The plotter prints blank sheets' });
    const others = async (who: string, words: string) => (await likelyAnswers(w.viewer(who), words)).others;
    // Around the floor below, and not on another island; one common word alone is not enough.
    expect(await others('boss', 'blank sheets from the plotter')).toEqual({ many: 1, place: 'Quay House' });
    expect(await others('boss', 'sheets of yesterday are missing')).toBeUndefined();
    // Their own do not count, and who works nowhere that is known has nobody around.
    expect(await others('ina', 'blank sheets from the plotter')).toBeUndefined();
    await works('boss', null);
    expect(await others('boss', 'blank sheets from the plotter')).toBeUndefined();
    expect(JSON.stringify(await likelyAnswers(w.viewer('boss'), 'blank sheets from the plotter'))).not.toContain('Plotter');
    for (const who of ['ina', 'tor']) await works(who, null);
  });
});

describe('a question back', () => {
  it('holds the clock until the answer, and what was held does not count', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor', { impact: 'many', urgency: 'now' });
    itIs('2026-11-25T09:12:00Z');
    expect(await move(dan(), number, 'fresh', 'waiting', 'Which number is on the **back**?')).toEqual({ ok: true, moved: true });
    expect((await myTicket(tor(), number))?.status).toBe('we asked you something');
    itIs('2026-11-25T09:40:00Z');
    expect((await ticketFor(dan(), number))?.promised.find((p) => p.of === 'fulfilment')?.standing).toMatchObject({
      phase: 'held',
      used: 12,
      held: 28,
    });
    expect(await write(tor(), number, 'FT-0148.', { asRequester: true })).toEqual({ ok: true, moved: true });
    expect(await kit.state(number)).toMatchObject({
      status: 'inWork',
      answeredAt: '2026-11-25T09:12:00.000Z',
      held: [{ from: '2026-11-25T09:12:00.000Z', to: '2026-11-25T09:40:00.000Z' }],
    });
    // 13:00, and the 28 minutes it was held.
    expect((await row(number)).due_at?.toISOString()).toBe('2026-11-25T13:28:00.000Z');
    expect((await ticketFor(dan(), number))?.history.map((h) => h.words)).toEqual([
      'opened it, high priority, for Directory and access',
      'gave the first word',
      'moved it to “Waiting for you”',
      'moved it to “In work” with the answer',
    ]);
    await w.work();
    const mails = (await w.mails('tor')).filter((m) => m.subject.includes(`T-${number}`));
    expect(mails.map((m) => m.text).toSorted()).toEqual([
      expect.stringContaining('It has come in'),
      expect.stringContaining('Which number is on the back?'),
    ]);
    expect((await w.mails('runa')).map((m) => m.subject)).toContain(`Answered: Tablet does not charge, T-${number}`);
  });

  it('needs a word, and done needs one too; what is written is not lost', async () => {
    const number = await kit.report('tor');
    expect(await move(dan(), number, 'fresh', 'waiting')).toMatchObject({
      ok: false,
      problems: [{ field: 'words', sentence: '“Waiting for you” needs a word to the requester.' }],
    });
    expect(await write(dan(), number, 'Noted', { inside: true, move: { from: 'fresh', to: 'done' } })).toMatchObject({ ok: false });
    expect(await write(dan(), number, '')).toMatchObject({ ok: false, sentence: 'Write something, or say where it goes.' });
    expect((await ticketFor(dan(), number))?.words).toHaveLength(1);
  });
});

describe('a ticket', () => {
  it('is taken, worked on and done; whoever asked says whether it helped, or takes it up again, or closes it', async () => {
    const number = await kit.report('tor');
    expect(await giveTicket(dan(), { number, holder: w.id('dan') })).toEqual({ ok: true });
    expect(await write(dan(), number, 'Second one with this port.', { inside: true })).toEqual({ ok: true, moved: false });
    expect((await kit.state(number)).answeredAt).toBeUndefined();
    await move(dan(), number, 'fresh', 'inWork');
    expect(await move(dan(), number, 'inWork', 'done', 'It has a new port.')).toEqual({ ok: true, moved: true });
    const mine = await myTicket(tor(), number);
    expect(mine).toMatchObject({ status: 'done, tell us if not', helped: null, over: false, closes: 'closed' });
    // What was said within the desk is not theirs to read.
    expect(mine?.words.map((x) => x.text)).toEqual(['It says it charges, but the number falls.', 'It has a new port.']);
    expect(await write(tor(), number, 'It is empty again.', { asRequester: true })).toEqual({ ok: true, moved: true });
    expect(await kit.state(number)).toMatchObject({ status: 'inWork', held: [{ why: 'ended' }] });
    expect(await sayWhetherHelped(tor(), { number, helped: true })).toMatchObject({ ok: false, sentence: 'It is not done yet.' });
    await move(dan(), number, 'inWork', 'done', 'Now it is.');
    expect(await sayWhetherHelped(tor(), { number, helped: true })).toEqual({ ok: true });
    expect(await write(tor(), number, '', { asRequester: true, move: { from: 'done', to: 'closed' } })).toEqual({ ok: true, moved: true });
    expect(await myTicket(tor(), number)).toMatchObject({ over: true, helped: true, status: 'closed' });
    expect(await w.query('select outcome from service_case where number = $1', [number])).toEqual([{ outcome: 'fulfilled' }]);
    expect(await write(tor(), number, 'Once more', { asRequester: true })).toMatchObject({ ok: false, code: 'ended' });
  });

  it('moved by two at once is moved once, and the second is told by whom; what they wrote is not sent', async () => {
    const number = await kit.report('tor');
    const both = await Promise.all([move(dan(), number, 'fresh', 'done', 'Mended.'), move(runa(), number, 'fresh', 'waiting', 'Which one?')]);
    const refused = both.find((r) => !r.ok);
    expect(both.filter((r) => r.ok)).toHaveLength(1);
    expect(refused).toMatchObject({
      code: 'changed-meanwhile',
      sentence: expect.stringMatching(
        /^It was moved to “(Done|Waiting for you)” by (Dan|Runa) Strand meanwhile\. Nothing was sent; what you wrote is still here\.$/,
      ) as string,
    });
    expect((await ticketFor(dan(), number))?.words).toHaveLength(2);
    // The same sending twice is one word.
    const once = { number, words: 'A word', inside: false, once: 'same' };
    expect(await Promise.all([writeOnTicket(dan(), once), writeOnTicket(dan(), once)])).toMatchObject([{ ok: true }, { ok: true }]);
    expect((await ticketFor(dan(), number))?.words.filter((x) => x.text === 'A word')).toHaveLength(1);
    // Other words under the same key are not lost.
    expect(await writeOnTicket(dan(), { ...once, words: 'Another word' })).toMatchObject({ ok: true });
    expect((await ticketFor(dan(), number))?.words.at(-1)?.text).toBe('Another word');
  });

  it('is seen and acted on by those whose it is', async () => {
    const number = await kit.report('tor');
    const [boss, ina] = [w.viewer('boss', 'auditor'), w.viewer('ina')];
    expect(await ticketFor(ina, number)).toBeUndefined();
    expect(await ticketFor(tor(), number)).toBeUndefined();
    expect((await ticketFor(boss, number))?.acts).toBe(false);
    expect(await write(ina, number, 'Mine?')).toMatchObject({ ok: false, code: 'not-found' });
    expect(await write(boss, number, 'Mine?')).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await write(tor(), number, 'From the Desk')).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await write(tor(), number, 'Within', { inside: true, asRequester: true })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await move(tor(), number, 'fresh', 'done', 'Done')).toMatchObject({ ok: false });
    expect(await giveTicket(tor(), { number, holder: w.id('ina') })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await judgeTicket(tor(), { number, impact: 'many', urgency: 'now' })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await write(dan(), number, 'x', { move: { from: 'fresh', to: 'closed' } })).toMatchObject({
      ok: false,
      sentence: 'A ticket does not go from “New” to “Closed”.',
    });
    expect(await write(dan(), number, 'x', { move: { from: 'fresh', to: 'gone' } })).toMatchObject({
      ok: false,
      sentence: 'This status is not there any more. Look at the ticket again.',
    });
  });

  it('judged anew, or with another team, is reckoned anew and says why', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor', { impact: 'many', urgency: 'now' });
    expect(await judgeTicket(dan(), { number, impact: 'one', urgency: 'soon', why: 'a second tablet is there' })).toEqual({ ok: true });
    // Low: 24 hours are three days of eight, to the same hour on Monday.
    expect((await row(number)).due_at?.toISOString()).toBe('2026-11-30T09:00:00.000Z');
    const other = await addTeam('host', { name: 'Stores', members: [w.id('olav')] });
    if (!other.ok) throw new Error(other.sentence);
    const hours = await createHours(w.viewer('dan', 'designer'), { name: 'Of the stores' });
    if (!hours.ok) throw new Error(hours.sentence);
    const always = { ...usualHours('utc'), name: 'Of the stores', week: Array.from({ length: 7 }, () => [{ from: 0, to: 1440 }]) };
    await changeHours(w.viewer('dan', 'designer'), { id: hours.id, version: 1, definition: always });
    await giveHours(w.viewer('dan', 'designer'), { id: hours.id, teams: [other.id], places: [], everywhere: false });
    expect(await giveTicket(dan(), { number, team: other.id, why: 'they have the spare part' })).toEqual({ ok: true });
    expect((await row(number)).due_at?.toISOString()).toBe('2026-11-26T09:00:00.000Z');
    expect((await ticketFor(w.viewer('olav'), number))?.history.slice(1).map((h) => h.words)).toEqual([
      'set its priority to low (One person; Work is slowed down): a second tablet is there',
      'gave it to Stores: they have the spare part',
    ]);
    await w.work();
    expect((await w.mails('olav')).map((m) => m.text).join()).toContain('they have the spare part');
    // The hours of the stores change: what is due moves, once, and its history says why.
    await changeHours(w.viewer('dan', 'designer'), { id: hours.id, version: 2, definition: { ...always, week: usualHours('utc').week } });
    await recount({ why: 'hours' });
    await recount({ why: 'hours' });
    expect((await row(number)).due_at?.toISOString()).toBe('2026-11-30T09:00:00.000Z');
    expect((await ticketFor(w.viewer('olav'), number))?.history.slice(3).map((h) => h.words)).toEqual([
      'reckoned anew, as service hours were changed: was due 26 Nov 2026, 09:00, now 30 Nov 2026, 09:00',
    ]);
  });
});

describe('what happens by itself', () => {
  it('the desk is told when a promise is near and when it is broken, once each, however often its job runs', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor', { impact: 'many', urgency: 'now' });
    const id = await caseOf(number);
    await giveTicket(dan(), { number, holder: w.id('dan') });
    await write(dan(), number, 'We look into it.');
    expect((await row(number)).next_at?.toISOString()).toBe('2026-11-25T12:00:00.000Z');
    itIs('2026-11-25T11:59:59Z');
    await ticketTime(id);
    itIs('2026-11-25T12:00:00Z');
    await Promise.all([ticketTime(id), ticketTime(id)]);
    itIs('2026-11-25T13:00:01Z');
    await ticketTime(id);
    await ticketTime(id);
    await w.work();
    const told = (await w.mails('dan'))
      .filter((m) => m.subject.endsWith(`T-${number}`))
      .map((m) => [m.subject.split(':')[0], m.text.split('\n\n')[1]]);
    expect(told.toSorted()).toEqual([
      ['Late', 'The promise of 4 h (done) is broken.'],
      ['New incident', 'It says it charges, but the number falls.'],
      ['Soon due', '1 h of 4 h are left for the promise (done).'],
    ]);
    expect((await row(number)).next_at).toBeNull();
  });

  it('one that waits for an answer is done after its time, and one that is done is closed', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor');
    const id = await caseOf(number);
    await move(dan(), number, 'fresh', 'waiting', 'Which one?');
    expect((await row(number)).next_at?.toISOString()).toBe('2026-12-02T09:00:00.000Z');
    itIs('2026-12-02T09:00:00Z');
    await ticketTime(id);
    expect((await row(number)).status).toBe('done');
    itIs('2027-01-20T09:00:00Z');
    await ticketTime(id);
    expect((await row(number)).status).toBe('closed');
    expect((await ticketFor(dan(), number))?.history.map((h) => h.words).slice(-2)).toEqual([
      'moved it to “Done” by itself, after its time',
      'moved it to “Closed” by itself, after its time',
    ]);
  });

  it('a status that is taken away: the change asks where its tickets go, and they go there', async () => {
    const number = await kit.report('tor');
    await move(dan(), number, 'fresh', 'read');
    const without = { ...kit.definition, map: withoutStatus(kit.definition.map, 'read') };
    expect(await kit.change(without)).toMatchObject({
      ok: false,
      problems: [{ field: 'goes.read', sentence: '1 open ticket is in it. Say where they go.' }],
    });
    expect(await kit.change(without, { read: 'inWork' })).toMatchObject({ ok: true });
    // Until it is its turn it stands where it stood, and can be read.
    expect((await ticketFor(dan(), number))?.status.name).toBe('Read');
    await recount({ why: 'kind', kind: kit.kindId, goes: { read: 'inWork' } });
    expect((await ticketFor(dan(), number))?.status.name).toBe('In work');
    expect((await ticketFor(dan(), number))?.history.at(-1)?.words).toBe('moved it to “In work” because its statuses were changed');
    // What was done is told as it was called then, though there is no such status any more.
    expect((await ticketFor(dan(), number))?.history.map((h) => h.words)).toContainEqual(expect.stringContaining('to “Read”'));
    const dead = { ...kit.definition, map: { ...kit.definition.map, moves: [] } };
    expect(await kit.change(dead)).toMatchObject({ ok: false, code: 'has-findings' });
    expect(await kit.change(kit.definition)).toMatchObject({ ok: true });
  });
});

describe('routing', () => {
  it('by place, category and priority; in turn and by load within a team; nobody who is away', async () => {
    const crew = await addTeam('host', { name: 'Crew', members: [w.id('ina'), w.id('olav'), w.id('runa')] });
    if (!crew.ok) throw new Error(crew.sentence);
    const to = (how: 'inTurn' | 'leastLoaded') => ({ team: crew.id, how });
    expect(
      await kit.route([
        { cells: { category: { is: 'oneOf', values: ['Access'] } }, answer: to('inTurn') },
        { cells: { category: { is: 'oneOf', values: ['Charts'] } }, answer: to('leastLoaded') },
        { cells: { category: { is: 'oneOf', values: ['Access'] }, priority: { is: 'oneOf', values: ['high'] } }, answer: { person: w.id('boss') } },
      ]),
    ).toMatchObject({ ok: true });
    const holder = async (more: Parameters<typeof kit.report>[1]) => (await kit.state(await kit.report('tor', more))).holder;
    const names = new Map(['ina', 'olav', 'runa', 'boss'].map((k) => [w.id(k), k]));
    const turns: (string | undefined)[] = [];
    for (let i = 0; i < 4; i++) turns.push(names.get((await holder({ category: 'Access' })) ?? ''));
    expect(turns).toEqual(['ina', 'olav', 'runa', 'ina']);
    expect(names.get((await holder({ category: 'Access', impact: 'many', urgency: 'now' })) ?? '')).toBe('boss');
    await w.query('update person set away_until = current_date + 5 where id = $1', [w.id('olav')]);
    expect(names.get((await holder({ category: 'Access' })) ?? '')).toBe('runa');
    // Ina has two and Runa two: of those with as little to do the next in turn.
    expect(names.get((await holder({ category: 'Charts' })) ?? '')).toBe('ina');
    expect(names.get((await holder({ category: 'Charts' })) ?? '')).toBe('runa');
    await w.query('update person set away_until = null where id = $1', [w.id('olav')]);
  });

  it('refuses a table that sends something nowhere', async () => {
    const empty = await addTeam('host', { name: 'Nobody', members: [] });
    if (!empty.ok) throw new Error(empty.sentence);
    expect(await kit.route([{ cells: {}, answer: { team: empty.id, how: 'inTurn' } }])).toMatchObject({
      sentence: 'Nobody is in Nobody, so what goes there would stand still. Put somebody into the team first.',
    });
    expect(await kit.route([{ cells: {}, answer: { team: w.id('tor'), how: 'inTurn' } }])).toMatchObject({
      sentence: 'Row 1 goes to a team who is not there any more. Choose who gets it.',
    });
    expect(await kit.route([], { person: w.teamId })).toMatchObject({
      sentence: 'What no row takes goes to somebody who is not there any more. Choose who gets it.',
    });
    expect(await kit.route([{ cells: { place: { is: 'under', places: [w.id('tor')] } }, answer: { person: w.id('tor') } }])).toMatchObject({
      sentence: 'A row names a place that is not there any more.',
    });
    expect(await kit.route([])).toMatchObject({ ok: true });
  });
});

it('one queue has the tasks and the tickets of a team by working time left, and one list what somebody asked for and reported', async () => {
  itIs('2026-11-25T09:00:00Z');
  const high = await kit.report('runa', { subject: 'High', impact: 'many', urgency: 'now' });
  const low = await kit.report('runa', { subject: 'Low', urgency: 'later' });
  const task = await w.askPlan(
    {
      steps: [
        step('task', 't', {
          assignee: { team: 'desk' },
          instructions: passages('Do'),
          checklist: [],
          fields: [],
          due: { within: 'PT8H' },
        }),
      ],
    },
    'runa',
  );
  const found = await queueFor(dan(), askedOf('queue', `requester=${w.id('runa')}`));
  expect(found.rows.map((r) => [r.what, r.number, r.left])).toEqual([
    ['ticket', high, 240],
    ['task', task.number, 480],
    ['ticket', low, 1440],
  ]);
  const of = async (query: string) => (await queueFor(dan(), askedOf('queue', query), 1000)).rows;
  const all = await of('');
  expect((await of('what=task')).length + (await of('what=ticket')).length).toBe(all.length);
  expect(await queueCount(dan(), askedOf('queue'))).toBe(all.length);
  // Page by page in every order each stands once.
  for (const sort of ['due', '-due', 'request', '-request', 'task']) {
    const seen: string[] = [];
    let after: string | undefined;
    do {
      const page = await queueFor(dan(), askedOf('queue', `sort=${sort}${after ? `&after=${after}` : ''}`), 4);
      seen.push(...page.rows.map((r) => `${r.what} ${r.id}`));
      after = page.next;
    } while (after !== undefined);
    expect(seen).toHaveLength(all.length);
    expect(new Set(seen).size).toBe(all.length);
  }
  const mine = await myCases(w.viewer('runa'));
  expect(mine.rows.map((r) => r.number).slice(0, 3)).toEqual([task.number, low, high]);
});

describe('a level of a priority grid that is taken away', () => {
  it('is kept while open tickets are judged by it', async () => {
    itIs('2026-11-25T09:00:00Z');
    const number = await kit.report('tor', { impact: 'several', urgency: 'now' });
    const without = { ...kit.definition, priority: withoutLevel(kit.definition.priority, 'impacts', 'several') };
    const refused = await kit.change(without);
    expect(refused.ok ? '' : refused.sentence).toMatch(/^\d+ open tickets? (is|are) judged “Several people”\. Keep it, or judge them anew first\.$/);
    for (const { number: n } of await w.query<{ number: string }>(
      "select c.number from ticket t join service_case c on c.id = t.case_id where t.ended_at is null and t.state ->> 'impact' = 'several' and t.team_id is not null",
    ))
      await judgeTicket(w.viewer('dan', 'administrator'), { number: Number(n), impact: 'one', urgency: 'soon' });
    expect((await kit.state(number)).impact).toBe('one');
    expect(await kit.change(without)).toMatchObject({ ok: true });
    expect(await kit.change(kit.definition)).toMatchObject({ ok: true });
  });
});
