import ICAL from 'ical.js';

/** What a calendar program makes of a yes, a no or a perhaps. */
export const partstats = { yes: 'ACCEPTED', no: 'DECLINED', maybe: 'TENTATIVE' } as const;

/**
 * What a calendar program answers to an invitation (RFC 5546, 3.2.3): its event with only the one who answers, and what they say. Undefined:
 * it is no invitation, or not theirs.
 */
export function answerTo(
  invitation: string,
  address: string,
  says: keyof typeof partstats,
  comment: string,
): { to: string; text: string; summary: string } | undefined {
  const root = new ICAL.Component(ICAL.parse(invitation) as unknown[]);
  const event = root.getFirstSubcomponent('vevent');
  const mine = event?.getAllProperties('attendee').find((a) => plain(a.getFirstValue()) === address.toLowerCase());
  if (!event || !mine || root.getFirstPropertyValue('method') !== 'REQUEST') return undefined;
  const answer = new ICAL.Component('vcalendar');
  answer.addPropertyWithValue('version', '2.0');
  answer.addPropertyWithValue('prodid', '-//Skerrin//Mailbox//EN');
  answer.addPropertyWithValue('method', 'REPLY');
  const reply = new ICAL.Component('vevent');
  for (const name of ['uid', 'sequence', 'organizer', 'dtstart', 'dtend', 'summary'])
    for (const property of event.getAllProperties(name)) reply.addProperty(new ICAL.Property(property.toJSON(), reply));
  reply.addPropertyWithValue('dtstamp', ICAL.Time.now());
  const attendee = new ICAL.Property('attendee', reply);
  attendee.setValue(`mailto:${address}`);
  attendee.setParameter('partstat', partstats[says]);
  reply.addProperty(attendee);
  if (comment) reply.addPropertyWithValue('comment', comment);
  answer.addSubcomponent(reply);
  return {
    to: plain(event.getFirstPropertyValue('organizer')),
    text: `${answer.toString()}\r\n`,
    summary: String(event.getFirstPropertyValue('summary')),
  };
}

const plain = (value: unknown): string => (typeof value === 'string' ? value : '').replace(/^mailto:/i, '').toLowerCase();
