import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import type { Field } from '../forms/index.ts';
import {
  answersFrom,
  factsFor,
  happened,
  proposedFacts,
  readPage,
  staffFacts,
  StaffRecord,
  standingOf,
  type FactValues,
  type StaffFact,
} from './index.ts';

const ina = {
  employment: 'E-1',
  staffNumber: '20417',
  given: 'Ina',
  family: 'Marsten',
  department: 'Charts',
  jobRole: 'chart editor',
  place: 'Chart Hall',
  manager: '10002',
  contract: 'Permanent',
  firstDay: '2026-03-02',
};
const record = (more: Partial<StaffRecord> = {}): StaffRecord => StaffRecord.parse({ ...ina, ...more });
const page = (...changes: unknown[]) => JSON.stringify({ changes });

describe('a page of the feed', () => {
  it('is read from JSON and from CSV alike; what is empty is nothing', () => {
    const row = { number: 7, from: '2026-03-02', ...ina, formerly: '', lastDay: '' };
    const json = readPage(page({ number: 7, from: '2026-03-02', record: ina }), 'json', 6);
    expect(json).toEqual({
      ok: true,
      page: { changes: [{ number: 7, from: '2026-03-02', record: { ...ina, formerly: null, lastDay: null } }], odd: [], last: 7 },
    });
    expect(readPage(Papa.unparse([row]), 'csv', 6)).toEqual(json);
  });
  it('holds lines each for itself: one that makes no sense is told with its reason', () => {
    const read = readPage(
      page({ number: 1, from: '2026-03-02', record: { ...ina, firstDay: '2026-02-30' } }, { number: 3, from: '2026-03-02', record: ina }),
      'json',
      0,
    );
    expect(read.ok && read.page.odd.map((o) => [o.number, o.why])).toEqual([[1, '“firstDay”: Has to be a day such as 2026-11-26.']]);
    expect(read.ok && [read.page.changes.length, read.page.last]).toEqual([1, 3]);
  });
  it.each([
    ['a page that is no JSON', '{', 'json', /./],
    ['no list', '{}', 'json', 'There is no list of changes in it.'],
    ['a line without a number', page({ from: 'x' }), 'json', 'A line has no number, so nobody knows where to read on.'],
    ['numbers that do not grow', page({ number: 5 }), 'json', 'Line 5 comes after line 5; numbers only grow.'],
    ['a CSV of something else', 'a,b\n1,2', 'csv', 'The first line does not name its columns: “number” is missing.'],
    ['a CSV that is cut off', 'number,from\n6,"2026', 'csv', /cannot be read/],
  ] as const)('%s is refused', (_, text, as, why) => {
    const read = readPage(text, as, 5);
    expect(read.ok ? '' : read.sentence).toMatch(why);
  });
  it('the same from both, whatever the words', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 }), (word) => {
        const row = { ...ina, department: word, formerly: '', lastDay: '' };
        const json = readPage(page({ number: 1, from: '2026-03-02', record: row }), 'json', 0);
        expect(readPage(Papa.unparse([{ number: 1, from: '2026-03-02', ...row }]), 'csv', 0).ok).toBe(json.ok);
      }),
    ));
});

describe('how somebody stands', () => {
  it('by two employments at once, or one after the other without a day between: one stay', () => {
    const season = record({ lastDay: '2026-05-31' });
    const kept = record({ employment: 'E-2', firstDay: '2026-06-01', department: 'Tides' });
    expect(standingOf([season, kept])).toMatchObject({ firstDay: '2026-03-02', lastDay: null, department: 'Tides' });
    expect(happened(standingOf([season]), standingOf([season, kept]))).toEqual([
      { kind: 'moves', changed: ['department'] },
      { kind: 'stays', changed: ['lastDay'] },
    ]);
  });
  it('who comes back after a time away returns; a namesake has another number and is somebody else', () => {
    const before = record({ lastDay: '2026-05-31' });
    const again = record({ employment: 'E-2', firstDay: '2026-09-01' });
    expect(happened(standingOf([before]), standingOf([before, again]))).toEqual([{ kind: 'returns', changed: ['firstDay', 'lastDay'] }]);
    expect(happened(undefined, standingOf([again]))).toEqual([{ kind: 'starts', changed: [] }]);
  });
  it('another department, another name, a last day and none any more are told apart', () => {
    const tell = (a: Partial<StaffRecord>, b: Partial<StaffRecord>) =>
      happened(standingOf([record(a)]), standingOf([record(b)])).map((h) => `${h.kind} ${h.changed.join()}`);
    expect(tell({}, { department: 'Tides', manager: '10009' })).toEqual(['moves department,manager']);
    expect(tell({}, { family: 'Marsten-Ness', lastDay: '2026-12-31' })).toEqual(['renamed family', 'leaves lastDay']);
    expect(tell({ lastDay: '2026-12-31' }, { lastDay: '2027-01-31' })).toEqual(['leaves lastDay']);
    expect(tell({ lastDay: '2026-12-31' }, {})).toEqual(['stays lastDay']);
    expect(tell({}, { firstDay: '2026-03-09' })).toEqual(['otherDay firstDay']);
    expect(tell({}, {})).toEqual([]);
  });

  const day = fc.integer({ min: 0, max: 60 }).map((n) => new Date(Date.UTC(2026, 0, 1 + n)).toISOString().slice(0, 10));
  const employments = fc.uniqueArray(
    fc.record({
      employment: fc.string({ minLength: 1, maxLength: 3 }),
      a: day,
      b: day,
      open: fc.boolean(),
      department: fc.constantFrom('Charts', 'Tides'),
    }),
    { minLength: 1, maxLength: 6, selector: (e) => e.employment },
  );
  const recordsOf = (all: { employment: string; a: string; b: string; open: boolean; department: string }[]) =>
    all.map((e) => ({ ...record(), ...e, firstDay: e.a < e.b ? e.a : e.b, lastDay: e.open ? null : e.a < e.b ? e.b : e.a }));
  it('held against painting each day on a calendar: the stay is the last run of days without a gap', () =>
    fc.assert(
      fc.property(employments, (all) => {
        const records = recordsOf(all);
        // Sixty days and one that stands for ever after.
        const painted = Array.from({ length: 62 }, (_, n) => {
          const at = new Date(Date.UTC(2026, 0, 1 + n)).toISOString().slice(0, 10);
          return records.some((r) => r.firstDay <= at && (r.lastDay === null || r.lastDay >= at)) ? at : undefined;
        });
        const lastPainted = painted.findLastIndex((d) => d !== undefined);
        const gap = painted.slice(0, lastPainted).findLastIndex((d) => d === undefined);
        const standing = standingOf(records);
        expect(standing.firstDay).toBe(painted[gap + 1]);
        expect(standing.lastDay).toBe(records.some((r) => r.lastDay === null) ? null : painted[lastPainted]);
      }),
    ));
  it('the order in which employments are told does not matter, and what is told again is nothing new', () =>
    fc.assert(
      fc.property(employments, fc.nat(), (all, turn) => {
        const records = recordsOf(all);
        const turned = [...records.slice(turn % records.length), ...records.slice(0, turn % records.length)];
        expect(standingOf(turned)).toEqual(standingOf(records));
        expect(happened(standingOf(records), standingOf(turned))).toEqual([]);
      }),
    ));
});

describe('a rule', () => {
  const field = (id: string, kind: Field['kind'], label: string, more: Partial<Field> = {}): Field => ({ id, kind, label, required: false, ...more });
  const form = [
    field('given', 'text', 'Given names'),
    field('day', 'date', 'Their last day'),
    field('role', 'choice', 'Job role', { options: [{ value: 'editor', label: 'Chart editor' }] }),
    field('boss', 'person', 'New manager'),
    field('where', 'location', 'Place'),
    field('much', 'money', 'Pay'),
  ];
  const values: FactValues = {
    ...(Object.fromEntries(Object.keys(staffFacts).map((f) => [f, undefined])) as Record<StaffFact, undefined>),
    given: 'Ina',
    lastDay: '2026-12-31',
    jobRole: 'chart editor',
    manager: { person: 'p1' },
    place: 'Chart Hall',
    placeId: 'l1',
  };
  it('begins with facts that are called as the fields are, of a kind that fits', () => {
    expect(proposedFacts(form).map((a) => a.from)).toEqual(['given', 'lastDay', 'jobRole', 'manager', 'place', null]);
    for (const f of form)
      for (const fact of factsFor(f)) expect(staffFacts[fact].is).toBe(f.kind === 'date' ? 'date' : f.kind === 'person' ? 'person' : 'text');
    expect(factsFor(form[5]!)).toEqual([]);
  });
  it('answers the fields: a choice by what its option is called, a place by where it is; what nobody knows stays empty', () => {
    expect(answersFrom(form, { answers: proposedFacts(form) }, values)).toEqual({
      given: 'Ina',
      day: '2026-12-31',
      role: 'editor',
      boss: { person: 'p1' },
      where: { location: 'l1' },
    });
    const unknown = { ...values, jobRole: 'lighthouse keeper', manager: undefined };
    expect(answersFrom(form, { answers: proposedFacts(form) }, unknown)).not.toHaveProperty('role');
    expect(answersFrom(form, { answers: [{ field: 'role', from: null, words: 'Chart editor' }] }, unknown)).toEqual({ role: 'editor' });
  });
});
