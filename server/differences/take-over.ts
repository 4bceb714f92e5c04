import { and, eq } from 'drizzle-orm';
import { newState, type RunEvent } from '../../core/engine/index.ts';
import { blankItem, type ItemDefinition } from '../../core/items/index.ts';
import type { ActionSpec } from '../../core/plans/index.ts';
import type { Value, ValueType } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { call, callTry, holding, item, revision, run, serviceCase } from '../db/schema/index.ts';
import { frozen, hashOf } from '../items/definitions.ts';
import { namesFor } from '../people/names.ts';
import { caseWords } from '../requests/answers.ts';
import { deliverAll } from '../runtime/deliver.ts';
import { requestNumber } from '../words.ts';
import type { Lists } from './systems.ts';

const step = 'found';
/** A field that a value of this type can stand in; what has none is told in the trace alone. */
const fieldOf: Partial<Record<ValueType, 'group' | 'location' | 'number' | 'date' | 'text'>> = {
  group: 'group',
  location: 'location',
  number: 'number',
  date: 'date',
  text: 'text',
};

/** A request that comes after what it asks for: what was found is what its one step gave. Nobody draws it, and nobody asks for it. */
function definitionFor({ spec }: Lists): ItemDefinition {
  const { gives } = spec;
  const slot = spec.inputs.find((i) => i.name === gives.what);
  const person = spec.inputs.find((i) => i.name === gives.person);
  const kind = fieldOf[(slot ?? spec.outputs.find((o) => o.name === gives.what))?.type ?? 'text'];
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
          inputs: { ...(person && { [person.name]: { ref: 'request.for' } }), ...(slot && kind && { [slot.name]: { ref: 'form.what' } }) },
        },
      ],
    },
  };
}

/** The revision by which things of an action are taken over: made when the first is, and anew when the action says something else. */
async function revisionFor(tx: Tx, of: Lists, by: string): Promise<{ id: string; itemId: string; definition: ItemDefinition }> {
  const draft = definitionFor(of);
  const definition = frozen(draft, { actions: [of.spec as ActionSpec], people: {} });
  const contentHash = hashOf(definition);
  const called = and(eq(item.kind, 'found'), eq(item.name, draft.name));
  await tx.insert(item).values({ kind: 'found', name: draft.name, draft, draftBy: by }).onConflictDoNothing();
  const [its] = await tx.select({ id: item.id }).from(item).where(called).for('no key update');
  const itemId = its!.id;
  const [known] = await tx
    .select({ id: revision.id })
    .from(revision)
    .where(and(eq(revision.itemId, itemId), eq(revision.contentHash, contentHash)));
  if (known) return { id: known.id, itemId, definition };
  const number = (await tx.$count(revision, eq(revision.itemId, itemId))) + 1;
  const [made] = await tx
    .insert(revision)
    .values({ itemId, number, definition, contentHash, publishedBy: by, note: 'For what was found in a system.' })
    .returning({ id: revision.id });
  return { id: made!.id, itemId, definition };
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
  const { id: revisionId, itemId, definition } = await revisionFor(tx, of, viewer.id);
  const answers = { ...(definition.form.fields.some((f) => f.id === 'what') && { what: thing.what }), why };
  const forId = person === viewer.id ? null : person;
  const [made] = await tx
    .insert(serviceCase)
    .values({
      kind: 'request',
      itemId,
      revisionId,
      requesterId: viewer.id,
      forId,
      answers,
      words: caseWords(definition, answers, await namesFor(tx, Object.values(answers))),
      openedAt: at,
      idempotencyKey: `found:${thing.id}`,
    })
    .returning({ id: serviceCase.id, number: serviceCase.number });
  const state = newState();
  const [begun] = await tx.insert(run).values({ caseId: made!.id, revisionId, beganAt: at, state }).returning({ id: run.id });
  const runId = begun!.id;
  // Nobody else knows of this run yet: there is nothing to lock.
  const its = {
    id: runId,
    caseId: made!.id,
    kind: 'request' as const,
    number: made!.number,
    revisionId,
    requesterId: viewer.id,
    seq: 0,
    state,
    isFirst: true,
  };
  const events: RunEvent[] = [
    {
      type: 'begin',
      requester: { person: viewer.id },
      number: requestNumber(made!.number),
      answers,
      zone: viewer.zone,
      ...(forId !== null && { for: { person: forId } }),
    },
    { type: 'answered', key: `${step}#1`, round: 0, outputs: thing.outputs, changed: true },
  ];
  const [played] = await deliverAll(tx, [{ run: its, events }], at);
  const ignored = played?.events.find((e) => e.ignored);
  if (ignored) throw new Error(`What was found could not be taken over (${ignored.ignored}).`);
  // Its call was never sent: the system has done it already.
  const [answered] = await tx
    .update(call)
    .set({ status: 'succeeded', outputs: thing.outputs, begunAt: at, closedAt: at })
    .where(eq(call.runId, runId))
    .returning({ id: call.id });
  await tx.insert(callTry).values({ callId: answered!.id, n: 1, beganAt: at, endedAt: at, ok: 'yes', said: 'It was there already.', how: 'asked' });
  const [held] = await tx.select({ id: holding.id }).from(holding).where(eq(holding.runId, runId));
  if (!held) throw new Error('What was found gave nobody anything.');
  return { number: made!.number, holding: held.id };
}
