import { and, asc, eq, isNotNull, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { person, revision, run, runStep, serviceCase } from '../db/schema/index.ts';
import { momentCursor, pageOf } from '../lists/page.ts';
import { maySeeInside } from '../requests/confidential.ts';

const pageSize = 50;

/** Steps that wait for a person to retry, skip or take over, the longest first. */
export async function stuckSteps(viewer: Viewer, after?: { since: Date; order: number }) {
  if (!has(viewer, 'teamMember', 'administrator')) return undefined;
  const rows = await db()
    .select({
      key: runStep.key,
      order: runStep.order,
      name: runStep.name,
      /** May repeat what was asked: not for those who may not see inside. */
      cause: sql<string | null>`case when ${maySeeInside(viewer)} then ${runStep.stuckCause} end`,
      since: runStep.beganAt,
      number: serviceCase.number,
      item: revision.name,
      requester: person.name,
    })
    .from(runStep)
    .innerJoin(run, eq(run.id, runStep.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .where(
      and(
        isNotNull(runStep.stuckCause),
        after && sql`(${runStep.beganAt}, ${runStep.order}) > (${after.since.toISOString()}::timestamptz, ${after.order})`,
      ),
    )
    .orderBy(asc(runStep.beganAt), asc(runStep.order))
    .limit(pageSize + 1);
  return pageOf(rows, pageSize, (last) => momentCursor(last.since, last.order));
}
