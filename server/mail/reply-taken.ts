import { howToAnswer } from '../../core/formats/index.ts';
import type { Result } from '../refusal.ts';

/** What somebody is told who answered by mail or in chat. */
export const replyTaken = (decision: 'approve' | 'decline', result: Result): string =>
  result.ok ? `Your answer was taken: ${decision === 'approve' ? 'approved' : 'declined'}.` : result.sentence;

/** Their answer could not be read. */
export const replyUnclear = (what: 'That' | 'Your reply'): string => `${what} was not understood, and nothing was decided. ${howToAnswer}`;

/** The reply came from elsewhere than its approver's address. */
export const replyFromAnother = (from: string, address: string): string =>
  `A reply came from ${from || 'an unknown address'} and was not taken: only you can answer. If that was you, reply from ${address}.`;

/** Nobody vouches for its sender. */
export const replyNotVouchedFor =
  'A reply in your name was not taken: your mail server does not vouch that it came from you. Decide at the Desk, or by the link in the first mail.';
