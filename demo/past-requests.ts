import { and, eq } from 'drizzle-orm';
import { decide } from '../server/approvals/commands.ts';
import { withdrawRequest } from '../server/requests/commands.ts';
import { submitRequest } from '../server/requests/submit.ts';
import { shiftClock } from '../server/clock.ts';
import type { Viewer } from '../server/auth/viewer.ts';
import { db } from '../server/db/database.ts';
import { accessGroup, approval, gate, run, serviceCase } from '../server/db/schema/index.ts';
import { carryOut, good } from './carry-out.ts';

/** A handful of requests of the last weeks that really ran: asked, decided, carried out against the directory, mailed. */
export async function pastRequests(itemId: string, viewer: (key: string) => Viewer): Promise<void> {
  const groupIds = new Map((await db().select({ id: accessGroup.id, name: accessGroup.name }).from(accessGroup)).map((g) => [g.name, g.id]));
  interface Past {
    who: string;
    /** When it was asked, in hours before now, and how long the answer took. */
    hours: number;
    took?: number;
    group: string;
    reason: string;
    survey?: string;
    by?: [who: string, 'approve' | 'decline', comment: string];
    withdrawn?: true;
  }
  const history: Past[] = [
    {
      who: 'long-one',
      hours: 413,
      took: 5.2,
      group: 'tide-models',
      reason: 'Reducing soundings in the inner fjord to chart datum.',
      survey: 'Hellisay shallows, spring',
      by: ['approver', 'approve', 'Good timing, the new run is ready.'],
    },
    {
      who: 'leaver',
      hours: 341,
      took: 1.4,
      group: 'survey-raw',
      reason: 'Handing over my survey before I leave.',
      by: ['hydro-head', 'approve', ''],
    },
    {
      who: 'charts-second',
      hours: 268,
      took: 22.6,
      group: 'finance-read',
      reason: 'I would like to see what printing costs us.',
      by: ['services-head', 'decline', 'Ask me for the monthly sheet instead; this group sees salaries too.'],
    },
    {
      who: 'other-script',
      hours: 196,
      took: 0.3,
      group: 'lunnick-instruments',
      reason: 'Calibrating the new pressure gauge.',
      by: ['approver', 'approve', 'Welcome aboard.'],
    },
    {
      who: 'requester',
      hours: 171,
      took: 3.1,
      group: 'survey-planning',
      reason: 'Planning next month with the field planners.',
      by: ['hydro-head', 'approve', ''],
    },
    { who: 'requester', hours: 75, took: 2, group: 'vessel-rosters', reason: 'Seeing who sails with me.', withdrawn: true },
    { who: 'long-two', hours: 26, group: 'tide-archive', reason: 'Looking up the storm of 1937 for the engine log.' },
    { who: 'no-manager-one', hours: 3, group: 'tide-models', reason: 'Comparing my coastal model with yours.' },
  ];
  for (const [i, h] of history.entries()) {
    shiftClock(-h.hours * 3_600_000);
    const answers = {
      group: { group: groupIds.get(h.group)! },
      work: h.survey ? 'survey' : 'daily',
      reason: h.reason,
      ...(h.survey && { survey: h.survey }),
    };
    const asked = good(await submitRequest(viewer(h.who), { itemId, revision: 1, answers, idempotencyKey: `demo-${i}` }));
    await carryOut();
    shiftClock((-h.hours + (h.took ?? 0)) * 3_600_000);
    if (h.withdrawn) good(await withdrawRequest(viewer(h.who), { number: asked.number }));
    if (h.by) {
      const [who, decision, comment] = h.by;
      const [mine] = await db()
        .select({ id: approval.id })
        .from(approval)
        .innerJoin(gate, eq(gate.id, approval.gateId))
        .innerJoin(run, eq(run.id, gate.runId))
        .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
        .where(and(eq(serviceCase.number, asked.number), eq(approval.personId, viewer(who).id)));
      if (!mine) throw new Error(`${who} was not asked for R-${asked.number}.`);
      good(await decide(viewer(who), { approvalId: mine.id, decision, comment }));
    }
    await carryOut();
  }
  shiftClock(0);
}
