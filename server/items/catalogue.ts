import { definitionIn, isOffered } from '../tables/offered.ts';
import { and, count, eq, inArray, sql } from 'drizzle-orm';
import { namedInAudience, namedInOnBehalf, partOfDefinition, type ItemDefinition } from '../../core/items/index.ts';
import { roomOf, walk, type Catalogue } from '../../core/plans/index.ts';
import { namedIn, Operand, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { item, person, policy, referenceTable, revision, routingTable, systemOwner, team, teamMember } from '../db/schema/index.ts';
import { systemOf } from '../systems/whose.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { isId } from '../ids.ts';
import { namesFor } from '../people/names.ts';
import { actionSpecs } from '../systems/index.ts';

/**
 * What the check of an item needs to know from outside it. `self`: the id of the part that is checked, which stands in it as
 * it is now, so that a part which uses itself by way of another is found.
 */
export async function catalogueFor(tx: Reader, definition: ItemDefinition, self?: string): Promise<Catalogue> {
  const uuids = [...peopleNamed(definition)].filter(isId);
  // One after another: inside a transaction there is one connection.
  const people = uuids.length
    ? await tx.select({ id: person.id, name: person.name, active: person.active }).from(person).where(inArray(person.id, uuids))
    : [];
  const values = [...statedIn(definition), ...namedInAudience(definition.audience), ...namedInOnBehalf(definition.onBehalf)];
  const names = await namesFor(tx, values);
  const owned = new Set(
    (
      await tx
        .selectDistinct({ system: systemOwner.system })
        .from(systemOwner)
        .innerJoin(person, and(eq(person.id, systemOwner.personId), eq(person.active, true)))
    ).map((o) => o.system),
  );
  const actions = (await actionSpecs(tx)).map((a) => ({ ...a, unowned: !owned.has(systemOf(a.id)) }));
  const teams = await tx
    .select({ id: team.id, name: team.name, members: count(person.id) })
    .from(team)
    .leftJoin(teamMember, eq(teamMember.teamId, team.id))
    .leftJoin(person, and(eq(person.id, teamMember.personId), eq(person.active, true)))
    .groupBy(team.id)
    .orderBy(team.name);
  const policies = await tx.select({ id: policy.id, definition: policy.definition }).from(policy).orderBy(policy.name);
  const tables = await tx.select({ id: referenceTable.id, name: referenceTable.name, definition: referenceTable.definition }).from(referenceTable);
  const routing = await tx
    .select({ id: routingTable.id, name: routingTable.name, definition: routingTable.definition })
    .from(routingTable)
    .orderBy(routingTable.name);
  const looked = await lookedUp(tx, definition);
  const parts = await tx
    .select({ id: item.id, definition: revision.definition })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(eq(item.kind, 'part'));
  const hours = await calendarsOf(tx).stated({ zone: 'UTC' });
  return {
    actions,
    people: Object.fromEntries(people.map((r) => [r.id, { name: r.name, active: r.active }])),
    teams: Object.fromEntries(teams.map((t) => [t.id, { name: t.name, members: t.members }])),
    tables: Object.fromEntries(
      tables.map((t) => [t.id, { name: t.name, columns: t.definition.columns, ...(looked.has(t.id) && { looked: looked.get(t.id)! }) }]),
    ),
    policies: Object.fromEntries(policies.map((p) => [p.id, { name: p.definition.name, inputs: p.definition.inputs }])),
    routing: Object.fromEntries(
      routing.map((r) => [
        r.id,
        { name: r.name, columns: r.definition.columns.map(({ fact, field }) => ({ fact, ...(field !== undefined && { field }) })) },
      ]),
    ),
    stated: Object.fromEntries(
      values.flatMap(namedIn).flatMap(({ kind, id }) => {
        const name = names.of(kind, id);
        return name === undefined ? [] : [[`${kind} ${id}`, name]];
      }),
    ),
    ...(hours && { hours }),
    parts: {
      ...Object.fromEntries(parts.map((p) => [p.id, partOfDefinition(p.definition)])),
      ...(self !== undefined && { [self]: partOfDefinition(definition) }),
    },
  };
}

/** More of it than this is not looked at. */
const mostLooked = 5000;

/** By table: what stands together in the columns that the plan looks rows up by, each once; nothing of a table with too much of it. */
async function lookedUp(tx: Reader, { plan }: ItemDefinition): Promise<Map<string, { columns: string[]; rows: Value[][] }>> {
  const columns = new Map<string, Set<string>>();
  for (const { step } of walk(plan.steps)) {
    const table = roomOf(step).looksIn?.(step);
    if (table === undefined || !isId(table)) continue;
    columns.set(table, new Set([...(columns.get(table) ?? []), ...(roomOf(step).looksBy?.(step, table) ?? [])]));
  }
  const found = new Map<string, { columns: string[]; rows: Value[][] }>();
  for (const [table, ids] of columns) {
    if (ids.size === 0) continue;
    const { rows } = await tx.execute<{ cells: Value[] }>(sql`
      select distinct (select jsonb_agg(r.cells -> c.id order by c.nth) from unnest(${sql.param([...ids])}::text[]) with ordinality as c(id, nth)) as cells
      from reference_row r where r.table_id = ${table}::uuid and ${isOffered(sql`r`, definitionIn(table))} limit ${mostLooked + 1}`);
    if (rows.length <= mostLooked) found.set(table, { columns: [...ids], rows: rows.map((r) => r.cells) });
  }
  return found;
}

/** The values that a definition states outright, wherever in it they stand. */
function statedIn(definition: unknown): Value[] {
  const found: Value[] = [];
  const visit = (x: unknown): void => {
    if (typeof x !== 'object' || x === null) return;
    if ('literal' in x) {
      const read = Operand.safeParse(x);
      if (read.success && 'literal' in read.data) found.push(read.data.literal);
    } else Object.values(x).forEach(visit);
  };
  visit(definition);
  return found;
}

/** Every person the plan names outright. */
function peopleNamed(definition: ItemDefinition): Set<string> {
  const named = new Set<string>(definition.confidential?.readers.map((r) => r.person));
  for (const { step } of walk(definition.plan.steps)) for (const person of roomOf(step).people?.(step) ?? []) named.add(person);
  return named;
}
