import { sql } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, onDays, wordsIn } from '../lists/narrow.ts';

const name: Key = { of: sql`lower(t.name)`, as: 'text' };
const orders: Record<string, Key[]> = { name: [name], changed: [{ of: sql`t.changed_at`, as: 'timestamptz' }, name] };
const purpose = sql`t.definition ->> 'purpose'`;

/** Reference tables, a page at a time. */
export async function tables(viewer: Viewer, asked: ListAsked, size = 100) {
  if (!has(viewer, 'designer')) return undefined;
  interface Row {
    id: string;
    name: string;
    purpose: string;
    columns: number;
    rows: number;
    changedAt: string;
    changedBy: string | null;
    sortKeys: string[];
    [key: string]: unknown;
  }
  const { after, orderBy, sortKeys } = keyset(orders[asked.sort.by] ?? [name], asked.sort.down, asked.after);
  const { rows } = await db().execute<Row>(sql`
    select t.id, t.name, ${purpose} as purpose, jsonb_array_length(t.definition -> 'columns') as columns,
      (select count(*)::int from reference_row r where r.table_id = t.id and r.retired_at is null) as rows,
      t.changed_at as "changedAt", person.name as "changedBy", ${sortKeys} as "sortKeys"
    from reference_table t left join person on person.id = t.changed_by
    where ${allOf([
      anyOf(sql`t.changed_by`, asked.wanted['by']),
      onDays(sql`t.changed_at`, asked.days['changed'], viewer.zone),
      wordsIn([sql`t.name`, purpose], asked.words),
      after,
    ])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  return { next: page.next, rows: page.rows.map(({ sortKeys: _, ...r }) => ({ ...r, changedAt: new Date(r.changedAt) })) };
}
