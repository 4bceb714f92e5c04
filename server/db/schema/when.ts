import { timestamp } from 'drizzle-orm/pg-core';

/** A moment, exact to the microsecond, whatever the zone. */
export const when = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });
