import { and, eq, inArray, isNotNull, isNull, or, sql } from 'drizzle-orm';
import type { Reader, Tx } from '../db/database.ts';
import { call, mirroredWord, run } from '../db/schema/index.ts';
import { addJobs } from '../runtime/jobs.ts';
import { action } from '../systems/index.ts';

/** A system that has something under way for a request, and takes what is said about the request meanwhile. */
export interface ReadsAlong {
  callId: string;
  /** The system, as it is called. */
  name: string;
}

/** The systems in which what is said about a request is said as well now. */
export async function readsAlong(tx: Reader, caseId: string): Promise<ReadsAlong[]> {
  const open = await tx
    .select({ callId: call.id, action: call.action })
    .from(call)
    .innerJoin(run, eq(run.id, call.runId))
    .where(and(eq(run.caseId, caseId), call.mirrors, isNull(call.closedAt), inArray(call.status, ['waiting', 'accepted'])))
    .orderBy(call.createdAt);
  const along: ReadsAlong[] = [];
  // There are as many as a plan has steps under way at once.
  for (const one of open) {
    const act = await action(tx, one.action);
    if (act?.later?.words?.say) along.push({ callId: one.callId, name: act.spec.system });
  }
  return along;
}

/** A word that was just said is said in these systems as well. */
export async function mirror(tx: Tx, wordId: string, along: ReadsAlong[], at: Date): Promise<void> {
  if (along.length === 0) return;
  await tx.insert(mirroredWord).values(along.map(({ callId }) => ({ callId, wordId, goes: 'there' as const })));
  for (const { callId } of along) await wantWords(tx, callId, at);
}

/** What is said here and in the system is to be exchanged, once the system has said what it calls what it has under way, or it is certain that it never will. */
export async function wantWords(tx: Tx, callId: string, at: Date): Promise<void> {
  const [wanted] = await tx
    .update(call)
    .set({ wordsDue: at, wordsAsked: sql`${call.wordsAsked} + 1` })
    .where(and(eq(call.id, callId), call.mirrors, or(isNotNull(call.job), isNotNull(call.closedAt))))
    .returning({ id: call.id });
  if (wanted) await addJobs(tx, 'words', [wordsJob(callId, at)]);
}

/** The job that exchanges the words of a call. */
export const wordsJob = (callId: string, runAt: Date) => ({ payload: { callId }, key: `words:${callId}`, runAt });
