import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import type { Step } from '../../core/plans/index.ts';
import { machinePark } from '../../demo/machine-park.ts';
import type { Operand } from '../../core/values/index.ts';
import { robots } from '../../demo/robots.ts';
import { machines } from '../../standins/machines.ts';
import { robotDesk } from '../../standins/robots.ts';
import { resealAll } from '../auth/reseal.ts';
import { unseal } from '../auth/seal.ts';
import { shiftClock } from '../clock.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { takeOverStep } from '../runs/commands.ts';
import { trace } from '../runs/queries.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { loopback } from '../testing/loopback.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { closeNotes } from './close.ts';
import { makeAnew, openNote } from './commands.ts';
import { noteFor, notesWaiting } from './queries.ts';

/** Secrets that systems answer, or that are made for them, against the stand-ins over real HTTP. */
const answerKey = 'the-tide-comes-and-the-tide-goes-again';
const day = 86_400_000;
let w: World;
let park: string;
let desk: string;
const on = loopback();
const post = async <T>(url: string, body: object): Promise<T> =>
  (await (await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })).json()) as T;
const registered = async (definition: object): Promise<string> => {
  const made = await keepWebSystem(w.viewer('dan', 'administrator'), { definition, secret: 'key-of-theirs', answerKey });
  if (!made.ok) throw new Error(`${made.sentence} ${JSON.stringify(made.problems)}`);
  await setSystemOwners('host', { system: made.id, people: [w.id('boss')] });
  return made.id;
};
let machine: string;
let robot: string;

beforeAll(async () => {
  w = await world();
  // Everybody has a way to sign in.
  await w.asOwner("update person set password_hash = 'of no use'");
  park = await on.listen(machines({ token: 'key-of-theirs', answerKey }));
  desk = await on.listen(robotDesk({ token: 'key-of-theirs', answerKey }));
  await post(`${park}/_build`, { ms: 0, ends: 'well' });
  await post(`${desk}/_work`, { ms: 0, ends: 'well' });
  machine = await registered(machinePark(`${park}/park`));
  robot = await registered(robots(`${desk}/desk`));
});
afterAll(async () => {
  shiftClock(0);
  await on.close();
  await w.close();
});
beforeEach(() => shiftClock(0));

const note = (to: Operand = { ref: 'request.requester' }, openFor = 'P3D') => ({ to, openFor });
const makes = (more: object = {}): Step =>
  step('provision', 'make', {
    action: `web.${machine}.make`,
    inputs: { size: { literal: 'Small' }, region: { literal: 'hall' }, days: { literal: 14 }, owner: { ref: 'request.requester' } },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
    note: note(),
    ...more,
  });
/** Somebody asks for a machine, and it is there. */
async function machineOf(who: string, make = makes()) {
  const made = await w.askPlan({ undoWhen: ['withdrawn'], steps: [make, tell('end', 'End')] }, who);
  await w.work();
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from sealed_note where run_id = $1', [made.id]);
  return { ...made, note: row?.id ?? '' };
}
/** Whether a text stands anywhere in what the database holds. */
async function stands(secret: string): Promise<string[]> {
  const tables = await w.asOwner<{ name: string }>(
    "select format('%I.%I', table_schema, table_name) as name from information_schema.tables where table_schema not in ('pg_catalog', 'information_schema') and table_type = 'BASE TABLE'",
  );
  const found: string[] = [];
  for (const { name } of tables) {
    const [row] = await w.asOwner<{ n: number }>(
      `select count(*)::int as n from (select t::text as words from ${name} t) r where strpos(words, '${secret}') > 0`,
    );
    if (row!.n > 0) found.push(name);
  }
  return found;
}

it('goes into a sealed note and stands nowhere else: no row, message, trace or page; it opens once, for whom it is', async () => {
  const { id, number, note: its } = await machineOf('tor');
  const [mail] = (await w.mails('tor')).filter((m) => /^(Re: )?A sealed note waits for you/.test(m.subject));
  expect(mail!.text).toContain(`/counter/notes/${its}`);
  expect(await notesWaiting(w.viewer('tor'))).toMatchObject([{ id: its, labels: ['First sign-in'], isMine: true, state: 'waits', number }]);
  expect(await notesWaiting(w.viewer('tor'), number + 1)).toEqual([]);
  expect(await noteFor(w.viewer('ina'), its)).toBeUndefined();
  expect(await noteFor(w.viewer('tor'), 'nonsense')).toBeUndefined();
  // A manager sees that there is one; it opens for whom it is, and for nobody else, whatever they are.
  expect(await noteFor(w.viewer('runa'), its)).toMatchObject({ state: 'waits', opens: false });
  for (const who of [w.viewer('runa'), w.viewer('ina'), w.viewer('dan', 'administrator', 'auditor')])
    expect(await openNote(who, { id: its })).toMatchObject({ code: 'not-found' });
  const both = await Promise.all([openNote(w.viewer('tor'), { id: its }), openNote(w.viewer('tor'), { id: its })]);
  const opened = both.find((r) => r.ok);
  expect(both.filter((r) => r.ok)).toHaveLength(1);
  expect(both.find((r) => !r.ok)).toMatchObject({ code: 'ended', sentence: expect.stringContaining('It was opened already') });
  const secret = opened?.ok ? opened.secrets[0]! : { label: '', value: '' };
  expect(secret).toEqual({ label: 'First sign-in', value: expect.stringMatching(/^[\w-]{16}$/) });
  expect(await stands(secret.value)).toEqual([]);
  expect((await w.mails('tor')).map((m) => m.text).join()).not.toContain(secret.value);
  const shown = await trace(w.viewer('dan', 'administrator'), number);
  expect(JSON.stringify(shown)).not.toContain(secret.value);
  expect(JSON.stringify(shown)).toContain('"by":"Tor');
  expect(await noteFor(w.viewer('tor'), its)).toMatchObject({ state: 'opened', by: expect.stringContaining('Tor'), anew: 'can' });
  expect(await w.query("select action from change_log where object = 'sealed-note' and object_id = $1", [its])).toEqual([{ action: 'open' }]);
  await replays(w, id);
});

it('does not open when its time is over, and holds nothing from then on', async () => {
  const { note: its } = await machineOf('tor');
  shiftClock(3 * day + 60_000);
  expect(await openNote(w.viewer('tor'), { id: its })).toMatchObject({ code: 'ended', sentence: 'Its time is over: it does not open any more.' });
  await closeNotes();
  expect(await w.query('select sealed, opened_at from sealed_note where id = $1', [its])).toEqual([{ sealed: null, opened_at: null }]);
  expect(await noteFor(w.viewer('tor'), its)).toMatchObject({ state: 'over', anew: 'can' });
});

it('is made anew by the system, once at a time, for whoever it is for, by them or their manager; what was given back has none', async () => {
  const { id, note: its } = await machineOf('tor');
  expect(await makeAnew(w.viewer('tor'), { id: its })).toMatchObject({ sentence: 'It can be opened still. Nothing was changed.' });
  const first = await openNote(w.viewer('tor'), { id: its });
  expect(await makeAnew(w.viewer('ina'), { id: its })).toMatchObject({ code: 'not-found' });
  const both = await Promise.all([makeAnew(w.viewer('runa'), { id: its }), makeAnew(w.viewer('tor'), { id: its })]);
  expect(both.map((r) => r.ok || r.sentence).sort()).toEqual(['It is being made anew already. Nothing was changed.', true]);
  expect(await noteFor(w.viewer('tor'), its)).toMatchObject({ anew: 'underWay' });
  await w.work();
  const [again, ...others] = await notesWaiting(w.viewer('tor'));
  expect(others).toEqual([]);
  const second = await openNote(w.viewer('tor'), { id: again!.id });
  if (!first.ok || !second.ok) throw new Error('They open.');
  expect(second.secrets[0]!.label).toBe('Sign-in');
  // What came before it is over.
  expect(await noteFor(w.viewer('tor'), its)).toMatchObject({ state: 'opened', anew: undefined });
  expect(await makeAnew(w.viewer('tor'), { id: its })).toMatchObject({ sentence: expect.stringContaining('Another note was made') });
  expect(second.secrets[0]!.value).not.toBe(first.secrets[0]!.value);
  await replays(w, id);
  // Refused for good: whoever it is for is told.
  await post(`${park}/_manner`, { manner: 'refusing' });
  expect(await makeAnew(w.viewer('dan', 'administrator'), { id: again!.id })).toEqual({ ok: true });
  await w.work();
  await post(`${park}/_manner`, { manner: 'well' });
  expect((await w.mails('tor')).filter((m) => /It could not be made anew/.test(m.subject)).at(-1)!.text).toContain('The park refuses this');
  const [held] = (await thingsHeld(w.viewer('tor'), 'mine')).rows;
  expect(await giveBack(w.viewer('tor'), { id: held!.id, why: '' })).toEqual({ ok: true });
  expect(await makeAnew(w.viewer('tor'), { id: again!.id })).toMatchObject({ sentence: expect.stringContaining('was given back') });
  await w.work();
  await replays(w, id);
});

it('is opened by the manager, together with them, for somebody who cannot sign in', async () => {
  await w.asOwner("update person set password_hash = null where user_name = 'tor'");
  const { note: its } = await machineOf('ina', makes({ note: note({ literal: { person: w.id('tor') } }) }));
  expect(await notesWaiting(w.viewer('ina'))).toEqual([]);
  expect((await notesWaiting(w.viewer('runa'))).map((n) => [n.id, n.isMine])).toEqual([[its, false]]);
  const told = (await w.mails('runa')).filter((m) => /A sealed note waits for you/.test(m.subject));
  expect(told.at(-1)!.text).toMatch(/First sign-in for Tor.*, who cannot sign in yet/);
  expect(await openNote(w.viewer('runa'), { id: its })).toMatchObject({ ok: true });
  await w.asOwner("update person set password_hash = 'of no use'");
});

it('of a confidential request a manager who has no part in it learns that there is a note, and not of what', async () => {
  const quiet = await w.item('Quietly', { steps: [makes(), tell('end', 'End')] }, undefined, { confidential: { readers: [] } });
  const { id } = await w.ask(w.viewer('tor'), quiet.id);
  await w.work();
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from sealed_note where run_id = $1', [id]);
  expect(await noteFor(w.viewer('runa'), row!.id)).toMatchObject({ item: 'confidential' });
  expect(await noteFor(w.viewer('tor'), row!.id)).toMatchObject({ item: 'Quietly' });
});

it('a robot sets a password: it works, and what the robot was told and said back is in no trace', async () => {
  const reset = step('provision', 'reset', {
    action: `web.${robot}.resetPassword`,
    inputs: { account: { literal: 'tor@skerrin.example' } },
    note: note(),
  });
  const { id } = await w.askPlan({ steps: [reset, tell('end', 'End')] }, 'tor');
  await w.work();
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from sealed_note where run_id = $1', [id]);
  const opened = await openNote(w.viewer('tor'), { id: row!.id });
  if (!opened.ok) throw new Error(opened.sentence);
  const { value } = opened.secrets[0]!;
  expect(await post(`${desk}/_opens`, { account: 'tor@skerrin.example', password: value })).toEqual({ opens: true });
  expect(await post(`${desk}/_opens`, { account: 'tor@skerrin.example', password: 'x' })).toEqual({ opens: false });
  expect(await stands(value)).toEqual([]);
  expect(await noteFor(w.viewer('tor'), row!.id)).toMatchObject({ state: 'opened', anew: undefined });
});

it('a secret that is made here is the same each time the call is sent, and is told as the system has it; a key that is changed opens it still', async () => {
  const heard: { signIn?: string }[] = [];
  const express = (await import('express')).default;
  const theirs = express();
  theirs.use(express.json());
  theirs.post('/accounts', (req, res) => {
    heard.push(req.body as { signIn?: string });
    if (heard.length === 1) return void res.status(503).json({});
    res.json({ account: 'tor' });
  });
  const accounts = await registered({
    name: 'Accounts',
    address: await on.listen(theirs),
    ownNetwork: true,
    timeoutMs: 5000,
    actions: [
      {
        id: 'create',
        label: 'Create an account',
        method: 'POST',
        path: '/accounts',
        inputs: [{ name: 'signIn', label: 'First password', type: 'text', required: true, made: true }],
        outputs: [{ name: 'account', label: 'Account', type: 'text', at: '/account', always: true }],
      },
    ],
  });
  const create = step('provision', 'create', {
    action: `web.${accounts}.create`,
    inputs: {},
    retries: { times: 3, firstPauseSeconds: 1, factor: 1 },
    note: note(),
  });
  const { id } = await w.askPlan({ steps: [create, tell('end', 'End')] }, 'tor');
  await w.work();
  expect(heard).toHaveLength(1);
  const [kept] = await w.query<{ sealed_made: string }>('select sealed_made from call where run_id = $1', [id]);
  expect(kept!.sealed_made).not.toContain(heard[0]!.signIn);
  expect(await resealAll()).toBeGreaterThan(0);
  await w.work();
  expect(heard[1]).toEqual(heard[0]);
  expect(heard[0]!.signIn).toMatch(/^[a-z2-9]{4}(-[a-z2-9]{4}){3}$/);
  expect(await w.query('select sealed_made, inputs from call where run_id = $1', [id])).toEqual([{ sealed_made: null, inputs: {} }]);
  const [row] = await w.query<{ id: string; sealed: string }>('select id, sealed from sealed_note where run_id = $1', [id]);
  expect(JSON.parse(unseal(row!.sealed))).toEqual([heard[0]!.signIn]);
  await resealAll();
  expect(await openNote(w.viewer('tor'), { id: row!.id })).toEqual({ ok: true, secrets: [{ label: 'First password', value: heard[0]!.signIn }] });
});

it('what is withdrawn under way leaves no note, and what somebody did by hand asks for no secret', async () => {
  await post(`${park}/_build`, { ms: 60_000, ends: 'well' });
  const gone = await w.askPlan({ undoWhen: ['withdrawn'], steps: [makes(), tell('end', 'End')] }, 'tor');
  await w.work();
  expect(await withdrawRequest(w.viewer('tor'), { number: gone.number })).toMatchObject({ ok: true });
  await post(`${park}/_hurry/all`, {});
  await post(`${park}/_build`, { ms: 0, ends: 'well' });
  shiftClock(60_000);
  await w.work();
  await w.work();
  expect(await w.query('select status, outputs is not null as done from call where run_id = $1 and key = $2', [gone.id, 'make#1'])).toEqual([
    { status: 'cancelled', done: true },
  ]);
  expect(await w.query('select id from sealed_note where run_id = $1', [gone.id])).toEqual([]);
  await replays(w, gone.id);

  shiftClock(0);
  await post(`${park}/_manner`, { manner: 'refusing' });
  const stuck = await w.askPlan({ steps: [makes(), tell('end', 'End')] }, 'tor');
  await w.work();
  await post(`${park}/_manner`, { manner: 'well' });
  const shown = await trace(w.viewer('dan', 'administrator'), stuck.number);
  const its = shown && !shown.sealed ? shown.steps.find((s) => s.key === 'make#1') : undefined;
  expect(its?.wants.map((x) => x.name)).toEqual(['id', 'address', 'until']);
  const outputs = { id: 'm-1', address: 'm-1.example', until: '2027-01-01' };
  expect(await takeOverStep(w.viewer('dan', 'administrator'), { number: stuck.number, key: 'make#1', comment: 'By hand', outputs })).toEqual({
    ok: true,
  });
});
