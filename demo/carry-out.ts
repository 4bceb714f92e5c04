import { and, eq, isNull, like } from 'drizzle-orm';
import { db } from '../server/db/database.ts';
import { call, meeting, message } from '../server/db/schema/index.ts';
import { tendCall } from '../server/calls/tend.ts';
import { arrangeMeeting } from '../server/meetings/arrange.ts';
import { deliverMail } from '../server/mail/hand-over.ts';
import type { Result } from '../server/refusal.ts';

/** A day so many days from today. */
export const inDays = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);

/** What a command gave; refused, the demo cannot be loaded. */
export function good<T extends object>(result: Result<T>): T {
  if (!result.ok) throw new Error(`The demo cannot be loaded: ${result.sentence}`);
  return result;
}

/** What the worker would do, by the same functions; it is not up yet, and its jobs then find everything done. */
export async function carryOut(equipment = false): Promise<void> {
  for (const c of await db().select({ id: call.id }).from(call).where(eq(call.status, 'waiting'))) await tendCall(c.id);
  if (equipment)
    for (const c of await db()
      .select({ id: call.id })
      .from(call)
      .where(and(eq(call.status, 'accepted'), like(call.action, 'equipment.%'))))
      await tendCall(c.id);
  for (const m of await db().select({ id: meeting.id }).from(meeting).where(eq(meeting.status, 'seeking'))) await arrangeMeeting(m.id);
  const unsent = await db().select({ id: message.id }).from(message).where(isNull(message.sentAt)).orderBy(message.createdAt);
  for (const m of unsent) await deliverMail(m.id);
}
