import { createHash } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
import type { Letter } from '../../core/letters/index.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { letter } from '../db/schema/index.ts';
import { fileMade } from '../files/keep.ts';
import { log } from '../log.ts';
import { deliverTo, lockRun } from '../runtime/deliver.ts';
import { press, type Made } from './press.ts';

/**
 * Makes a letter and files it with its request, which goes on with it. Making touches nothing: a crash before the end makes it again,
 * and it is filed once.
 */
export async function makeLetter(id: string): Promise<void> {
  const [row] = await db().select().from(letter).where(eq(letter.id, id));
  if (!row || row.status !== 'waiting' || !row.words) return;
  const { words } = row;
  const made = await press(words, row.createdAt);
  if (!made.ok) log.warn({ letterId: id, cause: made.cause }, 'letter not made');
  await db().transaction(async (tx) => {
    const run = await lockRun(tx, row.runId);
    const [still] = await tx.select({ status: letter.status }).from(letter).where(eq(letter.id, id));
    if (still?.status !== 'waiting') return;
    const at = now();
    const of = { key: row.key, round: row.round };
    if (!made.ok) {
      await tx.update(letter).set({ status: 'failed', words: null, closedAt: at }).where(eq(letter.id, id));
      await deliverTo(tx, run, { type: 'callFailed', ...of, cause: `The letter could not be made. ${made.cause}` }, at);
      return;
    }
    const fileId = await file(tx, run.caseId, words, made, at);
    await tx
      .update(letter)
      .set({ status: 'written', words: null, fileId, version: await nextVersion(tx, run.caseId, words.fileName), closedAt: at })
      .where(eq(letter.id, id));
    await deliverTo(tx, run, { type: 'answered', ...of, outputs: { file: { file: fileId } } }, at);
  });
}

const file = (tx: Tx, caseId: string, { fileName }: Letter, { pdf }: Extract<Made, { ok: true }>, at: Date): Promise<string> =>
  fileMade(tx, { name: fileName, type: 'application/pdf', bytes: pdf, hash: createHash('sha256').update(pdf).digest('hex'), caseId, at });

/** Which letter of its name it is in its request; whoever holds the lock of the run is the only one who counts. */
async function nextVersion(tx: Tx, caseId: string, name: string): Promise<number> {
  const { rows } = await tx.execute<{ before: number }>(sql`
    select coalesce(max(l.version), 0)::int as before from letter l join stored_file f on f.id = l.file_id where f.case_id = ${caseId}::uuid and f.name = ${name}`);
  return (rows[0]?.before ?? 0) + 1;
}
