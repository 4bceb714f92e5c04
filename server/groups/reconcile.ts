import { and, eq, sql } from 'drizzle-orm';
import { movesUnasked } from '../../core/groups/index.ts';
import type { Value } from '../../core/values/index.ts';
import { meetingsOf, meetingWords } from '../apart/meetings.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { accessGroup, groupAdmission, groupCondition } from '../db/schema/index.ts';
import { alone, takeBack } from '../holdings/by-itself.ts';
import { heldNoMore } from '../mail/given-back.ts';
import { addJobs } from '../runtime/jobs.ts';
import { comesTo, conditionWordsOf } from './condition.ts';
import { keeperOf } from './whose.ts';

/** So many come in and go out at a time; the rest in the next round, which follows at once. */
const most = 200;
/** Where somebody could not be let in, it is tried again after so many hours. */
const againAfter = 24;

/** Holds every condition against who works here now. Each group by itself: one that fails harms no other. */
export async function reconcileGroups(): Promise<void> {
  const { rows } = await db().execute<{ id: string }>(sql`
    select c.group_id as id from group_condition c join access_group g on g.id = c.group_id and not g.gone
    where c.ended is null or exists (select from group_admission a where a.group_id = c.group_id and a.state <> 'over' and c.ended = 'out')
    order by c.looked_at nulls first, c.group_id`);
  for (const { id } of rows) await alone(id, () => reconcileGroup(id));
}

/** Lets those in of whom the condition of a group holds, and takes those out who were let in by it and of whom it holds no more. */
export async function reconcileGroup(id: string): Promise<void> {
  const { going, words, ended, more } = await db().transaction((tx) => look(tx, id));
  const why = ended ? 'The condition by which you were in it has ended.' : `Who is in it by itself is ${words}. That holds of you no more.`;
  const told = ({ key, personId, what }: { key: string; personId: string; what: Value }) => heldNoMore({ key, to: personId, what }, why);
  for (const holding of going) await takeBack(holding, why, () => true, told);
  if (more) await addJobs(db(), 'reconcileGroup', [{ payload: { group: id }, key: `group:${id}` }]);
}

const nothing = { going: [] as string[], words: '', ended: false, more: false };

async function look(tx: Tx, id: string): Promise<typeof nothing> {
  const [row] = await tx.select().from(groupCondition).where(eq(groupCondition.groupId, id)).for('no key update');
  const [group] = await tx.select({ gone: accessGroup.gone }).from(accessGroup).where(eq(accessGroup.id, id));
  if (!row || !group || group.gone || row.ended === 'stay') return nothing;
  const ended = row.ended === 'out';
  const members = sql`${JSON.stringify(ended ? [] : row.members)}::jsonb`;
  await settleOver(tx, id, members);
  const { rows } = await tx.execute<{ coming: string[]; going: string[]; in: number; out: number; by: number }>(sql`
    with ${comesTo(id, members)}
    select array(select id::text from coming order by id limit ${most}) as coming, array(select holding_id::text from going order by holding_id limit ${most}) as going,
      (select count(*)::int from coming) as "in", (select count(*)::int from going) as "out",
      (select count(*)::int from live where holding_id is not null and ended_at is null) as "by"`);
  const { coming, going, by, ...moving } = rows[0]!;
  const may = movesUnasked(moving, { inByIt: by, sure: row.sure });
  const keeper = ended ? undefined : await keeperOf(tx, row);
  const settled = moving.in === 0 && moving.out === 0;
  await tx
    .update(groupCondition)
    .set({ lookedAt: now(), held: may ? null : moving, ...(settled && { sure: { in: 0, out: 0 } }) })
    .where(eq(groupCondition.groupId, id));
  if (!may) return nothing;
  // Where nobody is left who could answer for it, nobody comes in.
  if (keeper) await letIn(tx, id, coming);
  const words = await conditionWordsOf(tx, row.members);
  return { going, words, ended, more: going.length < moving.out || (keeper !== undefined && coming.length === most && coming.length < moving.in) };
}

/**
 * What is left of nothing: of whom it holds no more, and who has nothing by it; whom it took out and of whom it holds again; and who could
 * not be let in some time ago.
 */
const settleOver = (tx: Tx, id: string, members: ReturnType<typeof sql>) =>
  tx.execute(sql`
    with ${comesTo(id, members)}
    update group_admission a set state = 'over' from live l
    where a.id = l.id and not l.under_way and (l.holding_id is null or l.ended_at is not null) and (
      not exists (select from belongs b where b.id = l.person_id)
      or (l.holding_id is not null and l.ending_by is null)
      or (l.holding_id is null and l.state = 'asked' and l.at < ${now().toISOString()}::timestamptz - make_interval(hours => ${againAfter})))`);

/** They are to be let in, but for those in whom something would meet that is kept apart: of those it says so. */
async function letIn(tx: Tx, group: string, people: string[]): Promise<void> {
  if (people.length === 0) return;
  const meetings = await meetingsOf(
    tx,
    people.map((person) => ({ person, group, also: [] })),
  );
  const whyNot = new Map(meetings.map((m) => [m.person, meetingWords(m, false)]));
  const at = now();
  const made = await tx
    .insert(groupAdmission)
    .values(
      people.map((personId) => {
        const why = whyNot.get(personId) ?? null;
        return { groupId: group, personId, at, state: why === null ? ('open' as const) : ('refused' as const), why };
      }),
    )
    .onConflictDoUpdate({
      target: [groupAdmission.groupId, groupAdmission.personId],
      targetWhere: sql`${groupAdmission.state} <> 'over'`,
      set: { state: sql`excluded.state`, why: sql`excluded.why`, at },
      setWhere: and(
        eq(groupAdmission.state, 'refused'),
        sql`(excluded.state, excluded.why) is distinct from (${groupAdmission.state}, ${groupAdmission.why})`,
      ),
    })
    .returning({ id: groupAdmission.id, state: groupAdmission.state });
  await addJobs(
    tx,
    'letIn',
    made.flatMap((m) => (m.state === 'open' ? [{ payload: { id: m.id }, key: `let-in:${m.id}` }] : [])),
  );
}
