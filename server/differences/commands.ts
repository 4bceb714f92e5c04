import { and, eq, lte, sql } from 'drizzle-orm';
import { LeaveAll, SettleDifference } from '../../core/posts/index.ts';
import { givenId } from '../../core/steps/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { difference, holding, person } from '../db/schema/index.ts';
import { endHolding, lockHolding } from '../holdings/end.ts';
import { isId } from '../ids.ts';
import { takenBack } from '../mail/given-back.ts';
import { writeAbout } from '../mail/write.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { deliverTo } from '../runtime/deliver.ts';
import { differenceFor } from './list.ts';
import { wantReading } from './reading.ts';
import { readable } from './systems.ts';
import { takeOver } from './take-over.ts';

type Difference = typeof difference.$inferSelect;
type How = NonNullable<Difference['how']>;

/** What can be decided of each kind of difference. */
const mayBe: Record<Difference['is'], How[]> = {
  missing: ['end', 'leave'],
  unknown: ['takeOver', 'takeBack', 'leave'],
  until: ['follow', 'leave'],
};

/** Has a system read now. */
export async function askReading(viewer: Viewer, system: string): Promise<Result> {
  if (!has(viewer, 'administrator')) return notAllowed('have systems read');
  if (!(await readable(db())).some((s) => s.id === system)) return notFound('This system');
  await db().transaction((tx) => wantReading(tx, system, viewer.id));
  return { ok: true };
}

/**
 * Decides what becomes of a difference. Missing: it is held by nobody any more. Unknown: somebody holds it from now on, or it is taken
 * back from them. Another last day: the system's counts. Any: it is left as it is, and is told of again only when it says something else.
 */
export async function settleDifference(viewer: Viewer, input: { id: string; how: string; why: string; person: string }): Promise<Result> {
  if (!has(viewer, 'administrator')) return notAllowed('decide what becomes of a difference');
  if (!isId(input.id)) return notFound('This difference');
  const held = holdTo(SettleDifference, input);
  if (!held.ok) return held;
  const { how, why } = held.value;
  const seen = await differenceFor(viewer, input.id);
  if (!seen?.sees) return notFound('This difference');
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx.select().from(difference).where(eq(difference.id, input.id)).for('update');
    if (!row) return notFound('This difference');
    if (row.state !== 'open' && row.state !== 'left') return refuse('already-decided', 'It is settled already, or gone. Nothing was changed.');
    if (!mayBe[row.is].includes(how)) return refuse('invalid', 'That cannot be done about this difference.');
    const done = await act[how](tx, viewer, row, { why, person: held.value.person });
    if (!done.ok) return done;
    await tx
      .update(difference)
      .set({ state: how === 'leave' ? 'left' : 'settled', how, why, settledAt: now(), settledBy: viewer.id, ...done.set })
      .where(eq(difference.id, row.id));
    await record(tx, {
      actor: viewer.id,
      action: how,
      object: 'difference',
      objectId: row.id,
      detail: { system: row.system, kind: row.kind, ...(done.number !== undefined && { request: done.number }) },
    });
    return { ok: true };
  });
}

/** What `act` gives: what else is kept of the difference, and the request that came of it. */
type Done = Result<{ set?: Partial<Difference>; number?: number }>;
type Act = (tx: Tx, viewer: Viewer, row: Difference, of: { why: string; person: string }) => Promise<Done>;

const act: Record<How, Act> = {
  leave: () => Promise.resolve({ ok: true }),
  end: async (tx, viewer, row, { why }) => {
    const locked = row.holdingId === null ? undefined : await lockHolding(tx, row.holdingId);
    if (!locked || locked.row.endedAt) return refuse('ended', 'It was given back meanwhile. Nothing was changed.');
    if (locked.row.endingAt) return refuse('ended', 'It is being given back already. Nothing was changed.');
    const given = locked.run.state.given?.find((g) => givenId(g) === locked.row.key);
    if (given) await deliverTo(tx, locked.run, { type: 'givenBack', id: locked.row.key, person: viewer.id, why, gone: true });
    // What its run does not know of any more ends all the same: the system has it not.
    await tx
      .update(holding)
      .set({ endedAt: sql`coalesce(${holding.endedAt}, ${now().toISOString()}::timestamptz)`, endingBy: viewer.id, endingWhy: why })
      .where(eq(holding.id, locked.row.id));
    return { ok: true, number: locked.run.number };
  },
  follow: async (tx, _viewer, row) => {
    const locked = row.holdingId === null ? undefined : await lockHolding(tx, row.holdingId);
    if (!locked || locked.row.endedAt || locked.row.endingAt) return refuse('ended', 'It was given back meanwhile. Nothing was changed.');
    // Whoever has it is told anew when the other day is near.
    await tx.update(holding).set({ until: row.until, toldAt: null }).where(eq(holding.id, locked.row.id));
    return { ok: true, number: locked.run.number };
  },
  takeOver: async (tx, viewer, row, of) => {
    const made = await held(tx, viewer, row, of);
    return made.ok ? { ok: true, set: { holdingId: made.holding, personId: of.person }, number: made.number } : made;
  },
  takeBack: async (tx, viewer, row, of) => {
    const made = await held(tx, viewer, row, of);
    if (!made.ok) return made;
    const locked = await lockHolding(tx, made.holding);
    if (!locked || !(await endHolding(tx, locked, viewer.id, of.why))) throw new Error('What was taken over cannot be taken back.');
    if (of.person !== viewer.id)
      await writeAbout(tx, locked.run.id, takenBack({ key: locked.row.key, to: of.person, what: row.what }, viewer.id, of.why));
    return { ok: true, set: { holdingId: made.holding, personId: of.person }, number: made.number };
  },
};

/** Somebody holds it from now on. */
async function held(
  tx: Tx,
  viewer: Viewer,
  row: Difference,
  of: { why: string; person: string },
): Promise<Result<{ holding: string; number: number }>> {
  const noPerson = () => refuse('invalid', 'Say whose it is.', [{ field: 'person', sentence: 'Choose whose it is.' }]);
  if (!isId(of.person)) return noPerson();
  const [whose] = await tx
    .select({ id: person.id })
    .from(person)
    .where(and(eq(person.id, of.person), eq(person.outside, false)));
  if (!whose) return noPerson();
  const system = (await readable(tx)).find((s) => s.id === row.system);
  const lists = system?.lists.find((l) => l.spec.id === row.action);
  if (!lists) return refuse('ended', 'The system says no longer what it has of this. Nothing was changed.');
  return { ok: true, ...(await takeOver(tx, viewer, lists, row, of)) };
}

/** Leaves all that a system has and nobody holds here as it is, as far as it was found by the time that is stated: it was there before us. */
export async function leaveAll(viewer: Viewer, input: { system: string; why: string; foundBy: string }): Promise<Result<{ left: number }>> {
  if (!has(viewer, 'administrator')) return notAllowed('decide what becomes of differences');
  const posted = holdTo(LeaveAll, input);
  if (!posted.ok) return posted;
  const { system, why, foundBy } = posted.value;
  return db().transaction(async (tx): Promise<Result<{ left: number }>> => {
    const left = await tx
      .update(difference)
      .set({ state: 'left', how: 'leave', why, settledAt: now(), settledBy: viewer.id })
      .where(
        and(eq(difference.system, system), eq(difference.is, 'unknown'), eq(difference.state, 'open'), lte(difference.foundAt, new Date(foundBy))),
      )
      .returning({ id: difference.id });
    if (left.length === 0) return refuse('ended', 'There is nothing of that any more. Nothing was changed.');
    await record(tx, { actor: viewer.id, action: 'leave', object: 'difference', objectId: 'many', detail: { system, left: left.length } });
    return { ok: true, left: left.length };
  });
}
