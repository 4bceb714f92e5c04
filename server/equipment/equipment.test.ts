import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { askedOf } from '../../core/lists/index.ts';
import { keepReply } from '../calls/settle.ts';
import { call } from '../db/schema/index.ts';
import { lend } from '../systems/equipment/lending.ts';
import { shiftClock } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { giveBack } from '../holdings/commands.ts';
import { addLocation, addTeam } from '../people/commands.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { submitRequest } from '../requests/submit.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { addEquipmentKind, keepStockAt, setStockLevel } from './arrange.ts';
import { handPiece, notReceived, pickPiece, receive, takeIn } from './commands.ts';
import { pieceFor, pieceList } from './list.ts';
import { addArrived, changePiece, countStock, orderStock } from './pieces.ts';
import { counterOf, stockFor, toConfirm } from './queries.ts';

/** Equipment: it is asked for by a plan, set aside, picked, handed over, and comes back. */
let w: World;
let kinds: Record<'tablet' | 'cable', string>;
let places: Record<'stores' | 'shed', string>;
let item: { id: string };
const lends = (inputs: object = {}) =>
  step('provision', 'lend', {
    action: 'equipment.lend',
    inputs: { kind: { ref: 'form.kind' }, person: { ref: 'request.requester' }, until: { ref: 'form.until' }, ...inputs },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
  });
const form = {
  fields: [
    {
      id: 'kind',
      kind: 'choice' as const,
      label: 'What',
      required: true,
      options: [
        { value: 'Field tablet', label: 'A tablet' },
        { value: 'cable', label: 'A cable' },
      ],
    },
    { id: 'until', kind: 'date' as const, label: 'Until', required: false },
  ],
};
const good = <T extends object>(r: ({ ok: true } & T) | { ok: false; sentence: string }): T => {
  if (!r.ok) throw new Error(r.sentence);
  return r;
};
const keeper = () => w.viewer('runa');

beforeAll(async () => {
  w = await world();
  await setSystemOwners('host', { system: 'equipment', people: [w.id('boss')] });
  const site = good(await addLocation('host', { name: 'Torvay', kind: 'site' }));
  const stores = good(await addLocation('host', { name: 'Stores', kind: 'building', parentId: site.id }));
  const shed = good(await addLocation('host', { name: 'Boat Shed', kind: 'building' }));
  const team = good(await addTeam('host', { name: 'Stores', locationId: stores.id, members: [w.id('runa')] }));
  const other = good(await addTeam('host', { name: 'Shed', locationId: shed.id, members: [w.id('olav')] }));
  const dan = w.viewer('dan', 'designer');
  kinds = {
    tablet: good(await addEquipmentKind(dan, { name: 'Field tablet', marked: 'each' })).id,
    cable: good(await addEquipmentKind(dan, { name: 'Cable', marked: 'none' })).id,
  };
  places = { stores: stores.id, shed: shed.id };
  good(await keepStockAt(dan, { place: stores.id, team: team.id }));
  good(await keepStockAt(dan, { place: shed.id, team: other.id, told: 'on' }));
  await w.query('update person set location_id = $1 where user_name = any($2)', [site.id, ['tor', 'ina']]);
  item = await w.item('Equipment', { steps: [lends(), tell('end', 'End')], undoWhen: ['withdrawn'] }, form);
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});
beforeEach(async () => {
  shiftClock(0);
  // Each begins with an empty stock.
  await w.work();
  await w.query(`update equipment_issue set state = 'cancelled', piece_id = null where state not in ('back', 'lost', 'cancelled')`);
  await w.query(`update piece set state = 'retired'`);
  await w.query(`update holding set ended_at = now() where action = 'equipment.lend'`);
  await w.query('delete from stock_level');
  await w.query(`update stock_order set state = 'dropped'`);
});

let n = 0;
async function ask(who = 'tor', kind = 'Field tablet', until?: string) {
  const made = await submitRequest(w.viewer(who), {
    itemId: item.id,
    revision: 1,
    answers: { kind, ...(until !== undefined && { until }) },
    idempotencyKey: `equipment-${++n}`,
  });
  if (!made.ok) throw new Error(made.sentence);
  const [row] = await w.query<{ id: string }>('select r.id from run r join service_case c on c.id = r.case_id where c.number = $1', [made.number]);
  await w.work();
  return { number: made.number, id: row!.id };
}
const arrived = (marks: string, place: keyof typeof places = 'stores') =>
  addArrived(w.viewer(place === 'stores' ? 'runa' : 'olav'), { kind: kinds.tablet, place: places[place], marks, number: '' });
const progress = async (run: string) =>
  (
    await w.query<{ progress: string; status: string }>('select progress, status from call where run_id = $1 order by created_at desc limit 1', [run])
  )[0]!;
const issueOf = async (run: string) =>
  (await w.query<{ id: string; state: string }>('select id, state from equipment_issue where run_id = $1', [run]))[0]!;
const held = (who: string) =>
  w.query<{ id: string; what: string; until: string | null; ending: boolean }>(
    `select id, what #>> '{}' as what, until::text as until, ending_at is not null as ending from holding where action = 'equipment.lend' and ended_at is null and person_id = $1`,
    [w.id(who)],
  );
const differ = async () => {
  shiftClock(3000);
  await w.read('equipment');
  shiftClock(0);
  return w.query<{ is: string; what: string }>(
    `select "is", what #>> '{}' as what from difference where system = 'equipment' and state = 'open' order by 2`,
  );
};

it('is asked for, picked, handed over, received, given back and taken in; each step is told where the request is followed', async () => {
  good(await arrived('FT-1\nFT-2'));
  const run = await ask('tor', 'Field tablet', '2027-03-01');
  expect(await progress(run.id)).toEqual({ progress: 'Set aside at Stores, and being picked', status: 'accepted' });
  const [line] = (await counterOf(keeper()))!.toHandOut;
  expect(line).toMatchObject({ kind: 'Field tablet', mark: 'FT-1', who: 'Tor Strand', place: 'Stores', number: run.number, ready: false });
  good(await pickPiece(keeper(), { issue: line!.id }));
  await w.work();
  expect((await progress(run.id)).progress).toBe('Ready to be fetched at Stores');
  expect(await pickPiece(keeper(), { issue: line!.id })).toMatchObject({ code: 'ended' });
  // What is on the piece counts: another free one of the place may be taken.
  expect(await handPiece(keeper(), { issue: line!.id, mark: '' })).toMatchObject({ problems: [{ field: 'mark' }] });
  expect(await handPiece(keeper(), { issue: line!.id, mark: 'FT-9' })).toMatchObject({ sentence: 'No Field tablet with “FT-9” is known.' });
  good(await handPiece(keeper(), { issue: line!.id, mark: 'ft-2' }));
  await w.work();
  expect(await w.request(run.id)).toMatchObject({ outcome: 'fulfilled' });
  expect(await held('tor')).toMatchObject([{ what: 'Field tablet FT-2', until: '2027-03-01' }]);
  expect((await w.mails('tor')).map((m) => m.subject)).toContainEqual(expect.stringContaining('Equipment was handed over to you'));
  expect(await w.query('select mark, state from piece where mark is not null and state <> $1 order by mark', ['retired'])).toEqual([
    { mark: 'FT-1', state: 'free' },
    { mark: 'FT-2', state: 'out' },
  ]);
  expect(await toConfirm(w.viewer('tor'))).toMatchObject([{ what: 'Field tablet FT-2', by: 'Runa Strand' }]);
  good(await receive(w.viewer('tor'), { issue: line!.id }));
  expect(await toConfirm(w.viewer('tor'))).toEqual([]);
  expect(await differ()).toEqual([]);

  good(await giveBack(w.viewer('tor'), { id: (await held('tor'))[0]!.id, why: '' }));
  await w.work();
  expect((await counterOf(keeper()))!.back).toMatchObject([{ mark: 'FT-2', who: 'Tor Strand' }]);
  expect(await held('tor')).toMatchObject([{ ending: true }]);
  expect(await takeIn(w.viewer('olav'), { issue: line!.id, place: places.stores, how: 'fine', note: '' })).toMatchObject({
    problems: [{ field: 'place' }],
  });
  good(await takeIn(keeper(), { issue: line!.id, place: places.stores, how: 'repair', note: 'The glass is cracked.' }));
  await w.work();
  expect(await held('tor')).toEqual([]);
  const [repaired] = (await pieceList(keeper(), askedOf('pieces', 'state=repair')))!.rows;
  const its = await pieceFor(keeper(), repaired!.id);
  expect(its!.events.map((e) => [e.what, e.by, e.note])).toEqual([
    ['cameBack', 'Runa Strand', 'The glass is cracked.'],
    ['handedOut', 'Runa Strand', ''],
    ['arrived', 'Runa Strand', ''],
  ]);
  good(await changePiece(keeper(), { piece: repaired!.id, state: 'free', note: '' }));
  await replays(w, run.id);
});

it('goes from the nearest place that has one; who comes later waits, and is served in the order in which they came', async () => {
  good(await arrived('SH-1', 'shed'));
  good(await arrived('ST-1'));
  const [first, second, third, fourth] = [await ask('tor'), await ask('ina'), await ask('tor'), await ask('ina')];
  expect((await progress(first.id)).progress).toBe('Set aside at Stores, and being picked');
  expect((await progress(second.id)).progress).toBe('Set aside at Boat Shed, and being picked');
  expect((await progress(third.id)).progress).toBe('Waiting for a Field tablet: the next one that is free');
  expect((await progress(fourth.id)).progress).toBe('Waiting for a Field tablet: 1 wait before');
  good(await arrived('ST-2'));
  await w.work();
  expect([(await issueOf(third.id)).state, (await progress(fourth.id)).progress]).toEqual([
    'setAside',
    'Waiting for a Field tablet: the next one that is free',
  ]);
});

it('withdrawn while it waits or is set aside: it goes to whoever is next; handed over a moment before: it is taken back', async () => {
  good(await arrived('W-1'));
  const [first, second] = [await ask('tor'), await ask('ina')];
  good(await withdrawRequest(w.viewer('tor'), { number: first.number, reason: 'Not needed' } as never));
  await w.work();
  expect([(await issueOf(first.id)).state, (await issueOf(second.id)).state]).toEqual(['cancelled', 'setAside']);
  good(await handPiece(keeper(), { issue: (await issueOf(second.id)).id, mark: 'W-1' }));
  good(await withdrawRequest(w.viewer('ina'), { number: second.number, reason: 'Not needed' } as never));
  await w.work();
  await w.work();
  expect((await issueOf(second.id)).state).toBe('dueBack');
  good(await takeIn(keeper(), { issue: (await issueOf(second.id)).id, place: places.stores, how: 'fine', note: '' }));
  await w.work();
  expect(await held('ina')).toEqual([]);
  expect(await differ()).toEqual([]);
});

it('two at once: the last piece goes to one, a piece is handed over once, and both are told', async () => {
  for (let round = 0; round < 4; round++) {
    good(await arrived(`R-${round}`));
    const runs = await Promise.all([ask('tor'), ask('ina')]);
    const states = await Promise.all(runs.map(async (r) => (await issueOf(r.id)).state));
    expect(states.toSorted()).toEqual(['setAside', 'waiting']);
    const its = await issueOf(runs[states.indexOf('setAside')]!.id);
    const both = await Promise.all([1, 2].map(() => handPiece(keeper(), { issue: its.id, mark: `R-${round}` })));
    expect(both.map((b) => b.ok).toSorted()).toEqual([false, true]);
    await w.query(`update equipment_issue set state = 'cancelled' where state = 'waiting'`);
  }
});

it('handed over while somebody asks how it stands: it is asked again at once, and not hours later', async () => {
  good(await arrived('A-1'));
  const run = await ask('tor');
  const [its] = await w.db().select().from(call).where(eq(call.runId, run.id));
  const stale = { ok: true as const, reply: { is: 'accepted' as const, job: its!.job ?? undefined, progress: 'Set aside', wait: 0 } };
  const heard = (told: number) => ({ how: 'asked' as const, beganAt: new Date(), later: lend.later, told });
  const soon = async () =>
    (
      await w.query<{ soon: boolean }>(`select run_at < now() + interval '1 minute' as soon from graphile_worker._private_jobs where key = $1`, [
        `call:${its!.id}`,
      ])
    )[0]!.soon;
  good(await handPiece(keeper(), { issue: (await issueOf(run.id)).id, mark: 'A-1' }));
  expect(await soon()).toBe(true);
  // What was asked before that comes in after it.
  await keepReply(its!, stale, heard(its!.told));
  expect(await soon()).toBe(true);
  await keepReply(its!, stale, heard(its!.told + 1));
  expect(await soon()).toBe(false);
  await w.work();
  expect(await held('tor')).toMatchObject([{ what: 'Field tablet A-1' }]);
});

it('what runs low is to be ordered, once; what arrives answers that', async () => {
  const dan = w.viewer('dan', 'designer');
  const at = { kind: kinds.tablet, place: places.stores };
  // What stands there of another kind, or of this one elsewhere, is not counted.
  good(await addArrived(keeper(), { kind: kinds.cable, place: places.stores, marks: '', number: '9' }));
  good(await arrived('L-8\nL-9', 'shed'));
  expect(await setStockLevel(dan, { ...at, least: '3', upTo: '2' })).toMatchObject({ problems: [{ field: 'upTo' }] });
  good(await setStockLevel(dan, { ...at, least: '2', upTo: '5' }));
  const orders = async () => (await counterOf(keeper()))!.orders.map((o) => [o.wanted, o.ordered]);
  expect(await orders()).toEqual([[5, false]]);
  good(await arrived('L-1\nL-2'));
  expect(await orders()).toEqual([]);
  await ask('tor');
  expect(await orders()).toEqual([[4, false]]);
  const order = (await counterOf(keeper()))!.orders[0]!.id;
  expect(await orderStock(w.viewer('olav'), { order, drop: false, reference: 'PO-1', expected: '' })).toMatchObject({ code: 'not-found' });
  expect(await orderStock(keeper(), { order, drop: false, reference: '', expected: 'soon' })).toMatchObject({ code: 'invalid' });
  good(await orderStock(keeper(), { order, drop: false, reference: 'PO-1', expected: '2027-01-10' }));
  await ask('ina');
  expect(await orders()).toEqual([[4, true]]);
  good(await arrived('L-3\nL-4\nL-5\nL-6'));
  expect(await orders()).toEqual([]);
  expect(await arrived('L-3')).toMatchObject({ sentence: 'Known already: L-3. Nothing was taken in.' });
});

it('what is to be picked is told by mail to the team of a place that says so, once; to nobody at another', async () => {
  await arrived('FT-801', 'shed');
  const { number } = await ask();
  await w.work();
  const told = async (who: string) => (await w.mails(who)).filter((m) => m.subject.includes(`R-${number}`) && m.subject.startsWith('To be picked'));
  expect((await told('olav')).map((m) => [m.subject, m.text.split('\n')[0]])).toEqual([
    [
      `To be picked at Boat Shed: Field tablet, R-${number}`,
      'Field tablet FT-801 is set aside for Tor Strand. Pick it, and hand it over at the counter.',
    ],
  ]);
  expect((await told('olav'))[0]!.text).toContain('/desk/equipment');
  await arrived('FT-802');
  const other = await ask('ina');
  await w.work();
  expect((await w.mails('runa')).filter((m) => m.subject.includes(`R-${other.number}`))).toEqual([]);
});

describe('a count', () => {
  it('shows what it found, and with the word of whoever counted the books follow; what somebody is said to hold shows as a difference', async () => {
    good(await arrived('C-1\nC-2\nC-3'));
    const run = await ask('tor');
    good(await handPiece(keeper(), { issue: (await issueOf(run.id)).id, mark: 'C-1' }));
    await w.work();
    const of = { kind: kinds.tablet, place: places.stores, marks: 'C-1, C-2, C-9', number: '' };
    const shown = good(await countStock(keeper(), { ...of, book: false })).counted;
    const marks = (all: { mark: string | null }[]) => all.map((p) => p.mark);
    expect([marks(shown.there), marks(shown.missing), marks(shown.elsewhere), shown.unknown]).toEqual([['C-2'], ['C-3'], ['C-1'], ['C-9']]);
    expect(await w.query(`select count(*)::int as n from piece where state = 'missing'`)).toEqual([{ n: 0 }]);
    good(await countStock(keeper(), { ...of, book: true }));
    expect(await w.query(`select mark, state from piece where mark like 'C-%' order by mark`)).toEqual([
      { mark: 'C-1', state: 'free' },
      { mark: 'C-2', state: 'free' },
      { mark: 'C-3', state: 'missing' },
      { mark: 'C-9', state: 'free' },
    ]);
    expect(await differ()).toEqual([{ is: 'missing', what: 'Field tablet C-1' }]);
    await w.query(`update holding set ended_at = now() where action = 'equipment.lend'`);
    expect(await differ()).toEqual([]);
  });
  it('of what is set aside and not found: whoever waited for it waits again, and gets the next', async () => {
    good(await arrived('D-1'));
    const run = await ask('tor');
    good(await countStock(keeper(), { kind: kinds.tablet, place: places.stores, marks: 'D-2', number: '', book: true }));
    await w.work();
    expect((await issueOf(run.id)).state).toBe('setAside');
    expect((await counterOf(keeper()))!.toHandOut).toMatchObject([{ mark: 'D-2' }]);
  });
  it('of what is only counted: how many there are', async () => {
    const of = { kind: kinds.cable, place: places.stores, marks: '' };
    good(await addArrived(keeper(), { ...of, number: '10' }));
    const run = await ask('tor', 'cable');
    good(await handPiece(keeper(), { issue: (await issueOf(run.id)).id, mark: '' }));
    await w.work();
    expect(await held('tor')).toMatchObject([{ what: expect.stringMatching(/^Cable E-\d+$/) }]);
    expect(await countStock(keeper(), { ...of, number: '', book: true })).toMatchObject({ problems: [{ field: 'number' }] });
    good(await countStock(keeper(), { ...of, number: '7', book: true }));
    expect((await stockFor(keeper()))!.find((s) => s.kind === 'Cable')).toMatchObject({ free: 7, out: 1, missing: 2 });
    good(await takeIn(keeper(), { issue: (await issueOf(run.id)).id, place: places.stores, how: 'fine', note: '' }));
    await w.work();
  });
});

it('brought without being asked back, or said not to have come: the holding ends by that', async () => {
  good(await arrived('B-1\nB-2'));
  const [one, two] = [await ask('tor'), await ask('ina')];
  for (const [run, mark] of [
    [one, 'B-1'],
    [two, 'B-2'],
  ] as const)
    good(await handPiece(keeper(), { issue: (await issueOf(run.id)).id, mark }));
  const early = (await issueOf(one.id)).id;
  expect(await takeIn(keeper(), { issue: early, place: places.stores, how: 'fine', note: '' })).toMatchObject({ code: 'changed-meanwhile' });
  await w.work();
  expect(await receive(w.viewer('ina'), { issue: early })).toMatchObject({ code: 'not-found' });
  expect(await notReceived(w.viewer('tor'), { issue: early, why: '' })).toMatchObject({ problems: [{ field: 'why' }] });
  good(await notReceived(w.viewer('tor'), { issue: early, why: 'Nobody was at the window.' }));
  expect((await counterOf(keeper()))!.back).toMatchObject([{ mark: 'B-1', deniedWhy: 'Nobody was at the window.' }]);
  good(await takeIn(keeper(), { issue: early, place: places.stores, how: 'fine', note: '' }));
  await w.work();
  good(await giveBack(w.viewer('ina'), { id: (await held('ina'))[0]!.id, why: '' }));
  await w.work();
  const elsewhere = { issue: (await issueOf(two.id)).id, place: places.shed, how: 'lost', note: '' };
  expect(await takeIn(w.viewer('olav'), elsewhere)).toMatchObject({ code: 'not-allowed' });
  good(await takeIn(keeper(), { issue: (await issueOf(two.id)).id, place: places.stores, how: 'lost', note: 'Over board.' }));
  await w.work();
  expect([await held('tor'), await held('ina')]).toEqual([[], []]);
  expect(await w.query(`select state from piece where mark = 'B-2'`)).toEqual([{ state: 'missing' }]);
  expect(await differ()).toEqual([]);
});

it('a kind that is not known is found before: stated in a plan, or offered by its form', async () => {
  const wrong = (inputs: object) => w.item(`Wrong ${++n}`, { steps: [lends(inputs), tell('end', 'End')] }, form);
  await expect(wrong({ kind: { literal: 'Sextant' } })).rejects.toThrow('which is not known there (“Cable”, “Field tablet”)');
  const offers = { fields: [{ ...form.fields[0]!, options: [{ value: 'Sextant', label: 'A sextant' }] }, form.fields[1]!] };
  await expect(w.item('Offers wrong', { steps: [lends(), tell('end', 'End')] }, offers as never)).rejects.toThrow(
    'offers “A sextant”, which is not known',
  );
});
