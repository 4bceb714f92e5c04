import { eq, isNotNull, or } from 'drizzle-orm';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';
import { seal, unseal } from './seal.ts';

/** Seals every kept secret anew, with the present key; gives how many. */
export async function resealAll(): Promise<number> {
  return db().transaction(async (tx) => {
    const rows = await tx
      .select({ id: webSystem.id, sealedSecret: webSystem.sealedSecret, sealedAnswerKey: webSystem.sealedAnswerKey })
      .from(webSystem)
      .where(or(isNotNull(webSystem.sealedSecret), isNotNull(webSystem.sealedAnswerKey)))
      .for('no key update');
    const anew = (sealed: string | null) => (sealed === null ? null : seal(unseal(sealed)));
    for (const { id, ...sealed } of rows)
      await tx
        .update(webSystem)
        .set({ sealedSecret: anew(sealed.sealedSecret), sealedAnswerKey: anew(sealed.sealedAnswerKey) })
        .where(eq(webSystem.id, id));
    const secrets = rows.flatMap((r) => [r.sealedSecret, r.sealedAnswerKey]).filter((s) => s !== null).length;
    if (secrets > 0) await record(tx, { actor: null, action: 'reseal', object: 'web-system', objectId: 'many', detail: { secrets } });
    return secrets;
  });
}
