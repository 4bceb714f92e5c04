import { eq, sql, type SQL } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { enterprise, type ScimUser } from '../systems/directory/client.ts';

/** Where a reading that began at this moment says something about them: not where they were taken in by themselves since. */
export const saysOf = (of: 'p' | 'person', began: Date | undefined): SQL =>
  began === undefined ? sql`true` : sql`coalesce(${sql.raw(of)}.taken_at < ${began.toISOString()}::timestamptz, true)`;

/** Whether what is read has another department or job of somebody whom it had with one before. */
const hasMoved: SQL = sql`(person.active and coalesce(person.department, person.job_role) is not null
  and (person.department, person.job_role) is distinct from (excluded.department, excluded.job_role))`;

/** Takes over somebody as they are in the directory after an act of ours, and gives their id here. */
export const takeInNow = (user: ScimUser): Promise<string> =>
  db().transaction(async (tx) => {
    await takeIn(tx, [user], undefined);
    const [row] = await tx.update(person).set({ takenAt: now() }).where(eq(person.directoryId, user.id)).returning({ id: person.id });
    return row!.id;
  });

/**
 * Takes over people as the directory has them, each user name once. What only this desk knows about a person stays. Of whoever was
 * taken in by themselves since `began` nothing is changed: what was read of them is older.
 */
export async function takeIn(tx: Tx, users: ScimUser[], began: Date | undefined): Promise<void> {
  const rows = users.map((u) => ({
    id: u.id,
    userName: u.userName,
    name: u.displayName ?? u.name?.formatted ?? u.userName,
    email: (u.emails?.find((e) => e.primary) ?? u.emails?.[0])?.value ?? '',
    department: u[enterprise]?.department ?? null,
    jobRole: u.title ?? null,
    staffNumber: u[enterprise]?.employeeNumber || null,
    active: u.active ?? true,
    manager: u[enterprise]?.manager?.value ?? null,
  }));
  const reading = sql`jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(id text, "userName" text, name text, email text, department text,
    "jobRole" text, "staffNumber" text, active boolean, manager text)`;
  // A user name belongs to whoever has it now: somebody who comes back under a new id is a new person, and two may have swapped theirs.
  await tx.execute(sql`
    update person p set user_name = '~' || p.id
    from ${reading} where lower(r."userName") = lower(p.user_name) and r.id <> p.directory_id and ${saysOf('p', began)}`);
  await tx.execute(sql`
    insert into person (directory_id, user_name, name, email, department, job_role, staff_number, active, inactive_since)
    select id, "userName", name, email, department, "jobRole", "staffNumber", active, case when active then null else ${now().toISOString()}::timestamptz end from ${reading}
    on conflict (directory_id) do update set user_name = excluded.user_name, name = excluded.name, email = excluded.email,
      department = excluded.department, job_role = excluded.job_role, staff_number = excluded.staff_number, active = excluded.active,
      moved_at = case when ${hasMoved} then ${now().toISOString()}::timestamptz else person.moved_at end,
      inactive_since = case when excluded.active then null else coalesce(person.inactive_since, excluded.inactive_since) end
    where person.erased_at is null and ${saysOf('person', began)}
      and (person.user_name, person.name, person.email, person.department, person.job_role, person.staff_number, person.active)
      is distinct from (excluded.user_name, excluded.name, excluded.email, excluded.department, excluded.job_role, excluded.staff_number, excluded.active)`);
  await tx.execute(sql`
    update person p set manager_id = m.id
    from ${reading} left join person m on m.directory_id = r.manager
    where p.directory_id = r.id and ${saysOf('p', began)} and p.manager_id is distinct from m.id`);
}
