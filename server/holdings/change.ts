import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import { givenId } from '../../core/steps/index.ts';
import { isHolding, type Value } from '../../core/values/index.ts';
import type { Reader, Tx } from '../db/database.ts';
import { holding, holdingChange, run } from '../db/schema/index.ts';

/**
 * Keeps that an action did something to a holding. What is lent until another day now (`until`) ends then, and whoever has it is told of that
 * day. Of what has ended meanwhile nothing is kept.
 */
export async function changeHolding(
  tx: Tx,
  thing: Value,
  { until, ...by }: { runId: string; key: string; action: string; until: string | null; at: Date },
): Promise<void> {
  if (!isHolding(thing)) return;
  const [row] = await tx
    .select({ id: holding.id, until: holding.until })
    .from(holding)
    .where(and(eq(holding.id, thing.holding), isNull(holding.endedAt)))
    .for('update');
  if (!row) return;
  const other = until !== null && until !== row.until;
  const kept = await tx
    .insert(holdingChange)
    .values({ ...by, holdingId: row.id, ...(other && { was: row.until, until }) })
    .onConflictDoNothing()
    .returning({ id: holdingChange.id });
  if (other && kept.length > 0) await tx.update(holding).set({ until, toldAt: null }).where(eq(holding.id, row.id));
}

/** What the actions took and answered that did something to these holdings, the first first. */
export async function changesOf(tx: Reader, ids: string[]): Promise<Map<string, Record<string, Value>[]>> {
  const rows = await tx
    .select({ id: holdingChange.holdingId, key: holdingChange.key, state: run.state })
    .from(holdingChange)
    .innerJoin(run, eq(run.id, holdingChange.runId))
    .where(inArray(holdingChange.holdingId, ids))
    .orderBy(asc(holdingChange.at), asc(holdingChange.id));
  const found = new Map<string, Record<string, Value>[]>();
  for (const { id, key, state } of rows) {
    const given = state.given?.find((g) => givenId(g) === key);
    if (given) found.set(id, [...(found.get(id) ?? []), { ...given.inputs, ...given.outputs }]);
  }
  return found;
}
