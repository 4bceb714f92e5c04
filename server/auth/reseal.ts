import { sql } from 'drizzle-orm';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { seal, unseal } from './seal.ts';

/** Where secrets are kept sealed, by table. */
const kept = { web_system: ['sealed_secret', 'sealed_answer_key'], call: ['sealed_made'], sealed_note: ['sealed'] };

/** Seals every kept secret anew, with the present key; gives how many. */
export async function resealAll(): Promise<number> {
  return db().transaction(async (tx) => {
    let secrets = 0;
    for (const [table, columns] of Object.entries(kept))
      for (const name of columns) {
        const [from, column] = [sql.identifier(table), sql.identifier(name)];
        const { rows } = await tx.execute<{ id: string; sealed: string }>(
          sql`select id, ${column} as sealed from ${from} where ${column} is not null for no key update`,
        );
        for (const { id, sealed } of rows) await tx.execute(sql`update ${from} set ${column} = ${seal(unseal(sealed))} where id = ${id}`);
        secrets += rows.length;
      }
    if (secrets > 0) await record(tx, { actor: null, action: 'reseal', object: 'web-system', objectId: 'many', detail: { secrets } });
    return secrets;
  });
}
