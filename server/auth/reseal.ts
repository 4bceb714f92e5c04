import { eq, isNotNull } from 'drizzle-orm';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';
import { seal, unseal } from './seal.ts';

/** Seals every kept secret anew, with the present key; gives how many. */
export async function resealAll(): Promise<number> {
  return db().transaction(async (tx) => {
    const rows = await tx
      .select({ id: webSystem.id, sealed: webSystem.sealedSecret })
      .from(webSystem)
      .where(isNotNull(webSystem.sealedSecret))
      .for('no key update');
    for (const row of rows)
      await tx
        .update(webSystem)
        .set({ sealedSecret: seal(unseal(row.sealed!)) })
        .where(eq(webSystem.id, row.id));
    if (rows.length) await record(tx, { actor: null, action: 'reseal', object: 'web-system', objectId: 'many', detail: { secrets: rows.length } });
    return rows.length;
  });
}
