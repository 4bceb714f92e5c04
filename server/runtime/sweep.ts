import { and, eq, isNull, lt, sql, type SQL } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { call, groupAdmission, itemRelease, letter, meeting, message, publicRequest, rowAsked, staffHappening, timer } from '../db/schema/index.ts';
import { endLeases } from '../holdings/leases.ts';
import { endLeavers, tellLeavers } from '../holdings/leavers.ts';
import { tellMovers } from '../holdings/movers.ts';
import { closeNotes } from '../notes/close.ts';
import { sweepLooseFiles } from '../files/keep.ts';
import { sweepReaders } from '../tickets/readers.ts';
import { wordsJob } from '../conversation/mirror.ts';
import { addJobs } from './jobs.ts';
import { putAside } from '../set-aside/put-aside.ts';
import { replaceWhoLeft } from './staff.ts';
import { timerJob } from './timers.ts';
import { lostPromises } from '../requests/tell-promises.ts';
import { lostAskings, lostTimes } from '../tickets/time.ts';

/** How late something must be before its job counts as lost, in milliseconds. */
const grace = 120_000;
const most = 500;

/** What an administrator has before them, or discarded, is not begun again behind their back. */
const notAside = (key: SQL) =>
  sql`not exists (select from set_aside s where s.source = 'job' and s.key = ${key} and (s.settled_at is null or s.settled = 'discarded'))`;

/** Finds calls, the words about them, timers, messages, letters, meetings, releases, the times of tickets and promises, happenings of the staff feed, what follows rows and who comes into a group by its condition, that are due and have waited too long, and adds their jobs again. The key keeps it one job. */
export async function sweep(): Promise<void> {
  const late = new Date(Date.now() - grace);
  const calls = await db()
    .select({ id: call.id })
    .from(call)
    .where(and(isNull(call.closedAt), lt(call.dueAt, late), notAside(sql`'call:' || ${call.id}`)))
    .orderBy(call.dueAt)
    .limit(most);
  await addJobs(
    db(),
    'call',
    calls.map((c) => ({ payload: { callId: c.id }, key: `call:${c.id}` })),
  );
  const words = await db()
    .select({ id: call.id })
    .from(call)
    .where(and(lt(call.wordsDue, late), notAside(sql`'words:' || ${call.id}`)))
    .orderBy(call.wordsDue)
    .limit(most);
  await addJobs(
    db(),
    'words',
    words.map((c) => wordsJob(c.id, late)),
  );
  const timers = await db()
    .select({ runId: timer.runId, key: timer.key, name: timer.name, dueAt: timer.dueAt })
    .from(timer)
    .where(and(lt(timer.dueAt, late), notAside(sql`'timer:' || ${timer.runId} || ':' || ${timer.key} || ':' || ${timer.name}`)))
    .orderBy(timer.dueAt)
    .limit(most);
  await addJobs(
    db(),
    'timer',
    timers.map((t) => timerJob(t, t.dueAt)),
  );
  const messages = await db()
    .select({ id: message.id })
    .from(message)
    .where(
      and(
        isNull(message.sentAt),
        isNull(message.failedAt),
        eq(message.attempts, 0),
        lt(message.createdAt, late),
        notAside(sql`'mail:' || ${message.id}`),
      ),
    )
    .orderBy(message.createdAt)
    .limit(most);
  await addJobs(
    db(),
    'mail',
    messages.map((m) => ({ payload: { messageId: m.id }, key: `mail:${m.id}` })),
  );
  const letters = await db()
    .select({ id: letter.id })
    .from(letter)
    .where(and(eq(letter.status, 'waiting'), lt(letter.createdAt, late), notAside(sql`'letter:' || ${letter.id}`)))
    .orderBy(letter.createdAt)
    .limit(most);
  await addJobs(
    db(),
    'letter',
    letters.map((l) => ({ payload: { letterId: l.id }, key: `letter:${l.id}` })),
  );
  const meetings = await db()
    .select({ id: meeting.id })
    .from(meeting)
    .where(and(eq(meeting.status, 'seeking'), lt(meeting.tryAt, late), notAside(sql`'meeting:' || ${meeting.id}`)))
    .orderBy(meeting.tryAt)
    .limit(most);
  await addJobs(
    db(),
    'meeting',
    meetings.map((m) => ({ payload: { meetingId: m.id }, key: `meeting:${m.id}` })),
  );
  const releases = await db()
    .select({ id: itemRelease.id })
    .from(itemRelease)
    .where(and(isNull(itemRelease.endedAt), lt(itemRelease.dueAt, late), notAside(sql`'release:' || ${itemRelease.id}`)))
    .limit(most);
  await addJobs(
    db(),
    'release',
    releases.map((r) => ({ payload: { releaseId: r.id }, key: `release:${r.id}` })),
  );
  await addJobs(
    db(),
    'ticketTime',
    [...new Set([...(await lostTimes(late, most)), ...(await lostAskings(late, most))].map((t) => t.caseId))].map((caseId) => ({
      payload: { caseId },
      key: `ticket:${caseId}`,
    })),
  );
  await addJobs(
    db(),
    'promises',
    (await lostPromises(late, most)).map((r) => ({ payload: r, key: `promises:${r.runId}` })),
  );
  await beginAgain('staffHappening', 'staff:', staffHappening, late);
  await beginAgain('askOfRow', 'row:', rowAsked, late);
  await beginAgain('letIn', 'let-in:', groupAdmission, late);
  // The last entries of a busy moment wait for somebody to hang them into the chain of the log.
  await db().execute(sql`select chain_changes()`);
  await replaceWhoLeft();
  await endLeases();
  await endLeavers();
  await tellLeavers();
  await tellMovers();
  await closeNotes();
  await sweepLooseFiles();
  await sweepReaders();
  // What was asked from outside and not confirmed in time is not kept.
  await db()
    .delete(publicRequest)
    .where(and(isNull(publicRequest.caseId), lt(publicRequest.expiresAt, new Date())));
  await putDeadJobsAside();
}

/**
 * Jobs that were tried as often as they may be, and failed or took their process with them, are put aside one by one.
 *
 * Every job is added under a key. One that has none any more was added again while it was under way (a message to be
 * tried later, say): the new one has the key, and the old one is marked as tried often enough so that it is never begun
 * again. Where its process died before it could say that it was done, it is cleared away; nothing is lost with it.
 */
async function putDeadJobsAside(): Promise<void> {
  await db().execute(sql`
    select graphile_worker.complete_jobs(array_agg(id)) from graphile_worker._private_jobs
    where attempts >= max_attempts and locked_at is null and key is null`);
  const { rows } = await db().execute<{ id: string; task: string; payload: unknown; key: string; attempts: number; cause: string | null }>(sql`
    select j.id, t.identifier as task, j.payload, j.key, j.attempts, j.last_error as cause
    from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id
    where j.attempts >= j.max_attempts and j.locked_at is null and j.key is not null order by j.id limit 100`);
  for (const job of rows)
    await db().transaction(async (tx) => {
      await putAside(tx, {
        source: 'job',
        key: job.key,
        what: `A piece of work (${job.task})`,
        cause: job.cause ?? `It was begun ${job.attempts} times, and each time its process ended before it was done.`,
        payload: { task: job.task, payload: job.payload },
      });
      await tx.execute(sql`select graphile_worker.complete_jobs(array[${job.id}::bigint])`);
    });
}

/** What stands open, each by a job of its own under a key that begins so. */
async function beginAgain(
  task: 'staffHappening' | 'askOfRow' | 'letIn',
  key: string,
  of: typeof staffHappening | typeof rowAsked | typeof groupAdmission,
  late: Date,
): Promise<void> {
  const { rows } = await db().execute<{ id: string }>(sql`
    select id from ${of} where ${of.state} = 'open' and ${of.at} < ${late.toISOString()}::timestamptz and ${notAside(sql`${key}::text || ${of.id}`)}
    order by ${of.at} limit ${most}`);
  await addJobs(
    db(),
    task,
    rows.map(({ id }) => ({ payload: { id }, key: `${key}${id}` })),
  );
}
