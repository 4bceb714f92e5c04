import { and, eq } from 'drizzle-orm';
import { heard, readJson } from '../../core/boundary/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { call, callTry } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { log } from '../log.ts';
import { action } from '../systems/index.ts';
import { keepRefused, keepReply, type Taken } from './settle.ts';
import { signatureOf, type Signed } from './signature.ts';
import { attempt } from './tend.ts';

/** Why an answer that a system called back was not taken: a status of HTTP and the sentence. */
export interface NotTaken {
  ok: false;
  status: 401 | 404 | 409 | 422;
  sentence: string;
}

/**
 * Takes the answer to a call that a system posts: signed by it, lately, and not sent before. What is late or comes again is told so
 * and changes nothing more; what is not signed as it should be is kept as refused.
 */
export async function takeCallBack(callId: string, message: Signed): Promise<{ ok: true; taken: Taken } | NotTaken> {
  const beganAt = now();
  const nothing: NotTaken = { ok: false, status: 404, sentence: 'No answer is waited for at this address.' };
  const [row] = isId(callId) ? await db().select().from(call).where(eq(call.id, callId)) : [];
  // What was never sent has no answer.
  if (!row?.begunAt) return nothing;
  const act = await action(db(), row.action);
  const callsBack = act?.later?.callsBack;
  if (!callsBack) return nothing;
  const refused = async (status: NotTaken['status'], sentence: string): Promise<NotTaken> => {
    log.warn({ callId, status, sentence }, 'an answer was called back and not taken');
    await keepRefused(row, heard(`An answer was called back and not taken. ${sentence}`, 1000), beganAt);
    return { ok: false, status, sentence };
  };
  const signed = await signatureOf(message, callsBack.key());
  if (!signed.ok) return refused(401, signed.sentence);
  const { signature } = signed;
  const [before] = await db()
    .select({ n: callTry.n })
    .from(callTry)
    .where(and(eq(callTry.callId, row.id), eq(callTry.signature, signature)));
  if (before) return refused(409, 'This very answer was sent before.');
  const body = readJson(message.body.toString('utf8'));
  if (!body.ok) return refused(422, body.sentence);
  const came = await attempt(row.action, act, () => callsBack.read(body.value));
  return { ok: true, taken: await keepReply(row, came, { how: 'calledBack', beganAt, later: act?.later, signature }) };
}
