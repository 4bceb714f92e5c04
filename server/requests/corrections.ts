import { eq } from 'drizzle-orm';
import { own } from '../../core/boundary/index.ts';
import { countsWorkingDays, heldAgain, validateAnswers, type Answers, type FieldProblem } from '../../core/forms/index.ts';
import { namedIn, sameValue } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { ofRequest, run, serviceCase } from '../db/schema/index.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { definitionOf } from '../items/definitions.ts';
import { existing } from '../people/existing.ts';
import { refuse, type Refusal } from '../refusal.ts';
import { knownOf } from './begun.ts';
import { holdUnique, takenAmong } from './unique.ts';

/** The fields that a gate or a task opens (`corrects`) as somebody left them, held against the form; those that were changed. */
export async function correctionsOf(
  tx: Tx,
  viewerId: string,
  row: { runId: string; corrects: string[] },
  raw: Record<string, unknown>,
): Promise<{ ok: true; answers: Answers; lookedUp?: Answers } | Refusal> {
  const wanted = Object.entries(raw).filter(([id]) => row.corrects.includes(id));
  if (wanted.length === 0) return { ok: true, answers: {} };
  const [now] = await tx
    .select({
      caseId: serviceCase.id,
      itemId: ofRequest.itemId,
      requesterId: serviceCase.requesterId,
      whom: serviceCase.forId,
      answers: serviceCase.answers,
      revisionId: ofRequest.revisionId,
    })
    .from(run)
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .where(eq(run.id, row.runId));
  const { form } = await definitionOf(tx, now!.revisionId);
  const opened = new Set(row.corrects);
  const corrected = { ...now!.answers, ...Object.fromEntries(wanted) };
  const next = heldAgain(form, corrected, now!.answers, await knownOf(tx, now!.requesterId, form, corrected, now!.whom ?? undefined), opened);
  const exists = await existing(tx, Object.values(next));
  // What stands in the answers already was there when it was given; only what is corrected has to be there now.
  const given = new Set(Object.values(now!.answers).flatMap((v) => namedIn(v).map((n) => `${n.kind} ${n.id}`)));
  const there = exists.for(viewerId, now!.caseId);
  const held = validateAnswers(form, next, (kind, id, of) => given.has(`${kind} ${id}`) || there(kind, id, of), opened, {
    // The day of asking is past; how far dates are from each other counts still.
    ...(countsWorkingDays(form) && { desk: await calendarsOf(tx).of({ person: now!.requesterId, zone: 'UTC' }) }),
  });
  if (!held.ok) return refuse('invalid', beside(held.problems, row.corrects) ?? 'A correction needs another look.', held.problems);
  const only = [{ itemId: now!.itemId, form, answers: held.answers, caseId: now!.caseId }];
  await holdUnique(tx, only);
  const taken = (await takenAmong(tx, only)).get(0);
  if (taken) return refuse('invalid', beside(taken, row.corrects) ?? 'A correction needs another look.', taken);
  // What the corrections hide is not among the answers any more, and so is empty from now on.
  const hidden = Object.entries(now!.answers).filter(([id, v]) => v !== null && !Object.hasOwn(held.answers, id));
  const changed = Object.entries(held.answers).filter(([id, v]) => !sameValue(v, own(now!.answers, id)));
  const nobodys = new Set(form.fields.flatMap((f) => (f.held && !opened.has(f.id) ? [f.id] : [])));
  return {
    ok: true,
    answers: { ...Object.fromEntries(hidden.map(([id]) => [id, null])), ...Object.fromEntries(changed.filter(([id]) => !nobodys.has(id))) },
    lookedUp: Object.fromEntries(changed.filter(([id]) => nobodys.has(id))),
  };
}

/** What the corrections break at a field that is not open to be corrected: it has no place of its own there. */
const beside = (problems: FieldProblem[], corrects: string[]): string | undefined => problems.find((p) => !corrects.includes(p.field))?.sentence;
