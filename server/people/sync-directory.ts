import { sql } from 'drizzle-orm';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { addJobs } from '../runtime/jobs.ts';
import { passLastDaysOn } from '../staff/last-days.ts';
import { putAside } from '../set-aside/put-aside.ts';
import { saysOf, takeIn } from './take-in.ts';
import { directoryClient, ownership, type Reading, type ScimGroup, type ScimUser } from '../systems/directory/client.ts';

/** How much a reading may take away by itself: so many, or this part of what there is. More waits for an administrator. */
const mostGone = { atLeast: 20, part: 0.1 };

export interface Synced {
  /** The people that the directory has and that make sense, as it has them. */
  users: ScimUser[];
  people: number;
  groups: number;
  /** Records that made no sense; each is set aside. */
  odd: number;
  /** People and groups that a reading lacked and that were kept, because it was not whole or lacked too many. */
  kept: { people: number; groups: number };
}

/**
 * Takes over the directory's people and groups as they are now. What only this desk knows about a person stays. A record
 * that makes no sense harms only itself. Who is missing is deactivated, unless the reading was cut short, or lacks so many
 * that it is more likely wrong; `sure` is an administrator's word that it is right.
 */
export async function syncDirectory({ sure = false } = {}): Promise<Synced> {
  const began = now();
  const [users, groups] = await Promise.all([directoryClient.users(), directoryClient.groups()]);
  const kept = await db().transaction(async (tx) => {
    // One at a time, so that a slow reading never overwrites a newer one half-way.
    await tx.execute(sql`select pg_advisory_xact_lock(481023)`);
    return { people: await takePeople(tx, users, began, sure), groups: await takeGroups(tx, groups, sure) };
  });
  await db().transaction(passLastDaysOn);
  await addJobs(db(), 'reconcileGroups', [{ payload: {}, key: 'reconcile-groups' }]);
  for (const [what, reading] of [
    ['person', users],
    ['group', groups],
  ] as const)
    for (const { record: odd, why } of reading.odd)
      await putAside(db(), { source: 'directory', key: `${what} ${idOf(odd)}`, what: `A ${what} of the directory`, cause: why, payload: odd });
  return { users: users.found, people: users.found.length, groups: groups.found.length, odd: users.odd.length + groups.odd.length, kept };
}

const idOf = (record: unknown): string => {
  const id = typeof record === 'object' && record !== null && 'id' in record ? record.id : undefined;
  return typeof id === 'string' ? id : (JSON.stringify(record) ?? '').slice(0, 100);
};

/** Gives how many are missing and were kept. */
async function takePeople(tx: Tx, { found, odd, whole }: Reading<ScimUser>, began: Date, sure: boolean): Promise<number> {
  const once = oneOfEachName(found);
  const taken = new Set(once.map((u) => u.id));
  for (const twin of found.filter((u) => !taken.has(u.id)))
    await putAside(tx, {
      source: 'directory',
      key: `person ${twin.id}`,
      what: 'A person of the directory',
      cause: 'Somebody else there has the same user name.',
      payload: twin,
    });
  await takeIn(tx, once, began);
  // What came and made no sense is there all the same.
  const there = JSON.stringify([...found.map((u) => u.id), ...odd.map((o) => idOf(o.record))]);
  const missing = sql`from person p where p.active and ${saysOf('p', began)} and not exists (select from jsonb_array_elements_text(${there}::jsonb) t(id) where t.id = p.directory_id)`;
  const { rows: counted } = await tx.execute<{ missing: number; all: number }>(
    sql`select (select count(*)::int ${missing}) as missing, (select count(*)::int from person where active) as all`,
  );
  const gone = counted[0]!.missing;
  if (!mayTakeAway(gone, counted[0]!.all, whole, sure)) {
    await keepAll(tx, 'people', gone, whole);
    return gone;
  }
  if (gone > 0) {
    const { rows: left } = await tx.execute<{ id: string }>(
      sql`update person set active = false, inactive_since = ${now().toISOString()}::timestamptz where id in (select p.id ${missing}) returning id`,
    );
    await record(tx, {
      actor: null,
      action: 'deactivate',
      object: 'person',
      objectId: left.length === 1 ? left[0]!.id : 'many',
      detail: { people: left.length },
    });
  }
  const { rows: asked } = await tx.execute<{ left: boolean }>(sql`select exists (
    select from approval a join person p on p.id = a.person_id where a.status in ('waiting', 'later') and not p.active) as left`);
  if (asked[0]!.left) await addJobs(tx, 'replaceWhoLeft', [{ payload: {}, key: 'replace-who-left' }]);
  return 0;
}

/** Of several with the same user name the first; the directory should have none, but may lie. */
function oneOfEachName(users: ScimUser[]): ScimUser[] {
  const seen = new Set<string>();
  return users.filter((u) => {
    const name = u.userName.toLowerCase();
    return !seen.has(name) && seen.add(name);
  });
}

const mayTakeAway = (gone: number, all: number, whole: boolean, sure: boolean): boolean =>
  gone === 0 || sure || (whole && gone <= Math.max(mostGone.atLeast, all * mostGone.part));

const keepAll = (tx: Tx, what: 'people' | 'groups', n: number, whole: boolean) =>
  putAside(tx, {
    source: 'directory',
    key: `missing ${what}`,
    what: `${n} ${what} that the directory does not give any more`,
    cause: whole
      ? 'So many at once are more likely a fault than a change, so none was taken away. Try again to take them away after all.'
      : 'The reading was not whole, so none was taken away.',
    payload: { what, n },
  });

async function takeGroups(tx: Tx, { found, odd, whole }: Reading<ScimGroup>, sure: boolean): Promise<number> {
  if (found.length === 0) return 0;
  const there = JSON.stringify([...found.map((g) => g.id), ...odd.map((o) => idOf(o.record))]);
  const missing = sql`from access_group g where not g.gone and not exists (select from jsonb_array_elements_text(${there}::jsonb) t(id) where t.id = g.directory_id)`;
  const { rows: counted } = await tx.execute<{ missing: number; all: number }>(
    sql`select (select count(*)::int ${missing}) as missing, (select count(*)::int from access_group where not gone) as all`,
  );
  const gone = counted[0]!.missing;
  const take = mayTakeAway(gone, counted[0]!.all, whole, sure);
  if (take) await tx.execute(sql`update access_group set gone = true where id in (select g.id ${missing})`);
  else await keepAll(tx, 'groups', gone, whole);
  const names = new Set<string>();
  const rows = found
    .map((g) => ({ id: g.id, name: g.displayName, purpose: g[ownership]?.purpose ?? '' }))
    .filter((g) => !names.has(g.name.toLowerCase()) && names.add(g.name.toLowerCase()));
  const reading = sql`jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(id text, name text, purpose text)`;
  await tx.execute(sql`
    update access_group g set name = '~' || g.id from ${reading} where lower(r.name) = lower(g.name) and r.id <> g.directory_id and not g.gone`);
  await tx.execute(sql`
    insert into access_group (directory_id, name, purpose) select id, name, purpose from ${reading}
    on conflict (directory_id) do update set name = excluded.name, purpose = excluded.purpose, gone = false`);
  const wanted = found.flatMap((g) => [
    ...g.members.map((m) => ({ group: g.id, person: m.value, as: 'member' })),
    ...(g[ownership]?.owners ?? []).map((m) => ({ group: g.id, person: m.value, as: 'owner' })),
  ]);
  await tx.execute(sql`
    with wanted as (
      select g.id as group_id, p.id as person_id, r."as"
      from jsonb_to_recordset(${JSON.stringify(wanted)}::jsonb) as r("group" text, person text, "as" text)
      join access_group g on g.directory_id = r."group" join person p on p.directory_id = r.person
    ), gone as (
      delete from group_person gp using access_group g where g.id = gp.group_id
        and g.directory_id in (select jsonb_array_elements_text(${JSON.stringify(found.map((g) => g.id))}::jsonb))
        and not exists (select from wanted w where w.group_id = gp.group_id and w.person_id = gp.person_id and w."as" = gp."as")
    )
    insert into group_person (group_id, person_id, "as") select distinct group_id, person_id, "as" from wanted on conflict do nothing`);
  return take ? 0 : gone;
}
