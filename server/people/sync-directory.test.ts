import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { gate, tell } from '../../core/testing/samples.ts';
import { world, type World, linkToken } from '../testing/world.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { config } from '../config.ts';
import { settleSetAside } from '../set-aside/commands.ts';
import { setAsideFor } from '../set-aside/queries.ts';
import { decide, decideByLink, decideInChat } from '../approvals/commands.ts';
import { replaceWhoLeft } from '../runtime/staff.ts';
import { approvalByLink } from '../approvals/queries.ts';
import { syncDirectory } from './sync-directory.ts';

/** A directory that says whatever a test wants, over the real protocol. */
let w: World;
let server: Server;
let users: Record<string, unknown>[] = [];
let groups: Record<string, unknown>[] = [];
let total: number | undefined;
let real: string;

beforeAll(async () => {
  w = await world();
  const app = express();
  for (const [kind, all] of [
    ['Users', () => users],
    ['Groups', () => groups],
  ] as const)
    app.get(`/${kind}`, (req, res) => {
      const start = Number(req.query['startIndex']);
      const page = all().slice(start - 1, start - 1 + 1000);
      res.json({ totalResults: kind === 'Users' ? (total ?? all().length) : all().length, startIndex: start, Resources: page });
    });
  server = await new Promise<Server>((up) => {
    const s = app.listen(0, '127.0.0.1', () => up(s));
  });
  users = (await directoryClient.users()).found;
  groups = (await directoryClient.groups()).found;
  real = config().DIRECTORY_URL;
  config().DIRECTORY_URL = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  config().DIRECTORY_URL = real;
  await new Promise((done) => server.close(done));
  await w.close();
});
const sync = async (how = {}) => syncDirectory(how);
const active = async () => (await w.query<{ n: number }>('select count(*)::int as n from person where active'))[0]!.n;
const aside = () =>
  w.query<{ key: string; cause: string }>("select key, cause from set_aside where source = 'directory' and settled_at is null order by key");
const clear = () => w.query('delete from set_aside');
const user = (id: string, more: object = {}) => ({ id, userName: id, displayName: id, active: true, ...more });

describe('a directory that says odd things', () => {
  it('a record that cannot be kept harms only itself, and is set aside once', async () => {
    const before = users;
    users = [
      ...before,
      user('new-one'),
      user('bad', { displayName: 'a\u0000b' }),
      user('worse', { displayName: '\ud800' }),
      { id: 7 },
      user('new-one'),
    ];
    expect(await sync()).toMatchObject({ odd: 4, kept: { people: 0, groups: 0 } });
    await sync();
    expect((await aside()).map((a) => a.key)).toEqual(['person bad', 'person new-one', 'person worse', expect.stringMatching(/^person \{/)]);
    expect(await w.query("select email from person where user_name = 'new-one' and active")).toEqual([{ email: '' }]);
    users = before;
    await clear();
  });

  it('somebody who comes back under a new id is a new person; two may swap their names; the second of one name is set aside', async () => {
    const before = users;
    users = [...before, user('u-1', { userName: 'kari' }), user('u-2', { userName: 'pia' })];
    await sync();
    users = [...before, user('u-1b', { userName: 'kari' }), user('u-2', { userName: 'u2' }), user('u-3', { userName: 'pia' })];
    await sync();
    const found = await w.query<{ directory_id: string; user_name: string; active: boolean }>(
      "select directory_id, user_name, active from person where directory_id like 'u-%' order by directory_id",
    );
    expect(found.map((p) => [p.directory_id, p.user_name.startsWith('~') ? '~' : p.user_name, p.active])).toEqual([
      ['u-1', '~', false],
      ['u-1b', 'kari', true],
      ['u-2', 'u2', true],
      ['u-3', 'pia', true],
    ]);
    users = [...before, user('u-2', { userName: 'pia' }), user('u-3', { userName: 'u2' }), user('u-4', { userName: 'U2' })];
    await sync();
    expect(await w.query("select user_name from person where directory_id in ('u-2', 'u-3') order by directory_id")).toEqual([
      { user_name: 'pia' },
      { user_name: 'u2' },
    ]);
    expect((await aside()).map((a) => a.key)).toEqual(['person u-4']);
    users = before;
    await sync();
    await clear();
  });

  it('a short or broken reading deactivates nobody; many missing at once wait for an administrator', async () => {
    const before = users;
    users = [...before, ...Array.from({ length: 60 }, (_, i) => user(`many-${i}`))];
    await sync();
    const all = await active();
    const whole = users;
    users = whole.slice(0, 10);
    total = whole.length;
    expect(await sync()).toMatchObject({ kept: { people: all - 10 } });
    expect([await active(), (await aside())[0]!.cause]).toEqual([all, 'The reading was not whole, so none was taken away.']);
    total = undefined;
    expect(await sync()).toMatchObject({ kept: { people: all - 10 } });
    expect([await active(), (await aside())[0]!.cause]).toEqual([all, expect.stringContaining('more likely a fault')]);
    users = [];
    await sync();
    expect(await active()).toBe(all);
    // An administrator says that it is right, on the page of what is set aside.
    users = before;
    const entry = (await setAsideFor(w.viewer('dan', 'administrator')))!.rows[0]!;
    expect(await settleSetAside(w.viewer('dan', 'designer'), { id: entry.id, how: 'again' })).toMatchObject({ code: 'not-allowed' });
    expect(await settleSetAside(w.viewer('dan', 'administrator'), { id: entry.id, how: 'again' })).toEqual({ ok: true });
    expect(await active()).toBe(before.length);
    expect(await aside()).toEqual([]);
  });

  it('takes over more people than a statement has parameters', async () => {
    const before = users;
    users = [...before, ...Array.from({ length: 70_000 }, (_, i) => user(`crowd-${i}`))];
    expect(await sync()).toMatchObject({ people: 70_000 + before.length, odd: 0 });
    expect(await active()).toBe(70_000 + before.length);
    users = before;
    await sync({ sure: true });
    expect(await active()).toBe(before.length);
  }, 120_000);

  it('who leaves while asked is replaced at once; deactivated approvers decide by no way', async () => {
    config().DIRECTORY_URL = real;
    const plan = {
      steps: [
        gate({
          approvers: { from: 'people', people: ['ina', 'olav'].map((u) => ({ person: w.id(u) })) },
          rule: { rule: 'all' },
          nobody: { then: 'ask', person: { person: w.id('boss') } },
        }),
        tell('t', 'T'),
      ],
    };
    const { id } = await w.askPlan(plan);
    await w.work();
    const token = linkToken((await w.mails('ina')).at(-1)!.text);
    const [mine] = (await w.approvals(id)).filter((a) => a.personId === w.id('ina'));
    await w.query('update person set active = false where id = any($1)', [[w.id('ina'), w.id('olav')]]);
    const yes = { decision: 'approve', comment: '' } as const;
    expect(await decide(w.viewer('ina'), { approvalId: mine!.id, ...yes })).toMatchObject({ code: 'not-found' });
    expect(await decideByLink({ token, ...yes })).toMatchObject({ code: 'ended' });
    expect(await w.db().transaction((tx) => decideInChat(tx, { runId: id, personId: w.id('ina'), ...yes }))).toMatchObject({ code: 'not-found' });
    expect((await approvalByLink(token)).approval).toBeUndefined();
    expect(await replaceWhoLeft()).toBe(1);
    expect(await replaceWhoLeft()).toBe(0);
    const now = await w.approvals(id);
    expect(now.map((a) => [a.personId === w.id('boss') ? 'boss' : 'left', a.status]).sort()).toEqual([
      ['boss', 'waiting'],
      ['left', 'released'],
      ['left', 'released'],
    ]);
    const [replay] = await w.query<{ state: object }>('select state from run where id = $1', [id]);
    expect(replay!.state).toMatchObject({ status: 'open' });
    expect(await w.decide('boss', id, 'approve')).toEqual({ ok: true });
    expect((await w.request(id)).outcome).toBe('fulfilled');
    await w.query('update person set active = true where id = any($1)', [[w.id('ina'), w.id('olav')]]);
  });
});
