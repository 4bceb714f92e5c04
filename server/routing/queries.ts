import { and, eq, isNull, sql } from 'drizzle-orm';
import { compileRouting, type RoutingAnswer, type RoutingFacts, type RoutingTable } from '../../core/routing/index.ts';
import type { Form } from '../../core/forms/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { accessGroup, item, location, person, revision, routingTable, team, ticket } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { allKinds } from '../kinds/queries.ts';
import { placeTree } from './places.ts';
import { factsOf } from './route.ts';

/** The routing tables, by name. */
export async function routings(viewer: Viewer) {
  if (!has(viewer, 'designer')) return undefined;
  return db()
    .select({
      id: routingTable.id,
      name: routingTable.name,
      forTickets: routingTable.forTickets,
      rows: sql<number>`jsonb_array_length(${routingTable.definition} -> 'rows')`,
      changedAt: routingTable.changedAt,
      changedBy: person.name,
    })
    .from(routingTable)
    .leftJoin(person, eq(person.id, routingTable.changedBy))
    .orderBy(sql`lower(${routingTable.name})`);
}

/** A routing table with everything that its cells can name. */
export async function routingOf(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  const [row] = await db()
    .select({
      id: routingTable.id,
      version: routingTable.version,
      definition: routingTable.definition,
      forTickets: routingTable.forTickets,
      changedAt: routingTable.changedAt,
    })
    .from(routingTable)
    .where(eq(routingTable.id, id));
  if (!row) return undefined;
  const [kinds, items, places, teams, groups, departments, people] = await Promise.all([
    allKinds(),
    row.forTickets ? [] : offeredItems(),
    db().select({ id: location.id, name: location.name, parentId: location.parentId }).from(location).orderBy(location.name),
    db().select({ id: team.id, name: team.name }).from(team).orderBy(team.name),
    db().select({ id: accessGroup.id, name: accessGroup.name }).from(accessGroup).where(eq(accessGroup.gone, false)).orderBy(accessGroup.name),
    db()
      .selectDistinct({ name: person.department })
      .from(person)
      .where(and(eq(person.active, true), sql`${person.department} is not null`)),
    // Those who work in a team; others can be named once they do.
    db()
      .selectDistinct({ id: person.id, name: person.name })
      .from(person)
      .where(and(eq(person.active, true), sql`exists (select from team_member m where m.person_id = ${person.id})`))
      .orderBy(person.name),
  ]);
  const [forTickets] = await db().select({ name: routingTable.name }).from(routingTable).where(eq(routingTable.forTickets, true));
  return {
    ...row,
    /** The table by which tickets are routed now. */
    ticketsBy: forTickets?.name,
    known: {
      kinds: kinds.map((k) => ({
        id: k.id,
        name: k.definition.name,
        categories: k.definition.categories,
        priorities: k.definition.priority.priorities,
        /** Answers that cells can look at: choices, and numbers. */
        fields: lookedAt(k.definition.form),
      })),
      /** What can be asked for, of a table by which tasks of requests go. */
      items: items.map((i) => ({ id: i.id, name: i.definition.name, category: i.definition.category, fields: lookedAt(i.definition.form) })),
      places,
      teams,
      groups,
      departments: departments.flatMap((d) => (d.name === null ? [] : [d.name])).sort(),
      people,
    },
  };
}

/** The answers of a form that cells can look at: choices, and numbers. */
const lookedAt = (form: Form) =>
  form.fields.flatMap((f) =>
    f.kind === 'choice' || f.kind === 'number' ? [{ id: f.id, label: f.label, numbers: f.kind === 'number', options: f.options ?? [] }] : [],
  );

const offeredItems = () =>
  db()
    .select({ id: item.id, definition: revision.definition })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(item.kind, 'item'), isNull(item.archivedAt)))
    .orderBy(sql`lower(${item.name})`);

const mostOpen = 20_000;

interface Case {
  number: number;
  answer: RoutingAnswer;
}

/** What open tickets a changed table would send elsewhere than the one that is kept; they stay where they are. */
export async function wouldMove(viewer: Viewer, id: string, changed: RoutingTable) {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  const [row] = await db().select({ definition: routingTable.definition }).from(routingTable).where(eq(routingTable.id, id));
  if (!row) return undefined;
  const [tree, cases] = await Promise.all([placeTree(db()), openCases()]);
  const [was, next] = [compileRouting(row.definition, tree), compileRouting(changed, tree)];
  const answerIn = (table: RoutingTable, at: number | undefined): RoutingAnswer => (at === undefined ? table.fallback : table.rows[at]!.answer);
  const moved: Case[] = [];
  for (const c of cases) {
    const before = answerIn(row.definition, was.decide(c.facts));
    const after = answerIn(changed, next.decide(c.facts));
    if (JSON.stringify(before) !== JSON.stringify(after)) moved.push({ number: c.number, answer: after });
  }
  return { open: cases.length, moved: moved.length, some: moved.slice(0, 8), bound: cases.length === mostOpen };
}

/** How many tickets of the last ninety days each row would take, by its place; the last is what no row takes. */
export async function takenBy(viewer: Viewer, table: RoutingTable): Promise<{ rows: number[]; tickets: number; bound: boolean } | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const [tree, cases] = await Promise.all([placeTree(db()), lateCases()]);
  const router = compileRouting(table, tree);
  const rows = Array.from({ length: table.rows.length + 1 }, () => 0);
  for (const c of cases) rows[router.decide(c.facts) ?? table.rows.length]!++;
  return { rows, tickets: cases.length, bound: cases.length === mostOpen };
}

const openCases = () => casesWhere(isNull(ticket.endedAt));
const lateCases = () => casesWhere(sql`c.opened_at > now() - interval '90 days'`);

/** Tickets with all that a table can look at, read in one go; the newest where there are very many. */
async function casesWhere(which: ReturnType<typeof sql>): Promise<{ number: number; facts: RoutingFacts }[]> {
  const { rows } = await db().execute<{
    number: string;
    kind: string;
    category: string | null;
    place: string | null;
    priority: string;
    department: string | null;
    groups: string[];
    answers: Record<string, unknown>;
  }>(sql`
    select c.number, ${ticket.kindId} as kind, ${ticket.category} as category, ${ticket.placeId} as place, ${ticket.priority} as priority, p.department, c.answers,
      coalesce((select jsonb_agg(g.group_id order by g.group_id) from group_person g where g.person_id = p.id and g."as" = 'member'), '[]') as groups
    from ${ticket} join service_case c on c.id = ${ticket.caseId} join person p on p.id = c.requester_id
    where ${which} order by c.number desc limit ${mostOpen}`);
  return rows.map((r) => ({
    number: Number(r.number),
    facts: factsOf({
      kindId: r.kind,
      itemId: null,
      category: r.category,
      placeId: r.place,
      priority: r.priority,
      department: r.department,
      groups: r.groups,
      answers: r.answers,
    }),
  }));
}
