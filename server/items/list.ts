import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, onDays, wordsIn } from '../lists/narrow.ts';

const name: Key = { of: sql`lower(item.name)`, as: 'text' };
const open = sql`(select count(*) from service_case c where c.item_id = item.id and c.outcome is null)`;
const orders: Record<string, Key[]> = {
  name: [name],
  category: [{ of: sql`lower(item.category)`, as: 'text' }, name],
  offered: [{ of: sql`coalesce(item.published_revision, 0)`, as: 'bigint' }, name],
  open: [{ of: open, as: 'bigint' }, name],
  changed: [{ of: sql`item.draft_at`, as: 'timestamptz' }, name],
};

/** Offered, not yet, archived; what is archived stands among the others only when it is asked for. */
function inState(states: string[] | undefined): SQL {
  const is: Record<string, SQL> = {
    offered: sql`(item.archived_at is null and item.published_revision is not null)`,
    draft: sql`(item.archived_at is null and item.published_revision is null)`,
    archived: sql`item.archived_at is not null`,
  };
  const any = (states ?? []).flatMap((s) => is[s] ?? []);
  return any.length > 0 ? sql`(${sql.join(any, sql` or `)})` : sql`item.archived_at is null`;
}

interface Row {
  id: string;
  name: string;
  summary: string;
  category: string;
  published: number | null;
  publishedAt: string | null;
  archivedAt: string | null;
  draftAt: string;
  draftBy: string | null;
  open: number;
  sortKeys: string[];
  [key: string]: unknown;
}

/** Items, or parts, with where each stands. */
export async function items(viewer: Viewer, kind: 'item' | 'part', asked: ListAsked, size = 200) {
  if (!has(viewer, 'designer')) return undefined;
  const { after, orderBy, sortKeys } = keyset(orders[asked.sort.by] ?? [name], asked.sort.down, asked.after);
  const { rows } = await db().execute<Row>(sql`
    select item.id, item.name, item.summary, item.category, item.published_revision as published, revision.published_at as "publishedAt",
      item.archived_at as "archivedAt", item.draft_at as "draftAt", person.name as "draftBy", ${open}::int as open, ${sortKeys} as "sortKeys"
    from item left join person on person.id = item.draft_by
      left join revision on revision.item_id = item.id and revision.number = item.published_revision
    where ${allOf([
      sql`item.kind = ${kind}`,
      inState(asked.wanted['state']),
      anyOf(sql`item.draft_by`, asked.wanted['by']),
      onDays(sql`item.draft_at`, asked.days['changed'], viewer.zone),
      wordsIn([sql`item.name`, sql`item.summary`, sql`item.category`], asked.words),
      after,
    ])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  const moment = (at: string | null) => (at === null ? null : new Date(at));
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, ...r }) => ({
      ...r,
      publishedAt: moment(r.publishedAt),
      archivedAt: moment(r.archivedAt),
      draftAt: new Date(r.draftAt),
    })),
  };
}
