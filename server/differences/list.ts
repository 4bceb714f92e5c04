import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import { Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import type { settledHow } from '../../core/posts/index.ts';
import type { differs } from '../db/schema/index.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';
import { namesFor, readIn } from '../people/names.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { ownSystems } from '../systems/own.ts';
import { valueWords } from '../words.ts';

/** A difference (`d`) with its system, whose it is, and the request that gave what is held. */
const from = sql`difference d left join person on person.id = d.person_id left join web_system on web_system.id::text = d.system
  left join holding h on h.id = d.holding_id left join run on run.id = h.run_id left join service_case on service_case.id = run.case_id`;

interface Row extends Record<string, unknown> {
  id: string;
  system: string;
  systemName: string;
  action: string;
  kind: string;
  what: unknown;
  is: (typeof differs)[number];
  who: string | null;
  personId: string | null;
  job: string | null;
  foundAt: string;
  seenAt: string;
  until: string | null;
  held: string | null;
  number: string | null;
  state: 'open' | 'left' | 'settled' | 'gone';
  how: (typeof settledHow)[number] | null;
  why: string | null;
  settledAt: string | null;
  settledBy: string | null;
  sees: boolean;
  sortKeys: string[];
}

const ownNames = sql.param(JSON.stringify(Object.fromEntries(ownSystems)));
const keys: Key[] = [
  { of: sql`d.found_at`, as: 'timestamptz' },
  { of: sql`d.id`, as: 'uuid' },
];

/** Differences in order, a page at a time; what a confidential request gave is told to those alone who may see inside it. */
async function differencesWhere(viewer: Viewer, where: (SQL | undefined)[], of: { down: boolean; cursor: string | undefined; size: number }) {
  const { after, orderBy, sortKeys } = keyset(keys, of.down, of.cursor);
  const { rows } = await db().execute<Row>(sql`
    select d.id, d.system, coalesce(${ownNames}::jsonb ->> d.system, web_system.name, 'a system that is gone') as "systemName",
      d.action, d.kind, d.what, d."is", person.name as who, d.person_id as "personId", person.job_role as job, d.found_at as "foundAt", d.seen_at as "seenAt",
      d.until::text as until, h.until::text as held, service_case.number, d.state, d.how, d.why, d.settled_at as "settledAt",
      (select name from person s where s.id = d.settled_by) as "settledBy", (d.holding_id is null or ${maySeeInside(viewer)}) as sees, ${sortKeys} as "sortKeys"
    from ${from} where ${allOf([...where, after])} order by ${orderBy} limit ${sql.raw(String(of.size + 1))}`);
  const page = pageBy(rows, of.size);
  const values = new Map(page.rows.map((r) => [r.id, Value.safeParse(r.what).data ?? null]));
  const names = readIn(viewer.zone, await namesFor(db(), values.values()));
  return {
    next: page.next,
    rows: page.rows.map(({ what: _, sortKeys: _k, foundAt, seenAt, settledAt, number, ...r }) => ({
      ...r,
      what: r.sees ? valueWords(values.get(r.id), names) || 'something that is gone' : 'confidential',
      why: r.sees ? r.why : null,
      foundAt: new Date(foundAt),
      seenAt: new Date(seenAt),
      settledAt: settledAt === null ? null : new Date(settledAt),
      number: number === null ? null : Number(number),
    })),
  };
}

function narrowed(viewer: Viewer, asked: ListAsked): (SQL | undefined)[] {
  const { state, is } = asked.wanted;
  return [
    state && sql`d.state = any(${sql.param(state)}::text[])`,
    is && sql`d."is" = any(${sql.param(is)}::text[])`,
    anyOf(sql`d.person_id`, asked.wanted['holder']),
    onDays(sql`d.found_at`, asked.days['found'], viewer.zone),
    wordsIn([sql`coalesce(person.name, '')`, sql`d.kind`], asked.words),
  ];
}

/** What systems have otherwise than it is held here, a page at a time. */
export async function differenceList(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!mayReadLedger(viewer)) return undefined;
  return differencesWhere(viewer, narrowed(viewer, asked), { down: asked.sort.down, cursor: asked.after, size });
}

/** How many that are, counted no further than `countedTo` and one more. */
export async function differenceCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!mayReadLedger(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from ${from} where ${allOf(narrowed(viewer, asked))}`));
  return rows[0]!.n;
}

/** One of them. */
export async function differenceFor(viewer: Viewer, id: string) {
  if (!mayReadLedger(viewer)) return undefined;
  const { rows } = await differencesWhere(viewer, [anyOf(sql`d.id`, [id])], { down: false, cursor: undefined, size: 1 });
  return rows[0];
}
