import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import type { CaseKind } from '../words.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';

const id: Key = { of: sql`approval.id`, as: 'uuid' };
const orders: Record<string, Key[]> = {
  asked: [{ of: sql`approval.asked_at`, as: 'timestamptz' }, id],
  request: [{ of: sql`service_case.number`, as: 'bigint' }, id],
  item: [{ of: sql`lower(revision.name)`, as: 'text' }, id],
};
/** What is over is ordered by when it was over. */
const over: Key[] = [{ of: sql`approval.over_at`, as: 'timestamptz' }, id];

const from = sql`approval join gate on gate.id = approval.gate_id join run on run.id = gate.run_id join service_case on service_case.id = run.case_id
  join revision on revision.id = run.revision_id join person requester on requester.id = service_case.requester_id`;

/** Of a ticket: what it is about. */
const subject = sql`(select t.subject from ticket t where t.case_id = service_case.id)`;

/** Answered, or not needed any more, and not asked for. */
const wantsOver = (asked: ListAsked): boolean => asked.wanted['state']?.join() === 'over';
const narrowed = (viewer: Viewer, asked: ListAsked): (SQL | undefined)[] => [
  sql`approval.person_id = ${viewer.id}`,
  wantsOver(asked)
    ? sql`approval.over_at is not null`
    : asked.wanted['state']?.includes('over')
      ? sql`approval.status <> 'later'`
      : sql`approval.status = 'waiting'`,
  anyOf(sql`service_case.item_id`, asked.wanted['item']),
  anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  onDays(sql`approval.asked_at`, asked.days['asked'], viewer.zone),
  wordsIn([sql`revision.name`, sql`gate.name`, sql`requester.name`, sql`coalesce(${subject}, '')`], asked.words),
];

interface Row {
  id: string;
  kind: CaseKind;
  number: number;
  item: string;
  subject: string | null;
  gate: string;
  requester: string;
  askedAt: Date;
  lapsesAt: Date | null;
  status: 'waiting' | 'approved' | 'declined' | 'released';
  overAt: Date | null;
  sortKeys: string[];
  [key: string]: unknown;
}

/** What the viewer is asked to decide; where nothing else is wanted, what waits for them, the longest first. */
export async function approvalsFor(viewer: Viewer, asked: ListAsked, size = 50) {
  const isOver = wantsOver(asked) && asked.sort.by === 'asked';
  const keys = isOver ? over : (orders[asked.sort.by] ?? orders['asked']!);
  const { after, orderBy, sortKeys } = keyset(keys, isOver ? !asked.sort.down : asked.sort.down, asked.after);
  const { rows } = await db().execute<Row & { number: string; askedAt: string; lapsesAt: string | null; overAt: string | null }>(sql`
    select approval.id, service_case.kind, service_case.number, revision.name as item, ${subject} as subject, gate.name as gate, requester.name as requester, approval.asked_at as "askedAt",
      gate.lapses_at as "lapsesAt", approval.status, approval.over_at as "overAt", ${sortKeys} as "sortKeys"
    from ${from} where ${allOf([...narrowed(viewer, asked), after])} order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  const moment = (at: string | null) => (at === null ? null : new Date(at));
  return {
    next: page.next,
    rows: page.rows.map(({ sortKeys: _, ...r }) => ({
      ...r,
      number: Number(r.number),
      askedAt: new Date(r.askedAt),
      lapsesAt: r.status === 'waiting' ? moment(r.lapsesAt) : null,
      overAt: moment(r.overAt),
    })),
  };
}

/** How many approvals that are, counted no further than `countedTo` and one more. */
export async function approvalCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  const plain = asked.words === '' && !asked.wanted['item'] && !asked.wanted['requester'];
  const { rows } = await db().execute<{ n: number }>(
    counted(sql`select from ${plain ? sql`approval` : from} where ${allOf(narrowed(viewer, asked))}`),
  );
  return rows[0]!.n;
}
