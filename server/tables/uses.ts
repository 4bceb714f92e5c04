import { sql } from 'drizzle-orm';
import { itemFormat, readDocument } from '../../core/documents/index.ts';
import { columnsRead, type ItemDefinition, type ItemKind } from '../../core/items/index.ts';
import type { Reader } from '../db/database.ts';
import { catalogueFor } from '../items/catalogue.ts';

/** An item that offers rows of a table, and the columns its plan reads of them. */
export interface Use {
  id: string;
  name: string;
  kind: ItemKind;
  columns: string[];
}

/**
 * What reads a table: items in the draft, as they are offered, and in every revision that a request is still under way on. The
 * text of a definition names the table where a form or a part offers its rows.
 */
export async function usesOf(tx: Reader, table: string): Promise<Use[]> {
  const needle = `%"table": "${table}"%`;
  const { rows } = await tx.execute<{ id: string; name: string; kind: ItemKind; definition: unknown }>(sql`
    select i.id, i.name, i.kind, i.draft as definition from item i where i.archived_at is null and i.draft::text like ${needle}
    union all
    select i.id, i.name, i.kind, v.definition from revision v join item i on i.id = v.item_id
    where v.definition::text like ${needle} and (v.number = i.published_revision or exists (select from run r where r.revision_id = v.id and r.ended_at is null))
    order by name`);
  const found = new Map<string, Use>();
  const [first] = rows;
  // Which tables, actions and parts there are is the same for all of them.
  const catalogue = first && (await catalogueFor(tx, readDocument(itemFormat, first.definition)));
  for (const row of catalogue ? rows : []) {
    const definition: ItemDefinition = readDocument(itemFormat, row.definition);
    const use = found.get(row.id) ?? { id: row.id, name: row.name, kind: row.kind, columns: [] };
    use.columns = [...new Set([...use.columns, ...columnsRead(row.kind, definition, catalogue!, table)])];
    found.set(row.id, use);
  }
  return [...found.values()];
}
