import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { whyNotOver, type RunEvent } from '../../core/engine/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Reader } from '../db/database.ts';
import { item, revision, run, runEvent, serviceCase } from '../db/schema/index.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { lookAtPromises } from '../requests/tell-promises.ts';
import { lockRuns } from '../runtime/deliver.ts';
import { definitionOf } from './definitions.ts';

/** So many requests are looked at in one go. */
const atOnce = 200;

/** A request under way on an earlier revision: why it cannot go over to the newest, or undefined where it can. */
export interface Behind {
  number: number;
  revision: number;
  why: string | undefined;
}

/** How many requests are under way on each revision of an item; empty for whom that is not. */
export async function underWayBy(viewer: Viewer, itemId: string): Promise<Record<number, number>> {
  if (!has(viewer, 'designer')) return {};
  const rows = await db()
    .select({ revision: revision.number, open: sql<number>`count(*)::int` })
    .from(serviceCase)
    .innerJoin(run, and(eq(run.caseId, serviceCase.id), isNull(run.endedAt)))
    .innerJoin(revision, eq(revision.id, run.revisionId))
    .where(and(eq(serviceCase.itemId, itemId), isNull(serviceCase.outcome)))
    .groupBy(revision.number);
  return Object.fromEntries(rows.map((r) => [r.revision, r.open]));
}

/** Runs under way on other revisions than `to`, the longest waiting first. */
const behind = (tx: Reader, itemId: string, to: string, after = 0) =>
  tx
    .select({ id: run.id, number: serviceCase.number, revision: revision.number })
    .from(serviceCase)
    .innerJoin(run, and(eq(run.caseId, serviceCase.id), isNull(run.endedAt)))
    .innerJoin(revision, eq(revision.id, run.revisionId))
    .where(and(eq(serviceCase.itemId, itemId), isNull(serviceCase.outcome), sql`${run.revisionId} <> ${to}`, sql`${serviceCase.number} > ${after}`))
    .orderBy(asc(serviceCase.number))
    .limit(atOnce);

/** The revision that is offered. */
async function offeredOf(tx: Reader, itemId: string): Promise<{ id: string; number: number } | undefined> {
  const [row] = await tx
    .select({ id: revision.id, number: revision.number })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(eq(item.id, itemId));
  return row;
}

/** What was taken by each of these runs, in order. */
async function eventsOf(tx: Reader, runs: string[]): Promise<Map<string, { event: RunEvent; at: string }[]>> {
  const rows = runs.length
    ? await tx
        .select({ run: runEvent.runId, event: runEvent.event, at: runEvent.at })
        .from(runEvent)
        .where(and(inArray(runEvent.runId, runs), isNull(runEvent.ignored)))
        .orderBy(asc(runEvent.runId), asc(runEvent.id))
    : [];
  const found = new Map<string, { event: RunEvent; at: string }[]>(runs.map((id) => [id, []]));
  for (const r of rows) found.get(r.run)!.push({ event: r.event, at: r.at.toISOString() });
  return found;
}

/**
 * Requests under way on earlier revisions of an item, a page at a time (`after`: a number), and of each whether it can go over to the
 * one that is offered; undefined for whom that is not.
 */
export async function requestsBehind(
  viewer: Viewer,
  itemId: string,
  after = 0,
): Promise<{ to: number; requests: Behind[]; next: number | undefined } | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const to = await offeredOf(db(), itemId);
  if (!to) return undefined;
  const rows = await behind(db(), itemId, to.id, after);
  const revisions = await db()
    .select({ id: revision.id, number: revision.number })
    .from(revision)
    .where(and(eq(revision.itemId, itemId), inArray(revision.number, [0, ...new Set(rows.map((r) => r.revision))])));
  const newest = await definitionOf(db(), to.id);
  const events = await eventsOf(
    db(),
    rows.map((r) => r.id),
  );
  const requests: Behind[] = [];
  for (const r of rows) {
    const old = await definitionOf(db(), revisions.find((v) => v.number === r.revision)!.id);
    requests.push({ number: r.number, revision: r.revision, why: whyNotOver(old, newest, events.get(r.id)!) });
  }
  return { to: to.number, requests, next: rows.length === atOnce ? rows.at(-1)!.number : undefined };
}

/**
 * Lets the requests that can go over to the revision that is offered (`to`, as it was shown) go over, and says how many did. Each is
 * looked at again under its lock: what has moved meanwhile counts. The others stay on the revision they began with.
 */
export async function goOver(viewer: Viewer, input: { itemId: string; to: number }): Promise<Result<{ moved: number; stay: number }>> {
  if (!has(viewer, 'designer')) return notAllowed('move requests to another revision');
  const to = await offeredOf(db(), input.itemId);
  if (!to) return notFound('The item');
  if (to.number !== input.to) return refuse('changed-meanwhile', `Revision ${to.number} is offered meanwhile. Nothing was moved; look again.`);
  const newest = await definitionOf(db(), to.id);
  let [moved, stay, after] = [0, 0, 0];
  for (;;) {
    const rows = await behind(db(), input.itemId, to.id, after);
    if (rows.length === 0) break;
    after = rows.at(-1)!.number;
    await db().transaction(async (tx) => {
      const locked = await lockRuns(
        tx,
        rows.map((r) => r.id),
      );
      const open = locked.filter((r) => r.state.status !== 'ended' && r.revisionId !== to.id);
      const events = await eventsOf(
        tx,
        open.map((r) => r.id),
      );
      const go: typeof open = [];
      for (const r of open) if (whyNotOver(await definitionOf(tx, r.revisionId), newest, events.get(r.id)!) === undefined) go.push(r);
      stay += open.length - go.length;
      moved += go.length;
      if (go.length === 0) return;
      const ids = (of: 'id' | 'caseId') => go.map((r) => r[of]);
      await tx
        .update(run)
        .set({ revisionId: to.id })
        .where(inArray(run.id, ids('id')));
      await tx
        .update(serviceCase)
        .set({ revisionId: to.id })
        .where(inArray(serviceCase.id, ids('caseId')));
      if (newest.watched) await lookAtPromises(tx, ids('id'));
      await record(tx, {
        actor: viewer.id,
        action: 'go-over',
        object: 'item',
        objectId: input.itemId,
        detail: { revision: to.number, requests: go.map((r) => r.number) },
      });
    });
  }
  return { ok: true, moved, stay };
}
