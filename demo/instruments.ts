import { eq } from 'drizzle-orm';
import type { Viewer } from '../server/auth/viewer.ts';
import { db } from '../server/db/database.ts';
import { groupAdmission } from '../server/db/schema/index.ts';
import { keepCondition } from '../server/groups/commands.ts';
import { letIn } from '../server/groups/let-in.ts';
import { reconcileGroup } from '../server/groups/reconcile.ts';
import { carryOut, good } from './carry-out.ts';

/** Who reads the instruments at Lunnick is in their group by itself. */
export async function instruments(owner: Viewer, group: string, place: string): Promise<void> {
  const members = [{ job: 'tide analyst', location: { location: place } }];
  good(
    await keepCondition(owner, {
      group,
      version: 0,
      members: JSON.stringify(members),
      why: 'Whoever works out the tides needs what the gauges say.',
    }),
  );
  await reconcileGroup(group);
  const open = await db().select({ id: groupAdmission.id }).from(groupAdmission).where(eq(groupAdmission.state, 'open'));
  for (const { id } of open) await letIn(id);
  await carryOut();
}
