import { and, eq, inArray, isNull } from 'drizzle-orm';
import { isPerson } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { holding } from '../db/schema/index.ts';
import { actionSpec } from '../systems/index.ts';
import type { Of } from './effects.ts';

/** What was given is written to holdings, what was undone is taken off. */
export async function writeHoldings(tx: Tx, runId: string, gave: Of<'gave'>[], took: Of<'tookBack'>[], at: Date): Promise<void> {
  for (const { given } of gave) {
    const gives = (await actionSpec(tx, given.action))?.gives;
    if (!gives) continue;
    const person = given.inputs[gives.person];
    if (!isPerson(person)) continue;
    await tx
      .insert(holding)
      .values({ personId: person.person, kind: gives.kind, what: given.inputs[gives.what] ?? null, runId, key: given.key, since: at })
      .onConflictDoNothing();
  }
  const keys = took.map((e) => e.given.key);
  if (keys.length)
    await tx
      .update(holding)
      .set({ endedAt: at })
      .where(and(eq(holding.runId, runId), inArray(holding.key, keys), isNull(holding.endedAt)));
}
