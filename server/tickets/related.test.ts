import { sql } from 'drizzle-orm';
import { Readable } from 'node:stream';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { askedOf } from '../../core/lists/index.ts';
import { keepFile } from '../files/keep.ts';
import { fileFor } from '../files/queries.ts';
import { queueFor } from '../queue/list.ts';
import { actOnSeveral } from '../queue/several.ts';
import { myCases } from '../requests/mine.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { sayWhetherHelped, writeOnTicket } from './commands.ts';
import { myTicket, ticketFor } from './queries.ts';
import { othersReading, readsTicket, sweepReaders } from './readers.ts';
import { joinTicket, linkBegun, linkTicket, partTicket, splitTicket } from './related.ts';

let w: World;
let kit: Awaited<ReturnType<typeof ticketKit>>;
beforeAll(async () => {
  w = await world();
  kit = await ticketKit(w);
});
afterAll(() => w.close());

const dan = () => w.viewer('dan', 'teamMember');
const runa = () => w.viewer('runa', 'teamMember');
let sent = 0;
const write = (number: number, words: string, to?: [from: string, to: string]) =>
  writeOnTicket(dan(), { number, words, inside: false, once: `r-${++sent}`, ...(to && { move: { from: to[0], to: to[1] } }) });
const page = async (number: number) => (await ticketFor(dan(), number))!;
const caseOf = async (number: number) => (await w.query<{ id: string }>('select id from service_case where number = $1', [number]))[0]!.id;
const says = async (result: Promise<{ ok: boolean; sentence?: string; problems?: { sentence: string }[] }>) => {
  const r = await result;
  return r.ok ? 'done' : (r.problems?.[0]?.sentence ?? r.sentence);
};

describe('tickets that are the same', () => {
  it('are joined: one is worked on, and both who asked read what the desk says, each only their own words', async () => {
    const [mine, other] = [await kit.report('tor'), await kit.report('ina', { subject: 'Tablet stays dark', words: 'Mine as well.' })];
    expect(await joinTicket(dan(), { number: other, other: `T-${mine}` })).toEqual({ ok: true, into: mine });
    expect((await queueFor(dan(), askedOf('queue', ''))).rows.map((r) => r.number)).not.toContain(other);
    expect((await page(mine)).joined.here.map((j) => j.number)).toEqual([other]);
    expect((await page(mine)).words.at(-1)).toMatchObject({ inside: true, text: expect.stringContaining('Mine as well.') });
    await write(mine, 'We have spare ones.');
    await w.work();
    for (const who of ['tor', 'ina']) expect((await w.mails(who)).some((m) => m.text.includes('We have spare ones.'))).toBe(true);
    const hers = (await myTicket(w.viewer('ina'), other))!;
    expect(hers.words.map((x) => x.text)).toEqual(['Mine as well.', 'We have spare ones.']);
    expect((await myTicket(w.viewer('tor'), mine))!.words.map((x) => x.text)).not.toContain('Mine as well.');
    // Her answer is heard where it is dealt with, and she cannot close it for him.
    await write(mine, 'Which number?', ['fresh', 'waiting']);
    expect((await myTicket(w.viewer('ina'), other))!.status).toBe('we asked you something');
    expect(await writeOnTicket(w.viewer('ina'), { number: other, words: 'FT-0148.', inside: false, once: 'ina-1', asRequester: true })).toMatchObject(
      { ok: true },
    );
    expect((await page(mine)).status.name).toBe('In work');
    expect(
      await says(
        writeOnTicket(w.viewer('ina'), {
          number: other,
          words: '',
          inside: false,
          once: 'ina-2',
          asRequester: true,
          move: { from: 'inWork', to: 'done' },
        }),
      ),
    ).toContain('move the ticket that yours went into');
    expect(await says(write(other, 'Here'))).toBe(`This went into T-${mine}. Act there, or take it out of there first.`);
    await write(mine, 'They are at the Stores.', ['inWork', 'done']);
    const cases = await myCases(w.viewer('ina'));
    expect(cases.rows.find((r) => r.number === other)).toMatchObject({ words: 'done, tell us if not', endedAt: expect.any(Date) });
    expect(await sayWhetherHelped(w.viewer('ina'), { number: other, helped: true })).toEqual({ ok: true });
  });

  it('one goes into another that goes into a third at the same moment: it goes along, and none is in one that is in another', async () => {
    for (let i = 0; i < 8; i++) {
      const [a, b, c] = [await kit.report('tor'), await kit.report('ina'), await kit.report('runa')];
      // All wait for the second, so that both joins begin with what was so before either.
      let both: Promise<{ ok: boolean }[]> | undefined;
      await w.db().transaction(async (tx) => {
        await tx.execute(sql`select from ticket t join service_case k on k.id = t.case_id where k.number = ${b} for update of t`);
        both = Promise.all([joinTicket(dan(), { number: a, other: `T-${b}` }), joinTicket(dan(), { number: b, other: `T-${c}` })]);
        await expect.poll(() => w.query(`select from pg_locks where not granted`), { timeout: 20_000 }).not.toHaveLength(0);
        await new Promise((done) => setTimeout(done, 30));
      });
      expect((await both)!.some((r) => r.ok)).toBe(true);
      expect(await w.query('select from ticket x join ticket y on y.case_id = x.joined_id where y.joined_id is not null')).toEqual([]);
    }
  });

  it('are taken out again as if they had never been joined, also those that had gone with them', async () => {
    const [a, b, c] = [await kit.report('tor'), await kit.report('ina'), await kit.report('olav')];
    expect(await joinTicket(dan(), { number: a, other: String(b) })).toMatchObject({ ok: true });
    expect(await joinTicket(dan(), { number: b, other: `t-${c}` })).toMatchObject({ ok: true });
    expect((await page(c)).joined.here.map((j) => j.number)).toEqual([a, b]);
    expect(await partTicket(dan(), { number: a })).toEqual({ ok: true });
    const parted = await kit.state(a);
    expect(parted.endedAt).toBeUndefined();
    expect(parted.joined).toBeUndefined();
    expect((await queueFor(dan(), askedOf('queue', ''))).rows.map((r) => r.number)).toContain(a);
    expect((await page(a)).history.map((h) => h.words)).toEqual(
      expect.arrayContaining([`joined it to T-${b}, where it is dealt with`, 'took it out of the ticket it was joined to']),
    );
  });

  it('are not joined in a circle, with what is done, with themselves or with nothing', async () => {
    const [a, b, done] = [await kit.report('tor'), await kit.report('ina'), await kit.report('olav')];
    await write(done, 'Done.', ['fresh', 'done']);
    await joinTicket(dan(), { number: a, other: `T-${b}` });
    expect(await says(joinTicket(dan(), { number: b, other: `T-${a}` }))).toBe(`T-${a} itself went into T-${b}. Join it with that one.`);
    expect(await says(joinTicket(dan(), { number: b, other: `T-${b}` }))).toBe('A ticket cannot go into itself. Give the number of the other one.');
    expect(await says(joinTicket(dan(), { number: b, other: `T-${done}` }))).toBe(
      `T-${done} is done. Take that one up again first, or join it into this one.`,
    );
    expect(await says(joinTicket(dan(), { number: b, other: 'T-999999' }))).toBe('There is no ticket T-999999.');
    expect(await says(joinTicket(dan(), { number: b, other: 'boat' }))).toBe('Give the number of the other ticket, as T-1042.');
    expect(await says(joinTicket(w.viewer('tor'), { number: a, other: `T-${b}` }))).toContain('does not exist');
  });

  it('joined into each other at once leave one of them open', async () => {
    const [a, b] = [await kit.report('tor'), await kit.report('ina')];
    const results = await Promise.all([joinTicket(dan(), { number: a, other: `T-${b}` }), joinTicket(runa(), { number: b, other: `T-${a}` })]);
    expect(results.filter((r) => r.ok)).toHaveLength(1);
    const states = await Promise.all([kit.state(a), kit.state(b)]);
    expect(states.filter((s) => s.joined === undefined)).toHaveLength(1);
  });
});

describe('a ticket that is two', () => {
  it('is split: the other matter is a ticket of its own, once, with the same requester, linked to where it was', async () => {
    const number = await kit.report('tor', { words: 'It does not charge. And the door is locked.', impact: 'many', urgency: 'now' });
    const split = () => splitTicket(dan(), { number, subject: 'Door is locked', words: 'The door of the Boat Shed is locked.', once: 'one' });
    const made = await split();
    expect(await split()).toEqual(made);
    const other = made.ok ? made.number : 0;
    expect(await page(other)).toMatchObject({ subject: 'Door is locked', requester: 'Tor Strand', priority: 'high' });
    expect((await page(other)).related).toMatchObject([{ number: `T-${number}`, how: 'split off' }]);
    expect((await page(number)).related).toMatchObject([{ number: `T-${other}`, how: 'had split off' }]);
    const word = (await page(number)).words[0]!;
    const again = await splitTicket(dan(), { number, subject: 'By its word', words: '', wordId: word.id, once: 'two' });
    expect(again.ok && (await page(again.number)).words[0]!.text).toBe(word.text);
    expect(await says(splitTicket(dan(), { number, subject: 'x', words: '', once: 'three' }))).toBe(
      'Say what the other matter is, or choose what was said of it.',
    );
    expect(await says(splitTicket(dan(), { number, subject: ' ', words: 'y', once: 'three' }))).toBe('Say in a line what the other matter is.');
  });
});

describe('what a ticket has to do with', () => {
  it('is linked and unlinked by number, also a request, and one that was begun from it', async () => {
    const [a, b] = [await kit.report('tor'), await kit.report('ina')];
    const item = await w.item();
    const request = await w.ask(dan(), item.id);
    expect(await linkTicket(dan(), { number: a, other: `T-${b}` })).toEqual({ ok: true });
    expect(await linkTicket(dan(), { number: a, other: `R-${request.number}` })).toEqual({ ok: true });
    expect(await linkBegun(dan(), { ticket: b, request: request.number })).toEqual({ ok: true });
    expect((await page(a)).related.map((r) => [r.number, r.how])).toEqual([
      [`T-${b}`, 'like'],
      [`R-${request.number}`, 'like'],
    ]);
    expect((await page(b)).related.map((r) => [r.number, r.how, r.name])).toEqual([
      [`T-${a}`, 'like', 'Tablet does not charge'],
      [`R-${request.number}`, 'began', 'Join a group'],
    ]);
    expect(await linkTicket(dan(), { number: b, other: `T-${a}`, not: true })).toEqual({ ok: true });
    expect((await page(a)).related).toHaveLength(1);
    expect(await says(linkTicket(dan(), { number: a, other: 'R-999999' }))).toBe('There is nothing with the number 999999.');
    expect((await linkBegun(w.viewer('tor'), { ticket: b, request: request.number })).ok).toBe(false);
  });

  it('is offered where open ones say the like', async () => {
    const a = await kit.report('tor', { subject: 'Plotter gives blank sheets' });
    const b = await kit.report('ina', { subject: 'The plotter stays blank' });
    expect((await page(a)).like.map((l) => l.number)).toEqual([b]);
  });
});

describe('files with a word', () => {
  const file = async (who: string, name: string) => {
    const kept = await keepFile(w.viewer(who), { name, stream: Readable.from([Buffer.from(`of ${name}`)]) });
    if (!kept.ok) throw new Error(kept.sentence);
    return kept.file.id;
  };
  it('are read by whoever reads the word, and by nobody else', async () => {
    const number = await kit.report('tor');
    const [open, hidden] = [await file('dan', 'port.txt'), await file('dan', 'inside.txt')];
    await writeOnTicket(dan(), { number, words: 'Like this?', inside: false, once: 'f1', files: [open] });
    await writeOnTicket(dan(), { number, words: '', inside: true, once: 'f2', files: [hidden] });
    expect((await page(number)).words.slice(1).map((x) => x.files.map((f) => f.name))).toEqual([['port.txt'], ['inside.txt']]);
    const reads = async (who: Parameters<typeof fileFor>[0], id: string) => (await fileFor(who, id)) !== undefined;
    expect(await reads(w.viewer('tor'), open)).toBe(true);
    expect(await reads(w.viewer('tor'), hidden)).toBe(false);
    expect(await reads(runa(), hidden)).toBe(true);
    expect(await reads(w.viewer('ina'), open)).toBe(false);
    // One goes with one word, and only with those of who brought it.
    expect(await says(writeOnTicket(dan(), { number, words: 'Again', inside: false, once: 'f3', files: [open] }))).toContain('Attach it anew');
    const toms = await file('tor', 'mine.txt');
    expect(await says(writeOnTicket(dan(), { number, words: 'His', inside: false, once: 'f4', files: [toms] }))).toContain('Attach it anew');
  });
});

describe('two at the desk on one ticket', () => {
  it('see each other, reading or writing, until they leave or are silent', async () => {
    const number = await kit.report('tor');
    await readsTicket(dan(), { number, now: 'reads' });
    await readsTicket(runa(), { number, now: 'writes' });
    // Nobody who may not read it can say that they do.
    await readsTicket(w.viewer('ina'), { number, now: 'reads' });
    const others = async () => othersReading(await caseOf(number), dan().id);
    expect(await others()).toEqual([{ name: 'Runa Strand', writes: true }]);
    await readsTicket(runa(), { number, now: 'gone' });
    expect(await others()).toEqual([]);
    await readsTicket(runa(), { number, now: 'reads' });
    await w.query("update ticket_reader set at = now() - interval '2 minutes'");
    expect(await others()).toEqual([]);
    await sweepReaders();
    expect(await w.query('select from ticket_reader')).toEqual([]);
  });
});

describe('several at once', () => {
  it('are given, written to, noted on and ended, each for itself; what cannot be done is said with its number', async () => {
    const [a, b, theirs] = [await kit.report('tor'), await kit.report('ina'), await kit.report('olav')];
    await kit.state(theirs);
    await w.query('update ticket set team_id = null where case_id = $1', [await caseOf(theirs)]);
    const on = (act: 'take' | 'give' | 'write' | 'note' | 'end', more: object = {}, entries = [`T-${a}`, `T-${b}`, 'T-999999']) =>
      actOnSeveral(dan(), { entries, act, once: `s-${act}`, ...more });
    expect(await on('write', { words: 'We look into it.' })).toEqual({
      done: 2,
      refused: ['T-999999: This ticket does not exist, or you may not see it.'],
    });
    expect(await on('note', { words: 'Same port.' }, [`T-${a}`, `T-${b}`])).toEqual({ done: 2, refused: [] });
    expect(await on('give', { holder: w.id('runa'), why: 'Knows them' }, [`T-${a}`])).toEqual({ done: 1, refused: [] });
    expect(await on('end', { words: 'Both work again.' }, [`T-${a}`, `T-${b}`])).toEqual({ done: 2, refused: [] });
    for (const number of [a, b])
      expect((await page(number)).words.map((x) => [x.text, x.inside]).slice(1)).toEqual([
        ['We look into it.', false],
        ['Same port.', true],
        ['Both work again.', false],
      ]);
    expect((await page(b)).status.name).toBe('Done');
    expect((await on('end', { words: 'Again' }, [`T-${b}`])).refused).toEqual([`T-${b}: It has ended already.`]);
  });
});
