import { eq, sql } from 'drizzle-orm';
import { answerVersion, serviceCase } from '../db/schema/index.ts';
import { caseWords } from '../requests/answers.ts';
import { namesFor } from '../people/names.ts';
import { only, type Writer } from './batch.ts';

/** Answers that an approver corrected, or a requester sent anew, become those of the case; each change is kept. */
export const answers: Writer = async (tx, batches, at) => {
  const all = only(batches, 'answers');
  const changed = new Set(all.map((v) => v.run));
  for (const { run, ...v } of all) {
    const i = all.filter((other) => other.run === run).findIndex((other) => other.changed === v.changed);
    await tx.insert(answerVersion).values({ runId: run.id, seq: run.seq * 100 + i, at, by: v.by, changed: v.changed });
    await tx
      .update(serviceCase)
      .set({ answers: sql`${serviceCase.answers} || ${JSON.stringify(v.changed)}::jsonb` })
      .where(eq(serviceCase.id, run.caseId));
  }
  for (const run of changed) {
    const names = await namesFor(tx, Object.values(run.answers));
    await tx
      .update(serviceCase)
      .set({ words: caseWords(run.definition, run.answers, names) })
      .where(eq(serviceCase.id, run.caseId));
  }
  return [];
};
