import { eq, sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { consent, item, person, systemOwner } from '../db/schema/index.ts';
import { mayConsent } from './whose.ts';

/** What waits for the viewer as owner of a system, and what they answered lately. */
export async function consentsFor(viewer: Viewer) {
  return db()
    .select({
      id: consent.id,
      itemId: consent.itemId,
      item: item.name,
      label: consent.label,
      askedBy: person.name,
      askedAt: consent.askedAt,
      status: consent.status,
      comment: consent.comment,
      decidedAt: consent.decidedAt,
      own: sql<boolean>`${consent.askedBy} = ${viewer.id}`,
    })
    .from(consent)
    .innerJoin(item, eq(item.id, consent.itemId))
    .innerJoin(person, eq(person.id, consent.askedBy))
    .where(mayConsent(viewer))
    .orderBy(sql`${consent.status} = 'waiting' desc`, sql`${consent.askedAt} desc`)
    .limit(50);
}

/** Whether the viewer answers for any system. */
export const ownsSystems = async (viewer: Viewer): Promise<boolean> => (await db().$count(systemOwner, eq(systemOwner.personId, viewer.id))) > 0;
