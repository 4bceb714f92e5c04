import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import type { Audience } from '../../core/items/index.ts';
import { keepApart, endApart } from '../apart/commands.ts';
import { shiftClock } from '../clock.ts';
import { giveBack } from '../holdings/commands.ts';
import { thingsHeld } from '../holdings/queries.ts';
import { myRequests } from '../requests/queries.ts';
import { retryStep } from '../runs/commands.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { finishTask } from '../tasks/commands.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { agreeToMoving, endCondition, keepCondition, letInAgain } from './commands.ts';
import { groupFor, groupsFor, seesGroups } from './queries.ts';
import { reconcileGroups } from './reconcile.ts';

/** Who is in a group because a condition holds of them: in the real directory, as holdings, with every change of people. */
let w: World;
const group = 'tide-models';
const other = 'orphan-files';
const everybody = ['boss', 'ina', 'olav', 'runa', 'tor', 'dan'] as const;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});
const owner = () => w.viewer('ina');
const id = () => w.groupId(group);
const page = async (tried?: unknown) => (await groupFor(owner(), id(), tried))!;
const keep = async (members: unknown, why = 'They draw the charts.', viewer = owner(), of = id()) =>
  keepCondition(viewer, {
    group: of,
    version: (await groupFor(w.viewer('dan', 'auditor'), of))?.kept?.version ?? 0,
    members: JSON.stringify(members),
    why,
  });
const people = (columns: Record<string, string | null | boolean>, ...who: string[]) =>
  w.query(
    `update person set ${Object.keys(columns)
      .map((c, i) => `${c} = $${i + 2}`)
      .join(', ')} where user_name = any($1::text[])`,
    [who, ...Object.values(columns)],
  );
/** What the worker does in ten minutes: twice, since what comes of the first round is seen in the second. */
const settle = async () => {
  for (let round = 0; round < 2; round++) {
    await reconcileGroups();
    await w.work();
  }
};
const inDirectory = async (of = group) => {
  const there = (await w.scimGroup(of)).members.map((m) => m.value);
  return everybody.filter((who) => there.includes(w.scimUser(who))).toSorted();
};
const held = async (of = group) =>
  (
    await w.query<{ who: string }>(
      `select p.user_name as who from holding h join person p on p.id = h.person_id where h.what ->> 'group' = $1 and h.ended_at is null order by 1`,
      [w.groupId(of)],
    )
  ).map((r) => r.who);

beforeEach(async () => {
  shiftClock(0);
  for (const of of [group, other]) {
    const { kept } = (await groupFor(w.viewer('dan', 'auditor'), w.groupId(of)))!;
    if (kept && !kept.ended)
      await endCondition(of === group ? owner() : w.viewer('dan', 'administrator'), { group: w.groupId(of), version: kept.version, out: true });
  }
  await settle();
  await people({ department: 'Charts', job_role: null, last_day: null, active: true, inactive_since: null }, ...everybody);
});

it('lets in whom it holds of, once, by a request in the name of its owner, and tells them', async () => {
  await people({ department: 'Tides', job_role: 'Tide Analyst' }, 'tor', 'dan');
  await people({ department: 'Tides' }, 'runa');
  expect((await page([{ department: 'tides', job: 'tide analyst' }])).comes).toMatchObject({ belong: 2, in: 2, out: 0, otherwise: 0 });
  expect(await keep([{ department: 'tides', job: 'tide analyst' }, { person: { person: w.id('runa') } }])).toEqual({ ok: true });
  await Promise.all([reconcileGroups(), reconcileGroups()]);
  await Promise.all([w.work(), w.work()]);
  await settle();
  expect(await inDirectory()).toEqual(['dan', 'runa', 'tor']);
  expect(await held()).toEqual(['dan', 'runa', 'tor']);
  expect(await w.query('select count(*)::int as n from group_admission where group_id = $1 and state = $2', [id(), 'asked'])).toEqual([{ n: 3 }]);
  const [tors] = (await thingsHeld(w.viewer('tor'), 'mine')).rows;
  expect(tors).toMatchObject({ what: group, item: 'Member of a group by its condition' });
  // They follow it as something of theirs; whoever answers for the condition did not ask for it.
  expect((await myRequests(w.viewer('tor'))).rows.map((r) => r.item)).toContain('Member of a group by its condition');
  expect((await myRequests(owner())).rows).toEqual([]);
  const mails = await w.mails('tor');
  expect(mails.filter((m) => m.subject.includes('You are in tide-models'))).toHaveLength(1);
  expect(mails.at(-1)!.text).toContain(
    'In tide-models is everybody who works as tide analyst of tides; Runa Strand, and so you are. Ina Strand has set that down: “They draw the charts.”',
  );
  const [run] = await w.query<{ id: string }>('select run_id as id from holding where person_id = $1 and ended_at is null', [w.id('tor')]);
  await replays(w, run!.id);
  expect(await page()).toMatchObject({ byIt: 3, members: 3, comes: { belong: 3, in: 0, out: 0, otherwise: 0 }, underWay: 0 });
});

it('takes out of whom it holds no more, says why, and lets them in again when it does', async () => {
  await people({ department: 'Tides' }, 'tor', 'dan');
  await keep([{ department: 'Tides' }]);
  await settle();
  expect(await inDirectory()).toEqual(['dan', 'tor']);
  await people({ department: 'Pay' }, 'tor');
  await settle();
  expect(await inDirectory()).toEqual(['dan']);
  expect(await held()).toEqual(['dan']);
  expect(
    await w.query('select ending_by as by, ending_why as why from holding where person_id = $1 order by since desc limit 1', [w.id('tor')]),
  ).toEqual([{ by: null, why: 'Who is in it by itself is everybody of Tides. That holds of you no more.' }]);
  expect((await w.mails('tor')).filter((m) => m.subject.includes('tide-models is taken back')).slice(-1)).toMatchObject([
    {
      text: expect.stringMatching(
        /is taken back\. Who is in it by itself is everybody of Tides\. That holds of you no more\.\s+If you need it/,
      ) as string,
    },
  ]);
  await people({ department: 'tides' }, 'tor');
  await settle();
  expect(await inDirectory()).toEqual(['dan', 'tor']);
});

it('leaves those who are in it otherwise, and those whom somebody has taken out', async () => {
  const { id: scim, meta } = await w.scimGroup(group);
  await directoryClient.patchGroup(
    scim,
    [{ op: 'add', path: 'members', value: [{ value: w.scimUser('olav') }] }],
    meta?.version,
    randomBytes(4).toString('hex'),
  );
  await w.sync();
  await people({ department: 'Charts' }, ...everybody);
  await people({ department: 'Tides' }, 'tor', 'olav');
  await keep([{ department: 'Tides' }]);
  await settle();
  expect(await held()).toEqual(['tor']);
  expect(await page()).toMatchObject({ byIt: 1, members: 2, comes: { otherwise: 1 } });
  // Runa is the manager of Tor: what she takes from him the condition does not give again by itself.
  const [thing] = (await thingsHeld(w.viewer('runa'), 'people')).rows;
  expect(await giveBack(w.viewer('runa'), { id: thing!.id, why: 'He is on leave.' })).toEqual({ ok: true });
  await settle();
  expect(await inDirectory()).toEqual(['olav']);
  expect((await page()).takenOut).toMatchObject([{ name: 'Tor Strand', by: 'Runa Strand', why: 'He is on leave.' }]);
  expect(await letInAgain(w.viewer('olav'), { group: id(), person: w.id('tor') })).toEqual({ ok: true });
  expect(await letInAgain(owner(), { group: id(), person: w.id('tor') })).toMatchObject({ ok: false, code: 'ended' });
  await settle();
  expect(await inDirectory()).toEqual(['olav', 'tor']);
  expect((await page()).takenOut).toEqual([]);
  const out = await w.scimGroup(group);
  await directoryClient.patchGroup(
    scim,
    [{ op: 'remove', path: `members[value eq "${w.scimUser('olav')}"]` }],
    out.meta?.version,
    randomBytes(4).toString('hex'),
  );
  await w.query('delete from group_person where person_id = $1 and "as" = $2', [w.id('olav'), 'member']);
});

it('does not bring together what is kept apart: it says so, and lets them in when that is over', async () => {
  const kept = await keepApart(w.viewer('dan', 'designer'), { one: id(), other: w.groupId(other), why: 'Not both.', excepters: [w.id('boss')] });
  if (!kept.ok) throw new Error(kept.sentence);
  await w.query(`insert into group_person (group_id, person_id, "as") values ($1, $2, 'member')`, [w.groupId(other), w.id('tor')]);
  await people({ department: 'Tides' }, 'tor', 'dan');
  await keep([{ department: 'Tides' }]);
  await settle();
  expect(await inDirectory()).toEqual(['dan']);
  expect((await page()).refused).toMatchObject([
    { name: 'Tor Strand', why: 'Tor Strand has something that is kept apart from tide-models: Not both. Boss Strand can make an exception.' },
  ]);
  await endApart(w.viewer('dan', 'designer'), { id: kept.id, again: false });
  await settle();
  expect(await inDirectory()).toEqual(['dan', 'tor']);
  expect((await page()).refused).toEqual([]);
  await w.query(`delete from group_person where group_id = $1 and "as" = 'member'`, [w.groupId(other)]);
});

it('waits for a word where many would move at once, and goes on with as many as were agreed to', async () => {
  await w.query(`insert into person (directory_id, user_name, name, email, department, active)
    select 'many-' || n, 'many-' || n, 'Many ' || n, '', 'Elsewhere', true from generate_series(1, 30) n`);
  await people({ department: 'Tides' }, 'tor');
  await keep([{ department: 'Tides' }]);
  await settle();
  expect(await held()).toEqual(['tor']);
  await w.query(`update person set department = 'Tides' where user_name like 'many-%'`);
  await reconcileGroups();
  expect((await page()).kept?.held).toEqual({ in: 30, out: 0 });
  expect((await groupsFor(owner())).find((g) => g.id === id())?.held).toEqual({ in: 30, out: 0 });
  expect(await w.query(`select count(*)::int as n from group_admission where state = 'open'`)).toEqual([{ n: 0 }]);
  // What was seen before it became more is no word for all of it.
  expect(await agreeToMoving(owner(), { group: id(), in: 29, out: 0 })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
  expect(await agreeToMoving(owner(), { group: id(), in: 'x', out: 0 })).toMatchObject({ ok: false, code: 'invalid' });
  expect(await agreeToMoving(owner(), { group: id(), in: 30, out: 0 })).toEqual({ ok: true });
  expect(await agreeToMoving(owner(), { group: id(), in: 30, out: 0 })).toMatchObject({ ok: false, code: 'ended' });
  // One more than was agreed to: asked again.
  await people({ department: 'Tides' }, 'dan');
  await reconcileGroups();
  expect((await page()).kept?.held).toEqual({ in: 31, out: 0 });
  await people({ department: 'Charts' }, 'dan');
  await agreeToMoving(owner(), { group: id(), in: 31, out: 0 });
  await reconcileGroups();
  expect((await page()).kept?.held).toBeNull();
  expect(await w.query(`select count(*)::int as n from group_admission where state = 'open'`)).toEqual([{ n: 30 }]);
  // Kept anew by somebody who saw fewer, it waits again.
  await w.query(`update group_admission set state = 'over' where state = 'open'`);
  await keep([{ department: 'Tides' }, { person: { person: w.id('dan') } }]);
  await reconcileGroups();
  expect((await page()).kept?.held).toEqual({ in: 31, out: 0 });
  const { version } = (await page()).kept!;
  const seen = { in: '31', out: '0' };
  const members = JSON.stringify([{ department: 'Tides' }]);
  expect(await keepCondition(owner(), { group: id(), version, members, why: 'They model.', ...seen })).toEqual({ ok: true });
  await reconcileGroups();
  expect((await page()).kept?.held).toBeNull();
  // Nobody of them is in the directory: what could not be done is a stuck step, and nobody holds anything by it.
  await w.query(`update person set active = false where user_name like 'many-%'`);
  await w.query(`update group_admission set state = 'over' where state = 'open'`);
});

it('ends: those who are in it stay, or go out', async () => {
  await people({ department: 'Tides' }, 'tor', 'dan');
  await keep([{ department: 'Tides' }]);
  await settle();
  const { version } = (await page()).kept!;
  expect(await endCondition(owner(), { group: id(), version: version + 1, out: true })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
  expect(await endCondition(owner(), { group: id(), version, out: false })).toEqual({ ok: true });
  await people({ department: 'Pay' }, 'tor');
  await settle();
  expect(await held()).toEqual(['dan', 'tor']);
  await w.query('update holding set ended_at = now() where ended_at is null');
  await w.query(`delete from group_person where "as" = 'member'`);
  for (const who of ['tor', 'dan']) {
    const { id: scim, meta } = await w.scimGroup(group);
    await directoryClient.patchGroup(
      scim,
      [{ op: 'remove', path: `members[value eq "${w.scimUser(who)}"]` }],
      meta?.version,
      randomBytes(4).toString('hex'),
    );
  }
  await keep([{ department: 'Tides' }]);
  await settle();
  expect(await inDirectory()).toEqual(['dan']);
  await endCondition(owner(), { group: id(), version: (await page()).kept!.version, out: true });
  await settle();
  expect(await inDirectory()).toEqual([]);
  expect((await page()).kept?.ended).toBe(true);
});

it('is kept by an owner, or by an administrator where nobody owns the group; two at once are told', async () => {
  const lines = [{ department: 'Tides' }];
  expect(await keep(lines, 'x', w.viewer('tor'))).toMatchObject({ ok: false, code: 'not-found' });
  expect(await keep(lines, 'x', w.viewer('dan', 'administrator'))).toMatchObject({ ok: false, code: 'not-found' });
  expect(await keep(lines, 'x', w.viewer('dan', 'administrator'), w.groupId(other))).toEqual({ ok: true });
  expect(await keep(lines, 'x', w.viewer('dan', 'designer'), w.groupId(other))).toMatchObject({ ok: false, code: 'not-found' });
  expect(await keep(lines, ' ')).toMatchObject({ ok: false, problems: [{ field: 'why' }] });
  expect(await keep([{}])).toMatchObject({
    ok: false,
    problems: [{ field: 'members', sentence: 'Line 1 of who is in it by itself says nothing. Fill it in, or take it out.' }],
  });
  expect(await keep([{ group: { group: id() } }])).toMatchObject({ ok: false, problems: [{ field: 'members' }] });
  expect(await keep([{ location: { location: crypto.randomUUID() } }])).toMatchObject({ ok: false, problems: [{ field: 'members' }] });
  const { version } = (await page()).kept!;
  const both = await Promise.all(
    ['ina', 'olav'].map((who) => keepCondition(w.viewer(who), { group: id(), version, members: JSON.stringify(lines), why: who })),
  );
  expect(both.filter((b) => b.ok)).toHaveLength(1);
  expect(both.find((b) => !b.ok)).toMatchObject({ code: 'changed-meanwhile' });
  // Made of each other, nobody would ever come out again.
  expect(await keep([{ group: { group: w.groupId(other) } }])).toEqual({ ok: true });
  const circle = await keep([{ group: { group: id() } }], 'x', w.viewer('dan', 'administrator'), w.groupId(other));
  expect(circle).toMatchObject({ ok: false, problems: [{ field: 'members' }] });
  expect(await groupFor(w.viewer('tor'), id())).toBeUndefined();
  expect(await seesGroups(w.viewer('tor'))).toBe(false);
  expect((await groupsFor(w.viewer('dan', 'auditor'))).map((g) => g.name)).toEqual([other, group]);
  expect((await groupsFor(owner())).map((g) => g.name)).toEqual([group]);
});

it('goes on in the name of another owner where whoever kept it has left, and lets nobody in where none is left', async () => {
  await people({ department: 'Tides' }, 'tor');
  await keep([{ department: 'Tides' }]);
  await people({ active: false }, 'ina', 'olav');
  await settle();
  expect(await inDirectory()).toEqual([]);
  await people({ active: true }, 'olav');
  await settle();
  expect(await inDirectory()).toEqual(['tor']);
  const [asked] = await w.query<{ by: string }>(
    `select p.user_name as by from service_case c join person p on p.id = c.requester_id join group_admission a on a.case_id = c.id where a.person_id = $1 and a.state = 'asked'`,
    [w.id('tor')],
  );
  expect(asked?.by).toBe('olav');
  // On whose word it was stays said.
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows[0]!.agreed).toMatchObject([{ name: 'Ina Strand', comment: 'They draw the charts.' }]);
});

it('is what the condition says, whatever happens in between', { timeout: 300_000 }, async () => {
  const departments = ['Charts', 'Tides', 'Pay'];
  const jobs = [null, 'purser', 'analyst'];
  const line = fc.record(
    { department: fc.constantFrom('charts', 'Tides', 'Pay'), job: fc.constantFrom('Purser', 'analyst'), person: fc.constantFrom(...everybody) },
    { requiredKeys: [] },
  );
  const act = fc.oneof(
    fc.record({
      is: fc.constant('moves' as const),
      who: fc.constantFrom(...everybody),
      department: fc.constantFrom(...departments),
      job: fc.constantFrom(...jobs),
    }),
    fc.record({ is: fc.constant('keeps' as const), lines: fc.array(line, { minLength: 1, maxLength: 3 }) }),
    fc.record({ is: fc.constant('round' as const) }),
    fc.record({ is: fc.constant('works' as const) }),
    fc.record({ is: fc.constant('fails' as const), manner: fc.constantFrom('failing', 'refusing') }),
    fc.record({ is: fc.constant('forgets' as const), who: fc.constantFrom(...everybody) }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(act, { minLength: 4, maxLength: 14 }), async (acts) => {
      let lines: Audience = [{ department: 'Tides' }];
      const facts = new Map<string, { department: string; job: string | null }>(everybody.map((who) => [who, { department: 'Charts', job: null }]));
      await people({ department: 'Charts', job_role: null }, ...everybody);
      await keep(lines);
      for (const a of acts) {
        if (a.is === 'moves') {
          facts.set(a.who, a);
          await people({ department: a.department, job_role: a.job }, a.who);
        } else if (a.is === 'keeps') {
          const said = a.lines
            .filter((l) => Object.keys(l).length > 0)
            .map(({ person, ...l }) => ({ ...l, ...(person && { person: { person: w.id(person) } }) }));
          if (said.length > 0 && (await keep(said)).ok) lines = said;
        } else if (a.is === 'round') await Promise.all([reconcileGroups(), reconcileGroups()]);
        else if (a.is === 'works') await w.work();
        // What the mirror says is behind the directory for a while.
        else if (a.is === 'forgets') await w.query('delete from group_person where person_id = $1 and "as" = $2', [w.id(a.who), 'member']);
        else {
          await w.manner('directory', a.manner);
          await w.work();
          await w.manner('directory', 'well');
        }
      }
      // Whatever got stuck is tried again by somebody, then the directory is read and the conditions are looked at.
      for (let round = 0; round < 4; round++) {
        await w.work();
        await seeTo();
        await settle();
      }
      await w.query(`delete from group_person where "as" = 'member'`);
      await w.query(
        `insert into group_person (group_id, person_id, "as") select $1, p.id, 'member' from person p where p.directory_id = any($2::text[]) on conflict do nothing`,
        [id(), (await w.scimGroup(group)).members.map((m) => m.value)],
      );
      shiftClock(26 * 3_600_000);
      await settle();
      shiftClock(0);
      const belongs = everybody
        .filter((who) => {
          const { department, job } = facts.get(who)!;
          return lines.some(
            (l) =>
              (l.department === undefined || l.department.toLowerCase() === department.toLowerCase()) &&
              (l.job === undefined || l.job.toLowerCase() === job?.toLowerCase()) &&
              (l.person === undefined || l.person.person === w.id(who)),
          );
        })
        .toSorted();
      expect(await inDirectory()).toEqual(belongs);
      expect(await held()).toEqual(belongs);
    }),
    { numRuns: 10 },
  );
});

/** What the directory refused is seen to: a step that got stuck is tried again, and who could not be taken out is, by hand. */
async function seeTo(): Promise<void> {
  const stuck = await w.query<{ number: string; key: string }>(
    `select c.number, k.key from call k join run r on r.id = k.run_id join service_case c on c.id = r.case_id where k.status = 'failed' and c.ended_at is null`,
  );
  for (const { number, key } of stuck) await retryStep(w.viewer('dan', 'administrator'), { number: Number(number), key });
  const left = await w.query<{ task: string; who: string }>(
    `select t.id as task, p.directory_id as who from task t join holding h on h.run_id = t.run_id join person p on p.id = h.person_id where t.closed_at is null`,
  );
  for (const { task, who } of left) {
    const { id: scim, members, meta } = await w.scimGroup(group);
    if (members.some((m) => m.value === who))
      await directoryClient.patchGroup(scim, [{ op: 'remove', path: `members[value eq "${who}"]` }], meta?.version, randomBytes(4).toString('hex'));
    expect(await finishTask(w.viewer('boss'), { id: task, values: {}, checked: [] })).toMatchObject({ ok: true });
  }
}
