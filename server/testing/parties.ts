import { and, eq, isNotNull, isNull } from 'drizzle-orm';
import type { Role } from '../db/schema/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import type { Result } from '../refusal.ts';
import { db } from '../db/database.ts';
import { approval, gate, invited, meeting, question, run, runStep, serviceCase, task } from '../db/schema/index.ts';
import { decide } from '../approvals/commands.ts';
import { sayComing } from '../meetings/answer.ts';
import { finishTask } from '../tasks/commands.ts';
import { answerQuestion } from '../requests/commands.ts';
import { retryStep, skipStep } from '../runs/commands.ts';

/** Somebody as commands know them. */
export const viewerFor = (id: string, ...roles: Role[]): Viewer => ({ id, name: id, email: '', zone: 'UTC', roles });

/**
 * Plays whoever a run waits for, through the same commands as the screens; `admin` does tasks and mends stuck steps. `chance` gives a number from 0 up to n;
 * the same numbers play the same way.
 */
export async function playParty(runId: string, admin: Viewer, chance: (n: number) => number): Promise<'moved' | 'nothing'> {
  const [asked, tasks, questions, invitations, stuck] = await Promise.all([
    db()
      .select({ id: approval.id, person: approval.personId, sendBack: gate.sendBack, corrects: gate.corrects })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .where(and(eq(gate.runId, runId), eq(approval.status, 'waiting'))),
    db()
      .select({ id: task.id, fields: task.fields, checklist: task.checklist, takenBy: task.takenBy })
      .from(task)
      .where(and(eq(task.runId, runId), isNull(task.closedAt))),
    db()
      .select({ id: question.id, to: question.toId, fields: question.fields, answers: serviceCase.answers })
      .from(question)
      .innerJoin(run, eq(run.id, question.runId))
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .where(and(eq(question.runId, runId), isNull(question.closedAt))),
    db()
      .select({ meetingId: meeting.id, sequence: meeting.sequence, person: invited.personId })
      .from(invited)
      .innerJoin(meeting, eq(meeting.id, invited.meetingId))
      .where(and(eq(meeting.runId, runId), eq(meeting.status, 'planned'), meeting.waits, isNull(invited.says), eq(invited.gone, false))),
    db()
      .select({ key: runStep.key, kind: runStep.kind, number: serviceCase.number })
      .from(runStep)
      .innerJoin(run, eq(run.id, runStep.runId))
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .where(and(eq(runStep.runId, runId), isNotNull(runStep.stuckCause))),
  ]);
  const moves: (() => Promise<Result>)[] = [
    ...asked.map((a) => () => {
      const roll = chance(10);
      const decision = a.sendBack && roll === 0 ? 'sendBack' : roll < 3 ? 'decline' : 'approve';
      // Whoever may correct something does so now and then.
      const corrections = roll % 2 === 0 && a.corrects.includes('cores') ? { cores: 1 + roll } : undefined;
      return decide(viewerFor(a.person), { approvalId: a.id, decision, comment: 'As it is', corrections });
    }),
    ...tasks.map(
      (t) => () =>
        // Whoever has it does it; what nobody has taken, anybody may.
        finishTask(t.takenBy === null ? admin : viewerFor(t.takenBy, 'administrator'), {
          id: t.id,
          values: Object.fromEntries(t.fields.map((f) => [f.id, 'Done'])),
          checked: t.checklist.map((c) => c.id),
        }),
    ),
    ...questions.map((q) => () => answerQuestion(viewerFor(q.to), { id: q.id, values: q.fields ? { answer: 'yes' } : q.answers })),
    ...invitations.map(({ person, ...i }) => () => {
      const says = ['yes', 'yes', 'yes', 'no', 'maybe'][chance(5)]!;
      return sayComing(viewerFor(person), { ...i, says, words: '' });
    }),
    ...stuck.map((s) => () => (s.kind === 'gate' || chance(3) < 2 ? retryStep(admin, s) : skipStep(admin, { ...s, comment: 'Not needed' }))),
  ];
  const move = moves[chance(moves.length)];
  if (!move) return 'nothing';
  const { result } = await atOnce(move, chance(8) === 0);
  // Two at once: both are told something, and one effect is there.
  if (!result.ok && !['already-decided', 'ended', 'not-found', 'changed-meanwhile'].includes(result.code))
    throw new Error(`${result.code}: ${result.sentence}`);
  return 'moved';
}

async function atOnce(move: () => Promise<Result>, twice: boolean): Promise<{ result: Result }> {
  const [result] = await Promise.all(twice ? [move(), move()] : [move()]);
  return { result: result! };
}
