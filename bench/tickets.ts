import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { Readable } from 'node:stream';
import { text } from 'node:stream/consumers';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import { askedOf } from '../core/lists/index.ts';
import {
  analyseRouting,
  compileRouting,
  rowFor,
  type RoutingDomain,
  type RoutingFacts,
  type RoutingRow,
  type RoutingTable,
} from '../core/routing/index.ts';
import { keptDocument, kindFormat, ticketFormat } from '../core/documents/index.ts';
import { shippedKinds } from '../core/tickets/index.ts';
import { useSettings } from '../server/config.ts';
import { disconnect } from '../server/db/database.ts';
import { cursorOf } from '../server/lists/keyset.ts';
import { queueFor } from '../server/queue/list.ts';
import { ticketList } from '../server/tickets/list.ts';
import { myTickets, ticketFor } from '../server/tickets/queries.ts';
import { reportTicket } from '../server/tickets/report.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { besideRaw, line, timed } from './measure.ts';

/** Rows into a table by COPY, through psql; what it says is the error. */
async function copyIn(into: string, rows: Iterable<(string | number | null)[]>): Promise<void> {
  const psql = spawn('psql', [process.env['DATABASE_URL']!, '-q', '-v', 'ON_ERROR_STOP=1', '-c', `\\copy ${into} from stdin (format csv)`], {
    stdio: ['pipe', 'inherit', 'pipe'],
  });
  const said = text(psql.stderr);
  const ended = once(psql, 'exit');
  const cell = (v: string | number | null) => (v === null ? '' : `"${String(v).replaceAll('"', '""')}"`);
  await pipeline(
    Readable.from(
      (function* () {
        let some = '';
        for (const row of rows) {
          some += `${row.map(cell).join(',')}\n`;
          if (some.length > 1 << 16) {
            yield some;
            some = '';
          }
        }
        yield some;
      })(),
    ),
    psql.stdin,
  );
  const [code] = (await ended) as [number];
  if (code !== 0) throw new Error(await said);
}

/** Routing in numbers, and the desk on a full house: a million tickets, fifty teams. */
useSettings(process.env);

// A thousand rows over five columns: decisions beside the same table read row by row, and how long it takes to look through it.
const places = Array.from({ length: 60 }, (_, i) => `place${i}`);
const tree = new Map(places.map((p, i) => [p, i < 5 ? null : `place${Math.floor(i / 12)}`]));
const values = (of: string, n: number) => Array.from({ length: n }, (_, i) => `${of}${i}`);
const [kinds, categories, priorities, departments] = [values('kind', 4), values('category', 40), values('priority', 3), values('department', 20)];
let seed = 7;
const next = (n: number): number => {
  seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
  return seed % n;
};
const some = (of: string[], most: number) => ({
  is: 'oneOf' as const,
  values: [...new Set(Array.from({ length: 1 + next(most) }, () => of[next(of.length)]!))],
});
const rows = Array.from({ length: 1000 }, (_, i): RoutingRow => ({
  id: `r${i}`,
  cells: {
    kind: some(kinds, 1),
    category: some(categories, 3),
    ...(next(3) > 0 && { place: { is: 'under', places: [places[next(places.length)]!] } }),
    ...(next(2) > 0 && { priority: some(priorities, 2) }),
    ...(next(3) === 0 && { department: some(departments, 4) }),
  },
  answer: { team: `team${next(50)}`, how: 'pickUp' },
}));
const table: RoutingTable = {
  name: 'Who gets it',
  chooses: 'nearest',
  columns: (['kind', 'category', 'place', 'priority', 'department'] as const).map((fact) => ({ id: fact, fact })),
  rows,
  fallback: { team: 'team0', how: 'pickUp' },
};
const cases = Array.from(
  { length: 10_000 },
  (): RoutingFacts =>
    new Map([
      ['kind', kinds[next(4)]!],
      ['category', categories[next(40)]!],
      ['place', places[next(60)]!],
      ['priority', priorities[next(3)]!],
      ['department', departments[next(20)]!],
    ]),
);
const router = compileRouting(table, tree);
const decisions = await timed(() => Promise.resolve(cases.forEach((c) => router.decide(c))), 11);
const read = await timed(() => Promise.resolve(cases.slice(0, 100).forEach((c) => rowFor(table, c, tree))), 3);
line(
  'routing decisions over 1,000 rows, a second',
  Math.round((cases.length / decisions) * 1000).toLocaleString('en-GB'),
  `read row by row ${Math.round((100 / read) * 1000).toLocaleString('en-GB')}: ${Math.round((cases.length / decisions / (100 / read)) * 10) / 10} times`,
);
const domain: RoutingDomain = {
  facts: new Map([
    ['kind', { values: kinds, empty: false }],
    ['category', { values: categories, empty: true }],
    ['place', { values: places, empty: true }],
    ['priority', { values: priorities, empty: false }],
    ['department', { values: departments, empty: true }],
  ]),
};
const looking = await timed(() => Promise.resolve(analyseRouting(table, domain, tree)), 5);
const found = analyseRouting(table, domain, tree);
line(
  'looking through 1,000 rows of 5 columns exactly',
  `${Math.round(looking)} ms`,
  `${found.combinations.toLocaleString('en-GB')} combinations, ${(found.uncovered?.combinations ?? 0).toLocaleString('en-GB')} uncovered; not looked through: ${found.notLookedThrough.length} rows`,
);

// A million tickets.
const tickets = Number(process.env['BENCH_TICKETS'] ?? 1_000_000);
const client = new pg.Client({ connectionString: process.env['DATABASE_URL']! });
await client.connect();
const one = async <T>(text: string, of: unknown[] = []) => (await client.query(text, of)).rows[0] as T;
const begin = performance.now();
await client.query('set synchronous_commit = off');
await client.query(`insert into person (directory_id, user_name, name, email, department, job_role)
  select 'd' || i, 'user' || i, 'Una Tide' || i, 'user' || i || '@skerrin.example', 'Charts', 'Chart editor' from generate_series(1, 10000) i`);
await client.query(`insert into team (name) select 'Team ' || i from generate_series(1, 50) i`);
await client.query('create temp table p as select id, row_number() over (order by user_name) - 1 as n from person');
await client.query('create temp table t as select id, row_number() over (order by name) - 1 as n from team');
await client.query('create index on p(n); create index on t(n); analyze p; analyze t');
await client.query(`insert into team_member (team_id, person_id) select t.id, p.id from t join p on p.n between t.n * 20 and t.n * 20 + 39`);
const kind = await one<{ id: string }>('insert into ticket_kind (name, definition) values ($1, $2) returning id', [
  'Incident',
  JSON.stringify(keptDocument(kindFormat, shippedKinds[0]!)),
]);
const state = keptDocument(ticketFormat, {
  status: 'fresh',
  since: '2026-11-25T09:00:00.000Z',
  impact: 'one',
  urgency: 'soon',
  priority: 'low',
  openedAt: '2026-11-25T09:00:00.000Z',
  held: [],
  told: [],
});
const [persons, teams] = [
  (await client.query<{ id: string }>('select id from p order by n')).rows.map((r) => r.id),
  (await client.query<{ id: string }>('select id from t order by n')).rows.map((r) => r.id),
];
const started = Date.now();
const endedAt = '2026-11-26T09:00:00.000Z';
/** The i-th ticket, from 1: its id, when it was opened, whether it has ended, what was said. */
const caseOf = (i: number) => ({
  id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
  asker: persons[(i * 7919) % persons.length]!,
  opened: new Date(started - Math.floor((tickets - i) / 4) * 60_000).toISOString(),
  ended: i % 20 > 0,
  words: `Tablet ${i}${i % 100_000 === 7 ? ' theodolite' : ''}`,
});
const all = function* (rowOf: (c: ReturnType<typeof caseOf>, i: number) => (string | number | null)[]) {
  for (let i = 1; i <= tickets; i++) yield rowOf(caseOf(i), i);
};
await copyIn(
  'service_case (id, number, kind, requester_id, answers, words, opened_at, ended_at, outcome, idempotency_key)',
  all((c, i) => [c.id, 1000 + i, 'ticket', c.asker, '{}', c.words, c.opened, c.ended ? endedAt : null, c.ended ? 'fulfilled' : null, `k${i}`]),
);
await client.query(`select setval(pg_get_serial_sequence('service_case', 'number'), (select max(number) from service_case))`);
await copyIn(
  'ticket (case_id, kind_id, subject, category, seq, state, status, priority, team_id, due_at, ended_at)',
  all((c, i) => {
    const team = teams[Math.floor(i / 20) % teams.length]!;
    const its = JSON.stringify({ ...state, team, ...(c.ended && { endedAt }) });
    const due = new Date(started + (i % 50_000) * 60_000).toISOString();
    return [c.id, kind.id, `Tablet does not charge, number ${i}`, 'Access', 1, its, 'fresh', 'low', team, due, c.ended ? endedAt : null];
  }),
);
await copyIn(
  'ticket_event (case_id, seq, at, event)',
  all((c) => [c.id, 1, c.opened, '{"type": "opened", "impact": "one", "urgency": "soon", "priority": "low"}']),
);
await copyIn(
  'case_word (case_id, at, by, "from", inside, via, text)',
  all((c) => [c.id, c.opened, c.asker, 'requester', 'false', 'screen', c.words]),
);
await client.query('vacuum analyze');
line(`filled with ${tickets.toLocaleString('en-GB')} tickets`, `${Math.round((performance.now() - begin) / 1000)} s`);

const beside = besideRaw(client);
const worker = await one<{ id: string }>('select person_id as id from team_member group by 1 order by count(*) desc limit 1');
const asker = await one<{ id: string }>('select requester_id as id from service_case limit 1');
const agent = viewerFor(worker.id, 'teamMember');
const queue = `select c.number, k.subject, p.name, k.status, k.due_at, k.state, g.name as team from ticket k join service_case c on c.id = k.case_id join person p on p.id = c.requester_id
  left join team g on g.id = k.team_id where k.case_id in (
  select case_id from (select x.case_id, x.due_order from team_member m cross join lateral
    (select case_id, due_order from ticket where team_id = m.team_id and ended_at is null /* after */ order by due_order, case_id limit 51) x where m.person_id = $1) firsts
  order by due_order, case_id limit 51) order by k.due_order, k.case_id limit 51`;
await beside('Queue of a team, first page', () => queueFor(agent, askedOf('queue', 'what=ticket')), queue, [worker.id]);
const page = await queueFor(agent, askedOf('queue', 'what=ticket'));
const last = page.rows.at(-1)!;
const key = await one<{ due: string; id: string }>('select due_order::text as due, case_id as id from ticket where case_id = $1', [last.id]);
const after = cursorOf([key.due, key.id]);
await beside(
  'Queue of a team, next page',
  () => queueFor(agent, askedOf('queue', `what=ticket&after=${after}`)),
  queue.replace('/* after */', 'and (due_order, case_id) > ($2::timestamptz, $3::uuid)'),
  [worker.id, key.due, key.id],
);
await beside('Queue of a team, with its tasks', () => queueFor(agent, askedOf('queue')), queue, [worker.id]);
const number = Number(last.number);
await beside(
  'Opening a ticket at the Desk',
  () => ticketFor(agent, number),
  `select k.*, c.*, p.name, p.job_role, p.department, p.email, (select json_agg(w) from case_word w where w.case_id = c.id) as words,
    (select json_agg(e) from ticket_event e where e.case_id = c.id) as events, (select definition from ticket_kind where id = k.kind_id) as kind
    from ticket k join service_case c on c.id = k.case_id join person p on p.id = c.requester_id where c.number = $1`,
  [number],
);
await beside(
  'My tickets',
  () => myTickets(viewerFor(asker.id)),
  `select c.number, k.subject, k.state, d.definition from service_case c join ticket k on k.case_id = c.id join ticket_kind d on d.id = k.kind_id where c.requester_id = $1 order by c.number desc limit 31`,
  [asker.id],
);

// The list of all of them: newest first, narrowed to a team, and by words, rare and common.
const row = `c.number, k.subject, k.category, p.name, c.opened_at, k.ended_at, k.due_at, k.state, g.name as team from service_case c join ticket k on k.case_id = c.id
  join person p on p.id = c.requester_id left join team g on g.id = k.team_id`;
const reader = viewerFor(worker.id, 'auditor');
const list = (query: string) => () => ticketList(reader, askedOf('tickets', query));
await beside('All tickets, first page', list(''), `select ${row} where c.kind = 'ticket' order by c.number desc limit 51`);
const team = await one<{ id: string }>('select team_id as id from ticket where ended_at is null limit 1');
await beside(
  'All tickets, of a team and open',
  list(`team=${team.id}&state=open`),
  `select ${row} where c.kind = 'ticket' and k.team_id = $1 and k.ended_at is null order by c.number desc limit 51`,
  [team.id],
);
const worded = `select ${row} where c.kind = 'ticket' and (to_tsvector('simple', left(c.words, 100000)) @@ to_tsquery('simple', $1)
  or exists (select from case_word w where w.case_id = c.id and to_tsvector('simple', left(w.text, 100000)) @@ to_tsquery('simple', $1))) order by c.number desc limit 51`;
const rareWord = `select ${row} where c.kind = 'ticket' and c.id in (select id from service_case where to_tsvector('simple', left(words, 100000)) @@ to_tsquery('simple', $1)
  union select case_id from case_word where to_tsvector('simple', left(text, 100000)) @@ to_tsquery('simple', $1)) order by c.number desc limit 51`;
await beside('All tickets, by a rare word', list('q=theodolite'), rareWord, ['theodolite:*']);
await beside('All tickets, by a common word', list('q=tablet'), worded, ['tablet:*']);

// Tickets opened one after another by as many people as there are, beside plain inserts of the same rows.
let n = 0;
const people = (await client.query<{ id: string }>('select id from p order by n desc limit 200')).rows;
const opened = await timed(async () => {
  const made = await reportTicket(viewerFor(people[n++ % people.length]!.id), {
    kindId: kind.id,
    subject: 'Tablet does not charge',
    words: 'It says it charges.',
    answers: {},
    idempotencyKey: `bench ${n}`,
  });
  if (!made.ok) throw new Error(made.sentence);
}, 101);
const plain = await timed(async () => {
  await client.query('begin');
  const made = await one<{ id: string }>(
    `insert into service_case (kind, requester_id, answers, words, opened_at, idempotency_key) values ('ticket', $1, '{}', 'x', now(), $2) returning id`,
    [people[0]!.id, `plain ${n++}`],
  );
  await client.query(`insert into ticket (case_id, kind_id, subject, seq, state, status, priority) values ($1, $2, 'x', 1, $3, 'fresh', 'low')`, [
    made.id,
    kind.id,
    JSON.stringify(state),
  ]);
  await client.query(`insert into ticket_event (case_id, seq, at, event) values ($1, 1, now(), '{}')`, [made.id]);
  await client.query(`insert into case_word (case_id, at, "from", inside, via, text) values ($1, now(), 'requester', false, 'screen', 'x')`, [
    made.id,
  ]);
  await client.query('commit');
}, 101);
line(
  'tickets opened, one after another',
  `${Math.round(1000 / opened)} a second`,
  `plain inserts ${Math.round(1000 / plain)}: ${(opened / plain).toFixed(1)} times as long`,
);
await client.end();
await disconnect();
