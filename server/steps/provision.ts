import { randomUUID } from 'node:crypto';
import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import { own } from '../../core/boundary/index.ts';
import { givenId } from '../../core/steps/index.ts';
import { isDate } from '../../core/calendar/index.ts';
import { aboutSlot } from '../../core/plans/index.ts';
import { isPerson, type Value } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { call, holding } from '../db/schema/index.ts';
import { wantWords } from '../conversation/mirror.ts';
import { changeHolding } from '../holdings/change.ts';
import { only, type Of, type Writer } from '../runtime/batch.ts';
import { addJobs } from '../runtime/jobs.ts';
import { actionSpec } from '../systems/index.ts';

/** What a call of an action needs done: its row and its job; one that is not wanted any more is not made. */
export const calls: Writer = async (tx, batches, at) => {
  await addCalls(tx, only(batches, 'call'), at);
  for (const { run, key } of only(batches, 'cancelCall')) {
    const seenThrough = await tx
      .update(call)
      // What was never sent is never done; what was is seen through, so that what it gave is known.
      .set({
        status: 'cancelled',
        told: sql`${call.told} + 1`,
        closedAt: sql`case when ${call.begunAt} is null then ${at.toISOString()}::timestamptz end`,
      })
      .where(and(eq(call.runId, run.id), eq(call.key, key), inArray(call.status, ['waiting', 'accepted'])))
      .returning({ id: call.id, acceptedAt: call.acceptedAt, never: isNull(call.begunAt) });
    for (const c of seenThrough) if (c.never) await wantWords(tx, c.id, at);
    // What was accepted is told at once that it is not needed, where it can be.
    await addJobs(
      tx,
      'call',
      seenThrough.flatMap(({ id, acceptedAt }) => (acceptedAt ? [{ payload: { callId: id }, key: `call:${id}` }] : [])),
    );
  }
  return [];
};

/** What was given is written to holdings, what was undone is taken off. */
export const holdings: Writer = async (tx, batches, at) => {
  await writeHoldings(tx, only(batches, 'gave'), only(batches, 'tookBack'), at);
  for (const { given, run } of only(batches, 'leftHeld'))
    await tx
      .update(holding)
      .set({ endingAt: null, endingBy: null, endingWhy: null })
      .where(and(eq(holding.runId, run.id), eq(holding.key, givenId(given))));
  return [];
};

/** A call that is wanted of a run. */
type Wanted = Omit<Of<'call'>, 'effect' | 'run'> & { run: { id: string } };

/** Calls stand to be made, each under its key, and jobs are added that make them. */
export async function addCalls(tx: Tx, calls: Wanted[], at: Date): Promise<void> {
  if (calls.length === 0) return;
  const rows = calls.map((e) => ({
    id: randomUUID(),
    runId: e.run.id,
    key: e.key,
    action: e.action,
    inputs: e.inputs,
    round: e.round,
    idempotencyKey: `${e.run.id}/${e.key}/${e.round}`,
    retries: e.retries,
    createdAt: at,
    dueAt: at,
    noteTo: e.note?.to ?? null,
    noteFor: e.note?.openFor ?? null,
    mirrors: e.mirrors ?? false,
  }));
  await insertAll(tx, call, rows);
  await addJobs(
    tx,
    'call',
    rows.map((r) => ({ payload: { callId: r.id }, key: `call:${r.id}` })),
  );
}

async function writeHoldings(tx: Tx, gave: Of<'gave'>[], took: Of<'tookBack'>[], at: Date): Promise<void> {
  for (const { given, run } of gave) {
    const spec = await actionSpec(tx, given.action);
    const slot = (name: string) => own(given.outputs, name) ?? own(given.inputs, name) ?? null;
    if (spec?.about)
      await changeHolding(tx, slot(aboutSlot.name), {
        runId: run.id,
        key: givenId(given),
        action: given.action,
        until: dayIn(slot(spec.about.until ?? '')),
        at,
      });
    const gives = spec?.gives;
    if (!gives) continue;
    const person = slot(gives.person);
    if (!isPerson(person)) continue;
    await tx
      .insert(holding)
      .values({
        personId: person.person,
        kind: gives.kind,
        what: slot(gives.what),
        runId: run.id,
        key: givenId(given),
        action: given.action,
        since: at,
        until: dayIn(slot(gives.until ?? '')),
      })
      .onConflictDoNothing();
  }
  for (const { given, run } of took)
    await tx
      .update(holding)
      .set({ endedAt: at })
      .where(and(eq(holding.runId, run.id), eq(holding.key, givenId(given)), isNull(holding.endedAt)));
}

const dayIn = (value: Value): string | null => (typeof value === 'string' && isDate(value) ? value : null);
