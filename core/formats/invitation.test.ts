import ICAL from 'ical.js';
import { describe, expect, it } from 'vitest';
import { busyAsked, invitationText, readBusy, readComingWords, readInvitationReply, type Invitation } from './index.ts';

const meeting: Invitation = {
  method: 'REQUEST',
  uid: 'm1@nessmoor.skerrin.example',
  sequence: 2,
  stamp: '2026-03-02T09:00:00.000Z',
  begins: '2026-03-10T09:30:00.000Z',
  ends: '2026-03-10T10:15:00.000Z',
  title: 'Handing over: charts, logs; \\ and a comma',
  words: `First line\nSecond line with “quotes”, and so long that it has to be folded: ${'Øvre skjær '.repeat(20)}`,
  place: 'Chart Hall, Torvay',
  invited: [
    { name: 'Solveig "Sol" Langskar', email: 'solveig@skerrin.example', says: 'yes' },
    { name: 'مرحبا', email: 'ivar@skerrin.example' },
    { name: 'Nobody’s address', email: '' },
  ],
};
const organizer = { name: 'Colleague leaving', email: 'meeting+abc@nessmoor.skerrin.example' };
const eventIn = (text: string) => new ICAL.Component(ICAL.parse(text) as unknown[]).getFirstSubcomponent('vevent')!;

describe('an invitation, read by another reader (ical.js)', () => {
  const text = invitationText(meeting, organizer, true);
  it('says when, what and where, as it was written', () => {
    const event = new ICAL.Event(eventIn(text));
    expect([event.uid, event.sequence, event.summary, event.location]).toEqual([meeting.uid, 2, meeting.title, meeting.place]);
    expect(event.description).toBe(meeting.words);
    expect([event.startDate.toJSDate().toISOString(), event.endDate.toJSDate().toISOString()]).toEqual([meeting.begins, meeting.ends]);
    expect(event.startDate.zone.tzid).toBe('UTC');
  });
  it('is a request to come of each who has an address, with what they said (RFC 5546, 3.2.2)', () => {
    expect(new ICAL.Component(ICAL.parse(text) as unknown[]).getFirstPropertyValue('method')).toBe('REQUEST');
    const event = eventIn(text);
    expect(event.getFirstPropertyValue('organizer')).toBe(`mailto:${organizer.email}`);
    expect(
      event
        .getAllProperties('attendee')
        .map((a) => [String(a.getFirstValue()).toLowerCase(), a.getFirstParameter('partstat'), a.getFirstParameter('rsvp')]),
    ).toEqual([
      ['mailto:solveig@skerrin.example', 'ACCEPTED', 'TRUE'],
      ['mailto:ivar@skerrin.example', 'NEEDS-ACTION', 'TRUE'],
    ]);
    expect(event.getFirstPropertyValue('dtstamp')?.toString()).toBe('2026-03-02T09:00:00Z');
  });
  it('has lines of at most 75 octets, each ended by CRLF (RFC 5545, 3.1)', () => {
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(text.replaceAll('\r\n', '')).not.toMatch(/[\r\n]/);
  });
  it('that is off says so, and asks nobody (RFC 5546, 3.2.5)', () => {
    const off = invitationText({ ...meeting, method: 'CANCEL', sequence: 3 }, organizer, true);
    expect(off).toMatch(/^METHOD:CANCEL\r$/m);
    expect(eventIn(off).getFirstPropertyValue('status')).toBe('CANCELLED');
    expect(eventIn(off).getFirstPropertyValue('sequence')).toBe(3);
    expect(off).not.toContain('RSVP');
  });
  it('asks for no answer where none can come', () => expect(invitationText(meeting, organizer, false)).not.toContain('RSVP'));
});

describe('what a calendar program answers', () => {
  const reply = (...lines: string[]) =>
    [
      'BEGIN:VCALENDAR',
      'PRODID:-//Example/ExampleCalendarClient//EN',
      'METHOD:REPLY',
      'VERSION:2.0',
      'BEGIN:VEVENT',
      ...lines,
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n');
  const rest = ['ORGANIZER:mailto:a@example.com', 'UID:calsrv.example.com-873970198738777@example.com', 'SEQUENCE:0', 'DTSTAMP:19970612T190000Z'];
  const of = (...lines: string[]) => readInvitationReply(reply(...lines));
  it('is the example of RFC 5546, 4.2.2 (from memory)', () => {
    expect(of('ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com', ...rest, 'REQUEST-STATUS:2.0;Success')).toEqual({
      ok: true,
      uid: 'calsrv.example.com-873970198738777@example.com',
      sequence: 0,
      from: 'b@example.com',
      says: 'yes',
      words: '',
    });
  });
  it('is no, or perhaps, with words', () => {
    expect(of('ATTENDEE;partstat=declined;CN=B:MAILTO:B@Example.com', ...rest, 'COMMENT:At sea\\, sorry')).toMatchObject({
      says: 'no',
      from: 'b@example.com',
      words: 'At sea, sorry',
    });
    expect(of('ATTENDEE;PARTSTAT=TENTATIVE:mailto:b@example.com', ...rest)).toMatchObject({ says: 'maybe' });
  });
  it.each<[string, string, string]>([
    ['another time (COUNTER)', reply('ATTENDEE;PARTSTAT=TENTATIVE:mailto:b@example.com', ...rest).replace('REPLY', 'COUNTER'), 'Another time'],
    [
      'for two at once',
      reply('ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com', 'ATTENDEE;PARTSTAT=ACCEPTED:mailto:c@example.com', ...rest),
      'could not be read',
    ],
    [
      'for one day of a series',
      reply('ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com', 'RECURRENCE-ID:19970612T190000Z', ...rest),
      'could not be read',
    ],
    ['that somebody else decides', reply('ATTENDEE;PARTSTAT=DELEGATED:mailto:b@example.com', ...rest), 'neither yes nor no'],
    ['that is an invitation itself', reply('ATTENDEE:mailto:b@example.com', ...rest).replace('REPLY', 'REQUEST'), 'could not be read'],
    ['cut off', reply('ATTENDEE;PARTSTAT=ACCEPTED:mailto:b@example.com').slice(0, 90), 'could not be read'],
    ['without end', 'BEGIN:VCALENDAR\r\n'.repeat(20_000), 'could not be read'],
    ['words', 'I will come', 'could not be read'],
  ])('%s is refused with a sentence', (_, text, sentence) => {
    const read = readInvitationReply(text);
    expect(read).toMatchObject({ ok: false, sentence: expect.stringContaining(sentence) as unknown });
  });
  it('may be words: Yes or No alone on the first line', () => {
    expect(readComingWords('Yes.\n\nLooking forward\n> No')).toEqual({ says: 'yes', words: 'Looking forward' });
    expect(readComingWords('no\nAt sea')).toEqual({ says: 'no', words: 'At sea' });
    for (const unclear of ['Yes, if it is short', 'Not sure', '', 'constructor', '> yes']) expect(readComingWords(unclear)).toBeUndefined();
  });
});

describe('free and busy times', () => {
  const window = { from: Date.parse('2026-03-09T00:00:00Z'), to: Date.parse('2026-03-14T00:00:00Z') };
  it('are asked for as RFC 6638 has it: whose, and when', () => {
    const asked = busyAsked({
      organizer: 'desk@skerrin.example',
      people: ['a@skerrin.example', 'b@skerrin.example'],
      window,
      uid: 'q1',
      stamp: window.from,
    });
    const root = new ICAL.Component(ICAL.parse(asked) as unknown[]);
    const busy = root.getFirstSubcomponent('vfreebusy')!;
    expect([root.getFirstPropertyValue('method'), busy.getFirstPropertyValue('organizer')]).toEqual(['REQUEST', 'mailto:desk@skerrin.example']);
    expect(busy.getAllProperties('attendee').map((a) => a.getFirstValue())).toEqual(['mailto:a@skerrin.example', 'mailto:b@skerrin.example']);
    expect([busy.getFirstPropertyValue('dtstart'), busy.getFirstPropertyValue('dtend')].map(String)).toEqual([
      '2026-03-09T00:00:00Z',
      '2026-03-14T00:00:00Z',
    ]);
    expect(asked).toMatch(/^DTSTART:20260309T000000Z\r$/m);
  });

  const answer = (...responses: string[]) =>
    `<?xml version="1.0" encoding="utf-8" ?><C:schedule-response xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">${responses.join('')}</C:schedule-response>`;
  const one = (address: string, status: string, ...lines: string[]) =>
    `<C:response><C:recipient><D:href>mailto:${address}</D:href></C:recipient><C:request-status>${status}</C:request-status><C:calendar-data>${[
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'METHOD:REPLY',
      'BEGIN:VFREEBUSY',
      ...lines,
      'END:VFREEBUSY',
      'END:VCALENDAR',
    ].join('&#13;\n')}</C:calendar-data></C:response>`;
  const known = (xml: string) =>
    [...readBusy(xml, window)].map(([a, busy]) => [a, ...busy.map((b) => `${new Date(b.from).toISOString()}/${new Date(b.to).toISOString()}`)]);

  it('are read from a schedule-response: periods with an end or a length, several in a line, tentative ones too, free ones not', () => {
    expect(
      known(
        answer(
          one(
            'Wilfredo@Example.com',
            '2.0;Success',
            'FREEBUSY;FBTYPE=BUSY:20260309T080000Z/20260309T090000Z,20260310T080000Z/PT90M',
            'FREEBUSY;FBTYPE=FREE:20260311T080000Z/PT8H',
          ),
          one('bernard@example.net', '2.0;Success', 'FREEBUSY;FBTYPE=BUSY-TENTATIVE:20260309T150000Z/PT1H', 'FREEBUSY:20270101T000000Z/PT1H'),
          one('mike@example.org', '3.7;Invalid calendar user'),
        ),
      ),
    ).toEqual([
      ['wilfredo@example.com', '2026-03-09T08:00:00.000Z/2026-03-09T09:00:00.000Z', '2026-03-10T08:00:00.000Z/2026-03-10T09:30:00.000Z'],
      ['bernard@example.net', '2026-03-09T15:00:00.000Z/2026-03-09T16:00:00.000Z'],
    ]);
  });
  it('of one person, and of nobody', () => {
    expect(known(answer(one('a@example.com', '2.0;Success')))).toEqual([['a@example.com']]);
    expect(known(answer())).toEqual([]);
  });
  it.each([
    ['<html><body>Sign in</body></html>'],
    ['{"not": "xml"}'],
    [''],
    ['<!DOCTYPE x [<!ENTITY a "aaaa">]><schedule-response>&a;</schedule-response>'],
    [answer(one('a@example.com', '2.0;Success', 'FREEBUSY:20260399T080000Z/PT1H').replace('VFREEBUSY', 'NONSENSE'))],
  ])('that are no such answer are an error: %s', (xml) => expect(() => readBusy(xml, window)).toThrow());
});
