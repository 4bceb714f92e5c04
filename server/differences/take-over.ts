import { eq } from 'drizzle-orm';
import { FieldKind, fieldType, hasColumns, hasFiles, hasHoldings, hasOptions, hasTable } from '../../core/forms/index.ts';
import { blankItem, type ItemDefinition } from '../../core/items/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import type { Value, ValueType } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { call, callTry, holding } from '../db/schema/index.ts';
import { openByItself, revisionByItself } from '../items/by-itself.ts';
import type { Lists } from './systems.ts';

const step = 'found';
/** A field that a value of this type can stand in by itself; of some there is none. */
const fieldOf = (type: ValueType): FieldKind | undefined =>
  FieldKind.options.find(
    (kind) =>
      fieldType(kind) === (type === 'choice' ? 'text' : type) &&
      !hasOptions(kind) &&
      !hasTable(kind) &&
      !hasFiles(kind) &&
      !hasHoldings(kind) &&
      !hasColumns(kind),
  );

/** A request that comes after what it asks for: what was found is what its one step gave. Nobody draws it, and nobody asks for it. */
function definitionFor({ spec }: Lists, thing: FoundThing): ItemDefinition {
  const { gives } = spec;
  const slot = spec.inputs.find((i) => i.name === gives.what);
  const person = spec.inputs.find((i) => i.name === gives.person);
  const kind = fieldOf((slot ?? spec.outputs.find((o) => o.name === gives.what))?.type ?? 'text');
  // What stands in no field is stated by the step.
  const what = kind ? { ref: 'form.what' } : { literal: thing.what };
  const name = `Found in ${spec.system}: ${gives.kind}`;
  return {
    ...blankItem(name),
    summary: `What ${spec.system} had and nobody held here, as “${spec.label}” gives it.`,
    form: {
      fields: [
        ...(kind ? [{ id: 'what', kind, label: 'What was found', required: true }] : []),
        { id: 'why', kind: 'longText', label: 'Why it was taken over', required: true },
      ],
    },
    plan: {
      steps: [
        {
          id: step,
          kind: 'provision',
          name: `Taken over from ${spec.system}`,
          expected: { min: 'PT0S', likely: 'PT0S', max: 'PT0S' },
          action: spec.id,
          inputs: { ...(person && { [person.name]: { ref: 'request.for' } }), ...(slot && { [slot.name]: what }) },
        },
      ],
    },
  };
}

interface FoundThing {
  id: string;
  what: Value;
  outputs: Record<string, Value>;
}

/**
 * Has somebody hold what was found in a system: a request of whoever decides it, whose step is answered at once with what the system
 * said. From then on it is held as if it had been asked for here. Gives the number of the request and the id of the holding.
 */
export async function takeOver(
  tx: Tx,
  viewer: Viewer,
  of: Lists,
  thing: FoundThing,
  { person, why }: { person: string; why: string },
): Promise<{ number: number; holding: string }> {
  const at = now();
  const its = await revisionByItself(tx, definitionFor(of, thing), {
    spec: of.spec as ActionSpec,
    by: viewer.id,
    note: 'For what was found in a system.',
  });
  const answers = { ...(its.definition.form.fields.some((f) => f.id === 'what') && { what: thing.what }), why };
  const { number, runId } = await openByItself(tx, its, {
    by: viewer,
    whom: person,
    answers,
    key: `found:${thing.id}`,
    at,
    then: [{ type: 'answered', key: `${step}#1`, round: 0, outputs: thing.outputs, changed: true }],
  });
  // Its call was never sent: the system has done it already.
  const [answered] = await tx
    .update(call)
    .set({ status: 'succeeded', outputs: thing.outputs, begunAt: at, closedAt: at })
    .where(eq(call.runId, runId))
    .returning({ id: call.id });
  await tx.insert(callTry).values({ callId: answered!.id, n: 1, beganAt: at, endedAt: at, ok: 'yes', said: 'It was there already.', how: 'asked' });
  const [held] = await tx.select({ id: holding.id }).from(holding).where(eq(holding.runId, runId));
  if (!held) throw new Error('What was found gave nobody anything.');
  return { number, holding: held.id };
}
