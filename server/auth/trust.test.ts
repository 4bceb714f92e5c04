import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { add, form, gate, step, tell } from '../../core/testing/samples.ts';
import { passages } from '../../core/plans/index.ts';
import { blankItem } from '../../core/items/index.ts';
import { linkToken, world, type World } from '../testing/world.ts';
import { setPassword } from '../people/commands.ts';
import { signIn, signOut, changePassword, endOwnSession } from './sign-in.ts';
import { viewerOf, sessionsOf } from './viewer.ts';
import { decideByLink } from '../approvals/commands.ts';
import { approvalByLink } from '../approvals/queries.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { consentsFor } from '../consents/queries.ts';
import { decideConsent, setSystemOwners } from '../consents/commands.ts';
import { trace } from '../runs/queries.ts';
import { finishTask, saveTask, takeTask } from '../tasks/commands.ts';
import { askedOf } from '../../core/lists/index.ts';
import { verifyLog, changeOf, changes } from '../changes/queries.ts';
import { record } from '../changes/record.ts';
import * as pg from 'pg';
import { sweep } from '../runtime/sweep.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());
const from = { address: '127.0.0.1', agent: 'A browser' };
const good = <T extends { ok: boolean }>(r: T): Extract<T, { ok: true }> => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r as Extract<T, { ok: true }>;
};

describe('sessions and passwords', () => {
  it('a new password has to be new to guessers, ends the other sessions, and everything stands in the log with its address', async () => {
    for (const password of ['password1', 'qwertyuiop', '12345678', 'Tor Strand', 'nessmoor', 'tor@skerrin'])
      expect(await setPassword('host', { personId: w.id('tor'), password }), password).toMatchObject({ code: 'invalid' });
    good(await setPassword('host', { personId: w.id('tor'), password: 'skerry light 7' }));
    const [one, two, three] = [
      good(await signIn('tor', 'skerry light 7', from)),
      good(await signIn('tor', 'skerry light 7', from)),
      good(await signIn('tor', 'skerry light 7', { ...from, agent: 'x\u0000y' })),
    ];
    const viewer = (await viewerOf(one.cookie))!;
    expect((await sessionsOf(viewer, one.cookie)).map((s) => [s.here, s.agent])).toEqual([
      [true, 'A browser'],
      [false, 'x\ufffdy'],
      [false, 'A browser'],
    ]);
    const [other] = (await sessionsOf(viewer, one.cookie)).filter((s) => !s.here);
    expect(await endOwnSession(viewer, other!.id, one.cookie)).toEqual({ ok: true, ended: 1 });
    expect(await endOwnSession(w.viewer('ina'), 'x', 'y')).toEqual({ ok: true, ended: 0 });
    const change = (now: string, next: string) => changePassword(viewer, { now, next, cookie: one.cookie, address: '127.0.0.1' });
    expect(await change('wrong', 'another skerry 9')).toMatchObject({ problems: [{ field: 'now' }] });
    expect(await change('skerry light 7', 'password1')).toMatchObject({ problems: [{ field: 'next' }] });
    expect(await change('skerry light 7', 'another skerry 9')).toEqual({ ok: true, ended: 1 });
    expect([await viewerOf(one.cookie), await viewerOf(two.cookie), await viewerOf(three.cookie)].map(Boolean)).toEqual([true, false, false]);
    await signOut(one.cookie, '127.0.0.1');
    await signIn('tor', 'not it at all', { address: '127.0.0.7', agent: '' });
    const log = await w.query<{ action: string; detail: { address?: string } }>(
      "select action, detail from change_log where object_id = $1 and action like any(array['sign%', 'change-password']) order by id desc limit 3",
      [w.id('tor')],
    );
    expect(log.map((l) => [l.action, l.detail.address])).toEqual([
      ['sign-in-failed', '127.0.0.7'],
      ['sign-out', '127.0.0.1'],
      ['change-password', '127.0.0.1'],
    ]);
  });

  it('a session that rests too long is over; an account tried wrongly too often is closed to every address', async () => {
    good(await setPassword('host', { personId: w.id('olav'), password: 'skerry light 7' }));
    const { cookie } = good(await signIn('olav', 'skerry light 7', from));
    await w.query("update session set seen_at = now() - interval '119 minutes'");
    expect(await viewerOf(cookie)).toBeDefined();
    await w.query("update session set seen_at = now() - interval '121 minutes'");
    expect(await viewerOf(cookie)).toBeUndefined();
    // Twenty tries from twenty addresses: none of them alone would be held back.
    for (let i = 0; i < 20; i++) expect(await signIn('olav', 'wrong', { address: `10.0.0.${i}`, agent: '' })).toMatchObject({ code: 'invalid' });
    expect(await signIn('olav', 'skerry light 7', { address: '10.0.1.1', agent: '' })).toMatchObject({ code: 'too-many-tries' });
  });

  it.each(['tor\u0000', '\ud800', 'x'.repeat(10_000), "' or 1=1 --"])('a name such as %j is only wrong', async (name) => {
    expect(await signIn(name, 'skerry light 7', { address: '10.9.9.9', agent: '' })).toMatchObject({ code: 'invalid' });
  });
});

describe('one-time links', () => {
  it('show nothing once their approver is not asked any more, and are not used up by a decision that was refused', async () => {
    const item = await w.item('By link');
    const { id } = await w.ask(w.viewer('tor'), item.id);
    await w.work();
    const [ina, olav] = await Promise.all(['ina', 'olav'].map(async (u) => linkToken((await w.mails(u)).at(-1)!.text)));
    expect(await decideByLink({ token: ina!, decision: 'sendBack', comment: 'Which?' })).toMatchObject({ code: 'invalid' });
    expect((await approvalByLink(ina!)).approval).toMatchObject({ status: 'waiting' });
    good(await decideByLink({ token: ina!, decision: 'approve', comment: '' }));
    expect(await approvalByLink(olav!)).toEqual({ approval: undefined, known: true });
    expect(await decideByLink({ token: olav!, decision: 'decline', comment: 'Late' })).toMatchObject({ code: 'ended' });
    expect((await w.request(id)).outcome).toBeNull();
  });
});

describe('consent of a system’s owners', () => {
  it('is asked once for an item and action, of somebody else than who publishes, and recorded', async () => {
    const designer = w.viewer('dan', 'designer');
    const plan = JSON.parse(JSON.stringify({ steps: [gate(), add, tell('t', 'T')] }).replaceAll('"ada"', JSON.stringify(w.id('boss'))));
    const { id } = good(await createItem(designer, { name: 'Give myself anything' }));
    const saved = good(await saveDraft(designer, { id, version: 1, draft: { ...blankItem('Give myself anything'), form, plan } }));
    const go = (as = designer) => publish(as, { id, version: saved.version, note: '' });
    good(await setSystemOwners('host', { system: 'directory', people: [w.id('dan')] }));
    expect(await go()).toMatchObject({ code: 'awaits-consent', sentence: expect.stringContaining('nobody but you could consent') });
    good(await setSystemOwners('host', { system: 'directory', people: [w.id('dan'), w.id('boss')] }));
    expect(await go()).toMatchObject({ code: 'awaits-consent', sentence: expect.stringContaining('Boss Strand has to consent first') });
    await go();
    const [asked, ...more] = (await consentsFor(w.viewer('boss'))).filter((c) => c.status === 'waiting');
    expect([asked!.item, more]).toEqual(['Give myself anything', []]);
    expect(await consentsFor(w.viewer('ina'))).toEqual([]);
    const yes = { id: asked!.id, decision: 'approve', comment: '' } as const;
    expect(await decideConsent(w.viewer('ina'), yes)).toMatchObject({ code: 'not-found' });
    expect(await decideConsent(designer, yes)).toMatchObject({ code: 'not-allowed' });
    expect(await decideConsent(w.viewer('boss'), { ...yes, decision: 'decline' })).toMatchObject({ code: 'invalid' });
    good(await decideConsent(w.viewer('boss'), { ...yes, decision: 'decline', comment: 'Who needs that?' }));
    expect(await go()).toMatchObject({ code: 'awaits-consent' });
    good(await decideConsent(w.viewer('boss'), yes));
    expect(await decideConsent(w.viewer('boss'), yes)).toMatchObject({ code: 'already-decided' });
    // The owner's own consent is not enough for the owner to publish.
    expect(await go(w.viewer('boss', 'designer'))).toMatchObject({ code: 'awaits-consent' });
    good(await setSystemOwners('host', { system: 'directory', people: [w.id('boss'), w.id('ina')] }));
    good(await decideConsent(w.viewer('ina'), yes));
    good(await go());
    expect(
      await w.query("select distinct action from change_log where object = 'item' and object_id = $1 and action like '%consent%' order by action", [
        id,
      ]),
    ).toEqual([{ action: 'ask-consent' }, { action: 'consent-approved' }, { action: 'consent-declined' }]);
    await setSystemOwners('host', { system: 'directory', people: [w.id('boss')] });
  });

  it('owners are named by administrators only, and are people who work here', async () => {
    expect(await setSystemOwners(w.viewer('dan', 'designer'), { system: 'directory', people: [] })).toMatchObject({ code: 'not-allowed' });
    expect(await setSystemOwners('host', { system: 'nonsense', people: [] })).toMatchObject({ code: 'not-found' });
    expect(await setSystemOwners('host', { system: 'directory', people: ['nobody'] })).toMatchObject({ code: 'invalid' });
  });
});

describe('a confidential item', () => {
  it('shows what was asked and said to the requester, those asked, its teams and named readers; to others that it exists', async () => {
    const designer = w.viewer('dan', 'designer');
    const task = step('task', 'do', { assignee: { team: w.teamId }, instructions: passages('Do'), checklist: [], fields: [] });
    const steps = [gate({ approvers: { from: 'people', people: [{ person: w.id('ina') }] }, nobody: { then: 'fail' } }), task, tell('t', 'T')];
    const { id } = good(await createItem(designer, { name: 'A private matter' }));
    const draft = { ...blankItem('A private matter'), form, plan: { steps }, confidential: { readers: [{ person: w.id('olav') }] } };
    const saved = good(await saveDraft(designer, { id, version: 1, draft }));
    good(await publish(designer, { id, version: saved.version, note: '' }));
    const { number, id: runId } = await w.ask(w.viewer('tor'), id, 'tide-models', { reason: 'Something nobody should read' });
    await w.work();
    const sees = async (user: string, ...roles: Parameters<World['viewer']>[1][]) => {
      const t = await trace(w.viewer(user, ...(roles as never[])), number);
      return t === undefined
        ? 'nothing'
        : t.sealed
          ? 'that it exists'
          : JSON.stringify(t).includes('nobody should read')
            ? 'everything'
            : 'no answers';
    };
    expect(await sees('boss', 'administrator' as never)).toBe('that it exists');
    expect(await sees('boss', 'auditor' as never)).toBe('that it exists');
    expect(await sees('olav', 'auditor' as never)).toBe('everything');
    expect(await sees('ina', 'teamMember' as never)).toBe('everything');
    expect(await sees('runa', 'teamMember' as never)).toBe('that it exists');
    good(await w.decide('ina', runId, 'approve'));
    // Its team has work in it from now on.
    expect(await sees('runa', 'teamMember' as never)).toBe('everything');
    expect(await sees('boss')).toBe('nothing');
    const sealed = await trace(w.viewer('boss', 'auditor'), number);
    expect(Object.keys(sealed!).sort()).toEqual(['endedAt', 'item', 'number', 'openedAt', 'outcome', 'requester', 'sealed', 'stuck']);
  });
});

describe('a task somebody has taken', () => {
  it('is theirs: a team mate neither fills it in, gives it back nor finishes it; who may takes it over on purpose', async () => {
    const task = step('task', 'do', {
      assignee: { team: w.teamId },
      instructions: passages('Do'),
      checklist: [],
      fields: [{ id: 'n', kind: 'text', label: 'N', required: true }],
    });
    const { id } = await w.askPlan({ steps: [task, tell('t', 'T')] });
    const [t] = await w.query<{ id: string }>('select id from task where run_id = $1', [id]);
    good(await takeTask(w.viewer('runa'), { id: t!.id, give: false }));
    good(await saveTask(w.viewer('runa'), { id: t!.id, values: { n: 'mine' }, checked: [] }));
    const mate = w.viewer('dan');
    const work = { id: t!.id, values: { n: 'theirs' }, checked: [] };
    for (const act of [
      takeTask(mate, { id: t!.id, give: false }),
      takeTask(mate, { id: t!.id, give: true }),
      takeTask(mate, { id: t!.id, give: false, over: true }),
      saveTask(mate, work),
      finishTask(mate, work),
      finishTask(w.viewer('boss', 'administrator'), work),
    ])
      expect(await act).toMatchObject({ code: 'changed-meanwhile', sentence: expect.stringContaining('Runa Strand has taken it') });
    expect((await w.query<{ draft: { values: { n: string } } }>('select draft from task where id = $1', [t!.id]))[0]!.draft.values.n).toBe('mine');
    const teamMember = w.viewer('dan', 'teamMember');
    expect(await takeTask(teamMember, { id: t!.id, give: true, over: true })).toMatchObject({ code: 'changed-meanwhile' });
    good(await takeTask(teamMember, { id: t!.id, give: false, over: true }));
    good(await finishTask(teamMember, work));
    expect(await w.query("select detail from change_log where object_id = $1 and action = 'take-over'", [t!.id])).toEqual([
      { detail: { from: w.id('runa') } },
    ]);
  });
});

describe('the log of changes', () => {
  it('is a chain that shows the first entry that was changed, taken out or put in behind its back', async () => {
    expect(await changes(w.viewer('dan', 'designer'), askedOf('changes'))).toBeUndefined();
    for (let i = 0; i < 120; i++) await record(w.db(), { actor: null, action: 'test', object: 'item', objectId: String(i) });
    const page = (await changes(w.viewer('dan', 'auditor'), askedOf('changes')))!;
    expect(page.rows).toHaveLength(100);
    const further = (await changes(w.viewer('dan', 'auditor'), askedOf('changes', `after=${page.next!}`)))!;
    expect(further.rows[0]!.id).toBeLessThan(page.rows.at(-1)!.id);
    // Each entry says where it hangs in the chain.
    expect(await changeOf(w.viewer('dan', 'designer'), page.rows[0]!.id)).toBeUndefined();
    const last = (await changeOf(w.viewer('dan', 'auditor'), page.rows[0]!.id))!;
    expect(last).toMatchObject({ action: 'test', objectId: '119', hash: expect.stringMatching(/^[0-9a-f]{64}$/) });
    expect(last.link).toBe((await changeOf(w.viewer('dan', 'auditor'), page.rows[1]!.id))!.link! + 1);
    const whole = await verifyLog();
    expect(whole).toMatchObject({ ok: true, head: expect.stringMatching(/^[0-9a-f]{64}$/) });
    // The application may not; whoever owns the tables can, and is found out.
    const owner = new pg.default.Client({ connectionString: process.env['TEST_DATABASE_URL']!.replace(/\/postgres$/, `/${w.databaseName}`) });
    await owner.connect();
    await owner.query('alter table change_log disable trigger all');
    const [victim] = (await owner.query<{ id: string; action: string }>('select id, action from change_log order by id offset 20 limit 1')).rows;
    await owner.query("update change_log set action = 'nothing' where id = $1", [victim!.id]);
    expect(await verifyLog()).toMatchObject({ ok: false, at: 21, sentence: expect.stringContaining('not as it was written') });
    await owner.query('update change_log set action = $2 where id = $1', [victim!.id, victim!.action]);
    expect(await verifyLog()).toEqual(whole);
    await owner.query("insert into change_log (action, object, object_id, detail) values ('forged', 'item', 'x', '{}')");
    expect(await verifyLog()).toMatchObject({ ok: false, sentence: expect.stringContaining('outside the chain') });
    await owner.query("delete from change_log where action = 'forged'");
    await owner.query('alter table change_log enable trigger all');
    await owner.end();
  });

  it('keeps nobody waiting: while somebody else hangs entries in, others are written, and wait in a list until the next one does', async () => {
    const waiting = async () => Number((await w.query<{ n: string }>('select count(*) as n from change_waiting'))[0]!.n);
    const busy = new pg.default.Client({ connectionString: process.env['TEST_DATABASE_URL']!.replace(/\/postgres$/, `/${w.databaseName}`) });
    await busy.connect();
    await busy.query('begin');
    await busy.query('select pg_advisory_xact_lock(481024)');
    for (let i = 0; i < 3; i++) await record(w.db(), { actor: null, action: 'test', object: 'item', objectId: `beside ${i}` });
    expect(await waiting()).toBe(3);
    await busy.query('commit');
    await busy.end();
    await sweep();
    expect(await waiting()).toBe(0);
    await record(w.db(), { actor: null, action: 'test', object: 'item', objectId: 'alone' });
    expect(await waiting()).toBe(0);
    expect(await verifyLog()).toMatchObject({ ok: true });
  });

  it('keeps its order when many write at once', async () => {
    await Promise.all(
      Array.from({ length: 60 }, (_, i) =>
        w.db().transaction(async (tx) => {
          for (let k = 0; k < 1 + (i % 3); k++) await record(tx, { actor: null, action: 'test', object: 'item', objectId: `${i}-${k}` });
        }),
      ),
    );
    expect(await verifyLog()).toMatchObject({ ok: true });
  });
});
