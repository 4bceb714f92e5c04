import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { machinePark } from '../../demo/machine-park.ts';
import { machineSize, machineStop } from '../../demo/machine-size.ts';
import { machineSizes } from '../../demo/processing-machine.ts';
import { machines } from '../../standins/machines.ts';
import { tendCall } from '../calls/tend.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { slotsOfHeld } from '../holdings/held.ts';
import { db } from '../db/database.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { submitRequest } from '../requests/submit.ts';
import { changeTable, createTable } from '../tables/commands.ts';
import { readTable } from '../tables/reading.ts';
import { loopback } from '../testing/loopback.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { keepWebSystem } from './commands.ts';

/** What is done to a machine that somebody has, against the machine park over real HTTP: another size, stopped and started. */
let w: World;
const on = loopback();
let base: string;
let system: string;
let table: string;
let items: { make: string; size: string; stop: string };
const good = <T extends object>(r: { ok: boolean } & T): T & { ok: true } => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r as T & { ok: true };
};
beforeAll(async () => {
  w = await world();
  base = await on.listen(machines({ token: 'key-of-the-park', answerKey: 'the-tide-comes-and-the-tide-goes' }));
  const whole = machinePark(`${base}/park`);
  const actions = whole.actions.map(({ later, ...a }) => ({ ...a, ...(later && { later: { ...later, callsBack: false } }) }));
  system = good(await keepWebSystem(w.viewer('dan', 'administrator'), { definition: { ...whole, actions }, secret: 'key-of-the-park' })).id;
  await setSystemOwners('host', { system, people: [w.id('boss')] });
  const designer = w.viewer('dan', 'designer');
  table = good(await createTable(designer, { name: 'Sizes of the park' })).id;
  good(await changeTable(designer, { id: table, version: 1, definition: { ...machineSizes(system), name: 'Sizes of the park' } }));
  await readTable(table);
  const make = step('provision', 'make', {
    action: `web.${system}.make`,
    inputs: { size: { ref: 'form.size.size' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
    note: { to: { ref: 'request.requester' }, openFor: 'P3D' },
  });
  const sizeForm = { fields: [{ id: 'size', kind: 'row' as const, label: 'Size', required: true, table }] };
  const aDay = { prices: [{ id: 'aDay', label: 'The machine', amount: { ref: 'form.size.daily' }, per: 'day' as const }] };
  // Who agrees to it is a matter of the policy, which has its own tests.
  const size = machineSize('policy', table, system);
  const stop = machineStop(system);
  items = {
    make: (await w.item('A machine', { steps: [make, tell('end', 'End')] }, sizeForm, aDay)).id,
    size: (await w.item(size.name, { steps: size.plan.steps.filter((s) => s.kind !== 'gate') }, size.form, { prices: size.prices })).id,
    stop: (await w.item(stop.name, stop.plan, stop.form)).id,
  };
});
afterAll(async () => {
  await on.close();
  await w.close();
});
const post = (path: string, body: object) =>
  fetch(`${base}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const builds = (ends: string) => post('/_build', { ms: 0, ends });
beforeEach(() => builds('well'));

const ask = (itemId: string, answers: object) =>
  submitRequest(w.viewer('tor'), { itemId, revision: 1, answers: answers as never, idempotencyKey: crypto.randomUUID() });
const row = (key: string) => ({ table, key });
const runOf = async (number: number) =>
  (
    await w.query<{ id: string; outcome: string | null; stuck: string | null }>(
      `select u.id, u.outcome, (select s.stuck_cause from run_step s where s.run_id = u.id and s.ended_at is null and s.stuck_cause is not null limit 1) as stuck
        from run u join service_case k on k.id = u.case_id where k.number = $1`,
      [number],
    )
  )[0]!;
/** The calls that wait, and no timer. */
async function calls(): Promise<void> {
  for (let i = 0; i < 4; i++) for (const c of await w.query<{ id: string }>('select id from call where closed_at is null')) await tendCall(c.id);
}
async function made(size = 'Small'): Promise<{ holding: string; id: string }> {
  const { number } = good(await ask(items.make, { size: row(size) }));
  await calls();
  const [held] = await w.query<{ holding: string; what: string }>('select id as holding, what from holding where run_id = $1', [
    (await runOf(number)).id,
  ]);
  return { holding: held!.holding, id: held!.what.split('.')[0]! };
}
const journal = async (id: string) =>
  ((await (await fetch(`${base}/_journal`)).json()) as { change: string; id: string }[]).filter((j) => j.id === id).map((j) => j.change);
const costsOf = async (holding: string) => (await thingsHeld(w.viewer('tor'), 'mine')).rows.find((r) => r.id === holding)!.costs;
const slots = async (holding: string) => (await slotsOfHeld(db(), [holding], () => undefined)).get(holding)!;
const nextWeek = () => new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10);

it('gets another size: what is known of it and what it costs are as of then, and the next one who asks is asked about that', async () => {
  const { holding, id } = await made('Medium');
  expect(await costsOf(holding)).toEqual(['1.60 EUR per day']);
  const { number } = good(await ask(items.size, { machine: { holding }, to: row('Large'), why: 'More tides' }));
  await calls();
  expect(await runOf(number)).toMatchObject({ outcome: 'fulfilled' });
  expect(await journal(id)).toEqual(['made', 'asked to resize', 'resized']);
  expect(await slots(holding)).toMatchObject({ size: 'Large', region: 'hall' });
  expect(await costsOf(holding)).toEqual(['3.80 EUR per day']);
  expect(await ask(items.size, { machine: { holding }, to: row('Large'), why: 'Again' })).toMatchObject({
    problems: [{ field: 'to', sentence: 'It has this size already.' }],
  });
  expect(await ask(items.size, { machine: { holding }, to: row('Very large'), why: 'Elsewhere' })).toMatchObject({
    problems: [{ field: 'to', sentence: 'This size is not to be had where your machine runs.' }],
  });
  await replays(w, (await runOf(number)).id);
});

it('that does not start with its new size has the one it had: the step says so, and nothing else is said of it', async () => {
  const { holding, id } = await made();
  await builds('halfway');
  const { number } = good(await ask(items.size, { machine: { holding }, to: row('Medium'), why: 'More tides' }));
  await calls();
  expect(await runOf(number)).toMatchObject({
    outcome: null,
    stuck: 'Machine park could not do it: It did not start with the other size, and has the one it had.',
  });
  expect(await slots(holding)).toMatchObject({ size: 'Small' });
  expect(await journal(id)).toEqual(['made', 'asked to resize']);
});

it('stands still until a day, and starts by itself; withdrawn before, it is started at once', async () => {
  const { holding, id } = await made();
  expect(await ask(items.stop, { machine: { holding }, until: new Date().toISOString().slice(0, 10) })).toMatchObject({
    problems: [{ field: 'until', sentence: 'It stands still for a day at least: choose a day that is still to come.' }],
  });
  const { number } = good(await ask(items.stop, { machine: { holding }, until: nextWeek() }));
  await calls();
  expect(await journal(id)).toEqual(['made', 'stopped']);
  for (let i = 0; i < 3; i++) await w.work();
  expect(await journal(id)).toEqual(['made', 'stopped', 'started']);
  expect(await runOf(number)).toMatchObject({ outcome: 'fulfilled' });
  const again = good(await ask(items.stop, { machine: { holding }, until: nextWeek() }));
  await calls();
  good(await withdrawRequest(w.viewer('tor'), { number: again.number }));
  await calls();
  expect(await journal(id)).toEqual(['made', 'stopped', 'started', 'stopped', 'started']);
  await replays(w, (await runOf(again.number)).id);
});

it('given back while it stands still it is not started: who asked is told, and nobody is kept busy with it', async () => {
  const { holding, id } = await made();
  const { number } = good(await ask(items.stop, { machine: { holding }, until: nextWeek() }));
  await calls();
  good(await giveBack(w.viewer('tor'), { id: holding, why: '' }));
  await calls();
  for (let i = 0; i < 3; i++) await w.work();
  expect(await journal(id)).toEqual(['made', 'stopped', 'taken down']);
  expect(await runOf(number)).toMatchObject({ outcome: 'fulfilled', stuck: null });
  expect(await w.query("select from message where text like '%was not started%'")).toHaveLength(1);
});
