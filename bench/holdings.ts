import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import pg from 'pg';
import { joinAGroup } from '../demo/join-a-group.ts';
import { askedOf } from '../core/lists/index.ts';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { compare } from '../server/differences/compare.ts';
import { accounts, members } from '../server/differences/directory-lists.ts';
import { reconcileGroup } from '../server/groups/reconcile.ts';
import { holdingList } from '../server/holdings/list.ts';
import { thingsHeld } from '../server/holdings/queries.ts';
import { notesWaiting } from '../server/notes/queries.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { ownActionSpecs } from '../server/systems/index.ts';
import { besideRaw, line, timed } from './measure.ts';

/**
 * What people hold, on a full house: a million holdings of a hundred thousand people, each list beside the raw SQL of the same question
 * in the same run; and a thousand calls that were accepted and wait, beside a worker that has none.
 */
useSettings(process.env);
const holdings = Number(process.env['BENCH_HOLDINGS'] ?? 1_000_000);
const [people, runs, groups] = [Math.round(holdings / 10), Math.round(holdings / 10), 50];
const client = new pg.Client({ connectionString: process.env['DATABASE_URL']! });
await client.connect();
const one = async <T>(text: string, values: unknown[] = []) => (await client.query(text, values)).rows[0] as T;

const begin = performance.now();
await client.query('set synchronous_commit = off');
await client.query(`insert into person (directory_id, user_name, name, email, department, job_role, password_hash)
  select 'd' || i, 'user' || i, 'Una Tide' || i, 'user' || i || '@skerrin.example', 'Department ' || i % 100, 'Chart editor', 'x' from generate_series(1, ${people}) i`);
await client.query('create temp table p as select id, row_number() over (order by user_name) - 1 as n from person');
await client.query('create unique index on p(n); analyze p');
// Everybody but the first has a manager who has about twenty people.
await client.query('update person set manager_id = m.id from p join p m on m.n = p.n / 20 where person.id = p.id and p.n > 0');
await client.query(`insert into access_group (directory_id, name) select 'g' || i, 'group-' || i from generate_series(1, ${groups}) i`);
await client.query(
  `insert into group_person (group_id, person_id, "as") select g.id, (select id from p where n = 5), 'owner' from access_group g where g.name = 'group-1'`,
);
await client.query(`insert into item (name, draft, published_revision) values ('Join a group', $1, 1)`, [JSON.stringify(joinAGroup('nobody'))]);
await client.query(
  `insert into revision (item_id, number, definition, content_hash, published_by) select id, 1, draft, 'x', (select id from p where n = 0) from item`,
);
await client.query(`insert into service_case (kind, item_id, revision_id, requester_id, answers, words, opened_at, ended_at, outcome, idempotency_key)
  select 'request', r.item_id, r.id, p.id, '{}', 'Join a group', now() - make_interval(mins => i), now(), 'fulfilled', 'k' || i
  from generate_series(1, ${runs}) i join p on p.n = i % ${people} cross join revision r`);
await client.query(`insert into run (case_id, revision_id, began_at, ended_at, outcome, seq, state)
  select id, revision_id, opened_at, ended_at, outcome, 5, '{"status": "ended", "answers": {}, "outputs": {}, "begun": {}, "root": {"id": "plan", "at": 3}}' from service_case`);
await client.query('create temp table r as select id, row_number() over () - 1 as n from run');
await client.query('create unique index on r(n); analyze r');
await client.query('create temp table g as select id, row_number() over (order by name) - 1 as n from access_group');
// One in five is over.
await client.query(`insert into holding (person_id, kind, what, run_id, key, action, since, ended_at, until)
  select p.id, 'group', jsonb_build_object('group', g.id), r.id, 'a#' || i / ${runs}, 'directory.addMember', now() - make_interval(secs => i), case when i % 5 = 0 then now() end,
    case when i % 50 = 1 then current_date + 30 end
  from generate_series(0, ${holdings - 1}) i join p on p.n = (i * 7919::bigint) % ${people} join r on r.n = i % ${runs} join g on g.n = i % ${groups}`);
await client.query(`insert into call (run_id, key, action, inputs, idempotency_key, retries, created_at, status, outputs, due_at, closed_at)
  select id, 'a#0', 'directory.addMember', '{}', 'c' || n, '{"times": 1, "firstPauseSeconds": 1, "factor": 1}', now(), 'succeeded', '{}', now(), now() from r`);
await client.query(`insert into sealed_note (call_id, run_id, key, person_id, labels, sealed, made_at, open_until, opened_at)
  select c.id, c.run_id, 'a#0', p.id, '["Key"]', case when r.n % 10 = 0 then 'x' end, now(), now() + interval '1 day', case when r.n % 10 > 0 then now() end
  from call c join r on r.id = c.run_id join p on p.n = r.n`);
// The directory has them in these groups, but for one in a thousand; and as many more that nobody asked for.
await client.query(`insert into group_person (group_id, person_id, "as") select distinct (h.what ->> 'group')::uuid, h.person_id, 'member' from holding h
  where h.ended_at is null and hashtext(h.person_id::text || h.what::text) % 1000 <> 0`);
await client.query(
  `insert into group_person (group_id, person_id, "as") select g.id, p.id, 'member' from p join g on g.n = p.n % ${groups} where p.n % 100 = 3 on conflict do nothing`,
);
await client.query('vacuum analyze');
line(`filled with ${holdings.toLocaleString('en-GB')} holdings`, `${Math.round((performance.now() - begin) / 1000)} s`);

const beside = besideRaw(client);
const [somebody, manager, owner] = [
  await one<{ id: string }>('select id from p where n = 4321 % (select count(*) from p)'),
  await one<{ id: string }>('select id from p where n = 7'),
  await one<{ id: string }>('select id from p where n = 5'),
];
const row = `select h.*, p.name, p.job_role, c.number, v.name as item from holding h join run u on u.id = h.run_id join service_case c on c.id = u.case_id
  join revision v on v.id = u.revision_id join person p on p.id = h.person_id`;
await beside(
  'What a person holds',
  () => thingsHeld(viewerFor(somebody.id), 'mine'),
  `${row} where h.person_id = $1 and h.ended_at is null order by h.since desc, h.id desc limit 51`,
  [somebody.id],
);
await beside(
  'What the people of a manager hold, first page',
  () => thingsHeld(viewerFor(manager.id), 'people'),
  `${row} where h.person_id in (select id from person where manager_id = $1) and h.ended_at is null order by h.since desc, h.id desc limit 51`,
  [manager.id],
);
await beside(
  `Who is in a group of ${Math.round((holdings / groups) * 0.8).toLocaleString('en-GB')}, first page`,
  () => thingsHeld(viewerFor(owner.id), 'owned'),
  `${row} where h.what ->> 'group' in (select group_id::text from group_person where person_id = $1 and "as" = 'owner') and h.ended_at is null order by h.since desc, h.id desc limit 51`,
  [owner.id],
);
// What the directory has beside what is held: the comparison alone, beside reading both sides once. One person in a hundred has an account
// that nobody gave them here.
await client.query(`insert into holding (person_id, kind, what, run_id, key, action, since)
  select p.id, 'account', to_jsonb(p.user_name), u.id, 'account#1', 'directory.createAccount', now() - interval '2 days'
  from (select id, user_name, row_number() over (order by id) as n from person where user_name like 'user%') p
  join (select id, row_number() over (order by id) as n from run) u using (n) where p.n % 100 <> 0`);
await client.query('analyze holding');
for (const { action, what, theirs, raw } of [
  { action: 'directory.addMember', what: 'memberships', theirs: members, raw: `select group_id, person_id from group_person where "as" = 'member'` },
  {
    action: 'directory.createAccount',
    what: 'accounts',
    theirs: accounts,
    raw: 'select id, user_name, email from person where active and not outside',
  },
]) {
  const spec = ownActionSpecs.find((s) => s.id === action)!;
  const compareAll = () =>
    db().transaction((tx) => compare(tx, { system: 'directory', spec: { ...spec, gives: spec.gives! }, theirs, began: new Date(), whole: true }));
  const [first, again] = [await timed(compareAll, 1), await timed(compareAll, 3)];
  const reading = await timed(async () => {
    await client.query('select h.id, h.what, h.person_id, h.until from holding h where h.action = $1 and h.ended_at is null', [action]);
    await client.query(raw);
  }, 3);
  const found = await one<{ n: string }>('select count(*) as n from difference where action = $1', [action]);
  const there = await one<{ n: string }>(`select count(*) as n from (${raw}) t`);
  line(
    `${Number(there.n).toLocaleString('en-GB')} ${what} compared, ${Number(found.n).toLocaleString('en-GB')} differ`,
    `${Math.round(again)} ms`,
    `the first time ${Math.round(first)} ms; reading both sides ${Math.round(reading)} ms: ${(again / reading).toFixed(1)} times`,
  );
}
// The condition of a group: one in a hundred of everybody, who come in if nobody is in it yet; beside reading everybody once.
const [whose] = (await client.query<{ id: string }>(`select id from access_group where name = 'group-2'`)).rows;
await client.query(
  `insert into group_condition (group_id, members, why, kept_by, kept_at, sure) select $1, '[{"department": "department 7"}]', 'x', id, now(), '{"in": 0, "out": 0}' from p where n = 0`,
  [whose!.id],
);
await beside(
  `A condition held against ${people.toLocaleString('en-GB')} people`,
  () => reconcileGroup(whose!.id),
  'select id, department, job_role, location_id from person where active',
  [],
);
const auditor = viewerFor(somebody.id, 'auditor');
await beside('All holdings, first page', () => holdingList(auditor, askedOf('holdings')), `${row} order by h.since desc, h.id desc limit 51`);
await beside(
  'All holdings, of one holder',
  () => holdingList(auditor, askedOf('holdings', `holder=${manager.id}`)),
  `${row} where h.person_id = $1 order by h.since desc, h.id desc limit 51`,
  [manager.id],
);
await beside(
  'Sealed notes that wait for a person',
  () => notesWaiting(viewerFor(somebody.id)),
  `select n.*, c.number from sealed_note n join run u on u.id = n.run_id join service_case c on c.id = u.case_id where n.person_id = $1 and n.sealed is not null and n.open_until > now()`,
  [somebody.id],
);

/** What a worker takes of the processor, and how many transactions the database sees, in so many seconds. */
async function restless(seconds: number): Promise<{ cpu: number; commits: number }> {
  const worker = spawn(process.execPath, ['--import', 'tsx', 'server/worker.ts'], { env: process.env, stdio: 'ignore' });
  const ended = new Promise((done) => worker.once('exit', done));
  // Ticks of a hundredth of a second, of the process itself and of the system for it: proc(5), fields 14 and 15.
  const ticks = () => {
    const fields = readFileSync(`/proc/${worker.pid}/stat`, 'utf8')
      .replace(/^.*\) /, '')
      .split(' ');
    return Number(fields[11]) + Number(fields[12]);
  };
  const commits = async () =>
    Number((await one<{ n: string }>('select xact_commit as n from pg_stat_database where datname = current_database()')).n);
  await pause(10_000);
  const before = { cpu: ticks(), commits: await commits() };
  await pause(seconds * 1000);
  const after = { cpu: ticks(), commits: await commits() };
  worker.kill('SIGTERM');
  await ended;
  return { cpu: (after.cpu - before.cpu) * 10, commits: after.commits - before.commits };
}
const seconds = 20;
const idle = await restless(seconds);
await client.query(`update call set status = 'accepted', outputs = null, closed_at = null, accepted_at = now(), begun_at = now(), answer_by = now() + interval '2 hours', due_at = now() + interval '5 minutes', job = 'j'
  where id in (select id from call order by id limit 1000)`);
await client.query(
  `select graphile_worker.add_job('call', json_build_object('callId', id), run_at => due_at, job_key => 'call:' || id) from call where closed_at is null`,
);
const waiting = await restless(seconds);
line(
  'a worker with 1,000 calls accepted and waiting',
  `${waiting.cpu} ms in ${seconds} s`,
  `with none ${idle.cpu} ms; ${waiting.commits} transactions beside ${idle.commits}`,
);
await client.end();
await disconnect();
