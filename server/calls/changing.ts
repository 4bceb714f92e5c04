import { and, eq, isNotNull } from 'drizzle-orm';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { call } from '../db/schema/index.ts';
import type { Changing } from '../systems/action.ts';

/** Whether a call has set about changing something, also by another worker that tends it at the same time; `begin` keeps that it does now. */
export const changingOf = (id: string): Changing => ({
  begun: async () => (await db().$count(call, and(eq(call.id, id), isNotNull(call.changingAt)))) > 0,
  begin: async () => void (await db().update(call).set({ changingAt: now() }).where(eq(call.id, id))),
});
