import { and, eq, gt, sql } from 'drizzle-orm';
import { z } from 'zod';
import { defaultRetries, givenId } from '../../core/steps/index.ts';
import { unseal } from '../auth/seal.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { call, holding, sealedNote } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { lockRun } from '../runtime/deliver.ts';
import { addCalls } from '../steps/provision.ts';
import { actionSpec } from '../systems/index.ts';
import { anewKey } from './anew.ts';
import { mayOpen } from './read.ts';
import type { Secret } from './secrets.ts';

/**
 * Opens a sealed note: what it says is given once, to whoever it is for, and is gone from here with that. Nobody else opens it; for somebody
 * who cannot sign in their manager does, together with them.
 */
export async function openNote(viewer: Viewer, input: { id: string }): Promise<Result<{ secrets: Secret[] }>> {
  if (!isId(input.id)) return notFound('This note');
  return db().transaction(async (tx): Promise<Result<{ secrets: Secret[] }>> => {
    const [note] = await tx.select().from(sealedNote).where(eq(sealedNote.id, input.id)).for('no key update');
    if (!note) return notFound('This note');
    const { rows } = await tx.execute<{ may: boolean; number: string }>(sql`
      select ${mayOpen(viewer)} as may, c.number from person p, run r join service_case c on c.id = r.case_id
      where p.id = ${note.personId} and r.id = ${note.runId}`);
    const [row] = rows;
    if (!row?.may) return notFound('This note');
    if (note.openedAt) return refuse('ended', 'It was opened already, and opens once. If that was not you, say so to the desk at once.');
    if (note.replacedAt) return refuse('ended', 'Another note was made in its place. Open that one.');
    if (note.sealed === null || note.openUntil <= now()) return refuse('ended', 'Its time is over: it does not open any more.');
    const values = z.array(z.string()).parse(JSON.parse(unseal(note.sealed)));
    await tx.update(sealedNote).set({ sealed: null, openedAt: now(), openedBy: viewer.id }).where(eq(sealedNote.id, note.id));
    await record(tx, {
      actor: viewer.id,
      action: 'open',
      object: 'sealed-note',
      objectId: note.id,
      detail: { request: Number(row.number), of: note.labels },
    });
    return { ok: true, secrets: note.labels.map((label, i) => ({ label, value: values[i] ?? '' })) };
  });
}

/**
 * Has the secrets of a note made anew by the system that they are for, as its action says how; whoever the note is for gets another. They
 * may do that themselves, their manager, and an administrator.
 */
export async function makeAnew(viewer: Viewer, input: { id: string }): Promise<Result> {
  if (!isId(input.id)) return notFound('This note');
  return db().transaction(async (tx): Promise<Result> => {
    const [its] = await tx.select({ runId: sealedNote.runId }).from(sealedNote).where(eq(sealedNote.id, input.id));
    if (!its) return notFound('This note');
    const run = await lockRun(tx, its.runId);
    const [note] = await tx.select().from(sealedNote).where(eq(sealedNote.id, input.id));
    if (!note) return notFound('This note');
    const { rows } = await tx.execute<{ may: boolean }>(
      sql`select (p.id = ${viewer.id} or p.manager_id = ${viewer.id}) as may from person p where p.id = ${note.personId}`,
    );
    if (!rows[0]?.may && !has(viewer, 'administrator')) return notFound('This note');
    if (note.sealed !== null && note.openUntil > now()) return refuse('ended', 'It can be opened still. Nothing was changed.');
    const others = await tx
      .select({ openUntil: sealedNote.openUntil })
      .from(sealedNote)
      .where(and(eq(sealedNote.runId, run.id), eq(sealedNote.key, note.key), gt(sealedNote.madeAt, note.madeAt)));
    if (others.length > 0) return refuse('ended', 'Another note was made in its place already. Nothing was changed.');
    const given = run.state.given?.find((g) => givenId(g) === note.key);
    const [held] = await tx
      .select({ endingAt: holding.endingAt })
      .from(holding)
      .where(and(eq(holding.runId, run.id), eq(holding.key, note.key)));
    if (!given || held?.endingAt) return refuse('ended', 'What it belongs to was given back, or is about to be. Nothing was changed.');
    const anewBy = (await actionSpec(tx, given.action))?.anewBy;
    const [first] = await tx.select().from(call).where(eq(call.id, note.callId));
    if (!anewBy || !first?.noteFor) return refuse('ended', 'The system has no way to make it anew. Ask for it again at the Counter.');
    const before = await tx
      .select({ closedAt: call.closedAt })
      .from(call)
      .where(and(eq(call.runId, run.id), sql`starts_with(${call.key}, ${`anew:${note.key}~`})`));
    if (before.some((c) => c.closedAt === null)) return refuse('ended', 'It is being made anew already. Nothing was changed.');
    await addCalls(
      tx,
      [
        {
          run,
          key: anewKey(note.key, before.length + 1),
          action: anewBy,
          inputs: { ...given.outputs, ...given.inputs },
          round: 0,
          retries: defaultRetries,
          note: { to: note.personId, openFor: first.noteFor },
        },
      ],
      now(),
    );
    await record(tx, {
      actor: viewer.id,
      action: 'make-anew',
      object: 'sealed-note',
      objectId: note.id,
      detail: { request: run.number, of: note.labels },
    });
    return { ok: true };
  });
}
