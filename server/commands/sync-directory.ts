import { and, notInArray, sql } from 'drizzle-orm';
import { db, type Tx } from '../db/database.ts';
import { accessGroup, person } from '../db/schema/index.ts';
import { directoryClient, enterprise, ownership, type ScimGroup, type ScimUser } from '../systems/directory/client.ts';

/** Statements are cut to this many rows, well below the 65,535 parameters that one may carry. */
const batch = 1000;

/** Takes over the directory's people and groups as they are now. What only this desk knows about a person stays. */
export async function syncDirectory(): Promise<{ people: number; groups: number }> {
  const [users, groups] = await Promise.all([directoryClient.users(), directoryClient.groups()]);
  await db().transaction(async (tx) => {
    // One at a time, so that a slow reading never overwrites a newer one half-way.
    await tx.execute(sql`select pg_advisory_xact_lock(481023)`);
    await takePeople(tx, users);
    await takeGroups(tx, groups);
  });
  return { people: users.length, groups: groups.length };
}

async function takePeople(tx: Tx, users: ScimUser[]): Promise<void> {
  for (const some of chunks(users)) {
    await tx
      .insert(person)
      .values(
        some.map((u) => ({
          directoryId: u.id,
          userName: u.userName,
          name: u.displayName ?? u.name?.formatted ?? u.userName,
          email: (u.emails?.find((e) => e.primary) ?? u.emails?.[0])?.value ?? `${u.userName}@skerrin.example`,
          department: u[enterprise]?.department ?? null,
          jobRole: u.title ?? null,
          active: u.active ?? true,
        })),
      )
      .onConflictDoUpdate({
        target: person.directoryId,
        set: Object.fromEntries(['userName', 'name', 'email', 'department', 'jobRole', 'active'].map((k) => [k, sql.raw(`excluded.${snake(k)}`)])),
      });
  }
  const managers = users.map((u) => ({ id: u.id, manager: u[enterprise]?.manager?.value ?? null }));
  await tx.execute(sql`
    update person p set manager_id = m.id
    from jsonb_to_recordset(${JSON.stringify(managers)}::jsonb) as r(id text, manager text)
    left join person m on m.directory_id = r.manager
    where p.directory_id = r.id and p.manager_id is distinct from m.id`);
  const known = users.map((u) => u.id);
  if (known.length)
    await tx
      .update(person)
      .set({ active: false })
      .where(and(notInArray(person.directoryId, known), sql`${person.active}`));
}

async function takeGroups(tx: Tx, groups: ScimGroup[]): Promise<void> {
  const known = groups.map((g) => g.id);
  if (known.length === 0) return;
  await tx
    .update(accessGroup)
    .set({ gone: true })
    .where(and(notInArray(accessGroup.directoryId, known), sql`not ${accessGroup.gone}`));
  for (const some of chunks(groups)) {
    await tx
      .insert(accessGroup)
      .values(some.map((g) => ({ directoryId: g.id, name: g.displayName, purpose: g[ownership]?.purpose ?? '' })))
      .onConflictDoUpdate({ target: accessGroup.directoryId, set: { name: sql`excluded.name`, purpose: sql`excluded.purpose`, gone: false } });
  }
  const wanted = groups.flatMap((g) => [
    ...g.members.map((m) => ({ group: g.id, person: m.value, as: 'member' })),
    ...(g[ownership]?.owners ?? []).map((m) => ({ group: g.id, person: m.value, as: 'owner' })),
  ]);
  await tx.execute(sql`
    with wanted as (
      select g.id as group_id, p.id as person_id, r."as"
      from jsonb_to_recordset(${JSON.stringify(wanted)}::jsonb) as r("group" text, person text, "as" text)
      join access_group g on g.directory_id = r."group" join person p on p.directory_id = r.person
    ), gone as (
      delete from group_person gp where not exists (
        select from wanted w where w.group_id = gp.group_id and w.person_id = gp.person_id and w."as" = gp."as")
    )
    insert into group_person (group_id, person_id, "as") select distinct group_id, person_id, "as" from wanted on conflict do nothing`);
}

function* chunks<T>(rows: T[]): Generator<T[]> {
  for (let i = 0; i < rows.length; i += batch) yield rows.slice(i, i + batch);
}
const snake = (s: string) => s.replace(/[A-Z]/g, (c) => `_${c.toLowerCase()}`);
