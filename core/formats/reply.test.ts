import { describe, expect, it } from 'vitest';
import { readReply } from './index.ts';

describe('a reply in words', () => {
  it.each([
    ['Approve', { decision: 'approve', comment: '' }],
    ['approved, good timing', { decision: 'approve', comment: 'good timing' }],
    ['Yes.\r\n\r\nOn Mon, 2 Mar 2026, Nessmoor wrote:\r\n> Your approval is asked for', { decision: 'approve', comment: '' }],
    ['No - ask me for the monthly sheet instead\n\n-- \nSolveig', { decision: 'decline', comment: 'ask me for the monthly sheet instead' }],
    ['Decline: not this season\n> approve', { decision: 'decline', comment: 'not this season' }],
    ['Not sure yet, who is this?', { unclear: 'Not sure yet, who is this?' }],
    ['> Approve', { unclear: '' }],
    ['Nobody told me', { unclear: 'Nobody told me' }],
  ])('%j', (text, reply) => {
    expect(readReply(text)).toEqual(reply);
  });
});
