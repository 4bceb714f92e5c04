import { and, eq, isNull, sql } from 'drizzle-orm';
import { ApartException, KeepApart } from '../../core/posts/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { accessGroup, apartException, keptApart, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { mayKeepApart } from './queries.ts';

const mostExcepters = 20;

/** Keeps two groups apart in one person from now on, or says anew why, and who may make an exception; a designer or an administrator does. */
export async function keepApart(
  viewer: Viewer,
  input: { one: string; other: string; why: string; excepters: string[] },
): Promise<Result<{ id: string }>> {
  if (!mayKeepApart(viewer)) return notAllowed('keep groups apart');
  const held = holdTo(KeepApart, input);
  if (!held.ok) return held;
  const { one, other, why } = held.value;
  const excepters = [...new Set(input.excepters)].filter(isId).slice(0, mostExcepters);
  return db().transaction(async (tx): Promise<Result<{ id: string }>> => {
    for (const [field, group] of [
      ['one', one],
      ['other', other],
    ] as const)
      if (!(await isThere(tx, group)))
        return refuse('invalid', 'This group is not known.', [{ field, sentence: 'This group is not known. Pick one from the list.' }]);
    const known = await tx.$count(person, and(sql`${person.id} = any(${sql.param(excepters)}::uuid[])`, eq(person.active, true)));
    if (known < excepters.length) return refuse('invalid', 'Somebody named is not known, or does not work here any more. Nothing was changed.');
    const [oneId, otherId] = [one, other].toSorted() as [string, string];
    const said = { oneId, otherId, why, excepters, changedBy: viewer.id, changedAt: now(), endedAt: null };
    const [row] = await tx
      .insert(keptApart)
      .values(said)
      .onConflictDoUpdate({ target: [keptApart.oneId, keptApart.otherId], set: said })
      .returning({ id: keptApart.id });
    await record(tx, { actor: viewer.id, action: 'keep', object: 'apart', objectId: row!.id, detail: { one, other, why, excepters } });
    return { ok: true, id: row!.id };
  });
}
const isThere = async (tx: Tx, id: string): Promise<boolean> =>
  isId(id) && (await tx.$count(accessGroup, and(eq(accessGroup.id, id), eq(accessGroup.gone, false)))) > 0;

/** They are not kept apart any more, or again. */
export async function endApart(viewer: Viewer, input: { id: string; again: boolean }): Promise<Result> {
  if (!mayKeepApart(viewer)) return notAllowed('end that groups are kept apart');
  if (!isId(input.id)) return notFound('This');
  return db().transaction(async (tx): Promise<Result> => {
    const changed = await tx
      .update(keptApart)
      .set({ endedAt: input.again ? null : now(), changedBy: viewer.id, changedAt: now() })
      .where(and(eq(keptApart.id, input.id), input.again ? sql`${keptApart.endedAt} is not null` : isNull(keptApart.endedAt)))
      .returning({ id: keptApart.id });
    if (changed.length === 0)
      return (await tx.$count(keptApart, eq(keptApart.id, input.id))) > 0
        ? refuse('ended', 'It is so already. Nothing was changed.')
        : notFound('This');
    await record(tx, { actor: viewer.id, action: input.again ? 'keep' : 'end', object: 'apart', objectId: input.id });
    return { ok: true };
  });
}

/** Lets somebody have both all the same; who is named for that does, and not for themselves. */
export async function exceptFrom(viewer: Viewer, input: { id: string; person: string; until: string; why: string }): Promise<Result> {
  const may = await mayExcept(viewer, input.id);
  if (!may) return notFound('This');
  const held = holdTo(ApartException, input);
  if (!held.ok) return held;
  const { person: who, until, why } = held.value;
  const wrong = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);
  if (who === viewer.id) return wrong('person', 'Nobody makes an exception for themselves: ask another who may.');
  if (until !== '' && until < now().toISOString().slice(0, 10)) return wrong('until', 'That day is over.');
  return db().transaction(async (tx): Promise<Result> => {
    const [there] = isId(who)
      ? await tx
          .select({ id: person.id })
          .from(person)
          .where(and(eq(person.id, who), eq(person.active, true)))
      : [];
    if (!there) return wrong('person', 'This person is not known. Pick one from the list.');
    // Two who make one for the same person at once: one after the other.
    await tx.select({ id: keptApart.id }).from(keptApart).where(eq(keptApart.id, input.id)).for('update');
    const open = and(eq(apartException.pairId, input.id), eq(apartException.personId, who), isNull(apartException.endedAt));
    // One that goes on in place of another: the other ends.
    await tx.update(apartException).set({ endedAt: now(), endedBy: viewer.id }).where(open);
    const [row] = await tx
      .insert(apartException)
      .values({ pairId: input.id, personId: who, until: until || null, why, byId: viewer.id, at: now() })
      .returning({ id: apartException.id });
    await record(tx, {
      actor: viewer.id,
      action: 'except',
      object: 'apart',
      objectId: input.id,
      detail: { exception: row!.id, person: who, until, why },
    });
    return { ok: true };
  });
}

/** An exception is over: nothing is taken back by that, and nothing more is given. */
export async function endException(viewer: Viewer, input: { id: string }): Promise<Result> {
  const [row] = isId(input.id) ? await db().select().from(apartException).where(eq(apartException.id, input.id)) : [];
  if (!row || !(await mayExcept(viewer, row.pairId))) return notFound('This exception');
  return db().transaction(async (tx): Promise<Result> => {
    const ended = await tx
      .update(apartException)
      .set({ endedAt: now(), endedBy: viewer.id })
      .where(and(eq(apartException.id, input.id), isNull(apartException.endedAt)))
      .returning({ id: apartException.id });
    if (ended.length === 0) return refuse('ended', 'It is over already. Nothing was changed.');
    await record(tx, { actor: viewer.id, action: 'end-exception', object: 'apart', objectId: row.pairId, detail: { exception: input.id } });
    return { ok: true };
  });
}

const mayExcept = async (viewer: Viewer, pair: string): Promise<boolean> =>
  isId(pair) &&
  (await db().$count(keptApart, and(eq(keptApart.id, pair), isNull(keptApart.endedAt), sql`${viewer.id}::uuid = any(${keptApart.excepters})`))) > 0;
