import { sql } from 'drizzle-orm';
import type { TableDefinition } from '../../core/tables/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';
import { notAllowed, refuse, type Refusal } from '../refusal.ts';

/** Whether somebody keeps the rows of a table: designers, and the people of the group that owns it. */
export async function keepsRows(tx: Reader, viewer: Viewer, { owners }: Pick<TableDefinition, 'owners'>): Promise<boolean> {
  if (has(viewer, 'designer')) return true;
  if (!owners || !isId(owners.group)) return false;
  const { rows } = await tx.execute(
    sql`select 1 from group_person g join access_group a on a.id = g.group_id
      where g.group_id = ${owners.group} and g.person_id = ${viewer.id} and not a.gone limit 1`,
  );
  return rows.length > 0;
}

/** Why somebody may not change rows of a table by hand; undefined where they may. */
export async function notTheirs(tx: Reader, viewer: Viewer, definition: TableDefinition): Promise<Refusal | undefined> {
  if (!(await keepsRows(tx, viewer, definition))) return notAllowed('change this table');
  return (
    definition.from && refuse('invalid', 'The rows of this table are read from a system: what is wrong in them is changed there, and comes along.')
  );
}

/** The tables whose rows somebody keeps as one of the group that owns them. */
export async function tablesKeptBy(tx: Reader, viewer: Viewer): Promise<{ id: string; name: string; purpose: string; rows: number }[]> {
  const { rows } = await tx.execute<{ id: string; name: string; purpose: string; rows: string }>(sql`
    select t.id, t.name, t.definition ->> 'purpose' as purpose,
      (select count(*) from reference_row r where r.table_id = t.id and r.retired_at is null) as rows
    from reference_table t
    where t.definition -> 'owners' ->> 'group' in (
      select g.group_id::text from group_person g join access_group a on a.id = g.group_id where g.person_id = ${viewer.id} and not a.gone)
    order by lower(t.name)`);
  return rows.map((r) => ({ ...r, rows: Number(r.rows) }));
}
