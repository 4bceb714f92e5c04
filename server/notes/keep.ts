import { and, eq, isNotNull, sql } from 'drizzle-orm';
import { addAlways } from '../../core/calendar/index.ts';
import { givenId } from '../../core/steps/index.ts';
import { seal } from '../auth/seal.ts';
import type { Tx } from '../db/database.ts';
import { sealedNote, type call } from '../db/schema/index.ts';
import { noteForTheirs, noteWaits } from '../mail/sealed-note.ts';
import { writeAbout } from '../mail/write.ts';
import { anewOf } from './anew.ts';
import { cannotSignIn } from './read.ts';
import type { Secret } from './secrets.ts';

/**
 * Puts the secrets that a call brought into a sealed note for whoever it is for, and tells them. A note that it takes the place of
 * does not open any more.
 */
export async function keepNote(tx: Tx, of: typeof call.$inferSelect, secrets: Secret[], at: Date): Promise<void> {
  if (!of.noteTo || !of.noteFor || secrets.length === 0) return;
  const key = anewOf(of.key) ?? givenId(of);
  const openUntil = new Date(addAlways(at.toISOString(), of.noteFor));
  const labels = secrets.map((s) => s.label);
  await tx
    .update(sealedNote)
    .set({ sealed: null, replacedAt: at })
    .where(and(eq(sealedNote.runId, of.runId), eq(sealedNote.key, key), isNotNull(sealedNote.sealed)));
  const [made] = await tx
    .insert(sealedNote)
    .values({
      callId: of.id,
      runId: of.runId,
      key,
      personId: of.noteTo,
      labels,
      sealed: seal(JSON.stringify(secrets.map((s) => s.value))),
      madeAt: at,
      openUntil,
    })
    .onConflictDoNothing()
    .returning({ id: sealedNote.id });
  if (!made) return;
  const { rows } = await tx.execute<{ manager: string | null }>(
    sql`select case when ${cannotSignIn} then p.manager_id end as manager from person p where p.id = ${of.noteTo}`,
  );
  const about = { key: of.key, note: made.id, labels, openUntil };
  const manager = rows[0]?.manager;
  // Whoever can open it is told: the manager of somebody who cannot sign in.
  await writeAbout(tx, of.runId, manager ? noteForTheirs({ ...about, to: manager, whose: of.noteTo }) : noteWaits({ ...about, to: of.noteTo }));
}
