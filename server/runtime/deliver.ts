import { and, eq } from 'drizzle-orm';
import { advance, type Effect, type IgnoredReason, type RunEvent, type RunState } from '../../core/engine/index.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { request, runEvent } from '../db/schema/index.ts';
import { lookUp } from './approvers.ts';
import { definitionOf } from './definitions.ts';
import { writeEffects } from './effects.ts';

export interface Delivered {
  state: RunState;
  /** Set when the event came too late or twice: recorded, and of no effect. */
  ignored?: IgnoredReason;
}

/** A run's row, locked until the transaction ends. Whoever changes anything of a run locks it first, so that two transactions never wait for each other. */
export async function lockRun(tx: Tx, requestId: string) {
  const [row] = await tx
    .select({
      id: request.id,
      number: request.number,
      revisionId: request.revisionId,
      requesterId: request.requesterId,
      seq: request.seq,
      state: request.state,
    })
    .from(request)
    .where(eq(request.id, requestId))
    .for('update');
  if (!row) throw new Error(`There is no request ${requestId}.`);
  return row;
}
type LockedRun = Awaited<ReturnType<typeof lockRun>>;

/** Gives one event to a run, inside the caller's transaction. */
export const deliver = async (tx: Tx, requestId: string, event: RunEvent, at = now()): Promise<Delivered> =>
  deliverTo(tx, await lockRun(tx, requestId), event, at);

/**
 * The same to a run that is locked already: advances, appends the event, stores the snapshot, writes what the effects
 * call for with their jobs. Look-ups the plan asks for are answered within the same transaction, as events of their
 * own, so that a replay needs no database.
 */
export async function deliverTo(tx: Tx, row: LockedRun, event: RunEvent, at = now()): Promise<Delivered> {
  const requestId = row.id;
  const definition = await definitionOf(tx, row.revisionId);
  const events: (typeof runEvent.$inferInsert)[] = [];
  const effects: Effect[] = [];
  const waiting: RunEvent[] = [event];
  let { state, seq } = row;
  let ignored: IgnoredReason | undefined;
  for (let next = waiting.shift(); next; next = waiting.shift()) {
    const advanced = advance(definition.plan, state, next, at.toISOString());
    const first = advanced.effects[0];
    if (first?.effect === 'ignored') {
      if (next === event) ignored = first.reason;
      events.push({ requestId, seq, at, event: next, ignored: first.reason });
      continue;
    }
    state = advanced.state;
    events.push({ requestId, seq: ++seq, at, event: next });
    for (const effect of advanced.effects) {
      if (effect.effect === 'find') waiting.push({ type: 'found', key: effect.key, ...(await lookUp(tx, effect.wanted, row.requesterId)) });
      else effects.push(effect);
    }
  }
  await tx.insert(runEvent).values(events);
  if (seq > row.seq) {
    await writeEffects(tx, { ...row, seq, definition }, effects, at);
    const finished = effects.find((e) => e.effect === 'finished');
    await tx
      .update(request)
      .set({ state, seq, ...(finished && { endedAt: at, outcome: finished.outcome, reason: finished.reason ?? null }) })
      .where(and(eq(request.id, requestId), eq(request.seq, row.seq)));
  }
  return { state, ...(ignored && { ignored }) };
}
