import { and, asc, eq } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';
import { person, systemOwner } from '../db/schema/index.ts';

/** The system an action belongs to, as its owners are kept by it: `directory`, or the id of a registered one. */
export const systemOf = (action: string): string => (action.startsWith('web.') ? (action.split('.')[1] ?? '') : action.split('.')[0]!);

/** Who does by hand what a system cannot: the first of its owners who works here; undefined where it has none. */
export async function whoAnswersFor(tx: Reader, action: string): Promise<string | undefined> {
  const [owner] = await tx
    .select({ id: person.id })
    .from(systemOwner)
    .innerJoin(person, and(eq(person.id, systemOwner.personId), eq(person.active, true)))
    .where(eq(systemOwner.system, systemOf(action)))
    .orderBy(asc(person.name), person.id)
    .limit(1);
  return owner?.id;
}
