import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { isId } from '../ids.ts';
import { db } from '../db/database.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';
import { standingOf } from '../differences/standing.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { actionSpecs } from '../systems/index.ts';
import { hasLeft, latestDay } from './day.ts';
import { isOutgrown } from './movers.ts';
import { byRequest, bySince, holdingFrom, holdingsWhere } from './read.ts';

const states: Record<string, () => SQL> = {
  held: () => sql`h.ended_at is null`,
  over: () => sql`h.ended_at is not null`,
  leaving: () => sql`(h.ended_at is null and not ${hasLeft(now())} and person.last_day <= ${latestDay(now())} + ${leavesWithin}::int)`,
  left: () => sql`(h.ended_at is null and ${hasLeft(now())})`,
  outgrown: () => isOutgrown,
};
/** Who leaves within so many days leaves soon. */
const leavesWithin = 14;

function narrowed(viewer: Viewer, asked: ListAsked): (SQL | undefined)[] {
  const wanted = (asked.wanted['state'] ?? []).flatMap((s) => (Object.hasOwn(states, s) ? [states[s]!()] : []));
  return [
    wanted.length > 0 ? sql`(${sql.join(wanted, sql` or `)})` : undefined,
    anyOf(sql`h.person_id`, asked.wanted['holder']),
    anyOf(sql`service_case.item_id`, asked.wanted['item']),
    onDays(sql`h.since`, asked.days['since'], viewer.zone),
    wordsIn([sql`person.name`, sql`revision.name`], asked.words),
  ];
}

/** What people hold and held, a page at a time; what a confidential request gave is told to those alone who may see inside it. */
export async function holdingList(viewer: Viewer, asked: ListAsked, size = 50) {
  if (!mayReadLedger(viewer)) return undefined;
  const keys = asked.sort.by === 'request' ? byRequest : bySince;
  const page = await holdingsWhere(narrowed(viewer, asked), { keys, down: asked.sort.down, cursor: asked.after, size }, viewer);
  return { next: page.next, rows: page.rows.map(asSeen) };
}

/** One of them, with what its system said of it when it was last read. */
export async function holdingFor(viewer: Viewer, id: string) {
  if (!mayReadLedger(viewer) || !isId(id)) return undefined;
  const { rows } = await holdingsWhere([sql`h.id = ${id}`], { keys: bySince, down: true, cursor: undefined, size: 1 }, viewer);
  return rows[0] && { ...asSeen(rows[0]), standing: await standingOf(db(), id), changes: await changesTo(id) };
}

/** What was done to it since it was given: by which action, by which request, and until which day it is lent from then on; the last first. */
async function changesTo(id: string): Promise<{ number: number; at: Date; did: string; was: string | null; until: string | null }[]> {
  const { rows } = await db().execute<{ number: string; at: string; action: string; was: string | null; until: string | null }>(sql`
    select c.number, e.at, e.action, e.was::text as was, e.until::text as until
    from holding_change e join run u on u.id = e.run_id join service_case c on c.id = u.case_id
    where e.holding_id = ${id} order by e.at desc, e.id limit 50`);
  const specs = rows.length > 0 ? await actionSpecs(db()) : [];
  return rows.map(({ action, number, at, ...r }) => ({
    ...r,
    number: Number(number),
    at: new Date(at),
    did: specs.find((s) => s.id === action)?.label ?? 'Something done to it',
  }));
}

type Row = Awaited<ReturnType<typeof holdingsWhere>>['rows'][number];
const asSeen = ({ isTheirs: _, ...r }: Row) => (r.sees ? r : { ...r, what: 'confidential', agreed: [], endingWhy: null });

/** How many that are, counted no further than `countedTo` and one more. */
export async function holdingCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  if (!mayReadLedger(viewer)) return 0;
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from ${holdingFrom} where ${allOf(narrowed(viewer, asked))}`));
  return rows[0]!.n;
}
