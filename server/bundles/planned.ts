import { randomUUID } from 'node:crypto';
import { and, sql } from 'drizzle-orm';
import { own, sameJson } from '../../core/boundary/index.ts';
import { withIds, type Bundle, type NamedThing } from '../../core/bundle/index.ts';
import { backTo, compareItems, type ItemDefinition } from '../../core/items/index.ts';
import type { Policy } from '../../core/policies/index.ts';
import { readRow, type Cells, type TableDefinition } from '../../core/tables/index.ts';
import type { Reader } from '../db/database.ts';
import { drawnKind, isDrawn, item, policy, referenceTable, webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { catalogueFor } from '../items/catalogue.ts';
import { existing } from '../people/existing.ts';

/** What taking in one definition of a file comes to. */
export interface Entry {
  what: 'item' | 'part' | 'policy' | 'table' | 'system';
  name: string;
  /**
   * `added`; `changed`: its draft becomes as it is in the file; `same`; `kept`: it is otherwise here, and stays so, since it counts at
   * once for everything that uses it; `missing`: it is not here, and whoever may register systems has to.
   */
  is: 'added' | 'changed' | 'same' | 'kept' | 'missing';
  /** What changes, in words; of a table how many rows come with it. */
  words: string[];
}

/** What a file would do here, and what is to be written for it. */
export interface ImportPlan {
  entries: Entry[];
  /** What it names and is not found here by mail address or name: somebody has to say who or what is meant. */
  unmatched: NamedThing[];
  /** Those of them of whom it is not said yet. */
  open: NamedThing[];
  /** What keeps it from being taken in. */
  problem?: string | undefined;
  write: {
    items: { id: string; kind: 'item' | 'part'; draft: ItemDefinition; before?: { version: number; draft: ItemDefinition } | undefined }[];
    policies: { id: string; definition: Policy }[];
    tables: { id: string; definition: TableDefinition; rows: Cells[] }[];
  };
  /** The id here of the item that the file was made for. */
  item: string;
}

/**
 * Works out what a file comes to here. People are found by their mail address, groups, teams and places by name; `chosen` says of
 * those that are not found who or what is meant, by their ids in the file.
 */
export async function plannedImport(tx: Reader, bundle: Bundle, chosen: Record<string, string>): Promise<ImportPlan> {
  const ids = await namedHere(tx, bundle.named);
  const unmatched = bundle.named.filter((n) => !ids.has(n.id));
  const meant = await existing(
    tx,
    unmatched.map((n) => ({ [n.kind]: own(chosen, n.id) ?? '' })),
  );
  const left = unmatched.filter((n) => {
    const id = own(chosen, n.id);
    if (id === undefined || !isId(id) || !meant.has(n.kind, id)) return true;
    ids.set(n.id, id);
    return false;
  });
  const here = await definitionsHere(tx, bundle);
  for (const x of [...bundle.items, ...bundle.policies, ...bundle.tables, ...bundle.systems])
    ids.set(x.id, here.get(keyOf(x, bundle))?.id ?? (bundle.systems.some((s) => s.id === x.id) ? x.id : randomUUID()));

  const plan: ImportPlan = { entries: [], unmatched, open: left, write: { items: [], policies: [], tables: [] }, item: ids.get(bundle.item)! };
  for (const i of bundle.items) await planItem(tx, plan, withIds(i, ids), here.get(keyOf(i, bundle)));
  for (const p of bundle.policies) {
    const mapped = withIds(p, ids);
    const there = here.get(keyOf(p, bundle));
    if (!there) plan.write.policies.push(mapped);
    plan.entries.push({
      what: 'policy',
      name: p.definition.name,
      is: !there ? 'added' : sameJson(there.definition, mapped.definition) ? 'same' : 'kept',
      words: [],
    });
  }
  for (const t of bundle.tables) await planTable(tx, plan, withIds(t, ids), here.get(keyOf(t, bundle)));
  for (const s of bundle.systems) {
    const there = here.get(keyOf(s, bundle));
    plan.entries.push({
      what: 'system',
      name: s.definition.name,
      is: !there ? 'missing' : sameJson(there.definition, s.definition) ? 'same' : 'kept',
      words: [],
    });
  }
  return plan;
}

/** The ids here of those who are found: of several that are called the same none. */
async function namedHere(tx: Reader, named: NamedThing[]): Promise<Map<string, string>> {
  const { rows } = await tx.execute<{ theirs: string; ours: string }>(sql`
    with wanted as (select * from jsonb_to_recordset(${JSON.stringify(named)}::jsonb) as w(kind text, id text, name text, mail text)),
    found as (
      select w.id as theirs, p.id as ours from wanted w join person p on w.kind = 'person' and p.active and lower(p.email) = lower(w.mail)
      union all select w.id, g.id from wanted w join access_group g on w.kind = 'group' and not g.gone and lower(g.name) = lower(w.name)
      union all select w.id, t.id from wanted w join team t on w.kind = 'team' and lower(t.name) = lower(w.name)
      union all select w.id, l.id from wanted w join location l on w.kind = 'location' and lower(l.name) = lower(w.name)
    ) select theirs, min(ours::text) as ours from found group by theirs having count(*) = 1`);
  return new Map(rows.map((r) => [r.theirs, r.ours]));
}

interface There {
  id: string;
  kind?: 'item' | 'part';
  definition: object;
  version?: number;
}
const keyOf = (x: { id: string; definition: { name: string } }, b: Bundle): string => {
  const list = b.policies.some((p) => p.id === x.id)
    ? 'policy'
    : b.tables.some((t) => t.id === x.id)
      ? 'table'
      : b.systems.some((s) => s.id === x.id)
        ? 'system'
        : 'item';
  return `${list} ${x.definition.name.toLowerCase()}`;
};

/** What is here already under the names that a file has. */
async function definitionsHere(tx: Reader, b: Bundle): Promise<Map<string, There>> {
  const called = (all: { definition: { name: string } }[]) => sql.param(all.map((x) => x.definition.name.toLowerCase()));
  const items = await tx
    .select({ id: item.id, kind: drawnKind, name: item.name, definition: item.draft, version: item.draftVersion })
    .from(item)
    .where(and(isDrawn, sql`lower(${item.name}) = any(${called(b.items)}::text[])`));
  const policies = await tx
    .select()
    .from(policy)
    .where(sql`lower(${policy.name}) = any(${called(b.policies)}::text[])`);
  const tables = await tx
    .select()
    .from(referenceTable)
    .where(sql`lower(${referenceTable.name}) = any(${called(b.tables)}::text[])`);
  const systems = await tx
    .select()
    .from(webSystem)
    .where(sql`lower(${webSystem.name}) = any(${called(b.systems)}::text[])`);
  return new Map<string, There>([
    ...items.map((x) => [`item ${x.name.toLowerCase()}`, x] as const),
    ...policies.map((x) => [`policy ${x.name.toLowerCase()}`, x] as const),
    ...tables.map((x) => [`table ${x.name.toLowerCase()}`, x] as const),
    ...systems.map((x) => [`system ${x.name.toLowerCase()}`, x] as const),
  ]);
}

async function planItem(tx: Reader, plan: ImportPlan, given: Bundle['items'][number], there: There | undefined): Promise<void> {
  const { id, kind, definition } = given;
  const entry = (is: Entry['is'], words: string[] = []) => plan.entries.push({ what: kind, name: definition.name, is, words });
  if (!there) {
    plan.write.items.push({ id, kind, draft: definition });
    return void entry('added');
  }
  if (there.kind !== kind) {
    plan.problem ??= `“${definition.name}” is ${kind === 'item' ? 'an item' : 'a part'} in this file, and ${kind === 'item' ? 'a part' : 'an item'} here. Rename one of them first.`;
    return void entry('kept');
  }
  const before = there.definition as ItemDefinition;
  const catalogue = await catalogueFor(tx, definition, kind === 'part' ? id : undefined);
  const words = compareItems(kind, before, definition, catalogue).map((d) => d.sentence);
  const draft = backTo(before, definition, catalogue);
  if (sameJson(draft, before)) return void entry('same');
  plan.write.items.push({ id, kind, draft, before: { version: there.version!, draft: before } });
  entry('changed', words);
}

async function planTable(tx: Reader, plan: ImportPlan, given: Bundle['tables'][number], there: There | undefined): Promise<void> {
  const { id, definition, rows = [] } = given;
  const { name } = definition;
  if (there) {
    const plain = ({ retired: _, wereCalled: __, ...rest }: TableDefinition) => rest;
    const same = sameJson(plain(there.definition as TableDefinition), plain(definition));
    plan.entries.push({ what: 'table', name, is: same ? 'same' : 'kept', words: rows.length > 0 ? ['Its rows here stay as they are.'] : [] });
    return;
  }
  plan.write.tables.push({ id, definition, rows });
  plan.entries.push({
    what: 'table',
    name,
    is: 'added',
    words: [rows.length === 1 ? 'with 1 row' : `with ${rows.length.toLocaleString('en')} rows`],
  });
  // What is not said yet, who or what is meant, will be looked at once it is.
  if (plan.open.length > 0) return;
  const exists = await existing(
    tx,
    rows.flatMap((cells) => Object.values(cells)),
  );
  const keys = new Set<string>();
  for (const [at, cells] of rows.entries()) {
    const read = readRow(definition, cells, (kind, of) => exists.has(kind, of));
    if (!read.ok) plan.problem ??= `Row ${at + 1} of “${name}” does not fit: ${read.problems[0]?.sentence ?? 'it cannot be read.'}`;
    else if (keys.has(read.key)) plan.problem ??= `Row ${at + 1} of “${name}” has the key of a row before it.`;
    else keys.add(read.key);
  }
}
