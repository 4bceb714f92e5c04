import { and, eq, isNull, lt } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { call, message, timer } from '../db/schema/index.ts';
import { addJobs } from './jobs.ts';
import { timerJob } from './timers.ts';

/** How late something must be before its job counts as lost, in milliseconds. */
const grace = 120_000;
const most = 500;

/** Finds calls, timers and messages that are due and have waited too long, and adds their jobs again. The key keeps it one job. */
export async function sweep(): Promise<void> {
  const late = new Date(Date.now() - grace);
  const calls = await db()
    .select({ id: call.id })
    .from(call)
    .where(and(eq(call.status, 'waiting'), lt(call.dueAt, late)))
    .orderBy(call.dueAt)
    .limit(most);
  await addJobs(
    db(),
    'call',
    calls.map((c) => ({ payload: { callId: c.id }, key: `call:${c.id}` })),
  );
  const timers = await db()
    .select({ requestId: timer.requestId, key: timer.key, name: timer.name, dueAt: timer.dueAt })
    .from(timer)
    .where(lt(timer.dueAt, late))
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
    .where(and(isNull(message.sentAt), isNull(message.failedAt), eq(message.attempts, 0), lt(message.createdAt, late)))
    .orderBy(message.createdAt)
    .limit(most);
  await addJobs(
    db(),
    'mail',
    messages.map((m) => ({ payload: { messageId: m.id }, key: `mail:${m.id}` })),
  );
}
