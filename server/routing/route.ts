import { and, eq, sql } from 'drizzle-orm';
import { compileRouting, type Router, type RoutingAnswer, type RoutingFacts, type RoutingTable } from '../../core/routing/index.ts';
import type { Tx } from '../db/database.ts';
import { person, routingTable, serviceCase } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { placeTree } from './places.ts';

/** What is known of a case that is to be routed; of a request there is no kind and no priority, of a ticket no item. */
interface Known {
  kindId: string | null;
  itemId: string | null;
  category: string | null;
  placeId: string | null;
  priority: string | null;
  requesterId: string;
  answers: Record<string, unknown>;
}

/** Whom a case goes to, and by which row of which table; `row` undefined: by its fallback. */
export interface Routed {
  team?: string | undefined;
  holder?: string | undefined;
  by?: { table: string; row: number | undefined };
}

/** Tables that were made ready, by id, version and the places there are; a few at most. */
const ready = new Map<string, Router>();
const mostReady = 50;

/** Whom a ticket goes to by the table that routes tickets; nobody where there is none. */
export async function routeTicket(tx: Tx, known: Omit<Known, 'itemId'>): Promise<Routed> {
  const [row] = await tx
    .select({ id: routingTable.id, version: routingTable.version, definition: routingTable.definition })
    .from(routingTable)
    .where(eq(routingTable.forTickets, true));
  if (!row) return {};
  const at = (await routerOf(tx, row)).decide(await readFacts(tx, row.definition, { ...known, itemId: null }));
  const answer = at === undefined ? row.definition.fallback : row.definition.rows[at]!.answer;
  return { ...(await whoGets(tx, answer)), by: { table: row.definition.name, row: at } };
}

/** Whom a task of a run goes to by a routing table: a team, somebody in it, or a person; nobody where the table is gone, or names nobody who works here. */
export async function routeRun(
  tx: Tx,
  run: { caseId: string; requesterId: string; definition: { category: string }; answers: Record<string, unknown> },
  { table, place }: { table: string; place?: string },
): Promise<{ people: { person: string }[]; team?: string }> {
  const [row] = isId(table)
    ? await tx
        .select({ id: routingTable.id, version: routingTable.version, definition: routingTable.definition })
        .from(routingTable)
        .where(eq(routingTable.id, table))
    : [];
  if (!row) return { people: [] };
  const [its] = await tx
    .select({ itemId: serviceCase.itemId, placeId: person.locationId })
    .from(serviceCase)
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(eq(serviceCase.id, run.caseId));
  const known: Known = {
    kindId: null,
    itemId: its?.itemId ?? null,
    category: run.definition.category || null,
    placeId: place ?? its?.placeId ?? null,
    priority: null,
    requesterId: run.requesterId,
    answers: run.answers,
  };
  const at = (await routerOf(tx, row)).decide(await readFacts(tx, row.definition, known));
  const to = await whoGets(tx, at === undefined ? row.definition.fallback : row.definition.rows[at]!.answer);
  return { people: to.holder === undefined ? [] : [{ person: to.holder }], ...(to.team !== undefined && { team: to.team }) };
}

async function routerOf(tx: Tx, { id, version, definition }: { id: string; version: number; definition: RoutingTable }): Promise<Router> {
  const tree = await placeTree(tx);
  const key = `${id} ${version} ${[...tree].map((pair) => pair.join('<')).join(' ')}`;
  const known = ready.get(key);
  if (known) return known;
  if (ready.size >= mostReady) ready.clear();
  const made = compileRouting(definition, tree);
  ready.set(key, made);
  return made;
}

/** What a table can look at, of a case: all of it. */
export function factsOf(c: {
  kindId: string | null;
  itemId: string | null;
  category: string | null;
  placeId: string | null;
  priority: string | null;
  department: string | null;
  groups: readonly string[];
  answers: Record<string, unknown>;
}): RoutingFacts {
  return new Map<string, string | number | readonly string[] | null>([
    ['kind', c.kindId],
    ['item', c.itemId],
    ['category', c.category],
    ['place', c.placeId],
    ['priority', c.priority],
    ['department', c.department],
    ['group', c.groups],
    ...Object.entries(c.answers).map(([id, value]) => [`answer.${id}`, plainFact(value)] as const),
  ]);
}

/** The same of a case that is being opened; what its table does not look at is not read. */
async function readFacts(tx: Tx, table: RoutingTable, known: Known): Promise<RoutingFacts> {
  const looks = (fact: string) => table.columns.some((c) => c.fact === fact);
  const [row] = looks('department') ? await tx.select({ department: person.department }).from(person).where(eq(person.id, known.requesterId)) : [];
  const { rows: groups } = looks('group')
    ? await tx.execute<{ id: string }>(
        sql`select group_id as id from group_person where person_id = ${known.requesterId} and "as" = 'member' order by group_id`,
      )
    : { rows: [] };
  return factsOf({ ...known, department: row?.department ?? null, groups: groups.map((g) => g.id) });
}

/** An answer as a cell of a routing table can look at it: texts, numbers, yes and no, the ids of what is named. */
function plainFact(value: unknown): string | number | readonly string[] | null {
  if (value === null || value === undefined) return null;
  if (typeof value === 'string' || typeof value === 'number') return value;
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.map((v) => plainFact(v)).filter((v): v is string => typeof v === 'string');
  const [only] = Object.values(value as object) as unknown[];
  return typeof only === 'string' ? only : null;
}

/** Who it is within a team: whoever picks it up, the next in turn, or who has the least open work. Nobody who is away or gone. */
async function whoGets(tx: Tx, answer: RoutingAnswer): Promise<Routed> {
  if ('person' in answer) {
    const [here] = await tx
      .select({ id: person.id })
      .from(person)
      .where(and(eq(person.id, answer.person), eq(person.active, true)));
    return here ? { holder: here.id } : {};
  }
  if (answer.how === 'pickUp') return { team: answer.team };
  // Whose turn it is is said by one at a time.
  await tx.execute(sql`select pg_advisory_xact_lock(hashtext(${`turn ${answer.team}`}))`);
  const { rows } = await tx.execute<{ id: string; open: number; last: boolean }>(sql`
    select p.id, coalesce(turn.last_id = p.id, false) as last,
      (select count(*)::int from ticket t where t.holder_id = p.id and t.ended_at is null)
        + (select count(*)::int from task k where (k.taken_by = p.id or k.person_id = p.id) and k.closed_at is null) as open
    from team_member m join person p on p.id = m.person_id left join routing_turn turn on turn.team_id = m.team_id
    where m.team_id = ${answer.team} and p.active and (p.away_until is null or p.away_until < current_date)
    order by p.name, p.id`);
  if (rows.length === 0) return { team: answer.team };
  const last = rows.findIndex((r) => r.last);
  // From whoever had the last one on, so that of several with as little to do each has a turn.
  const inTurn = [...rows.slice(last + 1), ...rows.slice(0, last + 1)];
  const next = answer.how === 'inTurn' ? inTurn[0]! : inTurn.reduce((least, r) => (r.open < least.open ? r : least));
  await tx.execute(sql`
    insert into routing_turn (team_id, last_id) values (${answer.team}, ${next.id}) on conflict (team_id) do update set last_id = excluded.last_id`);
  return { team: answer.team, holder: next.id };
}
