import { and, eq, isNotNull } from 'drizzle-orm';
import { ByHand } from '../../core/posts/index.ts';
import type { RunEvent } from '../../core/engine/index.ts';
import { findStep, outputPlaces } from '../../core/plans/index.ts';
import { isOfType, rowType, typedAs, typeWords, Value, type SingleType, type ValueType } from '../../core/values/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db, type Tx } from '../db/database.ts';
import { run, runStep, serviceCase } from '../db/schema/index.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { catalogueFor } from '../items/catalogue.ts';
import { holdTo, notAllowed, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { definitionOf } from '../items/definitions.ts';
import { deliver } from '../runtime/deliver.ts';
import { record } from '../changes/record.ts';

type At = { number: number; key: string };

/** Tries a stuck step again. */
export const retryStep = (viewer: Viewer, input: At): Promise<Result> =>
  has(viewer, 'teamMember', 'administrator')
    ? onStuck(viewer, input, 'retry', () => Promise.resolve({ type: 'retried', key: input.key, person: viewer.id }))
    : Promise.resolve(notAllowed('retry steps'));

/** Goes on without a stuck step; what it would have given is not there. */
export const skipStep = (viewer: Viewer, input: At & { comment: string }): Promise<Result> =>
  has(viewer, 'administrator')
    ? onStuck(viewer, input, 'skip', () =>
        Promise.resolve(reasoned(input.comment) ?? { type: 'skipped', key: input.key, person: viewer.id, comment: input.comment.trim() }),
      )
    : Promise.resolve(notAllowed('skip steps'));

/** Says that somebody did a stuck step by hand, with the values it would have given. */
export const takeOverStep = (viewer: Viewer, input: At & { comment: string; outputs: Record<string, unknown> }): Promise<Result> =>
  has(viewer, 'teamMember', 'administrator')
    ? onStuck(viewer, input, 'take-over', async (tx, row) => {
        const outputs = await typedOutputs(tx, row, input.outputs);
        return (
          reasoned(input.comment) ??
          ('ok' in outputs
            ? outputs
            : { type: 'takenOver', key: input.key, person: viewer.id, comment: input.comment.trim(), outputs: outputs.values })
        );
      })
    : Promise.resolve(notAllowed('take over steps'));

function reasoned(comment: string): Refusal | undefined {
  const held = holdTo(ByHand, { comment });
  return held.ok ? undefined : held;
}

interface Row {
  id: string;
  caseId: string;
  revisionId: string;
  step: string;
}

async function onStuck(viewer: Viewer, input: At, action: string, eventOf: (tx: Tx, row: Row) => Promise<RunEvent | Refusal>): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const [row] = await tx
      .select({ id: run.id, caseId: run.caseId, revisionId: run.revisionId, step: runStep.step })
      .from(serviceCase)
      .innerJoin(run, eq(run.caseId, serviceCase.id))
      .innerJoin(runStep, and(eq(runStep.runId, run.id), eq(runStep.key, input.key), isNotNull(runStep.stuckCause)))
      .where(and(eq(serviceCase.number, input.number), maySeeInside(viewer)));
    if (!row) return notFound('This stuck step');
    const event = await eventOf(tx, row);
    if ('ok' in event) return event;
    const { ignored } = await deliver(tx, row.id, event);
    const detail = { key: input.key, ...('comment' in event && { comment: event.comment }), ...(ignored && { ignored }) };
    await record(tx, { actor: viewer.id, action: ignored ? `${action}-ignored` : action, object: 'request', objectId: row.caseId, detail });
    if (ignored === 'not-allowed') return refuse('invalid', 'Nothing passes a gate but an approval; it can only be tried again.');
    return ignored ? refuse('ended', 'This step is not stuck any more.') : { ok: true };
  });
}

/** The values a step gives, as somebody typed them: each of the type the step states. */
async function typedOutputs(tx: Tx, row: Row, raw: Record<string, unknown>): Promise<{ values: Record<string, Value> } | Refusal> {
  const definition = await definitionOf(tx, row.revisionId);
  const step = findStep(definition.plan, row.step);
  // What is secret nobody types: whoever did it by hand hands that over themselves.
  const places = step ? outputPlaces(step, await catalogueFor(tx, definition)).filter((p) => !p.secret) : [];
  const values: Record<string, Value> = {};
  for (const place of places) {
    const name = place.ref.split('.')[2]!;
    const typed = statedBy(raw[name], place.type);
    if (typed === undefined || !isOfType(typed, place.type) || (typed === null && place.always)) {
      const sentence = `“${place.label}” must be a ${typeWords[place.type]}; the steps after it use it.`;
      return refuse('invalid', sentence, [{ field: name, sentence }]);
    }
    values[name] = typed;
  }
  return { values };
}

/** What was posted for a value of this type; undefined where it is none. */
function statedBy(raw: unknown, type: ValueType): Value | undefined {
  if (raw === undefined || raw === null || raw === '') return null;
  const single = rowType(type) === undefined ? (type as SingleType) : undefined;
  if (typeof raw === 'string' && single) return typedAs(raw, single);
  const parsed = Value.safeParse(raw);
  return parsed.success ? parsed.data : undefined;
}
