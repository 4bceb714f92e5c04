import { own, setOwn } from '../../core/boundary/index.ts';
import { aboutSlot, type ActionSpec } from '../../core/plans/index.ts';
import { isEmpty, isHolding, type Value } from '../../core/values/index.ts';
import type { Reader } from '../db/database.ts';
import { PermanentError } from '../systems/errors.ts';
import { heldThings, slotsOfHeld } from './held.ts';

/**
 * What is known of the holding that a call is about, as the inputs of its action that no plan states. Throws PermanentError where nobody
 * holds it any more, or another action gave it.
 */
export async function knownInputs(tx: Reader, spec: ActionSpec, inputs: Record<string, Value>): Promise<Record<string, Value>> {
  const { about } = spec;
  if (!about) return {};
  const which = own(inputs, aboutSlot.name);
  const id = isHolding(which) ? which.holding : '';
  const thing = (await heldThings(tx, [id])).get(id);
  if (!thing) throw new PermanentError(`${spec.system} was not asked: what it is about is not held any more, or is being given back.`);
  if (thing.gave !== about.of)
    throw new PermanentError(`${spec.system} was not asked: what it is about came from another action than “${spec.label}” is for.`);
  const slots = (await slotsOfHeld(tx, [id], () => undefined)).get(id) ?? {};
  const known: Record<string, Value> = {};
  for (const { name, label, required, known: isKnown } of spec.inputs) {
    if (!isKnown) continue;
    const value = own(slots, name) ?? null;
    if (isEmpty(value) && required) throw new PermanentError(`${spec.system} was not asked: of what it is about, “${label}” is not known.`);
    if (!isEmpty(value)) setOwn(known, name, value);
  }
  return known;
}
