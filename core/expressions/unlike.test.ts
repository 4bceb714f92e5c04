import { describe, expect, it } from 'vitest';
import type { Value, ValueType } from '../values/index.ts';
import { unlikeSides, workOut } from './index.ts';

const types: Record<string, ValueType> = {
  'form.cores': 'number',
  'form.name': 'text',
  'form.from': 'date',
  'form.agreed': 'boolean',
  'form.mentor': 'person',
  'request.now': 'instant',
};
const values: Record<string, Value> = {
  'form.cores': 4,
  'form.name': 'Tuva',
  'form.from': '2026-03-02',
  'form.agreed': true,
  'form.mentor': { person: 'p1' },
  'request.now': '2026-03-02T09:00:00.000Z',
};
const told = (feel: string) => unlikeSides(feel, (ref) => types[ref]);

describe('sides of a comparison that are never alike', () => {
  it('a day of the form is a text there: it is told, with what to write', () => {
    expect(told('form.from > date(request.now)')).toEqual([{ sides: ['text', 'date'], day: { ref: 'form.from', as: 'date' } }]);
    expect(told('date and time(request.now) <= request.now')).toEqual([
      { sides: ['date and time', 'text'], day: { ref: 'request.now', as: 'date and time' } },
    ]);
    expect(told('date(form.from) > date(request.now)')).toEqual([]);
    // Two days as they are kept: texts in the order of days.
    expect(told('form.from < "2026-04-01"')).toEqual([]);
  });
  it('wherever it stands, between two and in a list of tests as well; of what is not certain nothing is said', () => {
    expect(told('if form.cores > "4" then 1 else 2')).toEqual([{ sides: ['number', 'text'] }]);
    expect(told('form.from between date("2026-01-01") and date("2026-02-01")')).toHaveLength(2);
    expect(told('form.from in [date("2026-01-01")..date("2026-02-01")]')).toHaveLength(2);
    expect(told('some x in [1, 2] satisfies form.name = 3')).toEqual([{ sides: ['text', 'number'] }]);
    for (const open of [
      'form.mentor = "p1"',
      'min(form.cores, 2) > form.name',
      'form.cores = null',
      'if form.agreed then 1 else "x"',
      'form.cores *',
    ])
      expect([open, told(open)]).toEqual([open, []]);
  });
  it('what is told never goes, whatever is compared with what; what is known and alike goes', () => {
    const known: [string, string][] = [
      ['form.cores', 'number'],
      ['4', 'number'],
      ['count([1, 2])', 'number'],
      ['form.cores + 1', 'number'],
      ['-form.cores', 'number'],
      ['floor(1.5)', 'number'],
      ['form.name', 'text'],
      ['form.from', 'text'],
      ['request.now', 'text'],
      ['"x"', 'text'],
      ['upper case("x")', 'text'],
      ['string(4)', 'text'],
      ['date(form.from)', 'date'],
      ['date("2026-03-02")', 'date'],
      ['date and time(request.now)', 'instant'],
      ['time("09:00:00")', 'time'],
    ];
    for (const [a, kindA] of known)
      for (const [b, kindB] of known)
        for (const op of ['<', '<=', '>', '>=', '=', '!=']) {
          const feel = `${a} ${op} ${b}`;
          const worked = workOut(feel, 'boolean', (ref) => values[ref]);
          expect([feel, told(feel).length > 0]).toEqual([feel, kindA !== kindB]);
          expect([feel, worked.ok]).toEqual([feel, kindA === kindB]);
        }
  });
});
