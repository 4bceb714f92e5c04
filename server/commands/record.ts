import type { Reader } from '../db/database.ts';
import { changeLog } from '../db/schema/index.ts';

/** Writes who did what to which object, in the caller's transaction. */
export async function record(
  tx: Reader,
  entry: { actor: string | null; action: string; object: string; objectId: string; detail?: Record<string, unknown> },
): Promise<void> {
  await tx
    .insert(changeLog)
    .values({ actorId: entry.actor, action: entry.action, object: entry.object, objectId: entry.objectId, detail: entry.detail ?? {} });
}
