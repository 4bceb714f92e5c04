import { describe, expect, it } from 'vitest';
import { isVouchedFor, readReply } from './index.ts';

describe('a reply in words', () => {
  it.each([
    ['Approve', { decision: 'approve', comment: '' }],
    ['  DECLINE.\r\n\r\nNot this season', { decision: 'decline', comment: 'Not this season' }],
    ['\n\nApprove\nGood timing\n\nOn Mon, 2 Mar 2026, Nessmoor wrote:\n> Decline', { decision: 'approve', comment: 'Good timing' }],
    ['Decline\nask me for the monthly sheet instead\n\n-- \nSolveig', { decision: 'decline', comment: 'ask me for the monthly sheet instead' }],
    ['No objections from me, go ahead', { unclear: 'No objections from me, go ahead' }],
    ['OK? I do not understand', { unclear: 'OK? I do not understand' }],
    ['Approved, good timing', { unclear: 'Approved, good timing' }],
    ['Approve if she signs', { unclear: 'Approve if she signs' }],
    ['Approve?', { unclear: 'Approve?' }],
    ['Yes', { unclear: 'Yes' }],
    ['I am away until Monday.\nApprove', { unclear: 'I am away until Monday.\nApprove' }],
    ['> Approve', { unclear: '' }],
    ['', { unclear: '' }],
    ['constructor', { unclear: 'constructor' }],
  ])('%j', (text, reply) => {
    expect(readReply(text)).toEqual(reply);
  });
});

// RFC 8601, appendix B: the fields of its examples, with made-up names.
describe('what a mail server vouches for', () => {
  const ours = 'mail.skerrin.example';
  const from = 'ina@skerrin.example';
  it.each<[string, boolean]>([
    [`${ours}; dmarc=pass header.from=skerrin.example`, true],
    [`${ours}; spf=pass smtp.mailfrom=ina@skerrin.example`, true],
    [`${ours} 1; dkim=pass (good signature) header.d=skerrin.example`, true],
    [`${ours}; spf=fail smtp.mailfrom=skerrin.example; dkim=pass header.d=skerrin.example`, true],
    [`${ours}; none`, false],
    [`${ours}; spf=pass smtp.mailfrom=elsewhere.example`, false],
    [`${ours}; dkim=pass header.d=elsewhere.example`, false],
    [`${ours}; dmarc=fail header.from=skerrin.example`, false],
    [`${ours}; x=1 (dmarc=pass header.from=skerrin.example)`, false],
    [`elsewhere.example; dmarc=pass header.from=skerrin.example`, false],
    [`${ours}.evil.example; dmarc=pass header.from=skerrin.example`, false],
    ['', false],
  ])('“%s”', (field, so) => expect(isVouchedFor([field], ours, from)).toBe(so));
  it('none of nobody', () => expect(isVouchedFor([`${ours}; dmarc=pass header.from=`], ours, '')).toBe(false));
});
