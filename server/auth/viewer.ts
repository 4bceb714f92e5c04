import { and, eq, gt, sql } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { location, person, roleGrant, session, type Role } from '../db/schema/index.ts';
import { hashToken } from './token.ts';

/** The signed-in person, as commands and queries know them. */
export interface Viewer {
  id: string;
  name: string;
  email: string;
  zone: string;
  roles: Role[];
}

export const has = (viewer: Viewer, ...roles: Role[]): boolean => roles.some((r) => viewer.roles.includes(r));

/** Who a session cookie belongs to; undefined when it is unknown, over, or its person has left. */
export async function viewerOf(cookie: string | undefined): Promise<Viewer | undefined> {
  if (!cookie) return undefined;
  const [row] = await db()
    .select({
      id: person.id,
      name: person.name,
      email: person.email,
      roles: sql<Role[]>`coalesce((select array_agg(${roleGrant.role}) from ${roleGrant} where ${roleGrant.personId} = ${person.id}), '{}')`,
      zone: zoneOf,
    })
    .from(session)
    .innerJoin(person, eq(person.id, session.personId))
    .where(and(eq(session.idHash, hashToken(cookie)), gt(session.expiresAt, sql`now()`), eq(person.active, true)));
  return row;
}

/** The nearest zone up the tree of places from where the person works. */
export const zoneOf = sql<string>`coalesce((
  with recursive up as (
    select l.id, l.parent_id, l.zone, 0 as height from ${location} l where l.id = ${person.locationId}
    union all
    select p.id, p.parent_id, p.zone, up.height + 1 from ${location} p join up on p.id = up.parent_id where up.zone is null and up.height < 20
  ) select zone from up where zone is not null order by height limit 1), 'UTC')`;
