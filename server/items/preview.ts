import { and, eq } from 'drizzle-orm';
import type { ServiceHours } from '../../core/calendar/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import { has, zoneOf, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { isDrawn, item, person } from '../db/schema/index.ts';
import { hoursFor } from '../hours/asked-on.ts';
import { begunFor, type Foreseen } from '../requests/foreseen.ts';
import { catalogueFor } from './catalogue.ts';
import { frozen } from './definitions.ts';

/** What a draft begins with for somebody, and what these answers of theirs would lead to; nothing is kept. */
export async function previewFor(
  viewer: Viewer,
  input: { id: string; person: string; answers: Answers },
): Promise<{ begins: Answers; names: Record<string, string>; foreseen: Foreseen; hours: ServiceHours | undefined } | undefined> {
  if (!has(viewer, 'designer')) return undefined;
  const [row] = await db()
    .select({ draft: item.draft })
    .from(item)
    .where(and(isDrawn, eq(item.id, input.id)));
  const [asker] = await db()
    .select({ id: person.id, name: person.name, email: person.email, zone: zoneOf })
    .from(person)
    .where(eq(person.id, input.person));
  if (!row || !asker) return undefined;
  const definition = frozen(row.draft, await catalogueFor(db(), row.draft));
  const begun = await begunFor({ ...asker, roles: [] }, { id: input.id, definition }, input.answers);
  return { begins: begun.answers, names: begun.names, foreseen: begun.foreseen, hours: await hoursFor(definition.form, asker) };
}
