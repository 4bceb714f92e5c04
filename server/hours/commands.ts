import { and, eq, inArray, ne, or, sql } from 'drizzle-orm';
import { compileHours, ServiceHours, usualHours } from '../../core/calendar/index.ts';
import { keptDocument, hoursFormat } from '../../core/documents/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { location, placeHours, serviceHours, team, teamHours } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { addJobs } from '../runtime/jobs.ts';

/** Begins service hours: Monday to Friday, 8 to 16, in the zone of whoever begins them. */
export async function createHours(viewer: Viewer, input: { name: string }): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep service hours');
  const held = holdTo(ServiceHours, { ...usualHours(viewer.zone), name: input.name });
  if (!held.ok) return held;
  const definition = held.value;
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(serviceHours)
      .values({ name: definition.name, definition, changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: serviceHours.id });
    if (!made) return taken(definition.name);
    await record(tx, { actor: viewer.id, action: 'create', object: 'hours', objectId: made.id, detail: { name: definition.name } });
    return { ok: true, id: made.id };
  });
}

/** Changes service hours for all that they count for, from the next question on: of requests what is due already stays due then, open tickets are reckoned anew. */
export async function changeHours(viewer: Viewer, input: { id: string; version: number; definition: unknown }): Promise<Result<{ version: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('keep service hours');
  if (!isId(input.id)) return notFound('These hours');
  const held = holdTo(ServiceHours, input.definition);
  if (!held.ok) return held;
  const definition = held.value;
  if (!compileHours(definition).everOpen)
    return refuse('invalid', 'With these hours the desk is never open, so nothing would ever be due. Open it for an hour at least.');
  return db().transaction(async (tx): Promise<Result<{ version: number }>> => {
    const [now] = await tx.select({ version: serviceHours.version }).from(serviceHours).where(eq(serviceHours.id, input.id)).for('no key update');
    if (!now) return notFound('These hours');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed these hours meanwhile. Nothing of theirs was overwritten; what you changed is still here.',
      );
    const [same] = await tx
      .select({ id: serviceHours.id })
      .from(serviceHours)
      .where(and(eq(sql`lower(${serviceHours.name})`, definition.name.toLowerCase()), ne(serviceHours.id, input.id)));
    if (same) return taken(definition.name);
    const version = now.version + 1;
    await tx
      .update(serviceHours)
      .set({ name: definition.name, definition, version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(serviceHours.id, input.id));
    await addJobs(tx, 'recount', [{ payload: { why: 'hours' }, key: 'recount:hours' }]);
    await record(tx, {
      actor: viewer.id,
      action: 'change',
      object: 'hours',
      objectId: input.id,
      detail: { version, definition: keptDocument(hoursFormat, definition) },
    });
    return { ok: true, version };
  });
}

/**
 * Says whose hours these are: of these teams, of these places with all within them, and, `everywhere`, of everybody who has none nearer.
 * Open tickets are reckoned anew. Whoever had others has these from then on; whoever is not named and had these has the next nearer.
 */
export async function giveHours(viewer: Viewer, input: { id: string; teams: string[]; places: string[]; everywhere: boolean }): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('keep service hours');
  const { id, everywhere } = input;
  if (!isId(id)) return notFound('These hours');
  const [teams, places] = [[...new Set(input.teams)], [...new Set(input.places)]];
  if (![...teams, ...places].every(isId)) return refuse('invalid', 'Choose teams and places from the list.');
  return db().transaction(async (tx): Promise<Result> => {
    // Who has which hours is said by one at a time.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext('whose hours'))`);
    const [there] = await tx.select({ id: serviceHours.id }).from(serviceHours).where(eq(serviceHours.id, id)).for('no key update');
    if (!there) return notFound('These hours');
    const known = [await tx.$count(team, inArray(team.id, teams)), await tx.$count(location, inArray(location.id, places))];
    if (known[0] !== teams.length || known[1] !== places.length)
      return refuse('invalid', 'A team or a place is not known any more. Nothing was changed.');
    await tx.delete(teamHours).where(or(eq(teamHours.hoursId, id), inArray(teamHours.teamId, teams)));
    await tx.delete(placeHours).where(or(eq(placeHours.hoursId, id), inArray(placeHours.locationId, places)));
    if (teams.length > 0) await tx.insert(teamHours).values(teams.map((teamId) => ({ teamId, hoursId: id })));
    if (places.length > 0) await tx.insert(placeHours).values(places.map((locationId) => ({ locationId, hoursId: id })));
    if (everywhere)
      await tx
        .update(serviceHours)
        .set({ everywhere: false })
        .where(and(eq(serviceHours.everywhere, true), ne(serviceHours.id, id)));
    await tx.update(serviceHours).set({ everywhere }).where(eq(serviceHours.id, id));
    await addJobs(tx, 'recount', [{ payload: { why: 'hours' }, key: 'recount:hours' }]);
    await record(tx, { actor: viewer.id, action: 'give', object: 'hours', objectId: id, detail: { teams, places, everywhere } });
    return { ok: true };
  });
}

const taken = (name: string) =>
  refuse('taken', `There are hours called “${name}” already.`, [
    { field: 'name', sentence: `There are hours called “${name}” already. Choose another name.` },
  ]);
