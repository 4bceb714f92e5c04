import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Outcome } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { anywhere } from '../lists/like.ts';
import { allOf, anyOf, counted, onDays } from '../lists/narrow.ts';
import { casesWithWords, rare, type WordStands } from '../lists/case-words.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { promisedOf, withDefinitions } from '../requests/promised.ts';
import { whereItStands } from '../requests/standing.ts';
import { mayReadLedger } from './queries.ts';

/** By what the Ledger can be ordered; each has an index in its very order, or is reached by one for each name. */
const number: Key = { of: sql`service_case.number`, as: 'bigint' };
const orders: Record<string, Key[]> = {
  request: [number],
  opened: [{ of: sql`service_case.opened_at`, as: 'timestamptz' }, number],
  ended: [{ of: sql`service_case.ended_order`, as: 'timestamptz' }, number],
  item: [{ of: sql`lower(item.name)`, as: 'text' }, number],
  requester: [{ of: sql`lower(person.name)`, as: 'text' }, { of: sql`person.id`, as: 'uuid' }, number],
};

const stuck = sql`exists (select from run join run_step s on s.run_id = run.id where run.case_id = service_case.id and s.stuck_cause is not null)`;
/** Any of the states: under way, stuck, or ended in one of these ways. */
function inState(states: string[] | undefined): SQL | undefined {
  if (!states) return undefined;
  const ended = states.filter((s) => s !== 'open' && s !== 'stuck');
  const any = [
    ...(states.includes('open') ? [sql`service_case.outcome is null`] : []),
    ...(states.includes('stuck') && !states.includes('open') ? [sql`(service_case.outcome is null and ${stuck})`] : []),
    ...(ended.length === 1 ? [sql`service_case.outcome = ${ended[0]}`] : []),
    ...(ended.length > 1 ? [sql`service_case.outcome = any(${sql.param(ended)}::text[])`] : []),
  ];
  return any.length > 0 ? sql`(${sql.join(any, sql` or `)})` : undefined;
}

/**
 * Where a word stands: the requests it names from outside, and those it stands within. A word finds what begins with it. Of a
 * very long text the first hundred thousand characters count, since PostgreSQL keeps no more than a megabyte of words of one.
 */
function standing(word: string): WordStands {
  const number = Number(/^r?-?(\d{1,12})$/i.exec(word)?.[1]);
  const part = anywhere(word.toLowerCase());
  // As lexemes of the index, the last of them a beginning; what holds no lexeme finds nothing inside.
  const sought = sql`to_tsquery('simple', ${`'${word.replace(/['\\]/g, ' ')}':*`})`;
  const asked = sql`to_tsvector('simple', left(service_case.words, 100000)) @@ ${sought}`;
  const said = sql`to_tsvector('simple', left(m.subject || ' ' || m.text, 100000)) @@ ${sought}`;
  const written = sql`to_tsvector('simple', left(w.text, 100000)) @@ ${sought}`;
  const commented = sql`a.comment <> '' and to_tsvector('simple', a.comment) @@ ${sought}`;
  const given = sql`s.outputs is not null and to_tsvector('simple', left(s.outputs::text, 100000)) @@ ${sought}`;
  const people = sql`select id from person where lower(name) like ${part}`;
  const items = sql`select id from item where lower(name) like ${part}`;
  return {
    /** The ids of all of them. */
    outside: sql`
      select id from service_case where requester_id in (${people})
      union all select id from service_case where for_id in (${people})
      union all select id from service_case where item_id in (${items})
      ${Number.isFinite(number) ? sql`union all select id from service_case where number = ${number}` : sql``}`,
    inside: sql`
      select id from service_case where ${asked}
      union all select m.case_id from message m where ${said}
      union all select w.case_id from case_word w where ${written}
      union all select u.case_id from approval a join gate g on g.id = a.gate_id join run u on u.id = g.run_id where ${commented}
      union all select u.case_id from run_step s join run u on u.id = s.run_id where ${given}`,
    /** Whether one request is among them. */
    isOutside: sql`(service_case.requester_id in (${people}) or service_case.for_id in (${people}) or service_case.item_id in (${items})
      ${Number.isFinite(number) ? sql`or service_case.number = ${number}` : sql``})`,
    isInside: sql`(${asked}
      or exists (select from message m where m.case_id = service_case.id and ${said})
      or exists (select from case_word w where w.case_id = service_case.id and ${written})
      or exists (select from run u join gate g on g.run_id = u.id join approval a on a.gate_id = g.id where u.case_id = service_case.id and ${commented})
      or exists (select from run u join run_step s on s.run_id = u.id where u.case_id = service_case.id and ${given}))`,
  };
}

/**
 * Each word in something of the request: its number, item, requester or for whom it was asked; what was asked, told, written, commented, or came of a step,
 * where the viewer may see inside.
 */
const withWords = (viewer: Viewer, typed: string, upTo: number): Promise<SQL[]> => casesWithWords(typed, standing, maySeeInside(viewer), upTo);

const narrowed = async (viewer: Viewer, asked: ListAsked, upTo = rare): Promise<(SQL | undefined)[]> => [
  // Tickets are cases too, and have a list of their own.
  sql`service_case.kind = 'request'`,
  inState(asked.wanted['state']),
  anyOf(sql`service_case.item_id`, asked.wanted['item']),
  anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  onDays(sql`service_case.opened_at`, asked.days['opened'], viewer.zone),
  onDays(sql`service_case.ended_at`, asked.days['ended'], viewer.zone),
  ...(await withWords(viewer, asked.words, upTo)),
];

interface Row {
  id: string;
  number: number;
  requesterId: string;
  revisionId: string;
  runId: string;
  item: string;
  revision: number;
  requester: string;
  openedAt: Date;
  endedAt: Date | null;
  outcome: Outcome | null;
  reason: string | null;
  sortKeys: string[];
  [key: string]: unknown;
}

/**
 * Requests as they are asked for, a page at a time; undefined for whoever may not read the Ledger. `upTo`: what counts as a
 * rare word; either way finds the same.
 */
export async function ledger(viewer: Viewer, asked: ListAsked, size = 50, upTo = rare) {
  if (!mayReadLedger(viewer)) return undefined;
  const { by } = asked.sort;
  const { after, orderBy, sortKeys } = keyset(orders[by] ?? orders['request']!, asked.sort.down, asked.after);
  const { rows } = await db().execute<Row & { openedAt: string; endedAt: string | null; number: string }>(sql`
    select service_case.id, service_case.number, service_case.requester_id as "requesterId", service_case.revision_id as "revisionId",
      (select r.id from run r where r.case_id = service_case.id) as "runId", revision.name as item, revision.number as revision, person.name as requester,
      service_case.opened_at as "openedAt", service_case.ended_at as "endedAt", service_case.outcome,
      case when service_case.reason is not null and ${maySeeInside(viewer)} then service_case.reason end as reason, ${sortKeys} as "sortKeys"
    from service_case join revision on revision.id = service_case.revision_id join person on person.id = service_case.requester_id
      ${by === 'item' ? sql`join item on item.id = service_case.item_id` : sql``}
    where ${allOf([...(await narrowed(viewer, asked, upTo)), after])}
    order by ${orderBy} limit ${size + 1}`);
  const page = pageBy(rows, size);
  const standing = await whereItStands(page.rows.filter((r) => !r.outcome).map((r) => r.id));
  const dated = page.rows.map(({ sortKeys: _, openedAt, endedAt, ...r }) => ({
    ...r,
    number: Number(r.number),
    openedAt: new Date(openedAt),
    endedAt: endedAt === null ? null : new Date(endedAt),
  }));
  const promised = await promisedOf(await withDefinitions(dated));
  return {
    next: page.next,
    rows: dated.map(({ requesterId: _r, revisionId: _v, runId, ...r }) => ({
      ...r,
      standing: standing.get(r.id),
      promised: promised.get(runId)?.whole,
    })),
  };
}

/** How many requests that are, counted no further than `countedTo` and one more. */
export async function ledgerCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!mayReadLedger(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from service_case where ${allOf(await narrowed(viewer, asked))}`));
  return rows[0]!.n;
}
