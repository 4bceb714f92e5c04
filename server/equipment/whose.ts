import { sql, type SQL } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Reader } from '../db/database.ts';
import { isId } from '../ids.ts';
import { refuse } from '../refusal.ts';

/** Whether the viewer keeps what stands at a place: they are in the team that does, or an administrator. */
export const keepsAt = (viewer: Viewer, place: SQL): SQL =>
  has(viewer, 'administrator')
    ? sql`true`
    : sql`exists (select from stock_place s join team_member m on m.team_id = s.team_id where s.location_id = ${place} and m.person_id = ${viewer.id})`;

/** The same, asked. */
export async function mayKeepAt(tx: Reader, viewer: Viewer, place: string): Promise<boolean> {
  if (!isId(place)) return false;
  const { rows } = await tx.execute<{ may: boolean }>(
    sql`select exists (select from stock_place p where p.location_id = ${place}::uuid) and ${keepsAt(viewer, sql`${place}::uuid`)} as may`,
  );
  return rows[0]!.may;
}

/** The places whose equipment the viewer keeps, by name. */
export async function placesKept(viewer: Viewer): Promise<{ id: string; name: string }[]> {
  const { rows } = await db().execute<{ id: string; name: string }>(
    sql`select l.id, l.name from stock_place p join location l on l.id = p.location_id where ${keepsAt(viewer, sql`p.location_id`)} order by l.name limit 500`,
  );
  return rows;
}

/** That somebody acts where others keep the stock. */
export const notKeptBy = () =>
  refuse('not-allowed', 'Choose a place that you keep.', [{ field: 'place', sentence: 'Choose a place that you keep.' }]);

/** Who says which kinds of equipment there are, where they stand, and of how many more are ordered. */
export const mayArrangeStock = (viewer: Viewer): boolean => has(viewer, 'designer', 'administrator');
