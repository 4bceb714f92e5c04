import { and, eq, ne, or, sql } from 'drizzle-orm';
import { RoutingTable } from '../../core/routing/index.ts';
import { keptDocument, routingFormat } from '../../core/documents/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Reader } from '../db/database.ts';
import { routingTable } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { existing } from '../people/existing.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';

/** What a table looks at when it is begun. */
const begunWith = { tickets: ['kind', 'category', 'place', 'priority'], tasks: ['item', 'category', 'place'] } as const;

/** Begins a routing table with the team that gets everything: by the first one for tickets they are routed; tasks of requests name theirs. */
export async function createRouting(
  viewer: Viewer,
  input: { name: string; team: string; for?: 'tickets' | 'tasks' },
): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('design routing');
  const held = holdTo(RoutingTable, {
    name: input.name,
    chooses: 'nearest',
    columns: begunWith[input.for ?? 'tickets'].map((fact) => ({ id: fact, fact })),
    rows: [],
    fallback: { team: input.team, how: 'pickUp' },
  });
  if (!held.ok) return held;
  const definition = held.value;
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const gone = await notThere(tx, definition);
    if (gone) return gone;
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('routing of tickets'))`);
    const first = input.for !== 'tasks' && (await tx.$count(routingTable, eq(routingTable.forTickets, true))) === 0;
    const [made] = await tx
      .insert(routingTable)
      .values({ name: definition.name, definition, forTickets: first, changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: routingTable.id });
    if (!made) return taken(definition.name);
    await record(tx, { actor: viewer.id, action: 'create', object: 'routing', objectId: made.id, detail: { name: definition.name } });
    return { ok: true, id: made.id };
  });
}

/** Lets tickets be routed by this table from now on, in place of the one by which they were. */
export async function routeTicketsBy(viewer: Viewer, id: string): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('design routing');
  if (!isId(id)) return notFound('This table');
  return db().transaction(async (tx): Promise<Result> => {
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('routing of tickets'))`);
    const all = await tx
      .select({ id: routingTable.id, name: routingTable.name, forTickets: routingTable.forTickets })
      .from(routingTable)
      .where(or(eq(routingTable.id, id), eq(routingTable.forTickets, true)))
      .orderBy(routingTable.id)
      .for('no key update');
    const next = all.find((t) => t.id === id);
    if (!next) return notFound('This table');
    if (next.forTickets) return { ok: true };
    const before = all.find((t) => t.forTickets);
    if (before) await tx.update(routingTable).set({ forTickets: false }).where(eq(routingTable.id, before.id));
    await tx.update(routingTable).set({ forTickets: true }).where(eq(routingTable.id, id));
    await record(tx, {
      actor: viewer.id,
      action: 'route-tickets',
      object: 'routing',
      objectId: id,
      detail: { name: next.name, ...(before && { before: before.name }) },
    });
    return { ok: true };
  });
}

/** Changes a routing table. It counts for what is routed from then on; open tickets stay where they are. */
export async function changeRouting(
  viewer: Viewer,
  input: { id: string; version: number; definition: unknown },
): Promise<Result<{ version: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('design routing');
  if (!isId(input.id)) return notFound('This table');
  const held = holdTo(RoutingTable, input.definition);
  if (!held.ok) return held;
  const definition = held.value;
  return db().transaction(async (tx): Promise<Result<{ version: number }>> => {
    const [now] = await tx.select({ version: routingTable.version }).from(routingTable).where(eq(routingTable.id, input.id)).for('no key update');
    if (!now) return notFound('This table');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this table meanwhile. Nothing of theirs was overwritten; what you changed is still here.',
      );
    const gone = await notThere(tx, definition);
    if (gone) return gone;
    const [same] = await tx
      .select({ id: routingTable.id })
      .from(routingTable)
      .where(and(eq(sql`lower(${routingTable.name})`, definition.name.toLowerCase()), ne(routingTable.id, input.id)));
    if (same) return taken(definition.name);
    const version = now.version + 1;
    await tx
      .update(routingTable)
      .set({ name: definition.name, definition, version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(routingTable.id, input.id));
    await record(tx, {
      actor: viewer.id,
      action: 'change',
      object: 'routing',
      objectId: input.id,
      detail: { version, definition: keptDocument(routingFormat, definition) },
    });
    return { ok: true, version };
  });
}

/** What a table names and is not there, or is a team that nobody is in. */
async function notThere(tx: Reader, table: RoutingTable) {
  const answers = [...table.rows.map((r) => r.answer), table.fallback];
  const places = table.rows.flatMap((r) => Object.values(r.cells).flatMap((c) => (c.is === 'under' ? c.places : [])));
  const there = await existing(tx, [
    ...answers.map((a) => ('team' in a ? { team: a.team } : { person: a.person })),
    ...places.map((location) => ({ location })),
  ]);
  const missing = answers.findIndex((a) => !('team' in a ? there.has('team', a.team) : there.has('person', a.person)));
  if (missing >= 0) {
    const where = missing === answers.length - 1 ? 'What no row takes' : `Row ${missing + 1}`;
    return refuse(
      'invalid',
      `${where} goes to ${'team' in answers[missing]! ? 'a team' : 'somebody'} who is not there any more. Choose who gets it.`,
    );
  }
  if (places.some((p) => !there.has('location', p))) return refuse('invalid', 'A row names a place that is not there any more.');
  const teams = [...new Set(answers.flatMap((a) => ('team' in a ? [a.team] : [])))];
  const { rows } = await tx.execute<{ name: string }>(sql`
    select t.name from team t where t.id = any(${sql.param(teams)}::uuid[])
      and not exists (select from team_member m join person p on p.id = m.person_id where m.team_id = t.id and p.active) order by t.name limit 1`);
  return rows[0]
    ? refuse('invalid', `Nobody is in ${rows[0].name}, so what goes there would stand still. Put somebody into the team first.`)
    : undefined;
}

const taken = (name: string) =>
  refuse('taken', `There is a table called “${name}” already.`, [
    { field: 'name', sentence: `There is a table called “${name}” already. Choose another name.` },
  ]);
