import pg from 'pg';
import { colleagueStarting } from '../demo/colleague-starting.ts';
import { askedOf } from '../core/lists/index.ts';
import { approvalsFor } from '../server/approvals/list.ts';
import { findPeople } from '../server/people/find.ts';
import { ledger, ledgerCount } from '../server/runs/ledger.ts';
import { cursorOf } from '../server/lists/keyset.ts';
import { myRequests } from '../server/requests/queries.ts';
import { queueCount, queueFor } from '../server/queue/list.ts';
import { items } from '../server/items/list.ts';
import { disconnect } from '../server/db/database.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { useSettings } from '../server/config.ts';
import { findAnything } from '../server/lists/find-anything.ts';
import { stuckSteps } from '../server/runs/stuck.ts';
import { besideRaw, line } from './measure.ts';

/**
 * The lists and finds on a full house: a million requests, a hundred thousand people, a hundred thousand open tasks. Each
 * figure stands beside the raw SQL of the same question on the same rows in the same run.
 */
useSettings(process.env);
const requests = Number(process.env['BENCH_REQUESTS'] ?? 1_000_000);
const client = new pg.Client({ connectionString: process.env['DATABASE_URL']! });
await client.connect();
const one = async <T>(text: string, values: unknown[] = []) => (await client.query(text, values)).rows[0] as T;

async function fill(): Promise<void> {
  const definition = JSON.stringify(colleagueStarting({ peopleOffice: 'a', workplace: 'c' }, 't'));
  const n = (part: number) => Math.round(requests * part);
  const fast = 'set synchronous_commit = off';
  await client.query(fast);
  await client.query(`insert into person (directory_id, user_name, name, email, department, job_role)
    select 'd' || i, 'user' || i, (array['Una','Ivar','Solveig','Birk','Tuva','Njal','Ylva','Gudrun'])[1 + i % 8] || ' ' || (array['Skar','Tide','Lang','Salt','Foss','West','Storm','Eid'])[1 + (i / 8) % 8] || (i % 1000),
      'user' || i || '@skerrin.example', 'Charts', 'Chart editor' from generate_series(1, ${n(0.1)}) i`);
  await client.query(
    `insert into item (name, draft, published_revision) select 'Item ' || i, ($1::jsonb || jsonb_build_object('name', 'Item ' || i)), 1 from generate_series(1, 200) i`,
    [definition],
  );
  await client.query(`insert into revision (item_id, number, definition, content_hash, published_by)
    select i.id, 1, i.draft, md5(i.name), (select id from person limit 1) from item i`);
  await client.query(`insert into team (name) select 'Team ' || i from generate_series(1, 50) i`);
  await client.query('create temp table p as select id, row_number() over () - 1 as n from person');
  await client.query('create temp table r as select r.id, r.item_id, row_number() over () - 1 as n from revision r');
  await client.query('create temp table t as select id, row_number() over () - 1 as n from team');
  await client.query('create index on p(n); create index on r(n); create index on t(n); analyze p; analyze r; analyze t');
  await client.query(`insert into team_member (team_id, person_id) select t.id, p.id from t join p on p.n between t.n * 20 and t.n * 20 + 39`);
  // One in ten is open; of the rest most are fulfilled.
  await client.query(`insert into service_case (kind, item_id, revision_id, requester_id, answers, words, opened_at, ended_at, outcome, idempotency_key)
    select 'request', r.item_id, r.id, p.id, '{"name": "Somebody", "first": "2026-12-01"}',
      'Item ' || i % 200 || ' for somebody, number ' || i || case when i % 10 = 3 then ', sounding' else '' end || case when i % 100000 = 7 then ', theodolite' else '' end, now() - make_interval(mins => (${requests} - i)::int / 4),
      case when i % 10 > 0 then now() end, case i % 10 when 0 then null when 1 then (array['declined','withdrawn','lapsed','failed'])[1 + i / 10 % 4] else 'fulfilled' end,
      'k' || i
    from generate_series(1, ${requests}) i join r on r.n = i % 200 join p on p.n = (i * 7919::bigint) % ${n(0.1)}`);
  await client.query(`insert into run (case_id, revision_id, began_at, ended_at, outcome, seq, state)
    select id, revision_id, opened_at, ended_at, outcome, 5,
      '{"status": "open", "answers": {"name": "Somebody", "first": "2026-12-01"}, "outputs": {}, "begun": {"a": 1}, "root": {"id": "plan", "at": 3}}' from service_case`);
  await client.query(
    'create temp table q as select u.id, u.outcome, row_number() over (order by k.number) - 1 as n from run u join service_case k on k.id = u.case_id',
  );
  await client.query('analyze q');
  await client.query(`insert into run_step (run_id, key, step, kind, name, began_at, ended_at, "end", inputs, stuck_cause)
    select id, 'a#1', 'a', 'task', 'Do it', now() - interval '1 day', case when outcome is not null then now() end, case when outcome is not null then 'done' end, '{}',
      case when outcome is null and n % 500 = 0 then 'The system refused.' end from q`);
  await client.query(`insert into gate (run_id, key, name, rule, opened_at, closed_at, result)
    select id, 'g#1', 'Agree', '{"rule": "first"}', now() - interval '1 day', case when outcome is not null then now() end, case when outcome is not null then 'approved' end from q where n % 3 = 0`);
  await client.query('create temp table g as select id, closed_at, row_number() over () - 1 as n from gate');
  // A hundred people are asked most of what is asked.
  await client.query(`insert into approval (gate_id, person_id, status, asked_at, decided_at, over_at)
    select g.id, p.id, case when g.closed_at is null then 'waiting' else 'approved' end, now() - make_interval(mins => (g.n % 100000)::int), case when g.closed_at is not null then now() - make_interval(mins => (g.n % 90000)::int) end,
      case when g.closed_at is not null then now() - make_interval(mins => (g.n % 90000)::int) end
    from g join p on p.n = g.n % 100`);
  await client.query(`insert into task (run_id, key, name, team_id, instructions, checklist, fields, draft, due_at, opened_at, closed_at)
    select q.id, 't#1', 'Hand it out', t.id, '[]', '[]', '[]', '{"values": {}, "checked": []}', case when q.n % 5 > 0 then now() + make_interval(mins => (q.n % 50000)::int) end, now(), case when q.outcome is not null then now() end
    from q join t on t.n = q.n % 50 where q.outcome is null or q.n % 2 = 0`);
  await client.query('drop table p, r, t, q, g');
  await client.query('vacuum analyze');
}

const beside = besideRaw(client);

const begin = performance.now();
await fill();
line(`filled with ${requests.toLocaleString('en-GB')} requests`, `${Math.round((performance.now() - begin) / 1000)} s`);
const busy = await one<{ id: string }>('select person_id as id from approval group by 1 order by count(*) desc limit 1');
const worker = await one<{ id: string }>('select person_id as id from team_member group by 1 order by count(*) desc limit 1');
const asker = await one<{ id: string }>('select requester_id as id from service_case group by 1 order by count(*) desc limit 1');
const middle = await one<{ number: string }>(`select number from service_case order by number desc offset ${Math.round(requests / 2)} limit 1`);
const designer = viewerFor(asker.id, 'designer', 'auditor', 'teamMember', 'administrator');
const at = Number(middle.number);
const half = cursorOf([String(at)]);
const asks = (asked: string) => ledger(designer, askedOf('ledger', asked));

// The same rows with the step under way, as the lists show it.
const list = `select r.id, r.number, v.name as item, r.opened_at, r.ended_at, r.outcome, p.name, s.name as step from service_case r join person p on p.id = r.requester_id
  join revision v on v.id = r.revision_id left join lateral (select s.name from run u join run_step s on s.run_id = u.id where u.case_id = r.id and s.ended_at is null limit 1) s on r.outcome is null`;
await beside('Ledger, all, first page', () => asks(''), `${list} order by r.number desc limit 51`);
await beside('Ledger, all, a page in the middle', () => asks(`after=${half}`), `${list} where r.number < $1 order by r.number desc limit 51`, [at]);
await beside('Ledger, open', () => asks('state=open'), `${list} where r.outcome is null order by r.number desc limit 51`);
await beside('Ledger, declined', () => asks('state=declined'), `${list} where r.outcome = 'declined' order by r.number desc limit 51`);
await beside(
  'Ledger, declined, a page in the middle',
  () => asks(`state=declined&after=${half}`),
  `${list} where r.outcome = 'declined' and r.number < $1 order by r.number desc limit 51`,
  [at],
);
await beside(
  'Ledger, stuck',
  () => asks('state=stuck'),
  `${list} where r.id in (select u.case_id from run_step s join run u on u.id = s.run_id where s.stuck_cause is not null) and r.outcome is null order by r.number desc limit 51`,
);
// Narrowed and ordered in other ways; what a word finds, how many there are.
const some = await one<{ item: string; day: string }>(
  `select item_id as item, (now() - interval '60 days')::date::text as day from service_case order by number desc limit 1`,
);
await beside('Ledger, by requester', () => asks('sort=requester'), `${list} order by lower(p.name), p.id, r.number limit 51`);
await beside('Ledger, by when they ended', () => asks('sort=-ended'), `${list} order by r.ended_order desc, r.number desc limit 51`);
await beside('Ledger, one item', () => asks(`item=${some.item}`), `${list} where r.item_id = $1 order by r.number desc limit 51`, [some.item]);
await beside(
  'Ledger, lapsed, opened two months ago or before',
  () => asks(`opened=..${some.day}&state=lapsed`),
  `${list} where r.outcome = 'lapsed' and r.opened_at < $1::date + 1 order by r.number desc limit 51`,
  [some.day],
);
await beside(
  'Ledger, a rare word of what was asked',
  () => asks('q=theodolite'),
  `${list} where to_tsvector('simple', left(r.words, 100000)) @@ to_tsquery('simple', 'theodolite:*') order by r.number desc limit 51`,
);
await beside(
  'Ledger, a word that every tenth has',
  () => asks('q=sounding'),
  `${list} where to_tsvector('simple', left(r.words, 100000)) @@ to_tsquery('simple', 'sounding:*') order by r.number desc limit 51`,
);
await beside(
  'Ledger, how many are declined',
  () => ledgerCount(designer, askedOf('ledger', 'state=declined')),
  `select count(*) from (select from service_case where outcome = 'declined' limit 1001) x`,
);
await beside('My requests', () => myRequests(designer), `${list} where r.requester_id = $1 order by r.number desc limit 31`, [asker.id]);
const asked = `select a.id, k.number, v.name as item, g.name as gate, p.name, a.asked_at, a.over_at from approval a join gate g on g.id = a.gate_id
  join run u on u.id = g.run_id join service_case k on k.id = u.case_id join revision v on v.id = k.revision_id join person p on p.id = k.requester_id
  where a.person_id = $1 and`;
await beside(
  'Approvals, waiting and decided lately',
  async () => [
    await approvalsFor(viewerFor(busy.id), askedOf('approvals')),
    await approvalsFor(viewerFor(busy.id), askedOf('approvals', 'state=over'), 20),
  ],
  `(${asked} a.status = 'waiting' order by a.asked_at limit 51) union all (${asked} a.over_at is not null order by a.over_at desc limit 20)`,
  [busy.id],
);
const team = `select t.id, t.name, t.due_at from team_member m cross join lateral
  (select * from task where team_id = m.team_id and closed_at is null order by due_order, id limit 51) t where m.person_id = $1 order by t.due_order, t.id limit 51`;
await beside('Tasks of a team', () => queueFor(viewerFor(worker.id), askedOf('queue')), team, [worker.id]);
await beside(
  'Tasks, only mine',
  () => queueFor(viewerFor(worker.id), askedOf('queue', 'whose=mine')),
  'select id from task where taken_by = $1 and closed_at is null order by due_order limit 51',
  [worker.id],
);
await beside(
  'Tasks of a team, how many',
  () => queueCount(viewerFor(worker.id), askedOf('queue')),
  `select count(*) from (select t.id from team_member m join task t on t.team_id = m.team_id where m.person_id = $1 and t.closed_at is null limit 1001) x`,
  [worker.id],
);
await beside(
  'Stuck steps',
  () => stuckSteps(designer, askedOf('stuck')),
  'select key from run_step where stuck_cause is not null order by began_at, "order" limit 51',
);
await beside(
  'Items of the Workshop, with how many are open',
  () => items(designer, 'item', askedOf('items')),
  'select i.id, i.name, (select count(*) from service_case r where r.item_id = i.id and r.outcome is null) from item i order by lower(i.name)',
);
await beside(
  'Find a person by a part of the name',
  () => findPeople('foss 12'),
  `select id, name from person where active and (lower(name) like '%foss 12%' or lower(email) like '%foss 12%') order by name limit 8`,
);
await beside('Find anything: a request by its number', () => findAnything(designer, `R-${at}`), 'select number from service_case where number = $1', [
  at,
]);
await beside('Find anything: words', () => findAnything(designer, 'item 17'), `select id, name from item where lower(name) like '%item 17%' limit 8`);
await client.end();
await disconnect();
process.exit(0);
