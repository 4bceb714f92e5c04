import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { spawn, type ChildProcess } from 'node:child_process';
import pg from 'pg';
import { sql } from 'drizzle-orm';
import { advance, newState, type RunEvent, type RunState } from '../core/engine/index.ts';
import { joinGroup } from '../core/testing/samples.ts';
import { decide } from '../server/approvals/commands.ts';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { approval } from '../server/db/schema/index.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { passages, type Plan } from '../core/plans/index.ts';
import { gate, step, tell } from '../core/testing/samples.ts';
import { askFor, good, publishPlan } from './generated.ts';
import { line } from './measure.ts';

/** Prints how fast plans run here, each figure beside the raw limit it is held against, measured in the same run. */
useSettings(process.env);
const url = process.env['DATABASE_URL']!;
const rate = (n: number, ms: number) => (n / ms) * 1000;
const whole = (n: number) => Math.round(n).toLocaleString('en-GB');
const quantile = (sorted: number[], q: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * q))] ?? 0;

/** Single-row commits a second on so many connections: what the same PostgreSQL can do at most. */
async function rawCommits(connections: number, ms: number): Promise<number> {
  const pool = new pg.Pool({ connectionString: url, max: connections });
  await pool.query('create table if not exists bench_row (id uuid primary key, at timestamptz not null)');
  const end = performance.now() + ms;
  let n = 0;
  await Promise.all(
    Array.from({ length: connections }, async () => {
      while (performance.now() < end) {
        await pool.query('insert into bench_row values ($1, now())', [randomUUID()]);
        n++;
      }
    }),
  );
  await pool.query('drop table bench_row');
  await pool.end();
  return rate(n, ms);
}

function advanceAlone(): void {
  const events: RunEvent[] = [
    { type: 'begin', requester: { person: 'r' }, number: 'R-1', zone: 'Atlantic/Faroe', answers: { group: { group: 'g' }, kind: 'daily' } },
    { type: 'found', key: 'owners#1', people: [{ person: 'o1' }, { person: 'o2' }] },
    { type: 'decided', key: 'owners#1', person: 'o1', decision: 'approve', comment: '' },
    { type: 'answered', key: 'add#1', outputs: { already: false } },
  ];
  let n = 0;
  const begin = performance.now();
  while (performance.now() - begin < 2000) {
    let state: RunState = newState();
    for (const event of events) {
      state = advance(joinGroup, state, event, '2026-03-02T09:00:00.000Z').state;
      n++;
    }
  }
  line('advance alone, events a second (one thread)', whole(rate(n, performance.now() - begin)));
}

/** A plan that only timers move: what the workers do by themselves is measured. The waits of a run are due one after another. */
const waits = 12;
const pauses: Plan = {
  steps: [
    step('together', 'all', {
      join: 'all',
      branches: Array.from({ length: waits }, (_, i) => ({
        id: `b${i}`,
        name: `B${i}`,
        block: [step('pause', `p${i}`, { until: { span: { length: `PT${i + 1}S`, counted: 'always' } } })],
      })),
    }),
  ],
};

async function workers(count: number): Promise<ChildProcess[]> {
  return Promise.all(
    Array.from(
      { length: count },
      () =>
        new Promise<ChildProcess>((up) => {
          const child = spawn(process.execPath, ['build/processes/worker.js'], {
            env: { ...process.env, LOG_LEVEL: 'error' },
            stdio: ['ignore', 'pipe', 'inherit'],
          });
          child.stdout!.on('data', (d) => String(d).includes('worker ready') && up(child));
        }),
    ),
  );
}
const stop = (all: ChildProcess[]) =>
  Promise.all(
    all.map(
      (c) =>
        new Promise((done) => {
          c.once('exit', done);
          c.kill('SIGTERM');
        }),
    ),
  );

/** Events advanced and committed a second by so many workers: a backlog of timers that are all due. */
async function committed(itemId: string, org: Awaited<ReturnType<typeof makeOrganisation>>, count: number, runs: number): Promise<number> {
  for (let i = 0; i < runs; i += 8) await Promise.all(Array.from({ length: 8 }, () => askFor(org, itemId).then(good)));
  await new Promise((r) => setTimeout(r, (waits + 2) * 1000));
  const left = async () => (await db().execute<{ n: number }>(sql`select count(*)::int as n from timer`)).rows[0]!.n;
  const backlog = await left();
  const all = await workers(count);
  const begin = performance.now();
  const from = await left();
  while ((await left()) > 0) await new Promise((r) => setTimeout(r, 50));
  const figure = rate(from, performance.now() - begin);
  await stop(all);
  if (backlog < runs * waits) throw new Error(`Only ${backlog} timers were set.`);
  return figure;
}

/** From a decision to the next step being there to see, one after another. */
async function latency(org: Awaited<ReturnType<typeof makeOrganisation>>): Promise<void> {
  const plan: Plan = {
    steps: [gate(), step('task', 't', { assignee: { team: 'desk' }, instructions: passages('Do'), checklist: [], fields: [] }), tell('end', 'End')],
  };
  const item = await publishPlan(org, 'Latency', plan);
  const times: number[] = [];
  for (let i = 0; i < 200; i++) {
    const { number } = good(await askFor(org, item));
    const { rows } = await db().execute<{ id: string; person: string; run: string }>(
      sql`select a.id, a.person_id as person, g.run_id as run from ${approval} a join gate g on g.id = a.gate_id join run u on u.id = g.run_id join service_case r on r.id = u.case_id where r.number = ${number} limit 1`,
    );
    const asked = rows[0]!;
    const begin = performance.now();
    good(await decide(viewerFor(asked.person), { approvalId: asked.id, decision: 'approve', comment: '' }));
    await db().execute(sql`select id from task where run_id = ${asked.run}`);
    times.push(performance.now() - begin);
  }
  times.sort((a, b) => a - b);
  line('decision to next step visible, median', `${quantile(times, 0.5).toFixed(1)} ms`);
  line('decision to next step visible, 99th percentile', `${quantile(times, 0.99).toFixed(1)} ms`);
}

async function main(): Promise<void> {
  advanceAlone();
  const org = await makeOrganisation();
  // The rest is measured beside so many runs that wait for their approvers, so that no table is small.
  const open = Number(process.env['BENCH_RUNS'] ?? 10_000);
  const waiting = await publishPlan(org, 'Waiting', { steps: [gate(), tell('end', 'End')] });
  const begin = performance.now();
  for (let i = 0; i < open; i += 16) await Promise.all(Array.from({ length: Math.min(16, open - i) }, () => askFor(org, waiting).then(good)));
  line(`opening ${whole(open)} runs, a second`, whole(rate(open, performance.now() - begin)));
  await memory(open);
  const item = await publishPlan(org, 'Pauses', pauses);
  for (const count of (process.env['BENCH_WORKERS'] ?? '1,2,4').split(',').map(Number)) {
    const raw = await rawCommits(4 * count, 4000);
    const ours = await committed(item, org, count, 400);
    line(
      `events advanced and committed a second, ${count} ${count === 1 ? 'worker' : 'workers'}`,
      whole(ours),
      `${whole(raw)} single-row commits a second on ${4 * count} connections: ${(ours / raw).toFixed(2)} of it`,
    );
  }
  await latency(org);
  await disconnect();
  process.exit(0);
}

/** A worker that has handed over the mails of so many open runs, and now waits. */
async function memory(open: number): Promise<void> {
  const [worker] = await workers(1);
  const jobs = async () =>
    (await db().execute<{ n: number }>(sql`select count(*)::int as n from graphile_worker.jobs where run_at <= now() and attempts = 0`)).rows[0]!.n;
  const from = await jobs();
  const begin = performance.now();
  while ((await jobs()) > 0) await new Promise((r) => setTimeout(r, 200));
  line(`handing over the mails they wrote, a second`, whole(rate(from, performance.now() - begin)));
  const { rows } = await db().execute<{ size: string }>(
    sql`select pg_size_pretty(pg_total_relation_size('service_case') + pg_total_relation_size('run')) as size`,
  );
  const rss = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${worker!.pid}/status`, 'utf8'))?.[1];
  line(
    `memory of a worker with ${whole(open)} open runs`,
    `${Math.round(Number(rss) / 1024)} MB`,
    `no state lives in it; the runs themselves take ${rows[0]?.size} in the database`,
  );
  await stop([worker!]);
}

main().catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});
