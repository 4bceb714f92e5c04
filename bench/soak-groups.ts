import { sql } from 'drizzle-orm';
import type { Audience } from '../core/items/index.ts';
import { db, type Tx } from '../server/db/database.ts';
import { agreeToMoving, keepCondition, letInAgain } from '../server/groups/commands.ts';
import { comesTo } from '../server/groups/condition.ts';
import { groupFor } from '../server/groups/queries.ts';
import { takeInNow } from '../server/people/take-in.ts';
import { addJobs } from '../server/runtime/jobs.ts';
import { directoryClient, enterprise } from '../server/systems/directory/client.ts';
import { PermanentError, TransientError } from '../server/systems/errors.ts';
import { viewerFor } from '../server/testing/parties.ts';
import type { Organisation } from './generated.ts';

/** Who is in a group by itself: people move from department to department, and the condition is another again and again. */

const group = (org: Organisation) => org.groups['orphan-files']!;
const keeper = (org: Organisation) => viewerFor(org.people['dan']!, 'administrator');
const departments = ['Charts', 'Tides', 'Pay'];
let [moved, kept, agreed] = [0, 0, 0];

/** Somebody keeps another condition, twice at once; somebody moves in the directory; those who were taken out by hand come in again. */
export async function moveSomebody(chance: (n: number) => number, org: Organisation): Promise<void> {
  const which = chance(8);
  if (which === 0) await keepAnother(chance, org);
  else if (which === 1) await sayYes(org);
  else {
    const who = Object.keys(org.scim)[chance(Object.keys(org.scim).length)]!;
    try {
      // As somebody at the directory does it, and no call of ours.
      const user = await directoryClient.user(org.scim[who]!);
      await directoryClient.replace('Users', user.id, {
        ...user,
        [enterprise]: { ...user[enterprise], department: departments[chance(departments.length)]! },
      });
      await takeInNow(await directoryClient.user(user.id));
    } catch (error) {
      // The directory is in a bad mood: they do not move.
      if (error instanceof TransientError || error instanceof PermanentError) return;
      throw error;
    }
    moved++;
  }
  await addJobs(db(), 'reconcileGroup', [{ payload: { group: group(org) }, key: `group:${group(org)}` }]);
}

/** Who is in it is another condition from now on. */
export async function keepAnother(chance: (n: number) => number, org: Organisation): Promise<void> {
  const members: Audience = [
    { department: departments[chance(departments.length)]! },
    ...(chance(2) ? [{ person: { person: org.people[['tor', 'ina', 'runa'][chance(3)]!]! } }] : []),
  ];
  const now = await groupFor(keeper(org), group(org));
  const keep = () =>
    keepCondition(keeper(org), { group: group(org), version: now?.kept?.version ?? 0, members: JSON.stringify(members), why: 'They need it.' });
  const both = await Promise.all([keep(), keep()]);
  if (both.filter((b) => b.ok).length > 1) throw new Error('A condition was kept twice from one version.');
  for (const b of both) if (!b.ok && b.code !== 'changed-meanwhile') throw new Error(`${b.code}: ${b.sentence}`);
  if (both.some((b) => b.ok)) kept++;
}

/** What waits for a word is agreed to, and who was taken out by hand is let in again. */
async function sayYes(org: Organisation): Promise<void> {
  const now = await groupFor(keeper(org), group(org));
  if (now?.kept?.held && (await agreeToMoving(keeper(org), { group: group(org), ...now.kept.held })).ok) agreed++;
  for (const { id } of now?.takenOut ?? []) {
    const again = await letInAgain(keeper(org), { group: group(org), person: id });
    if (!again.ok && again.code !== 'ended') throw new Error(`${again.code}: ${again.sentence}`);
  }
}

/** The condition is held against everybody once more, now that all is calm, until nobody moves by it any more. */
export async function settleGroups(org: Organisation, drain: () => Promise<void>): Promise<void> {
  const began = Date.now();
  for (;;) {
    await sayYes(org);
    await addJobs(db(), 'reconcileGroup', [{ payload: { group: group(org) }, key: `group:${group(org)}` }]);
    await new Promise((done) => setTimeout(done, 1500));
    await drain();
    const { rows } = await db().execute<{ moving: number }>(sql`
      with c as (select * from group_condition where group_id = ${group(org)}::uuid), ${comesTo(group(org), sql`coalesce((select members from c), '[]')`)}
      select (select count(*) from coming)::int + (select count(*) from going)::int + (select count(*) from live where state = 'open')::int as moving`);
    if (rows[0]!.moving === 0) return;
    if (Date.now() - began > 90_000) throw new Error('People move in and out of a group without end.');
  }
}

/** How many requests came by a condition. */
export async function begunByConditions(tx: Tx): Promise<number> {
  const { rows } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from service_case where idempotency_key like 'group:%'`);
  return rows[0]!.n;
}

/** Holds who is in the group against the condition; gives what is wrong, in sentences. */
export async function lookAtGroups(tx: Tx, org: Organisation): Promise<string[]> {
  const wrong: string[] = [];
  const there = new Set((await directoryClient.group(org.scimGroups['orphan-files']!)).members.map((m) => m.value));
  const { rows } = await tx.execute<{ name: string; directory: string; belongs: boolean; holds: number; ending: boolean; excused: boolean }>(sql`
    with c as (select * from group_condition where group_id = ${group(org)}::uuid), ${comesTo(group(org), sql`coalesce((select members from c), '[]')`)}
    select p.name, p.directory_id as directory, exists (select from belongs b where b.id = p.id) as belongs,
      (select count(*)::int from live l where l.person_id = p.id and l.holding_id is not null and l.ended_at is null) as holds,
      exists (select from live l where l.person_id = p.id and l.ending_at is not null and l.ended_at is null) as ending,
      exists (select from live l where l.person_id = p.id and (l.state = 'refused' or l.under_way or l.ended_at is not null or l.holding_id is null)) as excused
    from person p where p.active and not p.outside`);
  for (const r of rows) {
    if (r.holds > 1) wrong.push(`${r.name} was let in twice by a condition.`);
    if (r.holds > 0 && !r.belongs && !r.ending) wrong.push(`${r.name} is in a group by a condition that does not hold of them.`);
    if (r.belongs && !there.has(r.directory) && !r.excused && r.holds === 0)
      wrong.push(`${r.name} is not in a group, though its condition holds of them.`);
  }
  const n = rows.filter((r) => r.holds > 0).length;
  console.log(
    `  ${kept} conditions of a group kept, ${moved} people moved, ${agreed} times a word was given; ${n} in it by the condition at the end`,
  );
  return wrong;
}
