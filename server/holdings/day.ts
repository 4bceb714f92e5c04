import { sql, type SQL } from 'drizzle-orm';
import { zoneOf } from '../auth/viewer.ts';

/** What day it is at this moment where somebody (their row is called `person`) works. */
export const dayThere = (at: Date): SQL => sql`(${at.toISOString()}::timestamptz at time zone ${zoneOf})::date`;

/** The latest day that it is anywhere at this moment: no zone is further ahead than 14 hours. For an index to begin with. */
export const latestDay = (at: Date): SQL => sql`((${at.toISOString()}::timestamptz at time zone 'UTC') + interval '14 hours')::date`;

/** How many days before the last of a lease, or of somebody who leaves, whom it concerns is told. */
export const toldBefore = 3;

/** For how long somebody is missing from the directory before that counts as having left, in hours: a reading may be wrong. */
export const leftAfterHours = 24;

/** Whether somebody (`person`) has left: their last day is over where they work, or the directory has not had them for a day. */
export const hasLeft = (at: Date): SQL<boolean> => sql<boolean>`(not person.outside and (
  case when person.last_day is null then false else person.last_day < ${dayThere(at)} end
  or (not person.active and coalesce(person.inactive_since < ${at.toISOString()}::timestamptz - make_interval(hours => ${leftAfterHours}), true))))`;
