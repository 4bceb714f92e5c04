import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import type { Form } from '../../core/forms/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { shiftClock } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { begunAbout, itemsAbout } from '../items/about-holdings.ts';
import { foreseen } from '../requests/foreseen.ts';
import { submitRequest } from '../requests/submit.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { heldCalled, heldChoices } from './choices.ts';
import { giveBack } from './commands.ts';
import { endLeases } from './leases.ts';
import { holdingFor } from './list.ts';
import { thingsHeld } from './queries.ts';

/** Access that is lent until a day, asked for again for longer: what people hold is picked in a form, and an action does something to it. */
let w: World;
let longer: { id: string };
const gave = 'directory.addMember';
const day = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);
const form: Form = {
  fields: [
    { id: 'access', kind: 'holding', label: 'Access', required: true, gave, lent: true },
    { id: 'group', kind: 'group', label: 'Group', required: true, held: 'locked', prefill: { holding: 'access', slot: 'group' } },
    { id: 'before', kind: 'date', label: 'Until now', required: false, held: 'locked', prefill: { holding: 'access', slot: 'until' } },
    { id: 'until', kind: 'date', label: 'Until', required: true },
  ],
};
const keep = step('provision', 'keep', {
  action: 'directory.keepMember',
  inputs: { holding: { ref: 'form.access' }, until: { ref: 'form.until' } },
  retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
});
beforeAll(async () => {
  w = await world();
  await setSystemOwners('host', { system: 'directory', people: [w.id('boss')] });
  longer = await w.item('Access for longer', { steps: [keep, tell('end', 'End')] }, form, { onBehalf: { managers: true, by: [] } });
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});
beforeEach(() => shiftClock(0));

/** Somebody is in a group until a day, by a request that is fulfilled. */
async function lent(who: string, until: string, confidential = false) {
  const add = step('provision', 'add', {
    action: gave,
    inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' }, until: { literal: until } },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
  });
  const item = await w.item(
    `Lent ${Math.random()}`,
    { steps: [add, tell('end', 'End')] },
    undefined,
    confidential ? { confidential: { readers: [] } } : {},
  );
  const made = await w.ask(w.viewer(who), item.id, 'orphan-files');
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from holding where run_id = $1', [made.id]);
  return { ...made, holding: row!.id };
}
const asks = (who: string, holding: unknown, more: Record<string, unknown> = {}, forWhom?: string) =>
  submitRequest(w.viewer(who), {
    itemId: longer.id,
    revision: 1,
    answers: { access: holding, until: day(90), ...more },
    idempotencyKey: randomBytes(8).toString('hex'),
    ...(forWhom && { forWhom: w.id(forWhom) }),
  });
const runOf = async (number: number) =>
  (
    await w.query<{ id: string; outcome: string | null; state: object }>(
      'select run.id, run.outcome, run.state from run join service_case c on c.id = run.case_id where c.number = $1',
      [number],
    )
  )[0]!;
const untilOf = async (holding: string) =>
  (await w.query<{ until: string; told: Date | null }>('select until::text as until, told_at as told from holding where id = $1', [holding]))[0]!;
const known = (value: string | undefined) => `Access: this holding is not known. ${value ?? 'Pick one from the list.'}`;
const sentences = async (r: ReturnType<typeof asks>) => {
  const result = await r;
  return result.ok ? 'sent' : result.problems?.map((p) => p.sentence).join(' ');
};

it('is lent for longer by a request about it: what is known of it is looked up, the day is kept with what it was, and they are told anew', async () => {
  const { id, number, holding } = await lent('tor', day(2));
  await endLeases();
  expect((await untilOf(holding)).told).not.toBeNull();
  expect((await itemsAbout(w.viewer('tor'), [gave], false)).get(gave)).toEqual([{ id: longer.id, name: 'Access for longer', lent: true }]);
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows.find((r) => r.id === holding)).toMatchObject({ ask: [{ id: longer.id }] });
  expect(await begunAbout(w.viewer('tor'), form, holding)).toEqual({ answers: { access: { holding } }, whom: undefined });
  // Whatever is sent for what nobody fills in.
  const made = await asks('tor', { holding }, { group: { group: w.groupId('tide-models') }, before: '2030-01-01' });
  if (!made.ok) throw new Error(JSON.stringify(made));
  const [kept] = await w.query<{ answers: object }>('select answers from service_case where number = $1', [made.number]);
  expect(kept!.answers).toMatchObject({ access: { holding }, group: { group: w.groupId('orphan-files') }, before: day(2) });
  await w.work();
  const run = await runOf(made.number);
  expect(run.outcome).toBe('fulfilled');
  expect(await untilOf(holding)).toEqual({ until: day(90), told: null });
  expect(await holdingFor(w.viewer('dan', 'auditor'), holding)).toMatchObject({
    until: day(90),
    changes: [{ number: made.number, did: 'Leave a person in a group until another day', was: day(2), until: day(90) }],
  });
  // What was is over, and what is now is not.
  shiftClock(4 * 86_400_000);
  await endLeases();
  await w.work();
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows.map((r) => r.id)).toContain(holding);
  shiftClock(92 * 86_400_000);
  await endLeases();
  await w.work();
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows.map((r) => r.id)).not.toContain(holding);
  await replays(w, id);
  await replays(w, run.id);
  expect(number).toBeLessThan(made.number);
});

it('is named by whoever has it and by their manager for them, and by nobody else; what it was given with is told to nobody else either', async () => {
  const { holding } = await lent('tor', day(20));
  const item = { id: longer.id, definition: await definition() };
  const looked = async (who: string, whom?: string) =>
    (await foreseen(w.viewer(who), item, { access: { holding } }, whom && w.id(whom))).begins['group'];
  expect(await looked('tor')).toEqual({ group: w.groupId('orphan-files') });
  expect(await looked('runa', 'tor')).toEqual({ group: w.groupId('orphan-files') });
  for (const [who, whom] of [['dan'], ['runa'], ['ina', 'tor'], ['tor', 'ina']] as [string, string?][]) expect(await looked(who, whom)).toBeNull();
  for (const who of ['dan', 'runa', 'ina']) expect(await sentences(asks(who, { holding }))).toBe(known(undefined));
  const choices = async (who: string, whom = '') =>
    (await heldChoices(w.viewer(who), { gave, lent: true, whom: whom && w.id(whom), q: 'orphan' })).map((c) => c.id);
  expect(await choices('tor')).toEqual([holding]);
  expect(await choices('runa', 'tor')).toEqual([holding]);
  for (const [who, whom] of [['dan', 'tor'], ['ina', 'tor'], ['runa']] as [string, string?][]) expect(await choices(who, whom)).toEqual([]);
  expect(await heldCalled(w.id('tor'), { gave, lent: true, whom: '', name: ' Orphan-Files ' })).toBe(holding);
  expect(await heldCalled(w.id('dan'), { gave, lent: true, whom: w.id('tor'), name: 'orphan-files' })).toBeUndefined();
  expect(await begunAbout(w.viewer('dan'), form, holding)).toBeUndefined();
  expect(await begunAbout(w.viewer('runa'), form, holding)).toMatchObject({ whom: w.id('tor') });
  expect(await sentences(asks('runa', { holding }, {}, 'tor'))).toBe('sent');
  await w.work();
  expect((await untilOf(holding)).until).toBe(day(90));
  await giveBack(w.viewer('tor'), { id: holding, why: '' });
  await w.work();
});

it('what a confidential request gave is named by whoever has it alone', async () => {
  const { holding } = await lent('tor', day(20), true);
  expect(await begunAbout(w.viewer('runa'), form, holding)).toBeUndefined();
  expect(await heldChoices(w.viewer('runa'), { gave, lent: true, whom: w.id('tor'), q: '' })).toEqual([]);
  expect(await sentences(asks('runa', { holding }, {}, 'tor'))).toBe(known(undefined));
  expect(await sentences(asks('tor', { holding }))).toBe('sent');
  await w.work();
  await giveBack(w.viewer('tor'), { id: holding, why: '' });
  await w.work();
});

it('is refused where it is given back, came from another action, or is none', async () => {
  const { holding } = await lent('tor', day(20));
  for (const nonsense of [{ holding: crypto.randomUUID() }, { holding: 'x' }, { group: holding }, 'orphan-files', 7])
    expect(await sentences(asks('tor', nonsense))).toMatch(/not known|not an answer/);
  await w.query("update holding set action = 'directory.giveLicence' where id = $1", [holding]);
  expect(await sentences(asks('tor', { holding }))).toBe(known(undefined));
  await w.query('update holding set action = $2 where id = $1', [holding, gave]);
  // What is held for good is not lent for longer.
  await w.query('update holding set until = null where id = $1', [holding]);
  expect(await sentences(asks('tor', { holding }))).toBe(known(undefined));
  expect(await heldChoices(w.viewer('tor'), { gave, lent: true, whom: '', q: '' })).toEqual([]);
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows.find((r) => r.id === holding)).toMatchObject({ ask: [] });
  await w.query('update holding set until = $2 where id = $1', [holding, day(20)]);
  await giveBack(w.viewer('tor'), { id: holding, why: '' });
  expect(await sentences(asks('tor', { holding }))).toBe(known(undefined));
  await w.work();
  expect(await sentences(asks('tor', { holding }))).toBe(known(undefined));
});

it('what is not known of it any more, and is required, is told where it was picked', async () => {
  const { id, holding } = await lent('tor', day(20));
  await w.query('update run set state = state || \'{"given": []}\'::jsonb where id = $1', [id]);
  expect(await sentences(asks('tor', { holding }))).toBe('Access: “Group” of it is not known here. Pick another, or ask the desk.');
});

it('is not asked of the system once it is being given back, and the step says why', async () => {
  await w.query('update holding set ended_at = now() where person_id = $1', [w.id('tor')]);
  const { holding } = await lent('ina', day(20));
  const made = await asks('ina', { holding });
  if (!made.ok) throw new Error(JSON.stringify(made));
  // Meanwhile it goes back.
  expect(await giveBack(w.viewer('ina'), { id: holding, why: '' })).toEqual({ ok: true });
  await w.work();
  const [stuck] = await w.query<{ stuck_cause: string }>('select stuck_cause from run_step where run_id = $1 and stuck_cause is not null', [
    (await runOf(made.number)).id,
  ]);
  expect(stuck!.stuck_cause).toBe('Directory was not asked: what it is about is not held any more, or is being given back.');
  expect((await untilOf(holding)).until).toBe(day(20));
});

const definition = async () => {
  const [row] = await w.query<{ definition: ItemDefinition }>('select definition from revision where item_id = $1', [longer.id]);
  return row!.definition;
};

it('says what its request costs as long as it is held: by the day and by the month, not what was paid once, nor once it is over', async () => {
  const eur = (amount: string) => ({ literal: { amount, currency: 'EUR' } });
  const add = step('provision', 'add', { action: gave, inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } } });
  const prices = [
    { id: 'a', label: 'Storage', amount: eur('1.60'), per: 'day' as const },
    { id: 'b', label: 'Licence', amount: eur('12'), per: 'month' as const },
    { id: 'c', label: 'Setting up', amount: eur('40'), per: 'once' as const },
    { id: 'd', label: 'Survey', amount: eur('5'), per: 'day' as const, when: { has: { ref: 'form.project' } } },
  ];
  const item = await w.item('Priced', { steps: [add, tell('end', 'End')] }, undefined, { prices });
  const made = await w.ask(w.viewer('dan'), item.id, 'orphan-files');
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from holding where run_id = $1', [made.id]);
  const costs = async () => (await holdingFor(w.viewer('olav', 'auditor'), row!.id))!.costs;
  expect((await thingsHeld(w.viewer('dan'), 'mine')).rows.find((r) => r.id === row!.id)!.costs).toEqual(['1.60 EUR per day', '12.00 EUR per month']);
  expect(await costs()).toEqual(['1.60 EUR per day', '12.00 EUR per month']);
  await giveBack(w.viewer('dan'), { id: row!.id, why: '' });
  await w.work();
  expect(await costs()).toEqual([]);
});
