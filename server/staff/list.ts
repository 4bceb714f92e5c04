import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Happening, Standing } from '../../core/staff/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import type { Followed } from '../db/schema/index.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, counted, onDays, wordsIn } from '../lists/narrow.ts';

interface Row extends Record<string, unknown> {
  id: string;
  kind: Happening;
  staffNumber: string;
  name: string;
  from: string;
  standing: Standing;
  changed: (keyof Standing)[];
  at: string;
  state: Followed;
  why: string | null;
  request: string | null;
  item: string | null;
  asks: string | null;
  sortKeys: string[];
}
const keys: Key[] = [
  // Lines are numbered as they are told.
  { of: sql`h.number`, as: 'bigint' },
  { of: sql`h.id`, as: 'uuid' },
];
const mayRead = (viewer: Viewer) => has(viewer, 'designer', 'administrator');

const narrowed = (viewer: Viewer, asked: ListAsked): (SQL | undefined)[] => {
  const { followed, what } = asked.wanted;
  return [
    followed && sql`h.state = any(${sql.param(followed)}::text[])`,
    what && sql`h.kind = any(${sql.param(what)}::text[])`,
    onDays(sql`h.at`, asked.days['when'], viewer.zone),
    wordsIn([sql`h.name`, sql`h.staff_number`], asked.words),
  ];
};

/** What the staff feed told, the newest first, with what followed; a page at a time. */
export async function staffList(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!mayRead(viewer)) return undefined;
  const { after, orderBy, sortKeys } = keyset(keys, asked.sort.down, asked.after);
  const { rows } = await db().execute<Row>(sql`
    select h.id, h.kind, h.staff_number as "staffNumber", h.name, h."from"::text as "from", h.standing, h.changed, h.at, h.state, h.why, h.request,
      (select i.name from service_case c join item i on i.id = c.item_id where c.number = h.request) as item,
      (select name from person p where p.id = h.asks_id) as asks, ${sortKeys} as "sortKeys"
    from staff_happening h where ${allOf([...narrowed(viewer, asked), after])} order by ${orderBy} limit ${sql.raw(String(size + 1))}`);
  const page = pageBy(rows, size);
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, at, request, ...r }) => ({ ...r, at: new Date(at), request: request === null ? null : Number(request) })),
  };
}

/** How many that are, counted no further than `countedTo` and one more. */
export async function staffCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!mayRead(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from staff_happening h where ${allOf(narrowed(viewer, asked))}`));
  return rows[0]!.n;
}
