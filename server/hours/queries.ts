import { asc, eq } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { location, person, placeHours, serviceHours, team, teamHours } from '../db/schema/index.ts';
import { isId } from '../ids.ts';

/** All service hours with whom they count for; undefined for those who design nothing. */
export async function allHours(viewer: Viewer) {
  if (!has(viewer, 'designer')) return undefined;
  const [rows, teams, places] = await Promise.all([
    db()
      .select({ id: serviceHours.id, name: serviceHours.name, everywhere: serviceHours.everywhere, definition: serviceHours.definition })
      .from(serviceHours)
      .orderBy(asc(serviceHours.name)),
    db().select({ hours: teamHours.hoursId, name: team.name }).from(teamHours).innerJoin(team, eq(team.id, teamHours.teamId)).orderBy(asc(team.name)),
    db()
      .select({ hours: placeHours.hoursId, name: location.name })
      .from(placeHours)
      .innerJoin(location, eq(location.id, placeHours.locationId))
      .orderBy(asc(location.name)),
  ]);
  return rows.map((r) => ({
    ...r,
    teams: teams.flatMap((t) => (t.hours === r.id ? [t.name] : [])),
    places: places.flatMap((p) => (p.hours === r.id ? [p.name] : [])),
  }));
}

/** Some service hours, with every team and place and whose hours each has. */
export async function hoursOf(viewer: Viewer, id: string) {
  if (!has(viewer, 'designer') || !isId(id)) return undefined;
  const [row] = await db()
    .select({
      id: serviceHours.id,
      version: serviceHours.version,
      definition: serviceHours.definition,
      everywhere: serviceHours.everywhere,
      changedAt: serviceHours.changedAt,
      by: person.name,
    })
    .from(serviceHours)
    .leftJoin(person, eq(person.id, serviceHours.changedBy))
    .where(eq(serviceHours.id, id));
  if (!row) return undefined;
  const [teams, places] = await Promise.all([
    db()
      .select({ id: team.id, name: team.name, hours: teamHours.hoursId, called: serviceHours.name })
      .from(team)
      .leftJoin(teamHours, eq(teamHours.teamId, team.id))
      .leftJoin(serviceHours, eq(serviceHours.id, teamHours.hoursId))
      .orderBy(asc(team.name)),
    db()
      .select({ id: location.id, name: location.name, hours: placeHours.hoursId, called: serviceHours.name })
      .from(location)
      .leftJoin(placeHours, eq(placeHours.locationId, location.id))
      .leftJoin(serviceHours, eq(serviceHours.id, placeHours.hoursId))
      .orderBy(asc(location.name)),
  ]);
  return { ...row, teams, places };
}
