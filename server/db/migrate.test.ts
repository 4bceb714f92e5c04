import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { is } from 'drizzle-orm';
import { getTableConfig, PgTable } from 'drizzle-orm/pg-core';
import { drizzle } from 'drizzle-orm/node-postgres';
import { migrate as run } from 'drizzle-orm/node-postgres/migrator';
import { randomBytes } from 'node:crypto';
import pg from 'pg';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { timerOf } from '../runtime/jobs.ts';
import { world, type World } from '../testing/world.ts';

/** A database as it was before cases and runs were two, with a request under way in it, brought to the present. */
const folder = new URL('./migrations', import.meta.url).pathname;
const name = `t_old_${randomBytes(4).toString('hex')}`;
const url = process.env['TEST_DATABASE_URL']!.replace(/\/postgres$/, `/${name}`);
let w: World;
let admin: pg.Client;
let old: pg.Client;
beforeAll(async () => {
  w = await world();
  admin = new pg.Client({ connectionString: process.env['TEST_DATABASE_URL'] });
  await admin.connect();
  await admin.query(`create database ${name}`);
  old = new pg.Client({ connectionString: url });
  await old.connect();
});
afterAll(async () => {
  await old.end();
  await admin.query(`drop database ${name} with (force)`);
  await admin.end();
  await w.close();
});

/** The migrations up to one, as a folder of their own. */
function upTo(tag: string): string {
  const copy = mkdtempSync(join(tmpdir(), 'nessmoor-'));
  cpSync(folder, copy, { recursive: true });
  const journal = JSON.parse(readFileSync(join(copy, 'meta/_journal.json'), 'utf8')) as { entries: { tag: string }[] };
  const last = journal.entries.findIndex((e) => e.tag === tag);
  expect(last).toBeGreaterThan(0);
  writeFileSync(join(copy, 'meta/_journal.json'), JSON.stringify({ ...journal, entries: journal.entries.slice(0, last + 1) }));
  return copy;
}

it('a request under way keeps its number, answers, work and run; both of its halves have its id', async () => {
  const before = upTo('0007_lists');
  await run(drizzle(old), { migrationsFolder: before });
  rmSync(before, { recursive: true });
  // The rows of a real request, put into the old shape.
  const item = await w.item();
  const { id, caseId, number } = await w.ask(w.viewer('tor'), item.id);
  await w.query("insert into timer values ($1, 'late#1', 'late', now())", [id]);
  const rows = async (table: string, where = '') =>
    (await w.query<{ row: unknown }>(`select to_jsonb(x) as row from ${table} x ${where}`)).map((r) => r.row as Record<string, unknown>);
  const put = async (table: string, all: Record<string, unknown>[]) => {
    const columns = (
      await old.query<{ c: string }>(
        "select quote_ident(column_name) as c from information_schema.columns where table_name = $1 and is_generated = 'NEVER'",
        [table],
      )
    ).rows.map((r) => r.c);
    await old.query(
      `insert into ${table} (${columns.join(', ')}) overriding system value select ${columns.join(', ')} from jsonb_populate_recordset(null::${table}, $1)`,
      [JSON.stringify(all)],
    );
  };
  const asRequest = (r: Record<string, unknown>) => ({ ...r, request_id: caseId });
  for (const table of ['location', 'person', 'item', 'revision'])
    await put(
      table,
      (await rows(table)).map((r) => ({ ...r, manager_id: null })),
    );
  const [whole] = await w.query<{ row: Record<string, unknown> }>(
    'select to_jsonb(k) || jsonb_build_object($2::text, u.seq, $3::text, u.state, $4::text, k.idempotency_key) as row from service_case k join run u on u.case_id = k.id where u.id = $1',
    [id, 'seq', 'state', 'once_key'],
  );
  await put('request', [whole!.row]);
  await old.query("insert into role_grant (person_id, role) values ($1, 'fulfiller')", [w.id('tor')]);
  for (const table of ['run_event', 'run_step', 'gate', 'approval', 'timer', 'message']) await put(table, (await rows(table)).map(asRequest));

  await run(drizzle(old), { migrationsFolder: folder });

  const all = async (text: string) => (await old.query<Record<string, unknown>>(text)).rows;
  expect(await all('select number::int, kind, outcome, answers from service_case')).toEqual([
    { number, kind: 'request', outcome: null, answers: whole!.row['answers'] },
  ]);
  expect(
    await all('select id, case_id, seq, state, began_at = k.opened_at as at from run join (select opened_at from service_case) k on true'),
  ).toEqual([{ id: caseId, case_id: caseId, seq: whole!.row['seq'], state: whole!.row['state'], at: true }]);
  expect(await all('select role from role_grant')).toEqual([{ role: 'teamMember' }]);
  const [counts] = await all(`select (select count(*)::int from run_event where run_id = '${caseId}') as events,
    (select count(*)::int from run_step where run_id = '${caseId}') as steps, (select count(*)::int from gate where run_id = '${caseId}') as gates,
    (select count(*)::int from timer where run_id = '${caseId}') as timers,
    (select count(*)::int from message where run_id = '${caseId}' and case_id = run_id) as messages`);
  for (const [what, n] of Object.entries(counts!)) expect(n, what).toBeGreaterThan(0);
  await old.query("select setval('service_case_number_seq', $1)", [number]);
  expect(await all("select nextval('service_case_number_seq')::int as n")).toEqual([{ n: number + 1 }]);
});

it('the tables, columns and indexes that the migrations make are those of the schema', async () => {
  for (const table of Object.values(w.schema).filter((t) => is(t, PgTable))) {
    const config = getTableConfig(table);
    const columns = await w.query<{ name: string; optional: boolean }>(
      "select column_name as name, is_nullable = 'YES' as optional from information_schema.columns where table_schema = 'public' and table_name = $1",
      [config.name],
    );
    const byName = (a: { name: string }, b: { name: string }) => a.name.localeCompare(b.name);
    expect(columns.toSorted(byName), config.name).toEqual(config.columns.map((c) => ({ name: c.name, optional: !c.notNull })).toSorted(byName));
    const indexes = await w.query<{ name: string }>(
      `select i.relname as name from pg_index x join pg_class i on i.oid = x.indexrelid where x.indrelid = $1::regclass
        and not exists (select from pg_constraint c where c.conindid = x.indexrelid and c.contype in ('p', 'u'))`,
      [`"${config.name}"`],
    );
    expect(indexes.map((i) => i.name).sort(), config.name).toEqual(config.indexes.map((i) => i.config.name).sort());
  }
});

it('a job added before still finds its timer', () => {
  expect(timerOf({ requestId: 'a', key: 'k', name: 'n' })).toEqual({ runId: 'a', key: 'k', name: 'n' });
  expect(timerOf({ runId: 'b', key: 'k', name: 'n' })).toEqual({ runId: 'b', key: 'k', name: 'n' });
});
