import { eq, inArray } from 'drizzle-orm';
import { config, repliesByMail } from '../config.ts';
import type { Reader } from '../db/database.ts';
import { invited, person, type meeting } from '../db/schema/index.ts';
import type { Draft } from '../mail/draft.ts';
import { invitationWords, offWords } from '../mail/invitation.ts';

/** A meeting that has a time. */
type Planned = Pick<typeof meeting.$inferSelect, 'id' | 'key' | 'words'> & { sequence: number; beginsAt: Date; endsAt: Date };
interface Guest extends Pick<typeof invited.$inferSelect, 'id' | 'personId' | 'says' | 'words' | 'gone' | 'told' | 'unseen'> {
  name: string;
  email: string;
  outside: boolean;
}

/** Everybody who is, or was, invited to meetings, by name. */
export async function guestsOf(tx: Reader, meetings: string[]): Promise<Map<string, Guest[]>> {
  const found = new Map<string, Guest[]>();
  if (meetings.length === 0) return found;
  const rows = await tx
    .select({
      meetingId: invited.meetingId,
      id: invited.id,
      personId: invited.personId,
      says: invited.says,
      words: invited.words,
      gone: invited.gone,
      told: invited.told,
      unseen: invited.unseen,
      name: person.name,
      email: person.email,
      outside: person.outside,
    })
    .from(invited)
    .innerJoin(person, eq(person.id, invited.personId))
    .where(inArray(invited.meetingId, meetings))
    .orderBy(person.name, person.id);
  for (const { meetingId, ...guest } of rows) found.set(meetingId, [...(found.get(meetingId) ?? []), guest]);
  return found;
}

/** What names a meeting in calendars. */
export const uidOf = (id: string): string => `${id}@${config().MAIL_DOMAIN}`;
const toldOf = (m: Planned, guests: Guest[]) => ({
  words: m.words,
  names: guests.map((g) => g.name),
});

/** What each of those invited is told: that they are, or that it has another time. */
export const invitations = (m: Planned, guests: Guest[]): Draft[] => drafts(m, guests, guests, 'REQUEST');
/** What those who were told are told when it is off, or is no more for them; `all`: who is named as invited. */
export const offs = (m: Planned, guests: Guest[], all = guests): Draft[] => drafts(m, guests, all, 'CANCEL');

function drafts(m: Planned, to: Guest[], all: Guest[], method: 'REQUEST' | 'CANCEL'): Draft[] {
  const told = toldOf(m, all);
  const invitation = {
    method,
    uid: uidOf(m.id),
    sequence: m.sequence,
    begins: m.beginsAt.toISOString(),
    ends: m.endsAt.toISOString(),
    title: m.words.title,
    words: m.words.body,
    ...(m.words.place && { place: m.words.place }),
    invited: all.map(({ name, email, says }) => ({ name, email, ...(says && { says }) })),
  };
  return to.map(({ id, personId, outside }): Draft => {
    const how = { moved: m.sequence > 0, answers: repliesByMail(), inside: !outside };
    return {
      key: m.key,
      to: personId,
      content: method === 'CANCEL' ? offWords(told) : invitationWords(told, how),
      invitation: { ...invitation, invitedId: id },
      ...(!outside && method === 'REQUEST' && { page: `meeting:${m.id}` as const }),
    };
  });
}
