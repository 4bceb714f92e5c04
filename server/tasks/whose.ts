import { eq, or, sql } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { task, teamMember } from '../db/schema/index.ts';

/** Whether a task is the viewer's: their own, or their team's. */
export const mine = (viewer: Viewer) =>
  or(
    eq(task.personId, viewer.id),
    eq(task.takenBy, viewer.id),
    sql`${task.teamId} in (select ${teamMember.teamId} from ${teamMember} where ${teamMember.personId} = ${viewer.id})`,
  );

/** Who may take over what a colleague has taken. */
export const mayTakeOver = (viewer: Viewer): boolean => has(viewer, 'teamMember', 'administrator');
