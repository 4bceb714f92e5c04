import ICAL from 'ical.js';
import { heard } from '../boundary/index.ts';
import type { Coming } from '../meetings/index.ts';
import { answerIn } from './reply.ts';

/** What a calendar program answered to an invitation. */
export interface InvitationReply {
  uid: string;
  /** To which telling of it. */
  sequence: number;
  /** The address of whoever answers, in small letters. */
  from: string;
  says: Coming;
  words: string;
}

const says: Record<string, Coming> = { ACCEPTED: 'yes', DECLINED: 'no', TENTATIVE: 'maybe' };
/** More characters than this no answer has. */
const largest = 100_000;

/**
 * Reads an answer to an invitation: an iCalendar object of the method REPLY (RFC 5546, 3.2.3) with one event and one attendee. Another
 * time that is proposed (COUNTER, 3.2.7), and everything else, is refused with a sentence.
 */
export function readInvitationReply(text: string): ({ ok: true } & InvitationReply) | { ok: false; sentence: string } {
  const unreadable = { ok: false as const, sentence: 'The answer of your calendar could not be read.' };
  if (text.length > largest) return unreadable;
  try {
    const root = new ICAL.Component(ICAL.parse(text) as unknown[]);
    const method = upper(root.getFirstPropertyValue('method'));
    if (method === 'COUNTER') return { ok: false, sentence: 'Another time cannot be proposed here. Say no, with the times that suit you.' };
    const events = root.getAllSubcomponents('vevent');
    const [event] = events;
    if (method !== 'REPLY' || !event || events.length !== 1) return unreadable;
    const attendees = event.getAllProperties('attendee');
    const [attendee] = attendees;
    const answer = says[upper(attendee?.getFirstParameter('partstat'))];
    const uid = event.getFirstPropertyValue('uid');
    if (!attendee || attendees.length !== 1 || typeof uid !== 'string' || event.hasProperty('recurrence-id')) return unreadable;
    if (!answer) return { ok: false, sentence: 'Your calendar said neither yes nor no.' };
    const sequence = Number(event.getFirstPropertyValue('sequence') ?? 0);
    const comment = event.getFirstPropertyValue('comment');
    return {
      ok: true,
      uid: heard(uid, 300),
      sequence: Number.isSafeInteger(sequence) && sequence >= 0 ? sequence : 0,
      from: addressOf(attendee.getFirstValue()),
      says: answer,
      words: typeof comment === 'string' ? heard(comment, 2000).trim() : '',
    };
  } catch {
    return unreadable;
  }
}

const upper = (value: unknown): string => (typeof value === 'string' ? value.trim().toUpperCase() : '');
const addressOf = (value: unknown): string =>
  heard(typeof value === 'string' ? value : '', 300)
    .replace(/^mailto:/i, '')
    .trim()
    .toLowerCase();

/** What the mails themselves offer to whoever answers in words. */
export const howToSayComing = 'Write Yes or No alone on the first line, and what you want to say below it.';

const words = new Map<string, Coming>([
  ['yes', 'yes'],
  ['no', 'no'],
]);
/** Reads an answer in words: the first line is one of the two, and nothing else; anything else says nothing. */
export function readComingWords(text: string): { says: Coming; words: string } | undefined {
  const read = answerIn(text, words);
  return 'unclear' in read ? undefined : { says: read.answer, words: read.comment };
}
