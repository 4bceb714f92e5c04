import { eq, sql } from 'drizzle-orm';
import { passages } from '../core/plans/index.ts';
import { step } from '../core/testing/samples.ts';
import { sentence } from '../core/values/index.ts';
import { arrangeMeeting } from '../server/meetings/arrange.ts';
import { db, type Tx } from '../server/db/database.ts';
import { meeting } from '../server/db/schema/index.ts';
import { publishPlan, type Organisation } from './generated.ts';

/** Publishes an item that arranges two meetings of the same people side by side, and moves each once where somebody cannot come. */
export function publishMeetings(org: Organisation): Promise<string> {
  const meet = (id: string) =>
    step('invite', id, {
      who: [{ ref: 'form.crew' }, { ref: 'request.requester' }],
      title: sentence('Talk'),
      body: passages('Come.'),
      minutes: 45,
      within: 20,
      waits: { again: 1 },
    });
  const branches = ['one', 'two'].map((id) => ({ id, name: id, block: [meet(id)] }));
  const told = step('tell', 'told', { to: { ref: 'request.requester' }, subject: sentence('Agreed'), body: passages('Come.') });
  return publishPlan(org, 'Two meetings', { steps: [step('together', 'both', { join: 'all', branches }), told] });
}

/** The calendars are well again: nobody waits for the next time they are asked. */
export async function arrangeAll(): Promise<void> {
  const open = await db().select({ id: meeting.id }).from(meeting).where(eq(meeting.status, 'seeking'));
  for (const { id } of open) await arrangeMeeting(id);
}

/** Holds meetings against each other and against what those invited were told, after workers were killed while they were arranged; gives what is wrong, in sentences. */
export async function lookAtMeetings(tx: Tx): Promise<{ wrong: string[]; words: string }> {
  const wrong: string[] = [];
  const count = async (which: ReturnType<typeof sql>) => (await tx.execute<{ n: number }>(sql`select count(*)::int as n from ${which}`)).rows[0]!.n;
  const none = async (words: string, which: ReturnType<typeof sql>) => {
    const n = await count(which);
    if (n > 0) wrong.push(`${n} ${words}.`);
  };
  await none('meetings are still looked for', sql`meeting where status = 'seeking'`);
  await none(
    'times two meetings take somebody at once',
    sql`invited a join meeting m on m.id = a.meeting_id join invited b on b.person_id = a.person_id join meeting o on o.id = b.meeting_id
      where m.status = 'planned' and o.status = 'planned' and m.id < o.id and not a.gone and not b.gone and a.says is distinct from 'no' and b.says is distinct from 'no'
        and m.begins_at < o.ends_at and o.begins_at < m.ends_at
        -- Who said no of one may be asked for that time, and change their mind.
        and a.said_at is null and b.said_at is null`,
  );
  await none(
    'times somebody was not told once of each time that a meeting had',
    sql`invited i join meeting m on m.id = i.meeting_id where m.status = 'planned' and not i.gone
      and (select count(*) from message x where x.invited_id = i.id and x.subject not like 'Off:%') <>
        (select count(*) from run_event e where e.run_id = m.run_id and e.ignored is null and e.event ->> 'type' = 'answered' and e.event ->> 'key' = m.key)`,
  );
  await none(
    'meetings lie ahead of requests that did not end as they were meant to',
    sql`meeting m join run r on r.id = m.run_id join service_case k on k.id = r.case_id
      where m.status = 'planned' and m.begins_at > now() and r.ended_at is not null and k.outcome is distinct from 'fulfilled'`,
  );
  const [planned, moved, off] = [
    await count(sql`meeting where status = 'planned'`),
    await count(sql`meeting where status = 'planned' and sequence > 0`),
    await count(sql`meeting where status = 'off'`),
  ];
  return { wrong, words: `${planned} meetings arranged, ${moved} of them moved, ${off} off` };
}
