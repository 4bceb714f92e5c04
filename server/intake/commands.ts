import { and, eq, ne, sql } from 'drizzle-orm';
import { IntakeWay } from '../../core/intake/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { intakeWay } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { kindOf } from '../kinds/queries.ts';
import { holdTo, notAllowed, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { roomCalled } from '../systems/chat/client.ts';

const at = (field: string, sentence: string): Refusal => refuse('invalid', sentence, [{ field, sentence }]);

/** What a way in has to be, against what is there: its kind, the category, the channel. */
async function held(given: unknown): Promise<{ ok: true; way: IntakeWay } | Refusal> {
  const read = holdTo(IntakeWay, given);
  if (!read.ok) return read;
  const way = read.value;
  const kind = isId(way.kind) ? await kindOf(db(), way.kind) : undefined;
  if (!kind) return at('kind', 'Choose the kind of ticket that is opened.');
  if (way.category !== null && !kind.definition.categories.includes(way.category))
    return at('category', `“${kind.definition.name}” has no category “${way.category}”. Choose one of its own.`);
  if (way.via === 'chat') {
    if (!config().CHAT_URL) return at('name', 'No chat is set up here.');
    try {
      if ((await roomCalled(way.name)) === undefined) return at('name', `There is no channel “${way.name}” in chat that we may read.`);
    } catch {
      return at('name', 'Chat does not answer just now, so nobody knows whether there is such a channel. Try again in a moment.');
    }
  }
  return { ok: true, way };
}

const columnsOf = (way: IntakeWay) => ({
  via: way.via,
  name: way.name,
  kindId: way.kind,
  category: way.category,
  unknown: way.via === 'mail' ? way.unknown : null,
  automatic: way.via === 'mail' ? way.automatic : null,
});

/** Nobody else's way in has this name. */
async function free(tx: Tx, way: IntakeWay, but?: string): Promise<Refusal | undefined> {
  const [same] = await tx
    .select({ id: intakeWay.id })
    .from(intakeWay)
    .where(and(eq(intakeWay.via, way.via), sql`lower(${intakeWay.name}) = ${way.name}`, but === undefined ? undefined : ne(intakeWay.id, but)));
  return same && taken(way);
}
const taken = (way: IntakeWay) =>
  refuse('taken', `Tickets come in by “${way.name}” already.`, [
    { field: 'name', sentence: `Tickets come in by “${way.name}” already. Choose another.` },
  ]);

/** Opens a way in: from now on tickets come in by it. */
export async function openWay(viewer: Viewer, input: unknown): Promise<Result<{ id: string }>> {
  if (!has(viewer, 'designer')) return notAllowed('say how tickets come in');
  const read = await held(input);
  if (!read.ok) return read;
  const { way } = read;
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    const [made] = await tx
      .insert(intakeWay)
      .values({ ...columnsOf(way), changedBy: viewer.id })
      .onConflictDoNothing()
      .returning({ id: intakeWay.id });
    if (!made) return taken(way);
    await record(tx, { actor: viewer.id, action: 'create', object: 'intake', objectId: made.id, detail: { ...way } });
    return { ok: true, id: made.id };
  });
}

/** Changes a way in; it counts for what comes in from then on. */
export async function changeWay(viewer: Viewer, input: { id: string; version: number; way: unknown }): Promise<Result<{ version: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('say how tickets come in');
  if (!isId(input.id)) return notFound('This way in');
  const read = await held(input.way);
  if (!read.ok) return read;
  const { way } = read;
  return db().transaction(async (tx): Promise<Result<{ version: number }>> => {
    const [now] = await tx
      .select({ version: intakeWay.version, via: intakeWay.via })
      .from(intakeWay)
      .where(eq(intakeWay.id, input.id))
      .for('no key update');
    if (!now || now.via !== way.via) return notFound('This way in');
    if (now.version !== input.version)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed this meanwhile. Nothing of theirs was overwritten; what you changed is still here.',
      );
    const same = await free(tx, way, input.id);
    if (same) return same;
    const version = now.version + 1;
    await tx
      .update(intakeWay)
      .set({ ...columnsOf(way), version, changedBy: viewer.id, changedAt: new Date() })
      .where(eq(intakeWay.id, input.id));
    await record(tx, { actor: viewer.id, action: 'change', object: 'intake', objectId: input.id, detail: { version, ...way } });
    return { ok: true, version };
  });
}

/** Closes a way in: what comes by it is refused from then on, answers about its tickets too. Gives what it was, so that it can be opened again. */
export async function closeWay(viewer: Viewer, input: { id: string }): Promise<Result<{ was: IntakeWay }>> {
  if (!has(viewer, 'designer')) return notAllowed('say how tickets come in');
  if (!isId(input.id)) return notFound('This way in');
  return db().transaction(async (tx): Promise<Result<{ was: IntakeWay }>> => {
    const [gone] = await tx.delete(intakeWay).where(eq(intakeWay.id, input.id)).returning();
    if (!gone) return notFound('This way in');
    const opens = { name: gone.name, kind: gone.kindId, category: gone.category };
    const was: IntakeWay =
      gone.via === 'chat'
        ? { via: 'chat', ...opens }
        : { via: 'mail', ...opens, unknown: gone.unknown ?? 'refuse', automatic: gone.automatic ?? 'leave' };
    await record(tx, { actor: viewer.id, action: 'close', object: 'intake', objectId: input.id, detail: { ...was } });
    return { ok: true, was };
  });
}
