import { sql } from 'drizzle-orm';
import { has, viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import type { Reader } from '../db/database.ts';
import { isId } from '../ids.ts';

/** The ids of those who own a group and work here. */
const ownersOf = (group: string) =>
  sql`select o.person_id from group_person o join person p on p.id = o.person_id and p.active where o.group_id = ${group}::uuid and o."as" = 'owner'`;

/** Who keeps the condition of a group: one who owns it; where nobody does who works here, an administrator. */
export async function mayKeep(tx: Reader, viewer: Viewer, group: string): Promise<boolean> {
  if (!isId(group)) return false;
  const { rows } = await tx.execute<{ owns: boolean; owned: boolean }>(sql`
    select ${viewer.id}::uuid in (${ownersOf(group)}) as owns, exists (${ownersOf(group)}) as owned from access_group g where g.id = ${group}::uuid and not g.gone`);
  const [row] = rows;
  return row !== undefined && (row.owns || (!row.owned && has(viewer, 'administrator')));
}

/** Who reads the conditions of all groups. */
export const readsAllGroups = (viewer: Viewer): boolean => has(viewer, 'designer', 'auditor', 'administrator');

/** In whose name somebody is let in: whoever kept the condition, else another who owns the group; undefined where none of them works here. */
export async function keeperOf(tx: Reader, { groupId, keptBy }: { groupId: string; keptBy: string }): Promise<Viewer | undefined> {
  return (
    (await viewerKnownBy(tx, sql`person.id = ${keptBy}::uuid`)) ??
    (await viewerKnownBy(tx, sql`person.id = (select o.person_id from (${ownersOf(groupId)}) o order by o.person_id limit 1)`))
  );
}
