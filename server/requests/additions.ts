import { and, eq, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { AskBack, Gate, Task } from '../../core/plans/index.ts';
import { passages } from '../../core/plans/index.ts';
import { Addition as AdditionPost } from '../../core/posts/index.ts';
import { idFrom, sentence } from '../../core/values/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { run, serviceCase } from '../db/schema/index.ts';
import { cannotDo } from '../people/existing.ts';
import { isId } from '../ids.ts';
import { holdTo, notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { deliver } from '../runtime/deliver.ts';
import { record } from '../changes/record.ts';

/** A question goes to the requester; their answer is free text. */
export type Addition = z.input<typeof AdditionPost> & { number: number };

const now = { min: 'PT0S', likely: 'PT0S', max: 'PT0S' };

/** Adds an approval, a task or a question to the requester to a request that is under way. The milestone it belongs to waits for it. */
export async function addToRequest(viewer: Viewer, input: Addition): Promise<Result> {
  if (!has(viewer, 'teamMember', 'administrator')) return notAllowed('add to requests');
  const known = (id: string | undefined) => (id && isId(id) ? id : undefined);
  const held = holdTo(AdditionPost, { ...input, person: known(input.person), team: known(input.team) });
  if (!held.ok) return held;
  const { kind, name, instructions, to } = held.value;
  const who = held.value.person ? { person: held.value.person } : undefined;
  const group = held.value.team || undefined;
  return db().transaction(async (tx): Promise<Result> => {
    const problem = input.kind === 'question' ? undefined : await cannotDo(tx, who?.person, who ? undefined : group);
    if (problem) return refuse('invalid', problem, [{ field: 'person', sentence: problem }]);
    // Only who has, or had, work in this request may add to it; an administrator always.
    const [row] = await tx
      .select({
        id: run.id,
        caseId: serviceCase.id,
        state: run.state,
        // Named outright: a column alone would lose its table inside the subquery.
        requesterId: serviceCase.requesterId,
        works: sql<boolean>`exists (select from task t where t.run_id = run.id and (t.person_id = ${viewer.id} or t.taken_by = ${viewer.id}
          or t.team_id in (select team_id from team_member m where m.person_id = ${viewer.id})))`,
      })
      .from(serviceCase)
      .innerJoin(run, eq(run.caseId, serviceCase.id))
      .where(and(eq(serviceCase.number, input.number), eq(serviceCase.kind, 'request')))
      .for('no key update', { of: run });
    if (!row || !(row.works || has(viewer, 'administrator'))) return notFound('This request');
    // An approver who asks themselves would let themselves pass.
    if (kind === 'gate' && who?.person === row.requesterId)
      return refuse('invalid', 'The requester cannot approve their own request.', [
        { field: 'person', sentence: 'Somebody else than the requester.' },
      ]);
    const taken = new Set([...Object.keys(row.state.begun), ...(row.state.additions ?? []).map((a) => a.step.id)]);
    const base = { id: idFrom(`added ${name}`, taken), name, expected: now };
    const step: AskBack | Gate | Task =
      kind === 'question'
        ? {
            ...base,
            kind: 'askBack',
            question: sentence(instructions),
            fields: [{ id: 'answer', kind: 'longText', label: 'Your answer', required: true }],
          }
        : kind === 'gate'
          ? {
              ...base,
              kind: 'gate',
              approvers: { from: 'people', people: [who!] },
              rule: { rule: 'all' },
              ownRequest: 'skip',
              nobody: { then: 'fail' },
            }
          : {
              ...base,
              kind: 'task',
              assignee: who ? { person: who } : { team: group! },
              instructions: passages(instructions),
              checklist: [],
              fields: [],
            };
    const { ignored } = await deliver(tx, row.id, { type: 'added', person: viewer.id, to, step });
    await record(tx, {
      actor: viewer.id,
      action: ignored ? 'add-ignored' : 'add',
      object: 'request',
      objectId: row.caseId,
      detail: { kind, name, to },
    });
    if (ignored === 'milestone-ended')
      return refuse('ended', 'That milestone has been reached already. Pick one that is still to come.', [
        { field: 'to', sentence: 'Reached already.' },
      ]);
    return ignored ? refuse('ended', 'This request has ended. Nothing was added.') : { ok: true };
  });
}
