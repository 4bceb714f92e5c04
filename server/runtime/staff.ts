import { and, eq, inArray, isNull } from 'drizzle-orm';
import { db } from '../db/database.ts';
import { approval, gate, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { deliver } from './deliver.ts';

const most = 200;

/**
 * Open gates that wait for somebody who does not work here any more look up again whom they ask. Each by itself, so that
 * one that cannot holds up no other.
 */
export async function replaceWhoLeft(): Promise<number> {
  const rows = await db()
    .selectDistinct({ runId: gate.runId, key: gate.key })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(person, eq(person.id, approval.personId))
    .where(and(inArray(approval.status, ['waiting', 'later']), isNull(gate.closedAt), eq(person.active, false)))
    .limit(most);
  for (const { runId, key } of rows) {
    try {
      await db().transaction((tx) => deliver(tx, runId, { type: 'staffChanged', key }));
    } catch (error) {
      log.error({ runId, key, error: error instanceof Error ? error.message : String(error) }, 'an approver who left was not replaced');
    }
  }
  return rows.length;
}
