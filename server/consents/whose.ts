import { sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { consent, person, systemOwner } from '../db/schema/index.ts';

/** Only an owner of the system who works here. */
export const mayConsent = (viewer: Viewer) =>
  sql`exists (select from ${systemOwner} o join ${person} p on p.id = o.person_id and p.active where o.system = ${consent.system} and o.person_id = ${viewer.id})`;
