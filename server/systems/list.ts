import { sql } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, onDays, wordsIn } from '../lists/narrow.ts';
import { ownActionSpecs } from './index.ts';
import { ownSystems } from './own.ts';
import { systemOf } from './whose.ts';

const name: Key[] = [
  { of: sql`lower(one.name)`, as: 'text' },
  { of: sql`one.id`, as: 'text' },
];
// What was never changed came first of all.
const orders: Record<string, Key[]> = { name, changed: [{ of: sql`coalesce(one.changed_at, 'epoch'::timestamptz)`, as: 'timestamptz' }, ...name] };

/** The systems that plans act on, those that are built in among them, a page at a time. */
export async function systems(viewer: Viewer, asked: ListAsked, size = 100) {
  if (!has(viewer, 'designer', 'administrator')) return undefined;
  interface Row {
    id: string;
    name: string;
    /** Null: it is built in. */
    address: string | null;
    actions: string[];
    owners: string[];
    changedAt: string | null;
    changedBy: string | null;
    sortKeys: string[];
    [key: string]: unknown;
  }
  const { after, orderBy, sortKeys } = keyset(orders[asked.sort.by] ?? name, asked.sort.down, asked.after);
  const owned = asked.wanted['owners'];
  const own = [...ownSystems].map(([id, name]) => ({ id, name, actions: ownActionSpecs.filter((a) => systemOf(a.id) === id).map((a) => a.label) }));
  const { rows } = await db().execute<Row>(sql`
    with one as (
      select o.id, o.name, null::text as address, o.actions, null::timestamptz as changed_at, null::uuid as changed_by
        from jsonb_to_recordset(${JSON.stringify(own)}::jsonb) as o(id text, name text, actions jsonb)
      union all
      select id::text, name, definition ->> 'address', jsonb_path_query_array(definition, '$.actions[*].label'), changed_at, changed_by from web_system
    )
    select one.id, one.name, one.address, one.actions, one.changed_at as "changedAt", person.name as "changedBy", ${sortKeys} as "sortKeys",
      array(select p.name from system_owner o join person p on p.id = o.person_id where o.system = one.id order by p.name) as owners
    from one left join person on person.id = one.changed_by
    where ${allOf([
      owned?.length === 1 ? sql`${owned[0] === 'some' ? sql`` : sql`not`} exists (select from system_owner o where o.system = one.id)` : undefined,
      anyOf(sql`one.changed_by`, asked.wanted['by']),
      onDays(sql`one.changed_at`, asked.days['changed'], viewer.zone),
      wordsIn([sql`one.name`, sql`coalesce(one.address, '')`, sql`one.actions::text`], asked.words),
      after,
    ])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, ...r }) => ({ ...r, changedAt: r.changedAt === null ? null : new Date(r.changedAt) })),
  };
}
