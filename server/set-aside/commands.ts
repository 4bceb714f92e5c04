import { and, eq, isNull, sql } from 'drizzle-orm';
import { readJson } from '../../core/boundary/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { setAside } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { takeChat } from '../chat/intake.ts';
import { addJobs, type Jobs } from '../runtime/jobs.ts';
import { canBeTriedAgain, causeWords, type TriedAgain } from './put-aside.ts';
import type { ChatEvent } from '../systems/chat/client.ts';

import { record } from '../changes/record.ts';
import { syncDirectory } from '../people/sync-directory.ts';

type Row = typeof setAside.$inferSelect;

/** How each kind of thing is tried again. */
const again: Record<TriedAgain, (row: Row, payload: unknown) => Promise<unknown>> = {
  job: async (row, payload) => {
    const job = payload as { task: keyof Jobs; payload: never };
    await addJobs(db(), job.task, [{ payload: job.payload, key: row.key }]);
  },
  chat: (_, payload) => takeChat(payload as ChatEvent),
  directory: (row) => syncDirectory({ sure: row.key.startsWith('missing ') }),
};

/** An administrator deals with what was set aside: tries it again, or lets it be. */
export async function settleSetAside(viewer: Viewer, input: { id: string; how: 'again' | 'discard' }): Promise<Result> {
  if (!has(viewer, 'administrator')) return notAllowed('deal with what was set aside');
  const [row] = isId(input.id)
    ? await db()
        .select()
        .from(setAside)
        .where(and(eq(setAside.id, input.id), isNull(setAside.settledAt)))
    : [];
  if (!row) return notFound('This entry');
  const act = canBeTriedAgain(row.source) ? again[row.source] : undefined;
  if (input.how === 'again' && !act) return refuse('invalid', 'This cannot be tried again; it can only be discarded.');
  await db().transaction(async (tx) => {
    const settled = input.how === 'again' ? ('tried again' as const) : ('discarded' as const);
    await tx.update(setAside).set({ settledAt: new Date(), settledBy: viewer.id, settled }).where(eq(setAside.id, row.id));
    await record(tx, {
      actor: viewer.id,
      action: settled === 'discarded' ? 'discard' : 'try-again',
      object: 'set-aside',
      objectId: row.id,
      detail: { source: row.source },
    });
  });
  if (input.how === 'discard') return { ok: true };
  try {
    const payload = readJson(row.payload);
    await act!(row, payload.ok ? payload.value : undefined);
    return { ok: true };
  } catch (error) {
    await db()
      .update(setAside)
      .set({ settledAt: null, settledBy: null, settled: null, times: sql`${setAside.times} + 1`, lastAt: new Date() })
      .where(eq(setAside.id, row.id));
    return refuse('invalid', `It was tried again and failed: ${causeWords(error).slice(0, 300)}`);
  }
}
