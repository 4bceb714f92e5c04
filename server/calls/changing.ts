import { eq } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { call } from '../db/schema/index.ts';
import type { Changing } from '../systems/action.ts';

/** Whether a call had set about changing something when it was read; `begin` keeps that it does now. */
export const changingOf = (of: Pick<typeof call.$inferSelect, 'id' | 'changingAt'>): Changing => ({
  begun: of.changingAt !== null,
  begin: async () => void (await db().update(call).set({ changingAt: now() }).where(eq(call.id, of.id))),
});
