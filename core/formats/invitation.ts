import ical, { ICalAttendeeRole, ICalAttendeeStatus, ICalCalendarMethod, ICalEventStatus } from 'ical-generator';
import type { Coming } from '../meetings/index.ts';

/** Somebody who is invited, and what they said. */
export interface Invited {
  name: string;
  email: string;
  says?: Coming | undefined;
}

/** A meeting as those invited are told of it. */
export interface Invitation {
  method: 'REQUEST' | 'CANCEL';
  /** Names it for ever (RFC 5545, 3.8.4.7). */
  uid: string;
  /** Which telling of it this is, from 0 (3.8.7.4): a later one takes the place of those before. */
  sequence: number;
  /** When it was written, and from when to when it is: instants. */
  stamp: string;
  begins: string;
  ends: string;
  title: string;
  words: string;
  place?: string | undefined;
  invited: Invited[];
}

const partstat = {
  yes: ICalAttendeeStatus.ACCEPTED,
  no: ICalAttendeeStatus.DECLINED,
  maybe: ICalAttendeeStatus.TENTATIVE,
} as const;

/**
 * An invitation, or that a meeting is off, as an iCalendar object (RFC 5545) by the rules of scheduling (RFC 5546, 3.2.2 and 3.2.5).
 * Times are in UTC. `organizer`: whom answers go to; `answered`: whether it takes any.
 */
export function invitationText(i: Invitation, organizer: { name: string; email: string }, answered: boolean): string {
  const calendar = ical({ prodId: { company: 'Nessmoor', product: 'Invite' }, method: ICalCalendarMethod[i.method] });
  const event = calendar.createEvent({
    id: i.uid,
    sequence: i.sequence,
    stamp: new Date(i.stamp),
    start: new Date(i.begins),
    end: new Date(i.ends),
    summary: i.title,
    description: i.words,
    status: i.method === 'CANCEL' ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
    organizer,
    ...(i.place && { location: i.place }),
  });
  for (const { name, email, says } of i.invited)
    if (email)
      event.createAttendee({
        name,
        email,
        role: ICalAttendeeRole.REQ,
        status: says ? partstat[says] : ICalAttendeeStatus.NEEDSACTION,
        ...(i.method === 'REQUEST' && answered && { rsvp: true }),
      });
  return calendar.toString();
}
