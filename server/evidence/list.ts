import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { mayReadLog } from '../changes/queries.ts';
import { db } from '../db/database.ts';
import type { serviceCase } from '../db/schema/index.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';
import { maySeeInside } from '../requests/confidential.ts';

interface Row extends Record<string, unknown> {
  id: string;
  at: string;
  who: string;
  /** For whom they stood in. */
  instead: string | null;
  status: 'approved' | 'declined';
  comment: string;
  gate: string;
  kind: (typeof serviceCase.$inferSelect)['kind'];
  number: string;
  item: string;
  requester: string;
  revision: number;
  via: string | null;
  /** The entry of the log of changes, its link in the chain and the hash there; null while it hangs in none yet. */
  entry: string | null;
  link: string | null;
  hash: string | null;
  /** The viewer may see inside a request that is confidential. */
  sees: boolean;
  sortKeys: string[];
}

const keys: Key[] = [
  { of: sql`a.decided_at`, as: 'timestamptz' },
  { of: sql`a.id`, as: 'uuid' },
];

/** What was decided (`a`), of whose request, and what the log of changes says of it. */
const from = sql`approval a join gate g on g.id = a.gate_id join run on run.id = g.run_id join service_case on service_case.id = run.case_id
  join person on person.id = a.person_id join person asked on asked.id = service_case.requester_id left join person instead on instead.id = a.instead_of_id
  left join revision on revision.id = run.revision_id
  left join lateral (select l.id, l.detail ->> 'via' as via, c.n, c.hash from change_log l left join change_chain c on c.change_id = l.id
    where l.object = 'approval' and l.object_id = a.id::text and l.action in ('approve', 'decline') order by l.id limit 1) entry on true`;

/** The one case that was asked for by its number. */
function numbered(words: string): SQL | undefined {
  const [, kind, n] = /^([RT])-(\d{1,9})$/i.exec(words.trim()) ?? [];
  return n === undefined
    ? undefined
    : sql`(service_case.number = ${Number(n)} and service_case.kind = ${kind!.toUpperCase() === 'T' ? 'ticket' : 'request'})`;
}

const narrowed = (viewer: Viewer, asked: ListAsked): (SQL | undefined)[] => [
  sql`a.decided_at is not null`,
  asked.wanted['state'] && sql`a.status = any(${sql.param(asked.wanted['state'])}::text[])`,
  asked.wanted['way'] && sql`entry.via = any(${sql.param(asked.wanted['way'].map((w) => w.replaceAll('-', ' ')))}::text[])`,
  anyOf(sql`a.person_id`, asked.wanted['who']),
  anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  anyOf(sql`service_case.item_id`, asked.wanted['item']),
  onDays(sql`a.decided_at`, asked.days['decided'], viewer.zone),
  // A number as people write it is that request and no other. What is confidential is not found by its words.
  numbered(asked.words) ??
    wordsIn(
      [sql`case when ${maySeeInside(viewer)} then a.comment else '' end`, sql`g.name`, sql`service_case.number::text`, sql`person.name`],
      asked.words,
    ),
];

/** Who decided what, when, with which words and by which way, with what the log of changes has of it, a page at a time. */
export async function decisionList(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!mayReadLog(viewer)) return undefined;
  const { after, orderBy, sortKeys } = keyset(keys, asked.sort.down, asked.after);
  const { rows } = await db().execute<Row>(sql`
    select a.id, a.decided_at as at, person.name as who, instead.name as instead, a.status, a.comment, g.name as gate, service_case.kind, service_case.number,
      coalesce(revision.name, 'Ticket') as item, asked.name as requester, coalesce(revision.number, 0) as revision, entry.via, entry.id as entry, entry.n as link, entry.hash,
      ${maySeeInside(viewer)} as sees, ${sortKeys} as "sortKeys"
    from ${from} where ${allOf([...narrowed(viewer, asked), after])} order by ${orderBy} limit ${sql.raw(String(size + 1))}`);
  const page = pageBy(rows, size);
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, at, number, entry, link, sees, ...r }) => ({
      ...r,
      comment: sees ? r.comment : 'confidential',
      at: new Date(at),
      number: Number(number),
      entry: entry === null ? null : Number(entry),
      link: link === null ? null : Number(link),
    })),
  };
}

/** How many that are, counted no further than `countedTo` and one more. */
export async function decisionCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!mayReadLog(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from ${from} where ${allOf(narrowed(viewer, asked))}`));
  return rows[0]!.n;
}
