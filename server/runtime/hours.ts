import { reckon, type WantedInstant } from '../../core/calendar/index.ts';
import type { Tx } from '../db/database.ts';
import { calendarsOf, type Calendars } from '../hours/nearest.ts';

/** What each transaction has read of the hours: they are the same to its end. */
const read = new WeakMap<Tx, Calendars>();

/** The instant a run asks for, by the hours of now: of the team it names, else of where its requester works. */
export async function instantFor(tx: Tx, { requesterId }: { requesterId: string }, wanted: WantedInstant): Promise<string | null> {
  const calendars = read.get(tx) ?? calendarsOf(tx);
  read.set(tx, calendars);
  const { team, zone } = wanted.hours;
  return reckon(wanted, await calendars.of({ team, person: requesterId, zone }));
}
