import { dayOf, type ServiceHours } from '../../core/calendar/index.ts';
import { countsWorkingDays, type AskedOn, type Form } from '../../core/forms/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { calendarsOf, type Calendars } from './nearest.ts';

/** Who asks, as far as it matters for what working days are; nobody known: the hours of everybody count. */
interface Asker {
  id?: string | undefined;
  zone: string;
}

/** When a form is held, and by whose hours where it counts working days: those of where whoever asks works. */
export async function askedOn(calendars: Calendars, form: Form, { id, zone }: Asker, at = now()): Promise<AskedOn> {
  const today = dayOf(at.toISOString(), zone);
  return countsWorkingDays(form) ? { today, desk: await calendars.of({ person: id, zone }) } : { today };
}

/** The hours that a page reckons with for somebody; undefined where the form counts no working days, or the usual hours count. */
export async function hoursFor(form: Form, { id, zone }: Asker): Promise<ServiceHours | undefined> {
  return countsWorkingDays(form) ? calendarsOf(db()).stated({ person: id, zone }) : undefined;
}
