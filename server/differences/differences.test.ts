import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Express } from 'express';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { askedOf } from '../../core/lists/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import { machinePark } from '../../demo/machine-park.ts';
import { machines } from '../../standins/machines.ts';
import { shiftClock } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { giveBack } from '../holdings/commands.ts';
import { holdingFor } from '../holdings/list.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { trace } from '../runs/queries.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { ownActionSpecs } from '../systems/index.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { askReading, leaveAll, settleDifference } from './commands.ts';
import { compare } from './compare.ts';
import { differenceCount, differenceList } from './list.ts';
import { readings } from './queries.ts';
import { readAll, readSystem } from './reading.ts';

/** What systems have beside what is held here: the directory and the machine park, over real HTTP. */
let w: World;
let park: string;
let system: string;
let server: Server;
const administrator = () => w.viewer('dan', 'administrator');
const json = async <T>(method: string, url: string, body?: object): Promise<T> =>
  (await (
    await fetch(url, {
      method,
      headers: { 'content-type': 'application/json', authorization: 'Bearer key-of-the-park' },
      ...(body && { body: JSON.stringify(body) }),
    })
  ).json()) as T;

beforeAll(async () => {
  w = await world();
  const app: Express = machines({ token: 'key-of-the-park', answerKey: 'the-tide-comes-and-the-tide-goes-again' });
  server = await new Promise<Server>((up) => {
    const s: Server = app.listen(0, '127.0.0.1', () => up(s));
  });
  park = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  await json('POST', `${park}/_build`, { ms: 0, ends: 'well' });
  const whole = machinePark(`${park}/park`);
  const definition = {
    ...whole,
    actions: whole.actions.map(({ later, ...a }) => ({ ...a, ...(later && { later: { ...later, callsBack: false } }) })),
  };
  const made = await keepWebSystem(administrator(), { definition, secret: 'key-of-the-park' });
  if (!made.ok) throw new Error(`${made.sentence} ${JSON.stringify(made.problems)}`);
  system = made.id;
  for (const s of [system, 'directory']) await setSystemOwners('host', { system: s, people: [w.id('boss')] });
});
afterAll(async () => {
  shiftClock(0);
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await w.close();
});
beforeEach(() => shiftClock(0));

/** Reads a system a moment later, as its job does. */
let later = 0;
async function read(id = system): Promise<void> {
  shiftClock((later += 1000));
  expect(await askReading(administrator(), id)).toEqual({ ok: true });
  await readSystem(id);
}
const open = async (query = 'state=open') => (await differenceList(administrator(), askedOf('differences', query), 500))!.rows;
const settle = (id: string, how: string, more: { why?: string; person?: string } = {}) =>
  settleDifference(administrator(), { id, how, why: more.why ?? 'It is so.', person: more.person ?? '' });
const until = async (what: () => Promise<boolean>): Promise<void> => {
  for (let i = 0; i < 60; i++) {
    await w.work();
    if (await what()) return;
    await new Promise((done) => setTimeout(done, 50));
  }
  throw new Error('It did not come to that.');
};

/** Somebody has a machine by a request. */
async function machine() {
  const make = step('provision', 'make', {
    action: `web.${system}.make`,
    inputs: { size: { literal: 'Small' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
    note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
  });
  const made = await w.askPlan({ steps: [make, tell('end', 'End')] });
  const of = async () =>
    (await w.query<{ id: string; what: string; until: string }>('select id, what, until::text from holding where run_id = $1', [made.id]))[0];
  await until(async () => (await of()) !== undefined);
  const holding = (await of())!;
  return { ...made, what: holding.what, until: holding.until, holding: holding.id, machine: holding.what.split('.')[0]! };
}
const traceOf = async (number: number) => {
  const told = await trace(administrator(), number);
  if (!told || told.sealed) throw new Error(`R-${number} has no trace.`);
  return told;
};
const standing = async (what: string) => {
  const held = (await thingsHeld(w.viewer('tor'), 'mine')).rows.find((r) => r.what === what);
  return (await holdingFor(w.viewer('runa', 'auditor'), held!.id))?.standing;
};
const found = (rows: { what: string; is: string }[]) => rows.map((r) => [r.what, r.is]).toSorted();

it('a machine that the park lost is missing: told of once, ended with why, and off whoever had it; nothing is asked of the park', async () => {
  const lost = await machine();
  const stays = await machine();
  await read();
  expect(await open()).toEqual([]);
  await json('POST', `${park}/_lose/${lost.machine}`);
  await read();
  await read();
  expect(found(await open())).toEqual([[lost.what, 'missing']]);
  const [row] = await open();
  // With what is held stands what its system said last; of what was given since nothing.
  expect(await standing(lost.what)).toMatchObject({ system: 'Machine park', at: expect.any(Date), differs: { id: row!.id, is: 'missing' } });
  expect(await standing(stays.what)).toEqual({ system: 'Machine park', at: expect.any(Date), differs: undefined });
  expect(await standing((await machine()).what)).toBeUndefined();
  expect(row).toMatchObject({ who: 'Tor Strand', systemName: 'Machine park', number: lost.number, kind: 'machine' });
  expect(await settle(row!.id, 'takeOver')).toMatchObject({ ok: false, sentence: 'That cannot be done about this difference.' });
  expect(await settle(row!.id, 'end', { why: ' ' })).toMatchObject({ ok: false, problems: [{ field: 'why' }] });
  expect(await settleDifference(w.viewer('runa', 'auditor'), { id: row!.id, how: 'end', why: 'x', person: '' })).toMatchObject({
    code: 'not-allowed',
  });
  const before = (await json<unknown[]>('GET', `${park}/_journal`)).length;
  const both = await Promise.all([settle(row!.id, 'end', { why: 'Its disk broke.' }), settle(row!.id, 'end', { why: 'Its disk broke.' })]);
  expect(both.filter((r) => r.ok)).toHaveLength(1);
  expect(both.find((r) => !r.ok)).toMatchObject({ code: 'already-decided' });
  await w.work();
  expect((await json<unknown[]>('GET', `${park}/_journal`)).length).toBe(before);
  const held = (await thingsHeld(w.viewer('tor'), 'mine')).rows.map((r) => r.what);
  expect([held.includes(lost.what), held.includes(stays.what)]).toEqual([false, true]);
  const steps = (await traceOf(lost.number)).steps;
  expect(steps.find((s) => s.key === 'undo:make#1')).toMatchObject({ end: 'takenOver', note: 'Its disk broke.' });
  await read();
  expect(await open()).toEqual([]);
  await replays(w, lost.id);
});

it('a machine nobody asked for: taken over it is held like any other, and given back the park takes it down; taken back, whoever has it is told', async () => {
  const make = async (owner?: string) =>
    (await json<{ id: string }>('POST', `${park}/park/machines`, { size: 'Small', region: 'hall', days: 7, ...(owner && { owner }) })).id;
  const [theirs, nobodys] = [await make(w.id('ina')), await make()];
  await read();
  const of = async (id: string) => (await open()).find((r) => r.what.startsWith(id))!;
  expect(await of(theirs)).toMatchObject({ is: 'unknown', who: 'Ina Strand', number: null });
  expect(await of(nobodys)).toMatchObject({ is: 'unknown', who: null });
  expect(await settle((await of(nobodys)).id, 'takeOver')).toMatchObject({ problems: [{ field: 'person', sentence: 'Choose whose it is.' }] });
  expect(await settle((await of(theirs)).id, 'takeOver', { person: w.id('ina'), why: 'She made it by hand.' })).toEqual({ ok: true });
  const mine = (await thingsHeld(w.viewer('ina'), 'mine')).rows;
  expect(mine).toMatchObject([{ kind: 'machine', item: 'Found in Machine park: machine', isTheirs: true, until: expect.any(String) }]);
  const [{ id, run_id: run }] = (await w.query<{ id: string; run_id: string }>('select id, run_id from holding where id = $1', [mine[0]!.id])) as [
    { id: string; run_id: string },
  ];
  await replays(w, run);
  const told = await traceOf(mine[0]!.number);
  expect(told).toMatchObject({ outcome: 'fulfilled' });
  // Nothing was sent for what was there already.
  expect((await json<{ change: string; id: string }[]>('GET', `${park}/_journal`)).filter((j) => j.id === theirs)).toHaveLength(1);
  expect(await giveBack(w.viewer('ina'), { id, why: '' })).toEqual({ ok: true });
  await until(async () => (await thingsHeld(w.viewer('ina'), 'mine')).rows.length === 0);
  expect((await json<{ change: string; id: string }[]>('GET', `${park}/_journal`)).filter((j) => j.id === theirs).map((j) => j.change)).toEqual([
    'made',
    'taken down',
  ]);
  await replays(w, run);
  expect(await settle((await of(nobodys)).id, 'takeBack', { person: w.id('ina'), why: 'Nobody knows what it is for.' })).toEqual({ ok: true });
  await until(async () => (await thingsHeld(w.viewer('ina'), 'mine')).rows.length === 0);
  expect((await w.mails('ina')).at(-1)!.text).toContain('“Nobody knows what it is for.”');
  await read();
  expect(await open()).toEqual([]);
  // What stands for them is no item that anybody designs or asks for.
  expect(await w.query("select name from item where kind = 'byItself'")).toEqual([{ name: 'Found in Machine park: machine' }]);
});

it('another last day: the park’s counts from then on; left as it is, it is told of again only when it is another once more', async () => {
  const lent = await machine();
  const longer = (days: number) => json('PATCH', `${park}/park/machines/${lent.machine}`, { days });
  await longer(30);
  await read();
  const [row] = (await open()).filter((r) => r.is === 'until');
  expect(row).toMatchObject({ what: lent.what, held: lent.until });
  expect(row!.until! > lent.until).toBe(true);
  expect(await settle(row!.id, 'leave', { why: 'Agreed by telephone.' })).toEqual({ ok: true });
  await read();
  expect(await open()).toEqual([]);
  expect(await open('state=left')).toMatchObject([{ id: row!.id, why: 'Agreed by telephone.' }]);
  await longer(60);
  await read();
  expect((await open()).map((r) => r.id)).toEqual([row!.id]);
  expect(await settle(row!.id, 'follow')).toEqual({ ok: true });
  expect((await w.query<{ until: string }>('select until::text from holding where id = $1', [lent.holding]))[0]!.until > row!.until!).toBe(true);
  await read();
  expect(await open()).toEqual([]);
});

it('a list that makes no sense, or is not whole, judges nothing missing; what is under way is no difference', async () => {
  const lost = await machine();
  await json('POST', `${park}/_lose/${lost.machine}`);
  for (const manner of ['poisonous', 'failing', 'refusing']) {
    await json('POST', `${park}/_manner`, { manner, delayMs: 0 });
    await read();
    const last = (await readings(administrator())).find((r) => r.id === system)!;
    expect([manner, last.underWay, last.cause]).toEqual([manner, false, expect.stringMatching(/^Machine park/)]);
    expect([manner, await open()]).toEqual([manner, []]);
  }
  await json('POST', `${park}/_manner`, { manner: 'well', delayMs: 0 });
  await read();
  expect(found(await open())).toEqual([[lost.what, 'missing']]);
  expect((await readings(administrator())).find((r) => r.id === system)).toMatchObject({ cause: null, open: 1, underWay: false });
  expect(await settle((await open())[0]!.id, 'end')).toEqual({ ok: true });
  // A machine that is being made stands in the list before anybody holds it; one that is given back while it is read is not missing.
  const made = await w.askPlan({
    steps: [
      step('provision', 'make', {
        action: `web.${system}.make`,
        inputs: { size: { literal: 'Small' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
        note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
      }),
    ],
  });
  await json('POST', `${park}/_build`, { ms: 300, ends: 'well' });
  await w.work();
  await new Promise((done) => setTimeout(done, 400));
  await json('POST', `${park}/_build`, { ms: 0, ends: 'well' });
  await read();
  expect(await open()).toEqual([]);
  await until(async () => (await w.query('select from holding where run_id = $1', [made.id])).length > 0);
  await read();
  expect(await open()).toEqual([]);
});

it('who is in which group: what was there before is left as it is in one act; what comes and goes by hand is told', async () => {
  const group = await w.scimGroup('tide-models');
  const patch = (op: 'add' | 'remove', who: string) =>
    directoryClient.patchGroup(
      group.id,
      [op === 'add' ? { op, path: 'members', value: [{ value: w.scimUser(who) }] } : { op, path: `members[value eq "${w.scimUser(who)}"]` }],
      undefined,
      `by-hand/${op}/${who}/${later}`,
    );
  for (const who of ['runa', 'olav']) await patch('add', who);
  await readAll();
  await read('directory');
  const before = await open('state=open&is=unknown');
  expect(before.length).toBeGreaterThan(0);
  expect(await differenceCount(administrator(), askedOf('differences', 'state=open'))).toBe(before.length);
  expect(await leaveAll(w.viewer('runa', 'auditor'), { system: 'directory', why: 'x', foundBy: new Date().toISOString() })).toMatchObject({
    ok: false,
  });
  const all = { system: 'directory', why: 'They were in it before us.', foundBy: new Date(Date.now() + 3_600_000).toISOString() };
  expect(await leaveAll(administrator(), all)).toEqual({ ok: true, left: before.length });
  expect(await leaveAll(administrator(), all)).toMatchObject({ code: 'ended' });
  await read('directory');
  expect(await open()).toEqual([]);
  // One by a request, then taken out by hand; one put in by hand.
  const { id } = await w.askPlan({
    steps: [
      step('provision', 'add', { action: 'directory.addMember', inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } } }),
    ],
  });
  await w.work();
  await read('directory');
  expect(await open()).toEqual([]);
  await patch('remove', 'tor');
  await patch('add', 'boss');
  await read('directory');
  expect(found(await open())).toEqual([
    ['tide-models', 'missing'],
    ['tide-models', 'unknown'],
  ]);
  const unknown = (await open('state=open&is=unknown'))[0]!;
  expect(await settle(unknown.id, 'takeBack', { person: w.id('boss'), why: 'Nobody agreed to it.' })).toEqual({ ok: true });
  await w.work();
  expect((await w.scimGroup('tide-models')).members.some((m) => m.value === w.scimUser('boss'))).toBe(false);
  // Put right by hand in the directory, the other is gone by itself.
  await patch('add', 'tor');
  await read('directory');
  expect(await open()).toEqual([]);
  expect((await open('state=gone')).map((r) => r.is)).toContain('missing');
  await replays(w, id);
});

it('any two lists: the differences are those that one finds by going through them one by one', async () => {
  const spec = ownActionSpecs.find((s) => s.id === 'directory.addMember')!;
  const lists = { ...spec, id: 'test.give', gives: { kind: 'thing', person: 'person', what: 'group' } };
  const [{ run }] = (await w.query<{ run: string }>('select id as run from run limit 1')) as [{ run: string }];
  const people = ['tor', 'ina', 'runa'].map((p) => w.id(p));
  let seed = 7;
  const draw = (n: number) => (seed = (seed * 16_807) % 2_147_483_647) % n;
  for (let round = 0; round < 40; round++) {
    await w.query("delete from difference where action = 'test.give'");
    await w.query("delete from holding where action = 'test.give'");
    const some = <T>(make: () => T, most: number) => Array.from({ length: draw(most) }, make);
    const day = () => ['2027-01-01', '2027-02-01', null][draw(3)]!;
    const ours = some(() => ({ what: `t${draw(4)}`, person: people[draw(3)]!, until: day(), ending: draw(5) === 0 }), 8);
    const theirs = some(() => ({ what: `t${draw(4)}`, person: [...people, null][draw(4)]!, until: day() }), 8);
    const whole = draw(4) > 0;
    for (const [n, o] of ours.entries())
      await w.query(
        `insert into holding (person_id, kind, what, run_id, key, action, since, until, ending_at) values ($1, 'thing', $2, $3, $4, 'test.give', '2026-01-01', $5, $6)`,
        [o.person, JSON.stringify(o.what), run, `test${round}-${n}`, o.until, o.ending ? new Date() : null],
      );
    const began = new Date('2026-06-01T00:00:00Z');
    const rows = sql`select to_jsonb(r.what) as what, r.person as person_id, r.until, '{}'::jsonb as outputs, null::text as job
      from jsonb_to_recordset(${JSON.stringify(theirs)}::jsonb) as r(what text, person uuid, until date)`;
    await w.db().transaction((tx) => compare(tx, { system: 'test', spec: lists, theirs: rows, began, whole }));
    const same = (o: (typeof ours)[number], t: (typeof theirs)[number]) => o.what === t.what && (t.person === null || t.person === o.person);
    const expected = [
      ...theirs.filter((t) => !ours.some((o) => same(o, t))).map((t) => `unknown ${t.what} ${t.person}`),
      ...(whole ? ours.filter((o) => !o.ending && !theirs.some((t) => same(o, t))).map((o) => `missing ${o.what} ${o.person}`) : []),
      ...ours
        .filter((o) => !o.ending && theirs.some((t) => same(o, t) && t.until !== null && t.until !== o.until))
        .map((o) => `until ${o.what} ${o.person}`),
    ];
    const kept = await w.query<{ d: string }>(
      `select "is" || ' ' || (what #>> '{}') || ' ' || coalesce(person_id::text, 'null') as d from difference where action = 'test.give'`,
    );
    expect(kept.map((k) => k.d).toSorted(), `round ${round}`).toEqual([...new Set(expected)].toSorted());
  }
});
