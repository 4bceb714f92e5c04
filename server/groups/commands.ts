import { and, eq, inArray, sql } from 'drizzle-orm';
import { checkBelonging, EndCondition, groupsRead, KeepCondition, movingWords, SeenMoving, type Moving } from '../../core/groups/index.ts';
import { checkAudience, namedInAudience } from '../../core/items/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { groupAdmission, groupCondition } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { namesFor } from '../people/names.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { addJobs } from '../runtime/jobs.ts';
import { comesTo } from './condition.ts';
import { mayKeep } from './whose.ts';

const changedMeanwhile = refuse(
  'changed-meanwhile',
  'Somebody else has changed this condition meanwhile. Nothing of theirs was overwritten; what you chose is still here.',
);

/** Says who is in a group by itself from now on, and why; one of its owners does. So many as they saw come in and go out are agreed to. */
export async function keepCondition(
  viewer: Viewer,
  input: { group: string; version: unknown; members: string; why: string; in?: unknown; out?: unknown },
): Promise<Result> {
  const { group } = input;
  if (!(await mayKeep(db(), viewer, group))) return notFound('This group');
  const held = holdTo(KeepCondition, input);
  if (!held.ok) return held;
  const { version, members, why, ...sure } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    // Two conditions that would make a circle together: one after the other.
    await tx.execute(sql`select pg_advisory_xact_lock(481058)`);
    const names = await namesFor(tx, namedInAudience(members));
    const wrong = [
      ...checkBelonging(group, members, await readByOthers(tx, group)),
      ...checkAudience(members, names.of, 'who is in it by itself').map((f) => `${f.sentence} ${f.mend}`),
    ];
    if (wrong[0] !== undefined)
      return refuse(
        'invalid',
        wrong[0],
        wrong.map((sentence) => ({ field: 'members', sentence })),
      );
    const said = { members, why, keptBy: viewer.id, keptAt: now(), version: version + 1, ended: null, sure, held: null };
    const kept =
      version === 0
        ? await tx
            .insert(groupCondition)
            .values({ groupId: group, ...said })
            .onConflictDoNothing()
            .returning({ id: groupCondition.groupId })
        : await tx
            .update(groupCondition)
            .set(said)
            .where(and(eq(groupCondition.groupId, group), eq(groupCondition.version, version)))
            .returning({ id: groupCondition.groupId });
    if (kept.length === 0) return changedMeanwhile;
    await record(tx, { actor: viewer.id, action: 'keep', object: 'group', objectId: group, detail: { members, why } });
    await lookNow(tx, group);
    return { ok: true };
  });
}

const lookNow = (tx: Tx, group: string) => addJobs(tx, 'reconcileGroup', [{ payload: { group }, key: `group:${group}` }]);

/** Which groups the conditions of the others ask about. */
async function readByOthers(tx: Tx, group: string): Promise<Map<string, string[]>> {
  const rows = await tx
    .select({ id: groupCondition.groupId, members: groupCondition.members })
    .from(groupCondition)
    .where(and(sql`${groupCondition.groupId} <> ${group}::uuid`, sql`${groupCondition.ended} is null`));
  return new Map(rows.map((r) => [r.id, groupsRead(r.members)]));
}

async function movingBy(tx: Tx, group: string, members: object): Promise<Moving> {
  const { rows } = await tx.execute<Moving & { [k: string]: unknown }>(sql`
    with ${comesTo(group, sql`${JSON.stringify(members)}::jsonb`)} select (select count(*)::int from coming) as "in", (select count(*)::int from going) as "out"`);
  return { in: rows[0]!.in, out: rows[0]!.out };
}

/** Nobody is in the group by itself any more. Those who are by it stay, each with what they hold, or go out. */
export async function endCondition(viewer: Viewer, input: { group: string; version: unknown; out: boolean }): Promise<Result> {
  const { group, out } = input;
  if (!(await mayKeep(db(), viewer, group))) return notFound('This group');
  const held = holdTo(EndCondition, input);
  if (!held.ok) return held;
  const { version } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const sure = out ? await movingBy(tx, group, []) : { in: 0, out: 0 };
    const ended = await tx
      .update(groupCondition)
      .set({ ended: out ? 'out' : 'stay', version: version + 1, keptBy: viewer.id, keptAt: now(), sure, held: null })
      .where(and(eq(groupCondition.groupId, group), eq(groupCondition.version, version), sql`${groupCondition.ended} is null`))
      .returning({ id: groupCondition.groupId });
    if (ended.length === 0) return changedMeanwhile;
    // Who stays holds what they were given; by the condition they are in it no more.
    if (!out) await tx.update(groupAdmission).set({ state: 'over' }).where(eq(groupAdmission.groupId, group));
    await record(tx, { actor: viewer.id, action: 'end', object: 'group', objectId: group, detail: { out } });
    if (out) await lookNow(tx, group);
    return { ok: true };
  });
}

/** Says yes to as many coming in and going out as wait for a word, and as whoever says so saw. */
export async function agreeToMoving(viewer: Viewer, input: { group: string; in: unknown; out: unknown }): Promise<Result> {
  const { group } = input;
  if (!(await mayKeep(db(), viewer, group))) return notFound('This group');
  const seen = holdTo(SeenMoving, input);
  if (!seen.ok) return seen;
  return db().transaction(async (tx): Promise<Result> => {
    const [now_] = await tx.select({ held: groupCondition.held }).from(groupCondition).where(eq(groupCondition.groupId, group)).for('no key update');
    if (!now_?.held) return refuse('ended', 'Nothing waits for a word any more. Nothing was changed.');
    const { held } = now_;
    if (held.in > seen.value.in || held.out > seen.value.out)
      return refuse('changed-meanwhile', `Meanwhile it is more: ${movingWords(held)}. Nothing was changed; look once more.`);
    await tx.update(groupCondition).set({ sure: held, held: null }).where(eq(groupCondition.groupId, group));
    await record(tx, { actor: viewer.id, action: 'agree', object: 'group', objectId: group, detail: { ...held } });
    await lookNow(tx, group);
    return { ok: true };
  });
}

/** Lets somebody in again of whom the condition holds, and whom somebody had taken out by hand. */
export async function letInAgain(viewer: Viewer, input: { group: string; person: string }): Promise<Result> {
  const { group, person } = input;
  if (!(await mayKeep(db(), viewer, group))) return notFound('This group');
  if (!isId(person)) return notFound('This person');
  return db().transaction(async (tx): Promise<Result> => {
    const again = await tx
      .update(groupAdmission)
      .set({ state: 'over' })
      .where(
        and(
          eq(groupAdmission.groupId, group),
          eq(groupAdmission.personId, person),
          inArray(groupAdmission.state, ['asked', 'refused']),
          sql`not exists (select from run r left join holding h on h.run_id = r.id join service_case c on c.id = r.case_id
            where r.case_id = ${groupAdmission.caseId} and (c.ended_at is null or (h.id is not null and h.ended_at is null)))`,
        ),
      )
      .returning({ id: groupAdmission.id });
    if (again.length === 0) return refuse('ended', 'They are in it, or are being let in. Nothing was changed.');
    await record(tx, { actor: viewer.id, action: 'let-in', object: 'group', objectId: group, detail: { person } });
    await lookNow(tx, group);
    return { ok: true };
  });
}
