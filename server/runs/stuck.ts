import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';
import { maySeeInside } from '../requests/confidential.ts';

const order: Key = { of: sql`step."order"`, as: 'bigint' };
const since: Key[] = [{ of: sql`step.began_at`, as: 'timestamptz' }, order];
const orders: Record<string, Key[]> = {
  since,
  request: [{ of: sql`service_case.number`, as: 'bigint' }, order],
  step: [{ of: sql`lower(step.name)`, as: 'text' }, order],
};

const from = sql`run_step step join run on run.id = step.run_id join service_case on service_case.id = run.case_id
  join person requester on requester.id = service_case.requester_id join revision on revision.id = run.revision_id`;

const maySee = (viewer: Viewer): boolean => has(viewer, 'teamMember', 'administrator');
const narrowed = (viewer: Viewer, asked: ListAsked): (SQL | undefined)[] => [
  sql`step.stuck_cause is not null`,
  anyOf(sql`service_case.item_id`, asked.wanted['item']),
  anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  onDays(sql`step.began_at`, asked.days['since'], viewer.zone),
  wordsIn([sql`step.name`, sql`revision.name`, sql`requester.name`], asked.words),
];

/** Steps that wait for a person to retry, skip or take over, the longest first where nothing else is wanted. */
export async function stuckSteps(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!maySee(viewer)) return undefined;
  const { after, orderBy, sortKeys } = keyset(orders[asked.sort.by] ?? since, asked.sort.down, asked.after);
  interface Row {
    key: string;
    name: string;
    cause: string | null;
    since: string;
    number: string;
    item: string;
    requester: string;
    sortKeys: string[];
    [key: string]: unknown;
  }
  // What the cause repeats of what was asked is not for those who may not see inside.
  const { rows } = await db().execute<Row>(sql`
    select step.key, step.name, case when ${maySeeInside(viewer)} then step.stuck_cause end as cause, step.began_at as since,
      service_case.number, revision.name as item, requester.name as requester, ${sortKeys} as "sortKeys"
    from ${from} where ${allOf([...narrowed(viewer, asked), after])} order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  return { next: page.next, rows: page.rows.map(({ sortKeys: _, ...r }) => ({ ...r, number: Number(r.number), since: new Date(r.since) })) };
}

/** How many steps are stuck, counted no further than `countedTo` and one more. */
export async function stuckCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!maySee(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from ${from} where ${allOf(narrowed(viewer, asked))}`));
  return rows[0]!.n;
}
