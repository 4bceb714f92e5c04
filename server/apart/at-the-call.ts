import { eq, sql } from 'drizzle-orm';
import { isGroup, isPerson, type Value } from '../../core/values/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { call } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { PermanentError } from '../systems/errors.ts';
import { meetingsOf, meetingWords } from './meetings.ts';

/**
 * Before the directory is asked to put somebody into a group: what is kept apart does not meet in them. Of two calls at once the one that is
 * found clear first counts as done for the other. Throws PermanentError with why, and who may make an exception.
 */
export async function keepApartAt(callId: string, inputs: Readonly<Record<string, Value>>): Promise<void> {
  const { group, person } = inputs;
  if (!isGroup(group) || !isPerson(person) || !isId(group.group) || !isId(person.person)) return;
  const [meeting] = await db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${person.person}, 11))`);
    const found = await meetingsOf(tx, [{ person: person.person, group: group.group, also: [] }], callId);
    if (found.length === 0) await tx.update(call).set({ clearedAt: now() }).where(eq(call.id, callId));
    return found;
  });
  if (meeting) throw new PermanentError(`The directory was not asked. ${meetingWords(meeting, true)}`);
}
