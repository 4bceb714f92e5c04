import { and, eq, inArray, sql } from 'drizzle-orm';
import { heard, line } from '../../core/boundary/index.ts';
import { isDate, isZone } from '../../core/calendar/index.ts';
import { hashPassword, weakness } from '../auth/passwords.ts';
import { endSessions } from '../auth/sign-in.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { location, person, roleGrant, team, teamMember, type Role } from '../db/schema/index.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { isId } from '../ids.ts';
import { record } from '../changes/record.ts';

/** Who may shape the organisation: an administrator, or the command line of the host (`'host'`). */
export type Actor = Viewer | 'host';
const may = (actor: Actor) => actor === 'host' || has(actor, 'administrator');
const idOf = (actor: Actor) => (actor === 'host' ? null : actor.id);
const forbidden = notAllowed('change the organisation');
const Name = line(120).trim().min(1, 'It needs a name.');
const badName = (name: string): string | undefined => Name.safeParse(name).error?.issues[0]?.message;

export async function addLocation(
  actor: Actor,
  input: { name: string; kind: 'site' | 'building' | 'floor' | 'vessel'; parentId?: string; zone?: string },
): Promise<Result<{ id: string }>> {
  if (!may(actor)) return forbidden;
  const wrong =
    badName(input.name) ?? (input.zone === undefined || isZone(input.zone) ? undefined : `“${heard(input.zone, 60)}” is not a time zone.`);
  if (wrong) return refuse('invalid', wrong);
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(location)
      .values({ name: input.name, kind: input.kind, parentId: input.parentId ?? null, zone: input.zone ?? null })
      .onConflictDoNothing()
      .returning({ id: location.id });
    if (!made) return refuse('taken', `There is a place called “${input.name}” already.`);
    await record(tx, { actor: idOf(actor), action: 'create', object: 'location', objectId: made.id, detail: input });
    return { ok: true, id: made.id };
  });
}

export async function addTeam(actor: Actor, input: { name: string; locationId?: string; members: string[] }): Promise<Result<{ id: string }>> {
  if (!may(actor)) return forbidden;
  const wrong = badName(input.name);
  if (wrong) return refuse('invalid', wrong);
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(team)
      .values({ name: input.name, locationId: input.locationId ?? null })
      .onConflictDoNothing()
      .returning({ id: team.id });
    if (!made) return refuse('taken', `There is a team called “${input.name}” already.`);
    if (input.members.length) await tx.insert(teamMember).values(input.members.map((personId) => ({ teamId: made.id, personId })));
    await record(tx, {
      actor: idOf(actor),
      action: 'create',
      object: 'team',
      objectId: made.id,
      detail: { name: input.name, members: input.members.length },
    });
    return { ok: true, id: made.id };
  });
}

/** Sets what the desk knows about people beside the directory: place, absence, delegate, last day. */
export async function setPersonFacts(
  actor: Actor,
  people: { id: string; locationId?: string; awayUntil?: string; delegateId?: string; lastDay?: string }[],
): Promise<Result> {
  if (!may(actor)) return forbidden;
  return db().transaction(async (tx): Promise<Result> => {
    const dates = people.flatMap((p) => [p.awayUntil, p.lastDay]).filter((d) => d !== undefined);
    const bad = dates.find((d) => !isDate(d));
    if (bad !== undefined) return refuse('invalid', `“${heard(bad, 40)}” is not a date.`);
    const ids = people.map((p) => p.id);
    const known = ids.length ? await tx.select({ id: person.id }).from(person).where(inArray(person.id, ids)) : [];
    if (known.length !== new Set(ids).size) return notFound('A person');
    const given = people.map((p) => ({
      id: p.id,
      location: p.locationId ?? null,
      away: p.awayUntil ?? null,
      delegate: p.delegateId ?? null,
      last: p.lastDay ?? null,
    }));
    await tx.execute(sql`
      update person p set
        location_id = coalesce(f.location, p.location_id), away_until = coalesce(f.away, p.away_until),
        delegate_id = coalesce(f.delegate, p.delegate_id), last_day = coalesce(f.last, p.last_day)
      from jsonb_to_recordset(${JSON.stringify(given)}::jsonb) as f(id uuid, location uuid, away date, delegate uuid, last date)
      where p.id = f.id`);
    await record(tx, {
      actor: idOf(actor),
      action: 'set-facts',
      object: 'person',
      objectId: ids.length === 1 ? ids[0]! : 'many',
      detail: { people: ids.length },
    });
    return { ok: true };
  });
}

export async function setPassword(actor: Actor, input: { personId: string; password: string }): Promise<Result> {
  if (!may(actor)) return forbidden;
  const [whose] = isId(input.personId)
    ? await db().select({ name: person.name, userName: person.userName, email: person.email }).from(person).where(eq(person.id, input.personId))
    : [];
  if (!whose) return notFound('The person');
  const weak = await weakness(input.password, [whose.name, whose.userName, whose.email]);
  if (weak) return refuse('invalid', weak, [{ field: 'password', sentence: weak }]);
  const passwordHash = await hashPassword(input.password);
  return db().transaction(async (tx): Promise<Result> => {
    const [set] = await tx.update(person).set({ passwordHash }).where(eq(person.id, input.personId)).returning({ id: person.id });
    if (!set) return notFound('The person');
    await endSessions(tx, set.id);
    await record(tx, { actor: idOf(actor), action: 'set-password', object: 'person', objectId: set.id });
    return { ok: true };
  });
}

export async function grantRole(actor: Actor, input: { personId: string; role: Role; granted: boolean }): Promise<Result> {
  if (!may(actor)) return forbidden;
  return db().transaction(async (tx): Promise<Result> => {
    if (input.granted) await tx.insert(roleGrant).values({ personId: input.personId, role: input.role }).onConflictDoNothing();
    else await tx.delete(roleGrant).where(and(eq(roleGrant.personId, input.personId), eq(roleGrant.role, input.role)));
    await record(tx, {
      actor: idOf(actor),
      action: input.granted ? 'grant' : 'revoke',
      object: 'person',
      objectId: input.personId,
      detail: { role: input.role },
    });
    return { ok: true };
  });
}
