import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { step } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import type { Step } from '../../core/plans/index.ts';
import type { Operand } from '../../core/values/index.ts';
import { tendCall } from '../calls/tend.ts';
import { shiftClock } from '../clock.ts';
import { directoryLists } from '../differences/directory-lists.ts';
import { stockList } from '../differences/stock-list.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { makeAnew, openNote } from '../notes/commands.ts';
import { notesWaiting } from '../notes/queries.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { askedOnce } from './action.ts';
import { directoryClient, enterprise } from './directory/client.ts';
import { directoryId } from './directory/id.ts';
import { keepUserNames, userNamesFor } from './directory/user-name-rule.ts';
import { action, ownActionSpecs } from './index.ts';

/** Accounts in the directory, by plans and by the actions themselves, over SCIM with the stand-in. */
let w: World;
const rule = { form: 'given.family' as const, most: 20, domain: 'skerrin.example' };
beforeAll(async () => {
  w = await world();
  await w.asOwner("update person set password_hash = 'of no use'");
  expect(await keepUserNames(w.viewer('dan', 'administrator'), { version: 0, rule })).toEqual({ ok: true });
});
afterAll(() => w.close());
beforeEach(() => w.manner('directory', 'well'));

/** Has the directory do it, as a call of this key would. */
const act = async (id: string, inputs: Parameters<NonNullable<Awaited<ReturnType<typeof action>>>['run']>[0], key: string) => {
  const reply = await (await action(w.db(), `directory.${id}`))!.run(inputs, key, '', askedOnce);
  return reply.is === 'done' ? reply.outputs : expect.fail('It is not done.');
};
/** Whether the directory lets somebody in. */
const letsIn = async (userName: string, password: string): Promise<boolean> =>
  (
    await fetch(new URL('/_sign-in', w.settings.DIRECTORY_URL), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ userName, password }),
    })
  ).status === 204;
const inDirectory = async (userName: string) => (await directoryClient.findUser('userName', userName))!;
const newcomer = (given: string, family: string, more: object = {}) => ({ given, family, password: 'first-word', ...more });

const form: Form = {
  fields: [
    { id: 'given', kind: 'text', label: 'Given names', required: true },
    { id: 'family', kind: 'text', label: 'Family name', required: true },
    { id: 'number', kind: 'text', label: 'Staff number', required: false },
    { id: 'group', kind: 'group', label: 'Group', required: true },
  ],
};
const ref = (r: string): Operand => ({ ref: r });
const starter: Step[] = [
  step('provision', 'account', {
    action: 'directory.createAccount',
    inputs: { given: ref('form.given'), family: ref('form.family'), staffNumber: ref('form.number'), manager: ref('request.requester') },
    note: { to: ref('request.requester'), openFor: 'P7D' },
  }),
  step('provision', 'join', { action: 'directory.addMember', inputs: { group: ref('form.group'), person: ref('steps.account.person') } }),
];
let n = 0;
async function asked(given: string, family: string, number?: string) {
  const item = await w.item(`Starter ${++n}`, { undoWhen: ['withdrawn'], steps: starter }, form);
  const run = await w.ask(w.viewer('runa'), item.id, 'tide-models', { given, family, ...(number && { number }) });
  return run;
}
const theirs = async (userName: string) => {
  const [row] = await w.query<{ id: string }>('select id from person where user_name = $1', [userName]);
  return row!.id;
};
const held = async (userName: string) =>
  (
    await w.query<{ held: string }>(
      `select kind || ' ' || coalesce(g.name, what #>> '{}') as held from holding left join access_group g on g.id::text = what ->> 'group'
      where person_id = $1 and ended_at is null order by 1`,
      [await theirs(userName)],
    )
  ).map((r) => r.held);

describe('a starter', () => {
  it('gets an account named after them, which opens with what stands in the sealed note, and holds it; it is given back', async () => {
    const run = await asked('Ása Björk', 'Lundeberg', 'S-100');
    for (let i = 0; i < 3; i++) await w.work();
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
    const user = await inDirectory('asa.lundeberg');
    expect(user).toMatchObject({
      displayName: 'Ása Björk Lundeberg',
      name: { givenName: 'Ása Björk', familyName: 'Lundeberg' },
      emails: [{ value: 'asa.lundeberg@skerrin.example' }],
      active: true,
      [enterprise]: { employeeNumber: 'S-100', manager: { value: w.scimUser('runa') } },
    });
    const [note] = await notesWaiting(w.viewer('runa'), run.number);
    const opened = await openNote(w.viewer('runa'), { id: note!.id });
    if (!opened.ok) return expect.fail(opened.sentence);
    expect(opened.secrets.map((s) => s.label)).toEqual(['First password']);
    expect(await letsIn('asa.lundeberg', opened.secrets[0]!.value)).toBe(true);
    expect(await letsIn('asa.lundeberg', 'something else')).toBe(false);
    // The secret stands nowhere in what the directory or the run tells.
    expect(JSON.stringify([user, await w.journal(), (await w.request(run.id)).state])).not.toContain(opened.secrets[0]!.value);
    expect(await held('asa.lundeberg')).toEqual(['account asa.lundeberg', 'group tide-models']);

    // Whoever lost it has another, and the first lets nobody in any more.
    expect(await makeAnew(w.viewer('runa'), { id: note!.id })).toEqual({ ok: true });
    await w.work();
    const [again] = await notesWaiting(w.viewer('runa'), run.number);
    const second = await openNote(w.viewer('runa'), { id: again!.id });
    if (!second.ok) return expect.fail(second.sentence);
    expect([await letsIn('asa.lundeberg', opened.secrets[0]!.value), await letsIn('asa.lundeberg', second.secrets[0]!.value)]).toEqual([false, true]);

    const [account] = await w.query<{ id: string }>(`select id from holding where run_id = $1 and kind = 'account'`, [run.id]);
    // Nobody closes their own account; their manager does.
    const hers = await theirs('asa.lundeberg');
    expect(await giveBack({ ...w.viewer('runa'), id: hers }, { id: account!.id, why: '' })).toMatchObject({ ok: false, code: 'not-allowed' });
    expect((await thingsHeld({ ...w.viewer('runa'), id: hers }, 'mine')).rows.map((r) => [r.kind, r.byOthers])).toEqual([
      ['group', false],
      ['account', true],
    ]);
    expect(await giveBack(w.viewer('runa'), { id: account!.id, why: 'Begins later.' })).toMatchObject({ ok: true });
    await w.work();
    expect((await inDirectory('asa.lundeberg')).active).toBe(false);
    expect(await held('asa.lundeberg')).toEqual(['group tide-models']);
    await replays(w, run.id);
  });

  it('who is withdrawn while it is made has it closed again', async () => {
    const run = await asked('Withdrawn', 'Early', 'S-101');
    await w.manner('directory', 'failing');
    await w.work();
    await w.manner('directory', 'well');
    expect(await withdrawRequest(w.viewer('runa'), { number: run.number })).toMatchObject({ ok: true });
    for (let i = 0; i < 3; i++) await w.work();
    expect((await inDirectory('withdrawn.early')).active).toBe(false);
    expect(await notesWaiting(w.viewer('runa'), run.number)).toEqual([]);
  });

  it('what the action can do without may have no value: it is not given', async () => {
    const run = await asked('Num', 'Berless');
    for (let i = 0; i < 3; i++) await w.work();
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
    expect((await inDirectory('num.berless'))[enterprise]).toEqual({ manager: { value: w.scimUser('runa') } });
    expect(await w.query('select inputs from call where run_id = $1 order by created_at limit 1', [run.id])).toEqual([
      { inputs: { given: 'Num', family: 'Berless', manager: { person: w.id('runa') } } },
    ]);
  });

  it('namesakes are told apart; a staff number stands for one person, who never gets a second account', async () => {
    const first = await act('createAccount', newcomer('Ina', 'Marsten', { staffNumber: 'S-200', department: 'Hydrography' }), 'run/a#1/0');
    const namesake = await act('createAccount', newcomer('Ina', 'Marsten', { staffNumber: 'S-201' }), 'run/b#1/0');
    expect([first['userName'], namesake['userName'], namesake['already']]).toEqual(['ina.marsten', 'ina.marsten2', false]);
    const again = await act(
      'createAccount',
      newcomer('Ina', 'Marsten', { staffNumber: 'S-200', department: 'Charts', password: 'another' }),
      'run/c#1/0',
    );
    expect(again).toMatchObject({ person: first['person'], userName: 'ina.marsten', already: true });
    expect((await inDirectory('ina.marsten'))[enterprise]?.department).toBe('Charts');
    // Their password stays theirs.
    expect([await letsIn('ina.marsten', 'first-word'), await letsIn('ina.marsten', 'another')]).toEqual([true, false]);
  });

  it('two requests for one person at once: one account, whichever is first; the other waits and finds it', async () => {
    const runs = [await asked('Twice', 'Asked', 'S-250'), await asked('Twice', 'Asked', 'S-250')];
    await w.manner('directory', 'slow', 200);
    const calls = await w.query<{ id: string }>('select id from call where run_id = any($1) and closed_at is null', [runs.map((r) => r.id)]);
    await Promise.all(calls.map((c) => tendCall(c.id)));
    await w.manner('directory', 'well');
    expect(await w.query('select count(*)::int as n from call where id = any($1) and closed_at is null', [calls.map((c) => c.id)])).toEqual([
      { n: 1 },
    ]);
    for (let i = 0; i < 3; i++) await w.work();
    expect((await directoryClient.users()).found.filter((u) => u[enterprise]?.employeeNumber === 'S-250').map((u) => u.userName)).toEqual([
      'twice.asked',
    ]);
    const answers = await w.query<{ already: boolean }>(
      `select (outputs ->> 'already')::boolean as already from call where id = any($1) order by 1`,
      [calls.map((c) => c.id)],
    );
    expect(answers).toEqual([{ already: false }, { already: true }]);
    expect(await held('twice.asked')).toEqual(['account twice.asked', 'group tide-models']);
    expect(await w.query('select from account_claim')).toEqual([]);
  });

  it('a call that was cut off finds what it made, with a staff number and without', async () => {
    for (const more of [{ staffNumber: 'S-300' }, {}]) {
      const key = `run/cut${Object.keys(more).length}#1/0`;
      const first = await act('createAccount', newcomer('Cut', 'Off', more), key);
      const repeated = await act('createAccount', newcomer('Cut', 'Off', more), key);
      expect(repeated).toEqual(first);
      expect(repeated['already']).toBe(false);
    }
    expect((await directoryClient.users()).found.filter((u) => u.displayName === 'Cut Off').map((u) => u.userName)).toEqual(['cut.off', 'cut.off2']);
  });

  it('who comes back has the old account, open again, with a new password; told as made', async () => {
    const before = await act('createAccount', newcomer('Back', 'Again', { staffNumber: 'S-400' }), 'run/first#1/0');
    await act('disableAccount', { person: before['person']! }, 'run/closed#1/0');
    expect(await letsIn('back.again', 'first-word')).toBe(false);
    for (const _ of ['once', 'and after it was cut off']) {
      const back = await act('createAccount', newcomer('Back', 'Again-Ness', { staffNumber: 'S-400', password: 'new-word' }), 'run/second#1/0');
      expect(back).toMatchObject({ person: before['person'], userName: 'back.again', already: false });
    }
    expect([await letsIn('back.again', 'first-word'), await letsIn('back.again', 'new-word')]).toEqual([false, true]);
    expect((await inDirectory('back.again')).displayName).toBe('Back Again-Ness');
  });

  it('a name that cannot be written, or that a hundred have, is refused; what a directory cannot tell apart too', async () => {
    await expect(act('createAccount', newcomer('…', '—'), 'run/x#1/0')).rejects.toThrow('No user name can be made of “… —”.');
    for (let i = 0; i < 100; i++)
      await directoryClient.create('Users', { userName: i === 0 ? 'mass.nes' : `mass.nes${i + 1}`, displayName: 'Mass Nes' });
    await expect(act('createAccount', newcomer('Mass', 'Nes'), 'run/y#1/0')).rejects.toThrow(
      '“mass.nes” and the same with 2 to 100 after it are taken.',
    );
    for (const userName of ['twin.one', 'twin.two']) await directoryClient.create('Users', { userName, [enterprise]: { employeeNumber: 'S-500' } });
    await expect(act('createAccount', newcomer('Twin', 'Three', { staffNumber: 'S-500' }), 'run/z#1/0')).rejects.toThrow(
      'The directory has 2 people with “S-500” as employeeNumber.',
    );
  });
});

describe('what changes', () => {
  it('a mover: what is stated is changed, what is not stays; done again it changes nothing', async () => {
    const { person } = await act('createAccount', newcomer('Mo', 'Ver', { department: 'Tides', jobRole: 'Analyst' }), 'run/m#1/0');
    const move = { person: person!, department: 'Charts', manager: { person: w.id('boss') } };
    expect(await act('changeAccount', move, 'run/m2#1/0')).toEqual({ already: false });
    expect(await inDirectory('mo.ver')).toMatchObject({
      title: 'Analyst',
      [enterprise]: { department: 'Charts', manager: { value: w.scimUser('boss') } },
    });
    expect(await w.query('select department, job_role, manager_id from person where user_name = $1', ['mo.ver'])).toEqual([
      { department: 'Charts', job_role: 'Analyst', manager_id: w.id('boss') },
    ]);
    expect(await act('changeAccount', move, 'run/m3#1/0')).toEqual({ already: true });
  });

  it('another name: user name and address follow, and what is held goes by it; the same again leaves it', async () => {
    const run = await asked('Rena', 'Maiden', 'S-600');
    for (let i = 0; i < 3; i++) await w.work();
    const person = { person: await theirs('rena.maiden') };
    await directoryClient.create('Users', { userName: 'rena.wedd' });
    for (const key of ['run/r#1/0', 'run/r#1/0'])
      expect(await act('renameAccount', { person, given: 'Rena', family: 'Wedd' }, key)).toEqual({ userName: 'rena.wedd2' });
    expect(await inDirectory('rena.wedd2')).toMatchObject({ displayName: 'Rena Wedd', emails: [{ value: 'rena.wedd2@skerrin.example' }] });
    expect(await held('rena.wedd2')).toEqual(['account rena.wedd2', 'group tide-models']);
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
  });

  it('licences are given once, and taken away', async () => {
    const { person } = await act('createAccount', newcomer('Li', 'Cence'), 'run/l#1/0');
    const input = { person: person!, licence: 'Chart “editor”' };
    expect(await act('addLicence', input, 'run/l1#1/0')).toEqual({ already: false });
    expect(await act('addLicence', { ...input, licence: 'Tides' }, 'run/l2#1/0')).toEqual({ already: false });
    expect(await act('addLicence', { ...input, licence: 'tides' }, 'run/l3#1/0')).toEqual({ already: true });
    expect((await inDirectory('li.cence')).entitlements).toMatchObject([{ value: 'Chart “editor”' }, { value: 'Tides' }]);
    expect(await act('removeLicence', input, 'run/l4#1/0')).toEqual({ was: true });
    expect(await act('removeLicence', input, 'run/l5#1/0')).toEqual({ was: false });
    expect((await inDirectory('li.cence')).entitlements).toMatchObject([{ value: 'Tides' }]);
  });

  it('a reading that began before an account was made says nothing of it', async () => {
    let read: Promise<unknown> | undefined;
    // A reading waits its turn once it has read: in between somebody gets an account, and another is closed.
    const closed = await act('createAccount', newcomer('Gone', 'Now'), 'run/gone#1/0');
    await w.db().transaction(async (tx) => {
      await tx.execute(sql`select pg_advisory_xact_lock(481023)`);
      read = w.sync();
      await expect.poll(() => w.query(`select from pg_locks where locktype = 'advisory' and not granted`), { timeout: 20_000 }).toHaveLength(1);
      await act('createAccount', newcomer('Just', 'Now'), 'run/now#1/0');
      await act('disableAccount', { person: closed['person']! }, 'run/gone2#1/0');
    });
    await read;
    expect(await w.query(`select user_name, active from person where user_name in ('just.now', 'gone.now') order by 1`)).toEqual([
      { user_name: 'gone.now', active: false },
      { user_name: 'just.now', active: true },
    ]);
    await w.sync();
    expect(await w.query('select active from person where user_name = $1', ['just.now'])).toEqual([{ active: true }]);
  });
});

describe('what the directory has', () => {
  const differ = async () => {
    await w.read(directoryId);
    return w.query<{ is: string; what: unknown }>(
      `select "is", what from difference where state = 'open' and action <> 'directory.addMember' and found_at > now() - interval '1 minute' order by "is", what::text`,
    );
  };
  it('every action that gives something has its list', () =>
    expect([...directoryLists, stockList].map((l) => l.spec.id).sort()).toEqual(
      ownActionSpecs
        .filter((s) => s.gives)
        .map((s) => s.id)
        .sort(),
    ));

  it('an account and a licence past us, one that was closed by hand: each is a difference', async () => {
    await differ();
    await w.asOwner(`update difference set state = 'left'`);
    const run = await asked('Held', 'Here', 'S-700');
    for (let i = 0; i < 3; i++) await w.work();
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
    const held = await inDirectory('held.here');
    await directoryClient.patchUser(held.id, [{ op: 'replace', path: 'active', value: false }], undefined, 'hand-1');
    await directoryClient.create('Users', { userName: 'past.us', displayName: 'Past Us', entitlements: [{ value: 'Plotter' }] });
    shiftClock(5000);
    expect(await differ()).toEqual([
      { is: 'missing', what: 'held.here' },
      { is: 'unknown', what: 'Plotter' },
      { is: 'unknown', what: 'past.us' },
    ]);
    shiftClock(0);
  });
});

describe('the rule for user names', () => {
  it('is kept by administrators, with what it makes; two who change it at once are told', async () => {
    expect(await keepUserNames(w.viewer('tor'), { version: 1, rule })).toMatchObject({ code: 'not-allowed' });
    expect(await keepUserNames(w.viewer('dan', 'administrator'), { version: 1, rule: { ...rule, most: 3 } })).toMatchObject({ code: 'invalid' });
    const both = await Promise.all(
      [30, 40].map((most) => keepUserNames(w.viewer('dan', 'administrator'), { version: 1, rule: { ...rule, form: 'initialFamily', most } })),
    );
    expect(both.map((r) => r.ok || r.code).sort()).toEqual(['changed-meanwhile', true]);
    expect(await userNamesFor(w.viewer('dan', 'designer'))).toMatchObject({ version: 2, rule: { form: 'initialFamily' } });
    expect(await act('createAccount', newcomer('Rule', 'Anew'), 'run/rule#1/0')).toMatchObject({ userName: 'ranew' });
  });
});
