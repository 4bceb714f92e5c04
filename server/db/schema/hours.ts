import { sql } from 'drizzle-orm';
import { boolean, integer, pgTable, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { hoursFormat } from '../../../core/documents/index.ts';
import { document } from './document.ts';
import { location, person, team } from './people.ts';
import { when } from './when.ts';

/** When a desk is open. Live: a change counts from the next question on. */
export const serviceHours = pgTable(
  'service_hours',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    version: integer('version').notNull().default(1),
    definition: document('definition', hoursFormat).notNull(),
    /** They count wherever neither a team nor a place has its own. */
    everywhere: boolean('everywhere').notNull().default(false),
    changedBy: uuid('changed_by').references(() => person.id),
    changedAt: when('changed_at').notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('service_hours_name').on(sql`lower(${t.name})`),
    uniqueIndex('service_hours_everywhere')
      .on(t.everywhere)
      .where(sql`${t.everywhere}`),
  ],
);

/** Teams and places with hours of their own. */
export const teamHours = pgTable('team_hours', {
  teamId: uuid('team_id')
    .primaryKey()
    .references(() => team.id),
  hoursId: uuid('hours_id')
    .notNull()
    .references(() => serviceHours.id),
});
export const placeHours = pgTable('place_hours', {
  locationId: uuid('location_id')
    .primaryKey()
    .references(() => location.id),
  hoursId: uuid('hours_id')
    .notNull()
    .references(() => serviceHours.id),
});
