import { sql, type SQL } from 'drizzle-orm';
import { workingBetween, type Calendar } from '../../core/calendar/index.ts';
import type { ListAsked } from '../../core/lists/index.ts';
import { placesAround, type PlaceTree } from '../../core/routing/index.ts';
import { everStatus } from '../../core/statuses/index.ts';
import { levelWords, tideLine, type Standing, type TideLine } from '../../core/targets/index.ts';
import { standingsOf, type TicketKind, type TicketState } from '../../core/tickets/index.ts';
import { readDocument, ticketFormat } from '../../core/documents/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { calendarsOf, type Calendars } from '../hours/nearest.ts';
import { allKinds } from '../kinds/queries.ts';
import { keyset, pageBy, type Key } from '../lists/keyset.ts';
import { allOf, anyOf, counted, onDays, wordsIn } from '../lists/narrow.ts';
import { nearOf, promisedOf, withDefinitions } from '../requests/promised.ts';

// Tasks of requests and tickets stand in one queue: each is found by its own indexes, and a page is among the firsts of both.

const number: Key = { of: sql`service_case.number`, as: 'bigint' };

/** What stands in the queue: where it is found, by what it is ordered and narrowed, whose it is. */
interface Source {
  what: 'task' | 'ticket';
  id: SQL;
  due: SQL;
  name: SQL;
  /** The table alone, and with all that lists ask of it. */
  own: SQL;
  from: SQL;
  team: SQL;
  /** Whose it is besides a team's. */
  holders: SQL[];
  untaken: SQL;
  /** What was given to nobody at all. */
  nobodys?: SQL;
  narrowed: (viewer: Viewer, asked: ListAsked) => (SQL | undefined)[];
}

const task: Source = {
  what: 'task',
  id: sql`task.id`,
  due: sql`task.due_order`,
  name: sql`task.name`,
  own: sql`task`,
  from: sql`task join run on run.id = task.run_id join service_case on service_case.id = run.case_id
    join revision on revision.id = run.revision_id join person requester on requester.id = service_case.requester_id`,
  team: sql`task.team_id`,
  holders: [sql`task.person_id`, sql`task.taken_by`],
  untaken: sql`task.taken_by is null and task.person_id is null`,
  narrowed: (viewer, asked) => [
    sql`task.closed_at is null`,
    anyOf(sql`task.team_id`, asked.wanted['team']),
    anyOf(sql`service_case.item_id`, asked.wanted['item']),
    asked.wanted['place'] && sql`false`,
    onDays(sql`task.due_at`, asked.days['due'], viewer.zone),
    wordsIn([sql`task.name`, sql`revision.name`, sql`requester.name`], asked.words),
  ],
};

const ticket: Source = {
  what: 'ticket',
  id: sql`ticket.case_id`,
  due: sql`ticket.due_order`,
  name: sql`ticket.subject`,
  own: sql`ticket`,
  from: sql`ticket join service_case on service_case.id = ticket.case_id join person requester on requester.id = service_case.requester_id`,
  team: sql`ticket.team_id`,
  holders: [sql`ticket.holder_id`],
  untaken: sql`ticket.holder_id is null`,
  nobodys: sql`ticket.team_id is null and ticket.holder_id is null`,
  narrowed: (viewer, asked) => [
    sql`ticket.ended_at is null`,
    anyOf(sql`ticket.team_id`, asked.wanted['team']),
    asked.wanted['item'] && sql`false`,
    asked.wanted['place'] &&
      sql`ticket.place_id in (with recursive within(id) as (select l.id from location l where ${anyOf(sql`l.id`, asked.wanted['place'])}
        union select l.id from location l join within on l.parent_id = within.id) select id from within)`,
    onDays(sql`ticket.due_at`, asked.days['due'], viewer.zone),
    wordsIn([sql`ticket.subject`, sql`requester.name`], asked.words),
  ],
};

const sources = (asked: ListAsked): Source[] => {
  const what = asked.wanted['what'];
  return [task, ticket].filter((s) => !what || what.includes(s.what));
};

const keysOf = (s: Source, by: string): Key[] => {
  const id: Key = { of: s.id, as: 'uuid' };
  if (by === 'request') return [number, id];
  return by === 'task' ? [{ of: sql`lower(${s.name})`, as: 'text' }, id] : [{ of: s.due, as: 'timestamptz' }, id];
};

/** Nothing is asked of the cases behind. */
const ofThemAlone = (asked: ListAsked): boolean => asked.words === '' && !asked.wanted['item'] && !asked.wanted['requester'];

const narrowed = (s: Source, viewer: Viewer, asked: ListAsked): (SQL | undefined)[] => {
  const whose = asked.wanted['whose'];
  return [
    ...s.narrowed(viewer, asked),
    whose?.includes('untaken') && !whose.includes('mine') ? s.untaken : undefined,
    anyOf(sql`service_case.requester_id`, asked.wanted['requester']),
  ];
};

/** What is open and the viewer's: their own, and, unless only that is wanted, their teams'. */
function shares(s: Source, viewer: Viewer, asked: ListAsked, firstOf: (whose: SQL) => SQL): SQL[] {
  const whose = asked.wanted['whose'];
  const own = s.holders.map((holder) => firstOf(sql`${holder} = ${viewer.id}`));
  const teams = [sql`(select t.* from team_member m cross join lateral ${firstOf(sql`${s.team} = m.team_id`)} t where m.person_id = ${viewer.id})`];
  // What is nobody's is everybody's who does work.
  if (s.nobodys && has(viewer, 'teamMember', 'administrator')) teams.push(firstOf(s.nobodys));
  if (!whose) return [...own, ...teams];
  return [...(whose.includes('mine') ? own : []), ...(whose.includes('untaken') ? teams : [])];
}

interface Row {
  what: 'task' | 'ticket';
  id: string;
  name: string;
  number: number;
  /** The item of a task; of a ticket nothing. */
  item: string | null;
  requester: string;
  place: string | null;
  team: string | null;
  teamId: string | null;
  holder: string | null;
  mine: boolean;
  dueAt: Date | null;
  openedAt: Date;
  kindId: string | null;
  placeId: string | null;
  requesterId: string;
  state: unknown;
  /** Of a task: the run it is of, and when it was asked for. */
  runId: string | null;
  revisionId: string | null;
  askedAt: Date;
  /** Of a ticket: where whoever asked works. */
  askerPlace: string | null;
  sortKeys: string[];
  [key: string]: unknown;
}

/** What is called by its id is named one by one: a page has few, and joining all of it would take longer to plan than to do. */
const named = (table: SQL, id: SQL): SQL => sql`(select n.name from ${table} n where n.id = ${id})`;

const detailsOf: Record<Source['what'], (viewer: Viewer) => SQL> = {
  task: (viewer) => sql`select 'task' as what, task.id, task.name, service_case.number, ${named(sql`revision`, sql`run.revision_id`)} as item,
    ${named(sql`person`, sql`service_case.requester_id`)} as requester, null as place, ${named(sql`team`, sql`task.team_id`)} as team,
    task.team_id as "teamId", ${named(sql`person`, sql`coalesce(task.taken_by, task.person_id)`)} as holder,
    coalesce(task.person_id = ${viewer.id} or task.taken_by = ${viewer.id}, false) as mine, task.due_at as "dueAt", task.opened_at as "openedAt",
    null::uuid as "kindId", null::uuid as "placeId", service_case.requester_id as "requesterId", null::jsonb as state,
    run.id as "runId", run.revision_id as "revisionId", service_case.opened_at as "askedAt", null::uuid as "askerPlace"`,
  ticket: (viewer) => sql`select 'ticket' as what, ticket.case_id as id, ticket.subject as name, service_case.number, null as item,
    ${named(sql`person`, sql`service_case.requester_id`)} as requester, ${named(sql`location`, sql`ticket.place_id`)} as place,
    ${named(sql`team`, sql`ticket.team_id`)} as team, ticket.team_id as "teamId", ${named(sql`person`, sql`ticket.holder_id`)} as holder,
    coalesce(ticket.holder_id = ${viewer.id}, false) as mine, ticket.due_at as "dueAt", service_case.opened_at as "openedAt",
    ticket.kind_id as "kindId", ticket.place_id as "placeId", service_case.requester_id as "requesterId", ticket.state,
    null::uuid as "runId", null::uuid as "revisionId", service_case.opened_at as "askedAt",
    (select n.location_id from person n where n.id = service_case.requester_id) as "askerPlace"`,
};
/** What the page itself is read of, once it is known which they are. */
const shown: Record<Source['what'], SQL> = {
  task: sql`task join run on run.id = task.run_id join service_case on service_case.id = run.case_id`,
  ticket: sql`ticket join service_case on service_case.id = ticket.case_id`,
};

/** Open tasks and tickets of the viewer and of their teams, a page at a time; the working time left is what is left at that instant. */
export async function queueFor(viewer: Viewer, asked: ListAsked, size = 50, at = now()) {
  const { by, down } = asked.sort;
  const way = down ? sql`desc` : sql`asc`;
  // As a number of the statement itself, so that one plan is good for every page.
  const upTo = sql.raw(String(size + 1));
  const page = sources(asked).map((s) => {
    const { after, orderBy, sortKeys } = keyset(keysOf(s, by), down, asked.after);
    const where = allOf([...narrowed(s, viewer, asked), after]);
    const alone = by === 'due' && ofThemAlone(asked);
    // The first of each that one index holds in order; a page is among the firsts of all.
    const firsts = shares(
      s,
      viewer,
      asked,
      (whose) =>
        sql`(select ${s.id} as id, ${s.due} as due_order from ${alone ? s.own : s.from} where ${whose} and ${where} order by ${orderBy} limit ${upTo})`,
    );
    const ofAll = by === 'due' ? sql`order by due_order ${way}, id ${way} limit ${upTo}` : sql``;
    const ids = sql`select id from (${sql.join(firsts, sql` union `)}) firsts ${ofAll}`;
    const [first] = keysOf(s, by);
    return sql`${detailsOf[s.what](viewer)}, ${sortKeys} as "sortKeys", ${first!.of} as key
      from ${shown[s.what]} where ${s.id} in (${ids})`;
  });
  // What tickets are reckoned by is read meanwhile.
  const tickets = sources(asked).includes(ticket);
  const calendars = calendarsOf(db());
  const reckonedBy = Promise.all([tickets ? allKinds() : [], tickets ? calendars.tree() : new Map<string, string | null>()]);
  reckonedBy.catch(() => undefined);
  const { rows } = await db().execute<Row & { number: string; dueAt: string | null; openedAt: string }>(
    sql`select * from (${sql.join(page, sql` union all `)}) entries order by key ${way}, id ${way} limit ${upTo}`,
  );
  const found = pageBy(rows, size);
  const [kinds, tree] = await reckonedBy;
  const stands = await standing(viewer, found.rows, at, { calendars, kinds: new Map(kinds.map((k) => [k.id, k.definition])), tree });
  return {
    next: found.next,
    rows: found.rows.map(
      (
        {
          sortKeys: _,
          teamId: _t,
          kindId: _k,
          placeId: _p,
          requesterId: _r,
          state: _s,
          runId: _i,
          revisionId: _v,
          askedAt: _a,
          askerPlace: _o,
          key: _key,
          ...r
        },
        i,
      ) => ({
        ...r,
        number: Number(r.number),
        dueAt: r.dueAt === null ? null : new Date(r.dueAt),
        openedAt: new Date(r.openedAt),
        ...stands[i]!,
      }),
    ),
  };
}

interface Stands {
  /** The status of a ticket, its priority and its kind. */
  status: string | undefined;
  priority: string | undefined;
  kind: string | undefined;
  /** Working minutes until it is due; since then, below nothing. */
  left: number | undefined;
  held: boolean;
  standing: Standing | undefined;
  tide: TideLine | undefined;
  /** Whether it is what is promised of the request, where a task has no date of its own. */
  ofRequest?: true;
}

/** Where each stands against what was promised, by the hours of its team. */
async function standing(
  viewer: Viewer,
  rows: Row[],
  at: Date,
  { calendars, kinds, tree }: { calendars: Calendars; kinds: ReadonlyMap<string, TicketKind>; tree: PlaceTree },
): Promise<Stands[]> {
  const counting = new Map<string, Calendar>();
  // What has no team: a task by the hours of its reader, a ticket by those of who asked, as on its page.
  const countedBy = (r: Row) => r.teamId ?? (r.what === 'ticket' ? r.requesterId : viewer.id);
  for (const r of rows)
    if (!counting.has(countedBy(r)))
      counting.set(
        countedBy(r),
        await calendars.of({
          team: r.teamId ?? undefined,
          ...(r.what === 'ticket' ? { place: r.askerPlace } : { person: viewer.id }),
          zone: viewer.zone,
        }),
      );
  // What has no date of its own is told by what is promised of its request.
  const runs = await withDefinitions(
    rows.flatMap((r) =>
      r.runId !== null && r.revisionId !== null
        ? [{ runId: r.runId, revisionId: r.revisionId, requesterId: r.requesterId, openedAt: new Date(r.askedAt), endedAt: null }]
        : [],
    ),
  );
  const dateless = new Set(rows.flatMap((r) => (r.dueAt === null ? (r.runId ?? []) : [])));
  const promised = await promisedOf(runs.filter((r) => dateless.has(r.id)));
  const warnAt = new Map(runs.map((r) => [r.id, nearOf(r.definition) / 100]));
  return rows.map((r): Stands => {
    const desk = counting.get(countedBy(r))!;
    const kind = kinds.get(r.kindId ?? '');
    if (r.what === 'ticket' && kind) {
      const state: TicketState = readDocument(ticketFormat, r.state);
      const its = standingsOf(kind, state, placesAround(tree, r.placeId), desk, at.toISOString(), ['fulfilment']);
      const status = everStatus(kind.map, state.status);
      return {
        status: status?.name,
        priority: levelWords(kind.priority.priorities, state.priority),
        kind: kind.name,
        left: its.fulfilment?.left,
        held: its.fulfilment?.phase === 'held',
        standing: its.fulfilment,
        tide: its.fulfilment && tideLine(its.fulfilment),
      };
    }
    const ofRequest = r.dueAt === null ? promised.get(r.runId ?? '')?.whole : undefined;
    if (ofRequest)
      return {
        ...ofRequest,
        status: undefined,
        priority: undefined,
        kind: undefined,
        left: ofRequest.standing.left,
        held: ofRequest.standing.phase === 'held',
        ofRequest: true,
      };
    const its = ofTask(r, desk, at, warnAt.get(r.runId ?? '') ?? 1);
    return { status: undefined, priority: undefined, kind: undefined, left: its?.left, held: false, standing: its, tide: its && tideLine(its) };
  });
}

/** A task was promised from when it came to when it is due; it is near at the share that its item says. */
function ofTask(r: Row, desk: Calendar, at: Date, warnAt: number): Standing | undefined {
  if (r.dueAt === null) return undefined;
  const [from, due, to] = [new Date(r.openedAt).toISOString(), new Date(r.dueAt).toISOString(), at.toISOString()];
  const promised = workingBetween(from, due, desk);
  const used = workingBetween(from, to, desk);
  const late = to > due;
  return {
    promised,
    used,
    held: 0,
    left: late ? -workingBetween(due, to, desk) : workingBetween(to, due, desk),
    due,
    warned: used >= promised * warnAt,
    late,
    phase: 'running',
    stretches: used > 0 ? [{ is: 'used', minutes: used }] : [],
    warnAt,
  };
}

/** How many there are, counted no further than `countedTo` and one more. */
export async function queueCount(viewer: Viewer, asked: ListAsked): Promise<number> {
  const some = sources(asked).flatMap((s) => {
    const where = allOf(narrowed(s, viewer, asked));
    return shares(
      s,
      viewer,
      asked,
      (whose) => sql`(select ${s.id} as id from ${ofThemAlone(asked) ? s.own : s.from} where ${whose} and ${where} limit 1001)`,
    );
  });
  const { rows } = await db().execute<{ n: number }>(counted(sql`select from (${sql.join(some, sql` union `)}) as shares`));
  return rows[0]!.n;
}
