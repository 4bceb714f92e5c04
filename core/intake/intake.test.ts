import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addressOf, answeredBy, automaticOf, goesRound, IntakeWay, ourAddress, ownWords, subjectOf, type MailHeader } from './index.ts';

const header = (fields: Record<string, string | string[]>, envelopeFrom = 'oda@skerrin.example'): MailHeader => ({
  fields: Object.entries(fields).flatMap(([name, value]) => [value].flat().map((v) => [name, v] as const)),
  envelopeFrom,
});

describe('what nobody wrote by hand (RFC 3834)', () => {
  it.each([
    // RFC 3834, 5: the field Auto-Submitted and its values.
    [{ 'auto-submitted': 'auto-replied' }, 'answer'],
    [{ 'auto-submitted': 'auto-replied; owner-email="oda@skerrin.example"' }, 'answer'],
    [{ 'auto-submitted': 'auto-generated' }, 'program'],
    [{ 'auto-submitted': 'no' }, undefined],
    // RFC 3834, 2: what mailing lists and their like put there.
    [{ precedence: 'list' }, 'program'],
    [{ 'list-id': '<charts.skerrin.example>' }, 'program'],
    // Older marks: common practice, no source.
    [{ precedence: 'auto_reply' }, 'answer'],
    [{ 'x-autoreply': 'yes' }, 'answer'],
    [{ 'x-auto-response-suppress': 'All' }, 'program'],
    [{ subject: 'Out of charts' }, undefined],
  ] as const)('%j is %s', (fields, is) => expect(automaticOf(header(fields))).toBe(is));
  it('is also what comes from nobody: a notice that something could not be delivered (RFC 5321, 4.5.5)', () =>
    expect(automaticOf(header({}, ''))).toBe('answer'));
});

describe('a mail that goes round', () => {
  it('is one of ours, or has come through more than a hundred servers (RFC 5321, 6.3)', () => {
    expect(goesRound(header({ 'message-id': '<1@Nessmoor.example>' }), 'nessmoor.example')).toBe(true);
    expect(goesRound(header({ 'message-id': '<1@skerrin.example>' }), 'nessmoor.example')).toBe(false);
    const through = (n: number) => header({ received: Array.from({ length: n }, () => 'from a by b') });
    expect([goesRound(through(100), 'x.example'), goesRound(through(101), 'x.example')]).toEqual([false, true]);
  });
});

describe('what a mail answers', () => {
  it('is read of the reply and of the reply to it in RFC 5322, appendix A.2', () => {
    expect(answeredBy(header({ 'in-reply-to': '<1234@local.machine.example>', references: '<1234@local.machine.example>' }))).toEqual([
      '<1234@local.machine.example>',
    ]);
    expect(answeredBy(header({ 'in-reply-to': '<3456@example.net>', references: '<1234@local.machine.example> <3456@example.net>' }))).toEqual([
      '<3456@example.net>',
      '<1234@local.machine.example>',
    ]);
  });
  it('is nothing where there are no ids', () => expect(answeredBy(header({ references: 'none of <these are> ids' }))).toEqual([]));
});

describe('an address of ours', () => {
  it('is read back as it was made', () =>
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z0-9]+([._-][a-z0-9]+)?$/), fc.integer({ min: 1, max: 1e9 }), (name, number) => {
        for (const is of ['ticket', 'request'] as const)
          expect(ourAddress(addressOf(name, { number, is }, 'nessmoor.example'), 'Nessmoor.Example')).toEqual({ name, number });
        expect(ourAddress(`${name}@nessmoor.example`, 'nessmoor.example')).toEqual({ name });
        expect(ourAddress(`${name}@elsewhere.example`, 'nessmoor.example')).toBeUndefined();
      }),
    ));
  it('of a strange sub-address is of no ticket', () => expect(ourAddress('desk+boat@x.example', 'x.example')).toEqual({ name: 'desk' }));
});

describe('what somebody wrote themselves', () => {
  const quote = '\n\nOn Mon, 23 Nov 2026 at 10:00, Nessmoor wrote:\n> Which number is on the back?\n> Birk Saltvik\n';
  it.each([
    ['what is quoted below', `FT-0148.${quote}`, 'FT-0148.'],
    ['an introduction over two lines', 'FT-0148.\n\nPå man. 23. nov. 2026 kl. 10:00 skrev Birk\n<desk@x.example>:\n\n> Which number?', 'FT-0148.'],
    ['a signature (RFC 3676, 4.3)', 'FT-0148.\n-- \nTuva Fossness\nTide analyst', 'FT-0148.'],
    ['a signature above what is quoted', `FT-0148.\n-- \nTuva${quote}`, 'FT-0148.'],
    ['a header that is repeated', 'FT-0148.\n\nFrom: Desk\nSent: Monday\nTo: Tuva\nSubject: Tablet\n\nWhich number?', 'FT-0148.'],
    ['a line of dashes', 'FT-0148.\n\n-----Original Message-----\nWhich number?', 'FT-0148.'],
  ])('leaves out %s', (_, text, own) => expect(ownWords(text)).toBe(own));
  it.each([
    ['answers between quoted lines', '> Which number?\nFT-0148.\n> And since when?\nMonday.'],
    ['a line that ends with a colon', 'I tried these:\nthe cable, the charger'],
    ['only a quotation', '> Which number?'],
    ['a sentence that begins like a header', 'From: here on it does not charge.'],
  ])('keeps %s', (_, text) => expect(ownWords(text)).toBe(text));
  it('never loses all, and what is left is in what was written', () =>
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('FT-0148', '> quoted', '', '-- ', 'Birk wrote:', 'From: x', 'To: y', 'Sent: z', '________________')),
        (lines) => {
          const text = lines.join('\n');
          const own = ownWords(text);
          expect(text).toContain(own);
          expect(own === '').toBe(text.trim() === '');
        },
      ),
    ));
});

describe('the subject', () => {
  it.each([
    ['Re: AW: Tablet does not charge', 'x', 'Tablet does not charge'],
    ['', '\n  It does not charge\nat all', 'It does not charge'],
    ['Re:', 'words', 'words'],
    ['Two\tparts', '', 'Two parts'],
    ['', '', ''],
  ])('%j, %j is %j', (subject, words, is) => expect(subjectOf(subject, words)).toBe(is));
  it('is cut where it is long', () => expect(subjectOf('a'.repeat(500), '')).toHaveLength(160));
});

describe('a way in', () => {
  const way = { via: 'mail', name: 'Desk', kind: 'k1', category: null, unknown: 'refuse', automatic: 'leave' };
  it('is named in small letters', () => expect(IntakeWay.parse(way)).toMatchObject({ name: 'desk' }));
  it.each(['de sk', 'desk+1', '', 'decide', '.desk', 'desk@x'])('is not called %j', (name) =>
    expect(IntakeWay.safeParse({ ...way, name }).success).toBe(false),
  );
});
