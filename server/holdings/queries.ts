import { and, eq, sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { accessGroup, groupPerson } from '../db/schema/index.ts';
import { itemsAbout } from '../items/about-holdings.ts';
import { bySince, holdingsWhere, type OfHoldings } from './read.ts';

/** Whose things are asked for: the viewer's own, those of the people whose manager they are, or whoever is in a group that they own. */
export type WhoseThings = 'mine' | 'people' | 'owned';

const pageSize = 50;

const theirs: Record<WhoseThings, (viewer: Viewer) => OfHoldings> = {
  mine: (viewer) => ({ ofHoldings: [sql`h.person_id = ${viewer.id}`] }),
  people: (viewer) => ({ ofHoldings: [sql`h.person_id = any(array(select p.id from person p where p.manager_id = ${viewer.id}))`] }),
  // Group by group: one may have thousands of members.
  owned: (viewer) => ({
    ofHoldings: [],
    each: {
      of: sql`(h.what ->> 'group')`,
      keys: sql`select g.group_id::text from group_person g where g.person_id = ${viewer.id} and g."as" = 'owner'`,
    },
  }),
};

/** What people hold that a request of ours gave them, the newest first, a page at a time: since when, by which request, and who agreed to it. */
export async function thingsHeld(viewer: Viewer, whose: WhoseThings, cursor?: string) {
  const of = { keys: bySince, down: true, cursor, size: pageSize };
  const which = theirs[whose](viewer);
  const page = await holdingsWhere({ ...which, ofHoldings: [...which.ofHoldings, sql`h.ended_at is null`] }, of, viewer);
  // Who owns a group asks for nothing about who is in it.
  const gave = whose === 'owned' ? [] : page.rows.flatMap((r) => (r.gave === null || r.endingAt ? [] : [r.gave]));
  const about = await itemsAbout(viewer, gave, whose === 'people');
  return {
    next: page.next,
    // What was said in agreeing is for those whose request it was; of a confidential one nobody who has no part in it learns anything else.
    rows: page.rows.map(({ sees, gave, ...r }) =>
      whose !== 'mine' && !sees
        ? { ...r, what: 'confidential', item: '', agreed: [], ask: [] }
        : {
            ...r,
            agreed: r.agreed.map((a) => ({ ...a, comment: r.isTheirs ? a.comment : '' })),
            /** The items that can be asked for about it. */
            ask: r.endingAt ? [] : (about.get(gave ?? '') ?? []).filter((i) => r.until !== null || !i.lent),
          },
    ),
  };
}

/** The groups that the directory has somebody in without a request of ours that gave it. */
export async function otherGroups(viewer: Viewer): Promise<string[]> {
  const rows = await db()
    .select({ name: accessGroup.name })
    .from(groupPerson)
    .innerJoin(accessGroup, eq(accessGroup.id, groupPerson.groupId))
    .where(
      and(
        eq(groupPerson.personId, viewer.id),
        eq(groupPerson.as, 'member'),
        eq(accessGroup.gone, false),
        sql`not exists (select from holding h where h.person_id = ${viewer.id} and h.ended_at is null and h.what ->> 'group' = ${accessGroup.id}::text)`,
      ),
    )
    .orderBy(accessGroup.name);
  return rows.map((r) => r.name);
}

/** Whether somebody owns a group that there is. */
export const ownsGroups = async (viewer: Viewer): Promise<boolean> => {
  const { rows } = await db().execute<{ owns: boolean }>(
    sql`select exists (select from group_person g join access_group a on a.id = g.group_id and not a.gone where g.person_id = ${viewer.id} and g."as" = 'owner') as owns`,
  );
  return rows[0]!.owns;
};

/** Whether somebody is the manager of anybody who works here, or has left and holds something still. */
export async function hasPeople(viewer: Viewer): Promise<boolean> {
  const { rows } = await db().execute<{ has: boolean }>(sql`select exists (select from person p where p.manager_id = ${viewer.id}
    and (p.active or exists (select from holding h where h.person_id = p.id and h.ended_at is null))) as has`);
  return rows[0]!.has;
}
