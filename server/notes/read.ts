import { sql, type SQL } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';

/** Whether somebody (`p`) has no way to sign in: what is for them is opened by their manager, together with them. */
export const cannotSignIn: SQL = sql`(p.password_hash is null or not p.active)`;

/** Whether the viewer may open a note that is for a person (`p`). */
export const mayOpen = (viewer: Viewer): SQL => sql`(p.id = ${viewer.id} or (p.manager_id = ${viewer.id} and ${cannotSignIn}))`;
