import { and, asc, eq, inArray, lt, sql } from 'drizzle-orm';
import { DateTime } from 'luxon';
import { isDate } from '../../core/calendar/index.ts';
import { keyWords, namedInKey, standingAfter, takeBack, type Cells, type Change, type StandingNow } from '../../core/tables/index.ts';
import type { Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Reader } from '../db/database.ts';
import { referenceChange, referenceRow, referenceTable } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { existing } from '../people/existing.ts';
import { namesFor, shortNames } from '../people/names.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { bringBack, retire, write } from './commands.ts';
import { keepsRows, notTheirs } from './whose.ts';

/** So many acts a page, and of each so many changes in words. */
const page = 25;
const shown = 6;

async function definitionFor(tx: Reader, viewer: Viewer, id: string) {
  const [row] = isId(id) ? await tx.select({ definition: referenceTable.definition }).from(referenceTable).where(eq(referenceTable.id, id)) : [];
  return row && (await keepsRows(tx, viewer, row.definition)) ? row.definition : undefined;
}

interface Act {
  /** The last change of it. */
  id: number;
  at: Date;
  by: string | null;
  rows: number;
  changes: number;
  first: (Change & { id: number })[];
}

/** What was done to the rows of a table, act by act, the latest first; `before`: the acts before that change. */
export async function tableHistory(viewer: Viewer, id: string, before?: number) {
  const definition = await definitionFor(db(), viewer, id);
  if (!definition) return undefined;
  const { rows } = await db().execute<{ id: string; at: string; by: string | null; rows: number; changes: number; first: Act['first'] }>(sql`
    with of_row as (
      select at, by, max(id) as id, min(id) as from_id, case when bool_or(column_id is null) then 1 else count(*) end as lines
      from reference_change where table_id = ${id}::uuid and ${before === undefined ? sql`true` : sql`id < ${before}`}
      group by at, by, key
    ), acts as (
      select max(id) as id, min(from_id) as from_id, at, by, count(*)::int as rows, sum(lines)::int as changes
      from of_row group by at, by order by max(id) desc limit ${page + 1}
    )
    select a.id, a.at, p.name as by, a.rows, a.changes, (
      select jsonb_agg(jsonb_build_object('id', f.id, 'key', f.key, 'column', f.column_id, 'was', f.was, 'now', f.now) order by f.id) from (
        select * from reference_change c where c.table_id = ${id}::uuid and c.at = a.at and c.by is not distinct from a.by and c.id between a.from_id and a.id
          -- What a row was put in with, it was put in with.
          and (c.column_id is null or not exists (
            select from reference_change m where m.table_id = c.table_id and m.key = c.key and m.at = c.at and m.column_id is null))
        order by c.id limit ${shown}) f
    ) as first
    from acts a left join person p on p.id = a.by order by a.id desc`);
  const acts = rows.slice(0, page).map((r): Act => ({ ...r, id: Number(r.id), at: new Date(r.at) }));
  const names = await namesFor(
    db(),
    acts.flatMap((a) => a.first.flatMap((c) => [c.was, c.now, ...namedInKey(definition, c.key)])),
  );
  return { acts, next: rows.length > page ? acts.at(-1)!.id : undefined, names: shortNames(names) };
}

/** The rows of a table as they stood when a day ended, by the reader's clock; undefined where it is no day, or not for them. */
export async function tableAt(
  viewer: Viewer,
  id: string,
  day: string,
): Promise<{ rows: { key: string; cells: Cells }[]; names: Record<string, string> } | undefined> {
  const definition = isDate(day) ? await definitionFor(db(), viewer, id) : undefined;
  if (!definition) return undefined;
  const ends = DateTime.fromISO(day, { zone: viewer.zone }).plus({ days: 1 }).startOf('day').toJSDate();
  const changes = await db()
    .selectDistinctOn([referenceChange.key, referenceChange.columnId], {
      key: referenceChange.key,
      column: referenceChange.columnId,
      was: referenceChange.was,
      now: referenceChange.now,
    })
    .from(referenceChange)
    .where(and(eq(referenceChange.tableId, id), lt(referenceChange.at, ends)))
    .orderBy(asc(referenceChange.key), asc(referenceChange.columnId), sql`${referenceChange.id} desc`);
  const rows = [...standingAfter(changes.map(plain), definition)].map(([key, cells]) => ({ key, cells }));
  const names = await namesFor(
    db(),
    rows.flatMap((r) => Object.values(r.cells)),
  );
  return { rows, names: shortNames(names) };
}

const plain = (c: { key: string; column: string | null; was: Value | null; now: Value | null }): Change => c;

/**
 * Takes one act back, all of it or nothing: cells say again what they said, rows that were put in go, rows that were taken off come back.
 * That is an act of its own. `change`: any change of the act.
 */
export async function takeChangeBack(viewer: Viewer, input: { table: string; change: number }): Promise<Result<{ rows: number }>> {
  if (!isId(input.table)) return notFound('This table');
  return db().transaction(async (tx): Promise<Result<{ rows: number }>> => {
    const [table] = await tx.select().from(referenceTable).where(eq(referenceTable.id, input.table)).for('no key update');
    if (!table) return notFound('This table');
    const notSo = await notTheirs(tx, viewer, table.definition);
    if (notSo) return notSo;
    const act = await tx
      .select({ key: referenceChange.key, column: referenceChange.columnId, was: referenceChange.was, now: referenceChange.now })
      .from(referenceChange)
      .where(
        and(
          eq(referenceChange.tableId, input.table),
          sql`(${referenceChange.at}, coalesce(${referenceChange.by}, '00000000-0000-0000-0000-000000000000')) = (
            select one.at, coalesce(one.by, '00000000-0000-0000-0000-000000000000') from reference_change one where one.id = ${input.change} and one.table_id = ${input.table}::uuid)`,
        ),
      )
      .orderBy(asc(referenceChange.id));
    if (act.length === 0) return notFound('This change');
    const keys = [...new Set(act.map((c) => c.key))];
    const there = await tx
      .select({ key: referenceRow.key, cells: referenceRow.cells, retiredAt: referenceRow.retiredAt })
      .from(referenceRow)
      .where(and(eq(referenceRow.tableId, input.table), inArray(referenceRow.key, keys)));
    const now = new Map<string, StandingNow>(there.map((r) => [r.key, { cells: r.cells, off: r.retiredAt !== null }]));
    const exists = await existing(
      tx,
      [...act.map((c) => c.was), ...there.flatMap((r) => Object.values(r.cells))].filter((v) => v !== null),
    );
    const names = await namesFor(
      tx,
      keys.flatMap((key) => namedInKey(table.definition, key)),
    );
    const called = (key: string) => keyWords(table.definition, key, names.of);
    const taken = takeBack(table.definition, act.map(plain), now, exists.for(viewer.id), called);
    if ('sentence' in taken) return refuse('changed-meanwhile', `Not taken back. ${taken.sentence} Nothing was changed.`);
    await retire(tx, viewer.id, input.table, taken.off);
    await bringBack(tx, viewer.id, input.table, taken.back);
    await write(tx, viewer.id, input.table, table.definition, taken.written);
    const rows = taken.off.length + taken.back.length + taken.written.length;
    if (rows > 0)
      await record(tx, { actor: viewer.id, action: 'take-back', object: 'table', objectId: input.table, detail: { change: input.change, rows } });
    return { ok: true, rows };
  });
}
