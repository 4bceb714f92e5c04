import { sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { consent, person, systemOwner } from '../db/schema/index.ts';

/** The system an action belongs to: `directory`, or the id of a registered one. */
export const systemOf = (action: string): string => (action.startsWith('web.') ? (action.split('.')[1] ?? '') : action.split('.')[0]!);

/** Only an owner of the system who works here. */
export const mayConsent = (viewer: Viewer) =>
  sql`exists (select from ${systemOwner} o join ${person} p on p.id = o.person_id and p.active where o.system = ${consent.system} and o.person_id = ${viewer.id})`;
