import type { Effect, TextSnapshot } from '../../core/engine/index.ts';
import type { CaseKind } from '../words.ts';
import { aboutRequest, fixed, type Draft } from './draft.ts';

type Closed = Extract<Effect, { effect: 'closeGate' }>;

/** What was to be agreed to, and why that is over. */
const why: Record<CaseKind, Record<Closed['result'], string>> = {
  request: {
    approved: 'The request was approved',
    declined: 'The request was declined',
    lapsed: 'Nobody answered in time, so the request was closed',
    returned: 'The request was sent back to its requester; you are asked again when it comes back',
    withdrawn: 'The request was withdrawn, or went on without this',
  },
  ticket: {
    approved: 'It was agreed to',
    declined: 'It was not agreed to',
    lapsed: 'Nobody answered in time, so the ticket stays where it was',
    returned: 'It was sent back',
    withdrawn: 'The ticket went another way, or the asking was taken back',
  },
};

const noLongerNeeded = (key: string, to: string, name: string, body: TextSnapshot): Draft => ({
  key,
  to,
  content: { subject: aboutRequest(`No longer needed: ${name}`), body },
});

/** To an approver who had not answered when the gate closed. */
export function approvalNotNeeded(of: CaseKind, to: string, name: string, { key, result, decidedBy }: Closed): Draft {
  const end = 'You need not answer any more.';
  if (!decidedBy) return noLongerNeeded(key, to, name, fixed(`${why[of][result]}. ${end}`));
  const text = [[{ text: `${why[of][result]} by ` }, { ref: 'request.decider' }, { text: `. ${end}` }]];
  return noLongerNeeded(key, to, name, { text, values: { 'request.decider': { person: decidedBy } } });
}

/** To an approver in whose place somebody else is asked. */
export const approverReplaced = (to: string, name: string, key: string): Draft =>
  noLongerNeeded(key, to, name, fixed('Somebody else is asked in your place. You need not answer any more.'));

/** To whoever had a task that was withdrawn. */
export const taskNotNeeded = (to: string, name: string, key: string): Draft =>
  noLongerNeeded(key, to, name, fixed('The request was withdrawn, or went on without this. You need not do it any more.'));
