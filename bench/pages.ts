import { spawn } from 'node:child_process';
import { availableParallelism } from 'node:os';
import autocannon from 'autocannon';
import pg from 'pg';
import { joinGroup } from '../core/testing/samples.ts';
import { hashToken, newToken } from '../server/auth/token.ts';
import { useSettings } from '../server/config.ts';
import { db, disconnect } from '../server/db/database.ts';
import { session } from '../server/db/schema/index.ts';
import { setSession } from '../server/http/cookie.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { askFor, good, publishPlan } from './generated.ts';
import { line } from './measure.ts';

/**
 * Pages a second that the web processes of one start serve to sixteen people at once, beside what they answer at most (`/livez`,
 * which does nothing) and beside the raw SQL of the same page, all in one run.
 */
useSettings(process.env);
const origin = `http://127.0.0.1:${process.env['PORT']}`;
const seconds = Number(process.env['BENCH_SECONDS'] ?? 8);
const connections = 16;

/** The web processes of one start, so many of them. */
async function web(many: number): Promise<() => Promise<void>> {
  const child = spawn(process.execPath, ['build/processes/web.js'], {
    env: { ...process.env, WEB_PROCESSES: String(many), LOG_LEVEL: 'error' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((up) => child.stdout.on('data', (d) => String(d).includes('web ready') && up()));
  return () =>
    new Promise<void>((done) => {
      child.once('exit', () => done());
      child.kill('SIGTERM');
    });
}

async function served(path: string, cookie: string): Promise<number> {
  const shoot = (duration: number) => autocannon({ url: origin + path, connections, duration, headers: { cookie } });
  await shoot(2);
  const result = await shoot(seconds);
  if (result.non2xx || result.errors) throw new Error(`${path}: ${result.non2xx} answers were no page, ${result.errors} failed.`);
  return result.requests.average;
}

/** How often a second the same server answers a statement on as many connections. */
async function raw(text: string): Promise<number> {
  const pool = new pg.Pool({ connectionString: process.env['DATABASE_URL'], max: connections });
  const end = performance.now() + 3000;
  let n = 0;
  await Promise.all(
    Array.from({ length: connections }, async () => {
      for (; performance.now() < end; n++) await pool.query({ name: 'raw', text });
    }),
  );
  await pool.end();
  return n / 3;
}

const org = await makeOrganisation();
let item = '';
for (let i = 0; i < 30; i++) item = await publishPlan(org, `Survey tool ${i + 1}`, joinGroup);
for (let i = 0; i < 40; i++) good(await askFor(org, item));
const token = newToken();
await db()
  .insert(session)
  .values({ idHash: hashToken(token), personId: org.people['tor']!, expiresAt: new Date(Date.now() + 3_600_000), address: '', agent: 'bench' });
const cookie = (await setSession(token)).split(';')[0]!;

const rows = await raw(
  'select i.id, r.name, r.summary, r.category from item i join revision r on r.item_id = i.id and r.number = i.published_revision order by 4, 3',
);
line('the raw SQL of the Counter’s page, a second', Math.round(rows).toString(), `${connections} connections`);
for (const many of [...new Set([1, availableParallelism()])]) {
  const stop = await web(many);
  const processes = `${many} web ${many === 1 ? 'process' : 'processes'}`;
  const nothing = await served('/livez', cookie);
  for (const [what, path] of [
    ['the Counter', '/counter'],
    ['a form', `/counter/ask/${item}`],
    ['my requests', '/counter/requests'],
  ] as const) {
    const pages = await served(path, cookie);
    line(
      `${what}, pages a second, ${processes}`,
      Math.round(pages).toString(),
      `${Math.round(nothing)} answers that say nothing: ${(pages / nothing).toFixed(2)} of it`,
    );
  }
  await stop();
}
await disconnect();
process.exit(0);
