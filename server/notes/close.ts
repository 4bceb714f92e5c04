import { and, isNotNull, lte } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { sealedNote } from '../db/schema/index.ts';

/** What a note says is taken out of it once its time is over. */
export async function closeNotes(): Promise<void> {
  await db()
    .update(sealedNote)
    .set({ sealed: null })
    .where(and(isNotNull(sealedNote.sealed), lte(sealedNote.openUntil, now())));
}
