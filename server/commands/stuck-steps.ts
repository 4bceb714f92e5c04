import { and, eq, isNotNull } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { request, runStep } from '../db/schema/index.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { deliver } from '../runtime/deliver.ts';
import { record } from './record.ts';

/** Tries a stuck step again. */
export async function retryStep(viewer: Viewer, input: { number: number; key: string }): Promise<Result> {
  if (!has(viewer, 'fulfiller', 'administrator')) return notAllowed('retry steps');
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx
      .select({ id: request.id })
      .from(request)
      .innerJoin(runStep, and(eq(runStep.requestId, request.id), eq(runStep.key, input.key), isNotNull(runStep.stuckCause)))
      .where(eq(request.number, input.number));
    if (!row) return notFound('This stuck step');
    const { ignored } = await deliver(tx, row.id, { type: 'retried', key: input.key, person: viewer.id });
    await record(tx, {
      actor: viewer.id,
      action: ignored ? 'retry-ignored' : 'retry',
      object: 'request',
      objectId: row.id,
      detail: { key: input.key },
    });
    return ignored ? refuse('ended', 'This step is not stuck any more.') : { ok: true };
  });
}
