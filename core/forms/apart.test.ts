import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { compileHours, dayAfter, deskCalendar, usualHours } from '../calendar/index.ts';
import { checkForm } from '../checks/index.ts';
import { catalogue } from '../testing/samples.ts';
import { brokenRules, countsWorkingDays, Form, formJsonSchema, outcomeOf, validateAnswers, type Apart } from './index.ts';

const date = (id: string, label: string) => ({ id, kind: 'date' as const, label, required: false });
const sentence = 'Choose a later day.';
const withRule = (apart: Apart): Form =>
  Form.parse({ fields: [date('first', 'First day'), date('last', 'Last day')], rules: [{ id: 'r', apart, field: 'last', sentence }] });

describe('days after a day', () => {
  it('are those of a walk from day to day, on any day, working days and others', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true }),
        fc.nat(60),
        fc.boolean(),
        (from, days, working) => {
          const start = from.toISOString().slice(0, 10);
          let day = DateTime.fromISO(start, { zone: 'utc' });
          for (let left = days; left > 0;) {
            day = day.plus({ days: 1 });
            if (!working || day.weekday <= 5) left--;
          }
          expect(dayAfter(start, days, working ? 'working' : 'always', deskCalendar('utc'))).toBe(day.toISODate());
        },
      ),
    );
  });
  it('are none after what is no date', () => {
    expect(dayAfter('2026-02-30', 1, 'always', deskCalendar('utc'))).toBeUndefined();
  });
});

describe('a rule that a date comes so long after another', () => {
  const apart: Apart = { date: { ref: 'form.last' }, days: 2, counted: 'working', after: { ref: 'form.first' } };
  const broken = (form: Form, answers: Record<string, string>, today?: string) => brokenRules(form, answers, { today }).length > 0;

  it('counts working days over a weekend; what is not given is not too soon', () => {
    const form = withRule(apart);
    // Thursday, 26 November 2026: the second working day after it is Monday.
    expect(['2026-11-27', '2026-11-29', '2026-11-30'].map((last) => broken(form, { first: '2026-11-26', last }))).toEqual([true, true, false]);
    expect(broken(form, { first: '2026-11-26' })).toBe(false);
    expect(broken(form, { last: '2026-11-26' })).toBe(false);
    expect(broken(withRule({ ...apart, counted: 'always' }), { first: '2026-11-26', last: '2026-11-28' })).toBe(false);
  });

  it('or after the day it is asked for, which whoever holds the answers says', () => {
    const form = withRule({ date: { ref: 'form.last' }, days: 2, counted: 'working' });
    const ask = (today?: string) => validateAnswers(form, { last: '2026-11-30' }, undefined, undefined, { today });
    expect(ask('2026-11-26').ok).toBe(true);
    expect(ask('2026-11-27')).toMatchObject({ ok: false, problems: [{ field: 'last', sentence }] });
    expect(ask()).toMatchObject({ ok: true });
  });

  it('counts the days on which a desk is open, where it is known whose', () => {
    const form = withRule(apart);
    // A desk that is open on Saturdays too, and closed on Monday, 30 November.
    const hours = usualHours('utc');
    const desk = compileHours({
      ...hours,
      week: hours.week.map((day, n) => (n === 5 ? [{ from: 600, to: 720 }] : day)),
      holidays: [{ day: '2026-11-30', words: 'Stocktaking' }],
    });
    const isBroken = (last: string, on?: typeof desk) => brokenRules(form, { first: '2026-11-26', last }, { desk: on }).length > 0;
    expect(['2026-11-27', '2026-11-28', '2026-11-30'].map((last) => isBroken(last, desk))).toEqual([true, false, false]);
    expect(isBroken('2026-11-28')).toBe(true);
    const late = (last: string) => brokenRules(form, { first: '2026-11-28', last }, { desk }).length > 0;
    expect(['2026-12-01', '2026-12-02'].map(late)).toEqual([true, false]);
    expect([countsWorkingDays(form), countsWorkingDays(withRule({ ...apart, counted: 'always' }))]).toEqual([true, false]);
  });

  it('is tried by a test of the form on the day that it says', () => {
    const form = withRule({ date: { ref: 'form.last' }, days: 2, counted: 'working' });
    const test = { id: 't', name: 'Too soon', answers: { last: '2026-11-30' }, on: '2026-11-27', refused: { field: 'last', sentence } };
    expect(outcomeOf(form, test).asSaid).toBe(true);
    expect(outcomeOf(form, { ...test, on: '2026-11-26' }).asSaid).toBe(false);
    // By the hours of everybody, where there are any: Saturday counts, so that Monday is far enough.
    const hours = usualHours('utc');
    const saturdays = { ...hours, week: hours.week.map((day, n) => (n === 5 ? [{ from: 600, to: 720 }] : day)) };
    expect(outcomeOf(form, test, compileHours(saturdays)).asSaid).toBe(false);
    const failing = (of: typeof hours) => checkForm({ ...form, tests: [test] }, { ...catalogue, hours: of }).map((f) => f.code);
    expect([failing(hours), failing(saturdays)]).toEqual([[], ['form-test']]);
  });

  it('is said by the JSON Schema to be held to by the form alone', () => {
    expect(JSON.stringify(formJsonSchema(withRule(apart), 'Booking'))).toContain(`Not said here, and held to by the form: ${sentence}`);
  });

  it('is whole: it names dates that the form asks', () => {
    const found = (form: Form) => checkForm(form, catalogue).map((f) => [f.code, f.rule]);
    expect(found(withRule(apart))).toEqual([]);
    expect(found(withRule({ days: 1, counted: 'always' }))).toEqual([['unset-setting', 'r']]);
    expect(found(withRule({ ...apart, after: { ref: 'form.gone' } }))).toEqual([['unknown-reference', 'r']]);
    const text = { ...withRule(apart), fields: [{ ...date('first', 'First day'), kind: 'text' as const }, date('last', 'Last day')] };
    expect(found(text)).toEqual([['wrong-type', 'r']]);
  });
});
