import { sql, type SQL } from 'drizzle-orm';
import type { ListAsked } from '../../core/lists/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { db } from '../db/database.ts';
import { workingBetween, type Calendar } from '../../core/calendar/index.ts';
import { now } from '../clock.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';

const id: Key = { of: sql`task.id`, as: 'uuid' };
const number: Key = { of: sql`service_case.number`, as: 'bigint' };
const due: Key[] = [{ of: sql`task.due_order`, as: 'timestamptz' }, id];
/** By what open tasks can be ordered; when they are due has an index for each team and person. */
const orders: Record<string, Key[]> = { due, request: [number, id], task: [{ of: sql`lower(task.name)`, as: 'text' }, id] };

const from = sql`task join run on run.id = task.run_id join service_case on service_case.id = run.case_id
  join revision on revision.id = service_case.revision_id join person requester on requester.id = service_case.requester_id`;

function narrowed(viewer: Viewer, asked: ListAsked): (SQL | undefined)[] {
  const whose = asked.wanted['whose'];
  return [
    sql`task.closed_at is null`,
    whose?.includes('untaken') && !whose.includes('mine') ? sql`task.taken_by is null and task.person_id is null` : undefined,
    anyOf(sql`task.team_id`, asked.wanted['team']),
    anyOf(sql`service_case.item_id`, asked.wanted['item']),
    anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
    onDays(sql`task.due_at`, asked.days['due'], viewer.zone),
    wordsIn([sql`task.name`, sql`revision.name`, sql`requester.name`], asked.words),
  ];
}

/** Nothing is asked of the requests that the tasks are of. */
const ofTasksAlone = (asked: ListAsked): boolean => asked.words === '' && !asked.wanted['item'] && !asked.wanted['requester'];

/** The open tasks that are the viewer's: their own, those they took, and, unless only theirs are wanted, those of their teams. */
function shares(viewer: Viewer, asked: ListAsked, firstOf: (whose: SQL) => SQL): SQL {
  const whose = asked.wanted['whose'];
  const own = [firstOf(sql`task.person_id = ${viewer.id}`), firstOf(sql`task.taken_by = ${viewer.id}`)];
  const teams = sql`(select t.* from team_member m cross join lateral ${firstOf(sql`task.team_id = m.team_id`)} t where m.person_id = ${viewer.id})`;
  const wanted = whose?.includes('mine') ? (whose.includes('untaken') ? [...own, teams] : own) : whose ? [teams] : [...own, teams];
  return sql.join(wanted, sql` union `);
}

interface Row {
  id: string;
  name: string;
  number: number;
  item: string;
  requester: string;
  team: string | null;
  teamId: string | null;
  takenBy: string | null;
  mine: boolean;
  dueAt: Date | null;
  openedAt: Date;
  sortKeys: string[];
  [key: string]: unknown;
}

/** Open tasks of the viewer and of their teams, a page at a time; the working time left is what is left at that instant. */
export async function tasksFor(viewer: Viewer, asked: ListAsked, size = 50, at = now()) {
  const { after, orderBy, sortKeys } = keyset(orders[asked.sort.by] ?? due, asked.sort.down, asked.after);
  const where = allOf([...narrowed(viewer, asked), after]);
  // The first of each that one index holds in order; a page is among the firsts of all.
  const own = asked.sort.by === 'due' && ofTasksAlone(asked) ? sql`task` : from;
  const page = shares(
    viewer,
    asked,
    (whose) => sql`(select task.id, task.due_order from ${own} where ${whose} and ${where} order by ${orderBy} limit ${size + 1})`,
  );
  // In order of when they are due the first of the firsts are the page.
  const way = asked.sort.down ? sql`desc` : sql`asc`;
  const ofAll = asked.sort.by === 'due' ? sql`order by due_order ${way}, id ${way} limit ${size + 1}` : sql``;
  const { rows } = await db().execute<Row & { number: string; dueAt: string | null; openedAt: string }>(sql`
    select task.id, task.name, service_case.number, revision.name as item, requester.name as requester, team.name as team, team.id as "teamId",
      taker.name as "takenBy", coalesce(task.person_id = ${viewer.id} or task.taken_by = ${viewer.id}, false) as mine,
      task.due_at as "dueAt", task.opened_at as "openedAt", ${sortKeys} as "sortKeys"
    from ${from} left join team on team.id = task.team_id left join person taker on taker.id = task.taken_by
    where task.id in (select id from (${page}) firsts ${ofAll}) order by ${orderBy} limit ${size + 1}`);
  const found = pageBy(rows, size);
  // Each by the hours of its team; what is nobody's by those of where its reader works.
  const calendars = calendarsOf(db());
  const counting = new Map<string, Calendar>();
  for (const id of new Set(found.rows.map((r) => r.teamId ?? '')))
    counting.set(id, await calendars.of({ team: id || undefined, person: viewer.id, zone: viewer.zone }));
  return {
    next: found.next,
    rows: found.rows.map(({ sortKeys: _, teamId, ...r }) => ({
      ...r,
      number: Number(r.number),
      dueAt: r.dueAt === null ? null : new Date(r.dueAt),
      /** Working minutes until it is due; since then, below nothing. */
      left: r.dueAt === null ? undefined : leftOf(at, new Date(r.dueAt), counting.get(teamId ?? '')!),
      openedAt: new Date(r.openedAt),
    })),
  };
}

function leftOf(at: Date, dueAt: Date, calendar: Calendar): number {
  const [from, due] = [at.toISOString(), dueAt.toISOString()];
  return at <= dueAt ? workingBetween(from, due, calendar) : -workingBetween(due, from, calendar);
}

/** How many tasks that are, counted no further than `countedTo` and one more. */
export async function taskCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  const where = allOf(narrowed(viewer, asked));
  const some = shares(
    viewer,
    asked,
    (whose) => sql`(select task.id from ${ofTasksAlone(asked) ? sql`task` : from} where ${whose} and ${where} limit 1001)`,
  );
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from (${some}) as shares`));
  return rows[0]!.n;
}
