import { eq } from 'drizzle-orm';
import { WebSystem } from '../../core/systems/index.ts';
import { seal } from '../auth/seal.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { record } from '../changes/record.ts';
import { readersLost } from '../tables/lists.ts';

/**
 * Registers an HTTP system, or changes one. Only an administrator may: plans will call it. `secret` goes out as a
 * bearer token; `answerKey` is what it signs its answers with that it calls back. Both are kept sealed and never shown again. Left
 * empty, the one before stays.
 */
export async function keepWebSystem(
  viewer: Viewer,
  input: { id?: string | undefined; definition: unknown; secret: string; answerKey?: string | undefined },
): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'administrator')) return notAllowed('register systems');
  const held = holdTo(WebSystem, input.definition);
  if (!held.ok) return held;
  const definition = held.value;
  const twice = definition.actions.map((a) => a.id).find((id, i, all) => all.indexOf(id) !== i);
  if (twice)
    return refuse('invalid', `Not saved: two actions have the id “${twice}”.`, [
      { field: 'actions', sentence: `Two actions have the id “${twice}”.` },
    ]);
  // It goes out as a header (RFC 6750): visible ASCII on one line.
  if (!/^[\x21-\x7e]{0,2000}$/.test(input.secret))
    return refuse('invalid', 'Not saved: a secret has visible ASCII characters only, without blanks or line breaks, at most 2,000.', [
      { field: 'secret', sentence: 'Visible ASCII characters only, without blanks or line breaks.' },
    ]);
  const { answerKey = '' } = input;
  // Of an HMAC with SHA-256 a key of 32 bytes is as strong as it gets (RFC 2104, section 3).
  if (answerKey && !/^[\x21-\x7e]{32,2000}$/.test(answerKey))
    return refuse('invalid', 'Not saved: the key for answers has 32 to 2,000 visible ASCII characters, without blanks or line breaks.', [
      { field: 'answerKey', sentence: '32 to 2,000 visible ASCII characters, without blanks or line breaks.' },
    ]);
  const sealedSecret = input.secret ? seal(input.secret) : undefined;
  const sealedAnswerKey = answerKey ? seal(answerKey) : undefined;
  const callsBack = definition.actions.find((a) => a.later?.callsBack);
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [before] = input.id
      ? await tx.select({ key: webSystem.sealedAnswerKey }).from(webSystem).where(eq(webSystem.id, input.id)).for('no key update')
      : [];
    if (callsBack && !sealedAnswerKey && !before?.key)
      return refuse('invalid', `Not saved: “${callsBack.label}” calls its answer back, and there is no key to know it by.`, [
        { field: 'answerKey', sentence: 'State the key that the system signs its answers with.' },
      ]);
    const [reader] = input.id ? await readersLost(tx, input.id, definition.lists ?? []) : [];
    if (reader) {
      const sentence = `The table “${reader.table}” is read from it, and would not find ${reader.what} any more. Have that table read from elsewhere first.`;
      return refuse('invalid', `Not saved. ${sentence}`, [{ field: 'lists', sentence }]);
    }
    const row = {
      name: definition.name,
      definition,
      changedBy: viewer.id,
      changedAt: new Date(),
      ...(sealedSecret && { sealedSecret }),
      ...(sealedAnswerKey && { sealedAnswerKey }),
    };
    const [kept] = input.id
      ? await tx.update(webSystem).set(row).where(eq(webSystem.id, input.id)).returning({ id: webSystem.id })
      : await tx.insert(webSystem).values(row).onConflictDoNothing().returning({ id: webSystem.id });
    if (!kept)
      return input.id
        ? notFound('This system')
        : refuse('taken', `There is a system called “${definition.name}” already.`, [{ field: 'name', sentence: 'This name is taken.' }]);
    await record(tx, {
      actor: viewer.id,
      action: input.id ? 'change' : 'register',
      object: 'web-system',
      objectId: kept.id,
      detail: { name: definition.name, address: definition.address },
    });
    return { ok: true, id: kept.id };
  });
}
