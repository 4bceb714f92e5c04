import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { now } from '../clock.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { basketLine, serviceCase, serviceOrder } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { record } from '../changes/record.ts';
import { notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import type { FieldProblem } from '../../core/forms/index.ts';
import { refusedOutside } from '../requests/taken-outside.ts';
import { heldFor, openAll, whomOf } from '../requests/submit.ts';

/** More things than this are not sent in one go. */
export const mostLines = 30;

interface Line {
  itemId: string;
  revision: number;
  answers: Record<string, unknown>;
  forWhom?: string | undefined;
  /** The line whose place it takes. */
  instead?: string | undefined;
}

/** Puts what somebody has filled in into their basket, held against the form as if it were sent; nothing is asked for yet. */
export async function putInBasket(viewer: Viewer, input: Line): Promise<Result<{ lines: number }>> {
  const whom = whomOf(viewer, input.forWhom);
  if (!whom.ok) return whom;
  const [takenThere] = await refusedOutside([input]);
  if (takenThere) return takenThere;
  return db().transaction(async (tx): Promise<Result<{ lines: number }>> => {
    await lockBasket(tx, viewer);
    const { itemId, revision, answers } = input;
    const [held] = await heldFor(tx, [{ viewer, input: { itemId, revision, answers, forWhom: whom.forWhom, idempotencyKey: '' } }]);
    if (!('offer' in held!)) return held!.ok ? notFound('This item') : held!;
    const had = input.instead && isId(input.instead) ? await take(tx, viewer, input.instead) : undefined;
    const lines = await tx.$count(basketLine, eq(basketLine.personId, viewer.id));
    if (lines >= mostLines) return refuse('invalid', `A basket holds ${mostLines} things. Send those first.`);
    await tx.insert(basketLine).values({
      personId: viewer.id,
      itemId,
      revision,
      answers: held.answers,
      forId: whom.forWhom ?? null,
      // What was changed stays where it stood.
      addedAt: had?.addedAt ?? now(),
    });
    return { ok: true, lines: lines + 1 };
  });
}

/** Takes a thing out of the basket, and gives it, so that it can be put back. */
export async function takeFromBasket(viewer: Viewer, id: string): Promise<Result<{ line: Omit<Line, 'instead'> }>> {
  return db().transaction(async (tx): Promise<Result<{ line: Omit<Line, 'instead'> }>> => {
    await lockBasket(tx, viewer);
    const row = isId(id) ? await take(tx, viewer, id) : undefined;
    if (!row) return refuse('ended', 'It is not in your basket any more.');
    return { ok: true, line: { itemId: row.itemId, revision: row.revision, answers: row.answers, ...(row.forId && { forWhom: row.forId }) } };
  });
}

/** Why an order was not sent, by line; undoes what was done of it already. */
class Held extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.sentence);
  }
}

/**
 * Sends all that is in the basket: an order, each thing of it a request of its own, or nothing at all where one of them is refused;
 * that one is named. The same sending twice is one order. `lines`: what was seen there; what came or went meanwhile is looked at first.
 */
export async function sendBasket(
  viewer: Viewer,
  input: { idempotencyKey: string; lines?: string[] | undefined },
): Promise<Result<{ number: number; requests: number }>> {
  // Outside systems are asked before anything is locked.
  const there = await db()
    .select({ id: basketLine.id, itemId: basketLine.itemId, answers: basketLine.answers })
    .from(basketLine)
    .where(eq(basketLine.personId, viewer.id));
  const outside = (await refusedOutside(there)).flatMap((r, i) =>
    r ? [{ field: there[i]!.id, sentence: r.problems?.[0]?.sentence ?? r.sentence }] : [],
  );
  if (outside.length > 0) return notSent(outside);
  return db()
    .transaction(async (tx): Promise<Result<{ number: number; requests: number }>> => {
      await lockBasket(tx, viewer);
      const lines = await tx.select().from(basketLine).where(eq(basketLine.personId, viewer.id)).orderBy(asc(basketLine.addedAt), asc(basketLine.id));
      const { idempotencyKey } = input;
      if (lines.length === 0) {
        const [sent] = await tx
          .select({ id: serviceOrder.id, number: serviceOrder.number })
          .from(serviceOrder)
          .where(and(eq(serviceOrder.requesterId, viewer.id), eq(serviceOrder.idempotencyKey, idempotencyKey)));
        if (!sent) return refuse('ended', 'There is nothing in your basket: it was sent already, or emptied.');
        return { ok: true, number: sent.number, requests: await tx.$count(serviceCase, eq(serviceCase.orderId, sent.id)) };
      }
      if (input.lines && input.lines.join() !== lines.map((l) => l.id).join())
        return refuse('changed-meanwhile', 'Your basket was changed in another window. Nothing was sent: look it over and send it again.');
      const [order] = await tx
        .insert(serviceOrder)
        .values({ requesterId: viewer.id, idempotencyKey, openedAt: now() })
        .returning({ id: serviceOrder.id, number: serviceOrder.number });
      const opened = await openAll(
        tx,
        lines.map(({ id, itemId, revision, answers, forId }) => ({
          viewer,
          input: { itemId, revision, answers, idempotencyKey: id, ...(forId && { forWhom: forId }) },
        })),
      );
      const problems = opened.flatMap((o, i) =>
        o.ok ? [] : [{ field: lines[i]!.id, sentence: o.problems?.length === 1 ? o.problems[0]!.sentence : o.sentence }],
      );
      if (problems.length > 0) throw new Held(notSent(problems));
      const numbers = opened.flatMap((o) => (o.ok ? [o.number] : []));
      await tx.update(serviceCase).set({ orderId: order!.id }).where(inArray(serviceCase.number, numbers));
      await tx.delete(basketLine).where(eq(basketLine.personId, viewer.id));
      await record(tx, {
        actor: viewer.id,
        action: 'ask',
        object: 'order',
        objectId: order!.id,
        detail: { number: order!.number, requests: numbers },
      });
      return { ok: true, number: order!.number, requests: numbers.length };
    })
    .catch((e: unknown) => {
      if (e instanceof Held) return e.refusal;
      throw e;
    });
}

const notSent = (problems: FieldProblem[]): Refusal => {
  const many = problems.length === 1 ? 'one of them needs' : `${problems.length} of them need`;
  return refuse('invalid', `Nothing was sent: ${many} another look.`, problems);
};

/** One act at a time on somebody's basket. */
const lockBasket = (tx: Tx, viewer: Viewer) => tx.execute(sql`select pg_advisory_xact_lock(hashtext('basket'), hashtext(${viewer.id}))`);

async function take(tx: Tx, viewer: Viewer, id: string) {
  const [row] = await tx
    .delete(basketLine)
    .where(and(eq(basketLine.id, id), eq(basketLine.personId, viewer.id)))
    .returning();
  return row;
}
