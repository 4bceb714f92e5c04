import type { ChangedObject } from '../../core/lists/index.ts';
import type { Reader } from '../db/database.ts';
import { changeLog } from '../db/schema/index.ts';

interface Entry {
  /** Null: whoever has the host. */
  actor: string | null;
  action: string;
  object: ChangedObject;
  objectId: string;
  detail?: Record<string, unknown>;
}

/** Writes who did what to which object, in the caller's transaction. */
export async function record(tx: Reader, ...entries: Entry[]): Promise<void> {
  await tx.insert(changeLog).values(entries.map(({ actor, detail, ...entry }) => ({ ...entry, actorId: actor, detail: detail ?? {} })));
}
