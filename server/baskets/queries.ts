import { and, asc, eq } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { basketLine, item, person, revision, serviceCase, serviceOrder } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { namesFor, readIn, shortNames } from '../people/names.ts';
import { answerWords } from '../requests/answers.ts';
import { costsOf } from '../requests/price.ts';
import { caseLines, lineColumns } from '../requests/queries.ts';
import { isId } from '../ids.ts';

const whom = alias(person, 'whom');

/** How many things are in somebody's basket. */
export const basketSize = (viewer: Viewer): Promise<number> => db().$count(basketLine, eq(basketLine.personId, viewer.id));

/** What is in somebody's basket, in words, with what each costs and what all of it does. */
export async function basketOf(viewer: Viewer) {
  const rows = await db()
    .select({
      id: basketLine.id,
      itemId: basketLine.itemId,
      answers: basketLine.answers,
      revisionId: revision.id,
      /** The form was changed since, or the item is not offered any more. */
      changed: item.publishedRevision,
      revision: basketLine.revision,
      forWhom: whom.name,
    })
    .from(basketLine)
    .innerJoin(item, eq(item.id, basketLine.itemId))
    .innerJoin(revision, and(eq(revision.itemId, basketLine.itemId), eq(revision.number, basketLine.revision)))
    .leftJoin(whom, eq(whom.id, basketLine.forId))
    .where(eq(basketLine.personId, viewer.id))
    .orderBy(asc(basketLine.addedAt), asc(basketLine.id));
  const named = namesFor(
    db(),
    rows.flatMap((r) => Object.values(r.answers)),
  );
  const definitions = await Promise.all(rows.map((r) => definitionOf(db(), r.revisionId)));
  const names = readIn(viewer.zone, await named);
  const costs = await costsOf(
    db(),
    rows.map((r, i) => ({ definition: definitions[i]!, answers: r.answers })),
  );
  return {
    lines: rows.map(({ id, itemId, answers, changed, revision: of, forWhom }, i) => ({
      id,
      itemId,
      item: definitions[i]!.name,
      changed: changed !== of,
      forWhom,
      answers: answerWords(definitions[i]!, answers, names, true),
      cost: costs.each[i]!,
    })),
    cost: costs.together,
  };
}

/** A thing in somebody's basket, to be changed. */
export async function basketLineOf(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const [row] = await db()
    .select({ id: basketLine.id, itemId: basketLine.itemId, answers: basketLine.answers, whomId: whom.id, whom: whom.name })
    .from(basketLine)
    .leftJoin(whom, eq(whom.id, basketLine.forId))
    .where(and(eq(basketLine.id, id), eq(basketLine.personId, viewer.id)));
  if (!row) return undefined;
  const names = shortNames(await namesFor(db(), Object.values(row.answers)));
  return { ...row, names, whom: row.whomId ? { id: row.whomId, name: row.whom ?? '' } : undefined };
}

/** An order of the viewer's: its requests with where each stands. It is over when the last of them is. */
export async function myOrder(viewer: Viewer, number: number) {
  const [order] = await db()
    .select({ id: serviceOrder.id, number: serviceOrder.number, openedAt: serviceOrder.openedAt })
    .from(serviceOrder)
    .where(and(eq(serviceOrder.number, number), eq(serviceOrder.requesterId, viewer.id)));
  if (!order) return undefined;
  const rows = await lineColumns(db()).where(eq(serviceCase.orderId, order.id)).orderBy(asc(serviceCase.number));
  const lines = await caseLines(viewer, rows);
  const last = lines.map((l) => l.endedAt).toSorted((a, b) => Number(a) - Number(b));
  return { number: order.number, openedAt: order.openedAt, endedAt: lines.every((l) => l.outcome) ? last.at(-1) : undefined, lines };
}
