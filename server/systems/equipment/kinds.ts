import { asc } from 'drizzle-orm';
import type { ActionSpec } from '../../../core/plans/index.ts';
import type { Reader } from '../../db/database.ts';
import { equipmentKind } from '../../db/schema/index.ts';

/** Actions as they are now: the kinds of equipment that there are stand at the input that names one. */
export async function withKinds(tx: Reader, specs: ActionSpec[]): Promise<ActionSpec[]> {
  const kinds = await tx.select({ name: equipmentKind.name }).from(equipmentKind).orderBy(asc(equipmentKind.name));
  const oneOf = kinds.map((k) => k.name);
  return specs.map((s) => ({
    ...s,
    inputs: s.inputs.map((i) => (s.id === 'equipment.lend' && i.name === 'kind' ? { ...i, oneOf, anyCase: true } : i)),
  }));
}
