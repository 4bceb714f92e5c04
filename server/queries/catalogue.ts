import { inArray } from 'drizzle-orm';
import type { ItemDefinition } from '../../core/items/index.ts';
import { walk, type Catalogue } from '../../core/plans/index.ts';
import type { Reader } from '../db/database.ts';
import { person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { actionSpecs } from '../systems/index.ts';

/** What the check of an item needs to know from outside it. */
export async function catalogueFor(tx: Reader, definition: ItemDefinition): Promise<Catalogue> {
  const named = new Set<string>();
  for (const { step } of walk(definition.plan.steps)) {
    if (step.kind !== 'gate') continue;
    if (step.approvers?.from === 'people') for (const p of step.approvers.people) named.add(p.person);
    if (step.nobody?.then === 'ask') named.add(step.nobody.person.person);
  }
  const uuids = [...named].filter(isId);
  const rows = uuids.length
    ? await tx.select({ id: person.id, name: person.name, active: person.active }).from(person).where(inArray(person.id, uuids))
    : [];
  return { actions: actionSpecs, people: Object.fromEntries(rows.map((r) => [r.id, { name: r.name, active: r.active }])) };
}
