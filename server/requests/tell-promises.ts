import { and, eq, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { standingOf, usedUpAt, type Standing } from '../../core/targets/index.ts';
import { now } from '../clock.ts';
import { db, type Reader, type Tx } from '../db/database.ts';
import { person, run, serviceCase, teamMember } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { promiseTold } from '../mail/promise-told.ts';
import { writeMessages } from '../mail/write.ts';
import type { About, Batch, RunRow } from '../runtime/batch.ts';
import { addJobs } from '../runtime/jobs.ts';
import { promisesOfRuns, type RunPromise } from './promised.ts';
import { whereItStands } from './standing.ts';

/** Runs whose promises somebody watches are looked at when they begin, and when what held their clocks is over. */
export const watchPromises = (tx: Tx, batches: Batch[]): Promise<void> =>
  lookAtPromises(
    tx,
    batches
      .filter(({ run, effects }) => run.definition.watched && (run.isFirst || effects.some((e) => e.effect === 'closeQuestion')))
      .map(({ run }) => run.id),
  );

/** Promises of runs are looked at again, at once or at a moment. */
export const lookAtPromises = (tx: Reader, runIds: string[], runAt?: Date): Promise<void> =>
  addJobs(
    tx,
    'promises',
    runIds.map((runId) => ({ payload: { runId }, key: `promises:${runId}`, ...(runAt && { runAt }) })),
  );

/** As what a promise is kept among those that were told of. */
const toldAs = (p: RunPromise, that: 'near' | 'late'): string => `${that}:${p.of ?? ''}`;

/**
 * Tells the team that watches the promises of a run that one is near, or broken: each once. Where nothing is to be told yet it is reckoned
 * when to look again; while a promise is held nobody need.
 */
export async function tellPromises(runId: string): Promise<void> {
  await db().transaction(async (tx) => {
    const [its] = await tx
      .select({
        id: run.id,
        caseId: run.caseId,
        kind: serviceCase.kind,
        number: serviceCase.number,
        requesterId: serviceCase.requesterId,
        seq: run.seq,
        revisionId: run.revisionId,
        openedAt: serviceCase.openedAt,
        endedAt: run.endedAt,
        toldOf: run.toldOf,
      })
      .from(run)
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .where(and(eq(run.id, runId), isNull(run.endedAt)))
      .for('no key update', { of: run });
    if (!its) return;
    const definition = await definitionOf(tx, its.revisionId);
    const { watched } = definition;
    const reckoned = watched && (await promisesOfRuns(tx, [{ ...its, definition }])).get(its.id);
    // Gone over to a revision that nobody watches.
    if (!reckoned) return void (await tx.update(run).set({ tellAt: null }).where(eq(run.id, its.id)));
    const at = now();
    const told = new Set(its.toldOf);
    const moments: Date[] = [];
    const due: { p: RunPromise; that: 'near' | 'late'; standing: Standing }[] = [];
    for (const p of reckoned.promises) {
      if (p.clock.stopped !== undefined) continue;
      const standing = standingOf(p.promise, p.clock, reckoned.desk, at.toISOString());
      for (const that of ['near', 'late'] as const) {
        if (told.has(toldAs(p, that))) continue;
        const moment = usedUpAt(p.promise, p.clock, reckoned.desk, that === 'near' ? p.promise.warnAt / 100 : 1);
        if (moment === undefined) continue;
        if (new Date(moment) > at) {
          moments.push(new Date(moment));
          continue;
        }
        told.add(toldAs(p, that));
        // What is late already need not be said to be near.
        if (that === 'late' || !standing.late) due.push({ p, that, standing });
      }
    }
    if (due.length > 0) await writeMessages(tx, await drafts(tx, { ...its, definition, answers: {} }, watched.team, due), at);
    const next = moments.toSorted((a, b) => a.getTime() - b.getTime())[0];
    await tx
      .update(run)
      .set({ tellAt: next ?? null, toldOf: [...told] })
      .where(eq(run.id, its.id));
    if (next) await lookAtPromises(tx, [its.id], next);
  });
}

/** What each of a team is told of promises of a run, with where it stands. */
async function drafts(tx: Tx, its: RunRow, teamId: string, due: { p: RunPromise; that: 'near' | 'late'; standing: Standing }[]): Promise<About[]> {
  const members = await tx
    .select({ id: person.id })
    .from(teamMember)
    .innerJoin(person, and(eq(person.id, teamMember.personId), eq(person.active, true)))
    .where(eq(teamMember.teamId, teamId))
    .orderBy(person.name);
  const at = (await whereItStands([its.caseId], tx)).get(its.caseId);
  return due.flatMap(({ p, that, standing }) =>
    members.map((m) => ({
      run: its,
      ...promiseTold(that, { item: its.definition.name, milestone: p.words, standing, at }, `promise:${toldAs(p, that)}`, m.id),
    })),
  );
}

/** Runs whose moment to be looked at has come and whose job was lost; the sweep adds it again. */
export const lostPromises = (late: Date, most: number) =>
  db()
    .select({ runId: run.id })
    .from(run)
    .where(
      and(
        lt(run.tellAt, late),
        isNull(run.endedAt),
        sql`not exists (select from set_aside s where s.source = 'job' and s.key = 'promises:' || ${run.id} and (s.settled_at is null or s.settled = 'discarded'))`,
      ),
    )
    .orderBy(run.tellAt)
    .limit(most);

/** What counts as working time has changed: every run with a moment is looked at again. */
export const recountPromises = (tx: Reader): Promise<void> =>
  tx
    .select({ id: run.id })
    .from(run)
    .where(and(isNotNull(run.tellAt), isNull(run.endedAt)))
    .then((rows) =>
      lookAtPromises(
        tx,
        rows.map((r) => r.id),
      ),
    );
