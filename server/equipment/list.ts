import { sql, type SQL } from 'drizzle-orm';
import type { PieceState } from '../../core/equipment/index.ts';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import type { pieceEvents } from '../db/schema/index.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, wordsIn } from '../lists/narrow.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { readsPieces } from './queries.ts';
import { issueName } from './wanted.ts';
import { keepsAt } from './whose.ts';

interface Row extends Record<string, unknown> {
  id: string;
  kind: string;
  mark: string | null;
  state: PieceState;
  place: string;
  placeId: string;
  since: string;
  who: string | null;
  until: string | null;
  /** What is to come back: it is being given back. */
  due: boolean;
  sortKeys: string[];
}

const since: Key[] = [
  { of: sql`p.since`, as: 'timestamptz' },
  { of: sql`p.id`, as: 'uuid' },
];
const orders: Record<string, Key[]> = {
  since,
  what: [{ of: sql`lower(k.name)`, as: 'text' }, { of: sql`lower(coalesce(p.mark, ''))`, as: 'text' }, since[1]!],
};

const from = sql`piece p join equipment_kind k on k.id = p.kind_id join location l on l.id = p.location_id
  left join equipment_issue i on i.piece_id = p.id and i.state in ('setAside', 'out', 'dueBack') left join person w on w.id = i.person_id`;

const narrowed = (asked: ListAsked): (SQL | undefined)[] => [
  asked.wanted['state'] && sql`p.state = any(${sql.param(asked.wanted['state'])}::text[])`,
  anyOf(sql`p.location_id`, asked.wanted['place']),
  anyOf(sql`i.person_id`, asked.wanted['holder']),
  wordsIn([sql`k.name`, sql`coalesce(p.mark, '')`, sql`coalesce(w.name, '')`], asked.words),
];

async function piecesWhere(where: (SQL | undefined)[], of: { by: string; down: boolean; cursor: string | undefined; size: number }) {
  const { after, orderBy, sortKeys } = keyset(orders[of.by] ?? since, of.down, of.cursor);
  const { rows } = await db().execute<Row>(sql`
    select p.id, k.name as kind, p.mark, p.state, l.name as place, p.location_id as "placeId", p.since, w.name as who, i.until::text as until, coalesce(i.state = 'dueBack', false) as due, ${sortKeys} as "sortKeys"
    from ${from} where ${allOf([...where, after])} order by ${orderBy} limit ${sql.raw(String(of.size + 1))}`);
  const page = pageBy(rows, of.size);
  return { next: page.next, rows: page.rows.map(({ sortKeys: _, ...r }) => ({ ...r, since: new Date(r.since) })) };
}

/** Pieces of equipment, a page at a time. */
export async function pieceList(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!(await readsPieces(viewer))) return undefined;
  return piecesWhere(narrowed(asked), { by: asked.sort.by, down: asked.sort.down, cursor: asked.after, size });
}

/** How many that are, counted no further than `countedTo` and one more. */
export async function pieceCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!(await readsPieces(viewer))) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from ${from} where ${allOf(narrowed(asked))}`));
  return rows[0]!.n;
}

/** One piece, with what became of it, the last first, and whether the viewer keeps it. */
export async function pieceFor(viewer: Viewer, id: string) {
  if (!isId(id) || !(await readsPieces(viewer))) return undefined;
  const { rows: found } = await piecesWhere([sql`p.id = ${id}::uuid`], { by: 'since', down: true, cursor: undefined, size: 1 });
  const [its] = found;
  if (!its) return undefined;
  interface Event extends Record<string, unknown> {
    what: (typeof pieceEvents)[number];
    at: string;
    by: string | null;
    place: string | null;
    note: string;
    issue: string | null;
    who: string | null;
    number: string | null;
  }
  const { rows: events } = await db().execute<Event>(sql`
    select e.what, e.at, b.name as by, l.name as place, e.note, i.number as issue, w.name as who, case when ${maySeeInside(viewer)} then service_case.number end as number
    from piece_event e left join person b on b.id = e.by left join location l on l.id = e.location_id left join equipment_issue i on i.id = e.issue_id
      left join person w on w.id = i.person_id left join run on run.id = i.run_id left join service_case on service_case.id = run.case_id
    where e.piece_id = ${id}::uuid order by e.at desc, e.id limit 100`);
  const { rows: of } = await db().execute<{ issue: string | null; keeps: boolean; received: string | null; denied: string | null }>(sql`
    select i.id as issue, ${keepsAt(viewer, sql`p.location_id`)} as keeps, i.received_at as received, i.denied_at as denied from ${from} where p.id = ${id}::uuid`);
  const { issue, keeps, received, denied } = of[0]!;
  return {
    ...its,
    keeps,
    issue,
    received: received === null ? null : new Date(received),
    denied: denied === null ? null : new Date(denied),
    events: events.map(({ at, issue: no, number, ...e }) => ({
      ...e,
      at: new Date(at),
      issue: no === null ? null : issueName(Number(no)),
      number: number === null ? null : Number(number),
    })),
  };
}
