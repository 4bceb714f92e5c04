import { and, desc, eq, gt, sql, type SQL } from 'drizzle-orm';
import { db, type Reader } from '../db/database.ts';
import { location, person, roleGrant, session, type Role } from '../db/schema/index.ts';
import { hashToken } from './token.ts';

/** How long a sign-in lasts at most, and how long it may rest, in hours. */
export const sessionHours = 12;
export const restHours = 2;

/** The signed-in person, as commands and queries know them. */
export interface Viewer {
  id: string;
  name: string;
  email: string;
  zone: string;
  roles: Role[];
}

/** What somebody may do by the roles they hold; whoever comes by a link has none. */
export type Roled = Pick<Viewer, 'roles'>;

export const has = (viewer: Roled, ...roles: Role[]): boolean => roles.some((r) => viewer.roles.includes(r));

/** Who a session cookie belongs to; undefined when it is unknown, over, or its person has left. */
export async function viewerOf(cookie: string | undefined): Promise<Viewer | undefined> {
  if (!cookie) return undefined;
  const [row] = await db()
    .select({
      id: person.id,
      name: person.name,
      email: person.email,
      roles: rolesOf,
      zone: zoneOf,
      seen: session.seenAt,
    })
    .from(session)
    .innerJoin(person, eq(person.id, session.personId))
    .where(
      and(
        eq(session.idHash, hashToken(cookie)),
        gt(session.expiresAt, sql`now()`),
        gt(session.seenAt, sql`now() - make_interval(hours => ${restHours})`),
        eq(person.active, true),
      ),
    );
  if (!row) return undefined;
  const { seen, ...viewer } = row;
  // To the minute is enough, and spares a write for every page.
  if (Date.now() - seen.getTime() > 60_000)
    await db()
      .update(session)
      .set({ seenAt: sql`now()` })
      .where(eq(session.idHash, hashToken(cookie)));
  return viewer;
}

const rolesOf = sql<Role[]>`coalesce((select array_agg(${roleGrant.role}) from ${roleGrant} where ${roleGrant.personId} = ${person.id}), '{}')`;

/** Who is known by something else than a session, a mail address or a name in chat, and still works here; undefined where that is nobody, or several. */
export async function viewerKnownBy(tx: Reader, which: SQL): Promise<Viewer | undefined> {
  const found = await tx
    .select({ id: person.id, name: person.name, email: person.email, roles: rolesOf, zone: zoneOf })
    .from(person)
    .where(and(which, eq(person.active, true)))
    .limit(2);
  return found.length === 1 ? found[0] : undefined;
}

/** One's own sessions that go on, the one in use first. */
export async function sessionsOf(viewer: Viewer, cookie: string) {
  const rows = await db()
    .select({ idHash: session.idHash, createdAt: session.createdAt, seenAt: session.seenAt, address: session.address, agent: session.agent })
    .from(session)
    .where(
      and(eq(session.personId, viewer.id), gt(session.expiresAt, sql`now()`), gt(session.seenAt, sql`now() - make_interval(hours => ${restHours})`)),
    )
    .orderBy(desc(session.seenAt))
    .limit(100);
  const here = hashToken(cookie);
  return rows
    .map(({ idHash, ...r }) => ({ ...r, id: idHash.slice(0, 16), here: idHash === here }))
    .toSorted((a, b) => Number(b.here) - Number(a.here));
}

/** The nearest zone up the tree of places from where the person works. */
export const zoneOf = sql<string>`coalesce((
  with recursive up as (
    select l.id, l.parent_id, l.zone, 0 as height from ${location} l where l.id = ${person.locationId}
    union all
    select p.id, p.parent_id, p.zone, up.height + 1 from ${location} p join up on p.id = up.parent_id where up.zone is null and up.height < 20
  ) select zone from up where zone is not null order by height limit 1), 'UTC')`;
