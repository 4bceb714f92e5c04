import { deskCalendar, reckon, type WantedInstant } from '../../core/calendar/index.ts';

/** The instant a run asks for, by the hours of now. Until teams have hours of their own the desk's count for all, in the zone that is asked for. */
export const instantFor = (wanted: WantedInstant): string | null => reckon(wanted, deskCalendar(wanted.hours.zone));
