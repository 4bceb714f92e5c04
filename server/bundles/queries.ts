import { and, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { idsIn, writeBundle, type Bundle, type NamedThing } from '../../core/bundle/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Reader } from '../db/database.ts';
import {
  accessGroup,
  bundleImport,
  drawnKind,
  isDrawn,
  item,
  location,
  person,
  policy,
  referenceRow,
  referenceTable,
  team,
  webSystem,
} from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/**
 * An item with all that its draft uses, as one file: parts, policies, tables (with their rows where `rows`), systems without their
 * secrets, and what they name. Undefined where there is no such item, or it is not for the viewer.
 */
export async function writtenBundle(viewer: Viewer, id: string, rows: boolean): Promise<{ name: string; file: object } | undefined> {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  return db().transaction(async (tx) => {
    const bundle = await gathered(tx, id, rows);
    return bundle && { name: bundle.items[0]!.definition.name, file: writeBundle(bundle) };
  });
}

/** The definitions among these ids, with what they say. */
async function definitionsOf(tx: Reader, ids: string[], rows: boolean): Promise<Pick<Bundle, 'items' | 'policies' | 'tables' | 'systems'>> {
  const items = await tx
    .select({ id: item.id, kind: drawnKind, definition: item.draft })
    .from(item)
    .where(and(isDrawn, inArray(item.id, ids)));
  const policies = await tx.select({ id: policy.id, definition: policy.definition }).from(policy).where(inArray(policy.id, ids));
  const tables = await tx
    .select({ id: referenceTable.id, definition: referenceTable.definition })
    .from(referenceTable)
    .where(inArray(referenceTable.id, ids));
  const systems = await tx.select({ id: webSystem.id, definition: webSystem.definition }).from(webSystem).where(inArray(webSystem.id, ids));
  const cells =
    rows && tables.length > 0
      ? await tx
          .select({ table: referenceRow.tableId, cells: referenceRow.cells })
          .from(referenceRow)
          .where(
            and(
              inArray(
                referenceRow.tableId,
                tables.map((t) => t.id),
              ),
              isNull(referenceRow.retiredAt),
            ),
          )
          .orderBy(referenceRow.key)
      : [];
  return {
    items,
    policies,
    tables: tables.map((t) => ({ ...t, ...(rows && { rows: cells.flatMap((c) => (c.table === t.id ? [c.cells] : [])) }) })),
    systems,
  };
}

/** People, groups, teams and places among these ids, by what they are found by elsewhere. */
async function namedAmong(tx: Reader, ids: string[]): Promise<NamedThing[]> {
  if (ids.length === 0) return [];
  const of = sql`= any(${sql.param(ids)}::uuid[])`;
  const { rows } = await tx.execute<{ kind: NamedThing['kind']; id: string; name: string; mail: string | null }>(sql`
    select 'person' as kind, id, name, email as mail from ${person} where id ${of}
    union all select 'group', id, name, null from ${accessGroup} where id ${of}
    union all select 'team', id, name, null from ${team} where id ${of}
    union all select 'location', id, name, null from ${location} where id ${of} order by 1, 3`);
  return rows.map(({ kind, id, name, mail }) => ({ kind, id, name, ...(mail !== null && { mail }) }));
}

/** Follows what is named by its id, step by step, until nothing new is named. */
async function gathered(tx: Reader, itemId: string, rows: boolean): Promise<Bundle | undefined> {
  const bundle: Bundle = { item: itemId, made: now().toISOString(), items: [], policies: [], tables: [], systems: [], named: [] };
  const seen = new Set<string>();
  let next = [itemId];
  while (next.length > 0) {
    for (const id of next) seen.add(id);
    const found = await definitionsOf(tx, next, rows);
    bundle.items.push(...found.items.filter((i) => i.id === itemId || i.kind === 'part'));
    bundle.policies.push(...found.policies);
    bundle.tables.push(...found.tables);
    bundle.systems.push(...found.systems);
    next = [...idsIn(found, (id) => !seen.has(id))];
  }
  if (bundle.items.length === 0 || bundle.items[0]!.kind !== 'item') return undefined;
  bundle.named = await namedAmong(tx, [...seen]);
  return bundle;
}

/** What was taken in lately, the last first; undefined for whom that is not. */
export async function importsLately(viewer: Viewer) {
  if (!has(viewer, 'designer')) return undefined;
  const rows = await db()
    .select({
      id: bundleImport.id,
      name: bundleImport.name,
      itemId: bundleImport.itemId,
      at: bundleImport.at,
      by: person.name,
      takenBackAt: bundleImport.takenBackAt,
    })
    .from(bundleImport)
    .innerJoin(person, eq(person.id, bundleImport.by))
    .orderBy(desc(bundleImport.at))
    .limit(10);
  return rows;
}
