import { eq, isNull, and, sql } from 'drizzle-orm';
import { heard, own, setOwn } from '../../core/boundary/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import { isEmpty, isOfType, namedIn, typeWords, Value } from '../../core/values/index.ts';
import { keepApartAt } from '../apart/at-the-call.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { call } from '../db/schema/index.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { knownInputs } from '../holdings/about.ts';
import { log } from '../log.ts';
import { existing } from '../people/existing.ts';
import { madeFor, madeIn, type Secret } from '../notes/secrets.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import type { Action, Reply } from '../systems/action.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { action } from '../systems/index.ts';
import { changingOf } from './changing.ts';
import { keepReply, type Came } from './settle.ts';

/** Where a system may post its answer to a call. */
export const answerPath = (callId: string): string => `/api/v1/calls/${callId}/answer`;

/**
 * Does what is next for a call: sends it, after the commit that asked for it, or asks how what was accepted stands. A crash
 * anywhere in here leaves the call open: it is sent again with the same key, and the system changes nothing twice. One that was
 * cancelled after it had been sent is seen through as well, for what it gave is to be known.
 */
export async function tendCall(callId: string): Promise<void> {
  const [row] = await db().select().from(call).where(eq(call.id, callId));
  if (!row || row.closedAt) return;
  const beganAt = now();
  const act = await action(db(), row.action);
  let { sealedMade } = row;
  if (!row.acceptedAt) {
    // From here on it may have been done: who cancels it now knows that. A secret that is made for it is the same each time.
    const [begun] = await db()
      .update(call)
      .set({
        begunAt: sql`coalesce(${call.begunAt}, ${beganAt.toISOString()}::timestamptz)`,
        sealedMade: sql`coalesce(${call.sealedMade}, ${madeFor(act?.spec) ?? null})`,
      })
      .where(and(eq(call.id, callId), isNull(call.closedAt)))
      .returning({ sealedMade: call.sealedMade });
    if (!begun) return;
    sealedMade = begun.sealedMade;
  }
  const { job } = row;
  const asks = row.acceptedAt !== null;
  const came = await attempt(row.action, act, async (acts) => {
    if (!asks) {
      if (row.action === 'directory.addMember') await keepApartAt(row.id, row.inputs);
      const inputs = { ...row.inputs, ...(await knownInputs(db(), acts.spec, row.inputs)), ...valuesOf(sealedMade) };
      return acts.run(inputs, row.idempotencyKey, `${config().PUBLIC_URL}${answerPath(row.id)}`, changingOf(row.id));
    }
    if (job === null) return undefined;
    return row.status === 'cancelled' && acts.later?.cancel ? acts.later.cancel(job) : acts.later?.ask?.(job);
  });
  if (!came.ok) log.warn({ callId, action: row.action, asks, said: came.said }, 'call failed');
  await keepReply(row, came, { how: asks ? 'asked' : 'sent', beganAt, later: act?.later, told: row.told });
}

/** The secrets that were made for a call, as its inputs. */
const valuesOf = (sealedMade: string | null): Record<string, Value> =>
  Object.fromEntries(Object.entries(madeIn(sealedMade)).map(([name, { value }]) => [name, value]));

/** Has a system say something, and holds that against what its action gives. Whatever it runs into is an answer as well. */
export async function attempt(id: string, act: Action | undefined, ask: (act: Action) => Promise<Reply | undefined> | Reply): Promise<Came> {
  if (!act) return { ok: false, said: `No registered system offers ${id}.`, final: true };
  try {
    const reply = await ask(act);
    if (reply?.is !== 'done') return { ok: true, reply };
    const outputs = await outputsOf(act.spec, reply.outputs);
    const secrets = takeSecrets(act.spec, outputs);
    const { unchangedWhen } = act.spec;
    return {
      ok: true,
      reply: { is: 'done', outputs, job: reply.job },
      secrets,
      changed: unchangedWhen === undefined || own(outputs, unchangedWhen) !== true,
    };
  } catch (error) {
    // Nothing a system says may keep the call from being told.
    if (error instanceof PermanentError || error instanceof TransientError)
      return { ok: false, said: heard(error.message, 1000), final: error instanceof PermanentError };
    // The database is away, or was: the call is made again when it is back, under the same key.
    if (isDatabaseTrouble(error)) throw error;
    return { ok: false, said: heard(`Unexpected: ${causeWords(error)}`, 1000), final: true };
  }
}

/** An answer held against what the action says it gives: each value of its type, people and groups that there are. */
async function outputsOf(spec: ActionSpec, answered: Record<string, Value>): Promise<Record<string, Value>> {
  const outputs: Record<string, Value> = {};
  for (const o of spec.outputs) {
    const read = Value.safeParse(own(answered, o.name) ?? null);
    if (!read.success || !isOfType(read.data, o.type))
      throw new PermanentError(`${spec.system} answered something as “${o.label}” that is not a ${typeWords[o.type]}.`);
    if (isEmpty(read.data) && o.always) throw new PermanentError(`${spec.system} answered nothing as “${o.label}”.`);
    setOwn(outputs, o.name, read.data);
  }
  const exists = await existing(db(), Object.values(outputs));
  for (const o of spec.outputs)
    for (const { kind, id } of namedIn(own(outputs, o.name)))
      if (!exists.has(kind, id)) throw new PermanentError(`${spec.system} answered a ${typeWords[kind]} as “${o.label}” that is not known here.`);
  return outputs;
}

/** Takes what is secret out of what was answered: what is kept of it, and told the run, does not hold it. */
function takeSecrets(spec: ActionSpec, outputs: Record<string, Value>): Secret[] {
  return spec.outputs.flatMap(({ name, label, secret }) => {
    if (!secret) return [];
    const value = own(outputs, name);
    delete outputs[name];
    return typeof value === 'string' && value !== '' ? [{ label, value }] : [];
  });
}
