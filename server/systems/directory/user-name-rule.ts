import { eq } from 'drizzle-orm';
import { z } from 'zod';
import { defaultUserNames, userNameForms, userNames, UserNameRule } from '../../../core/people/index.ts';
import { record } from '../../changes/record.ts';
import { has, type Viewer } from '../../auth/viewer.ts';
import { now } from '../../clock.ts';
import { db, type Reader } from '../../db/database.ts';
import { userNameRule } from '../../db/schema/index.ts';
import { holdTo, notAllowed, refuse, type Result } from '../../refusal.ts';
import { directoryId } from './id.ts';

/** The rule that holds now, and its version; 0: nobody stated one. */
export async function userNamesNow(tx: Reader): Promise<{ rule: UserNameRule; version: number }> {
  const [row] = await tx.select().from(userNameRule).where(eq(userNameRule.id, 1));
  return row ? { rule: { form: row.form, most: row.most, domain: row.domain }, version: row.version } : { rule: defaultUserNames, version: 0 };
}

/** Invented names that show what a rule makes of them. */
const examples = [
  { given: 'Ása', family: 'Lundeberg' },
  { given: 'Þórdís Björk', family: 'van der Søndre-Nes' },
  { given: 'Ольга', family: 'Щукина' },
];

/** The rule, with what each way of putting a name together makes of some examples, for whoever keeps or reads systems. */
export async function userNamesFor(viewer: Viewer) {
  if (!has(viewer, 'designer', 'administrator')) return undefined;
  const { rule, version } = await userNamesNow(db());
  const ways = userNameForms.map((form) => ({ form, makes: examples.flatMap((name) => userNames({ ...rule, form }, name).slice(0, 1)) }));
  return { rule, version, ways, of: examples.map((e) => `${e.given} ${e.family}`) };
}

const Kept = z.object({ version: z.number().int().min(0), rule: UserNameRule });

/** Changes how user names are made. Accounts that there are keep theirs. */
export async function keepUserNames(viewer: Viewer, input: { version: number; rule: unknown }): Promise<Result> {
  if (!has(viewer, 'administrator')) return notAllowed('say how user names are made');
  const held = holdTo(Kept, input);
  if (!held.ok) return held;
  const { version, rule } = held.value;
  const set = { ...rule, version: version + 1, changedBy: viewer.id, changedAt: now() };
  return db().transaction(async (tx): Promise<Result> => {
    const kept =
      version === 0
        ? await tx.insert(userNameRule).values(set).onConflictDoNothing().returning({ id: userNameRule.id })
        : await tx.update(userNameRule).set(set).where(eq(userNameRule.version, version)).returning({ id: userNameRule.id });
    if (kept.length === 0)
      return refuse(
        'changed-meanwhile',
        'Somebody else has changed how user names are made meanwhile. What you chose is still here: look at theirs, then save again.',
      );
    await record(tx, { actor: viewer.id, action: 'user-names', object: 'system', objectId: directoryId, detail: rule });
    return { ok: true };
  });
}
