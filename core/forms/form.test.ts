import { describe, expect, it } from 'vitest';
import { form, wideForm } from '../testing/samples.ts';
import type { Condition } from '../conditions/index.ts';
import type { Value } from '../values/index.ts';
import {
  brokenRules,
  missingFields,
  postedAs,
  requiredNow,
  textLimit,
  validateAnswers,
  visibleFields,
  wrongAnswers,
  type Answers,
  type Field,
  type FieldKind,
  type Form,
  type FormRule,
} from './index.ts';

const good = { group: { group: 'g1' }, reason: 'Tide work', kind: 'daily' };

describe('answers held against a form', () => {
  it('are taken when they fit, trimmed, with empty optional fields as null', () => {
    const result = validateAnswers(form, { ...good, reason: '  Tide work ' });
    expect(result).toEqual({ ok: true, answers: { ...good, colleague: null } });
  });

  it('name every problem at its field and lose nothing typed', () => {
    const result = validateAnswers(form, { reason: 'x'.repeat(textLimit.longText + 1), kind: 'other' });
    expect(result.ok).toBe(false);
    if (result.ok) return;
    expect(result.problems.map((p) => p.field)).toEqual(['group', 'reason', 'kind']);
    expect(result.problems[0]!.sentence).toBe('Pick “Group”.');
    expect(result.problems[1]!.sentence).toBe('Why has 4001 characters; at most 4000 fit.');
    expect((result.answers['reason'] as string).length).toBe(4001);
  });

  it('of a hidden field are dropped, of a shown one wanted', () => {
    const hidden = validateAnswers(form, { ...good, project: 'Left over' });
    expect(hidden.answers).not.toHaveProperty('project');
    const shown = validateAnswers(form, { ...good, kind: 'project' });
    expect(shown).toMatchObject({ ok: false, problems: [{ field: 'project', sentence: 'Fill in “Project”.' }] });
  });

  it('of the wrong shape or naming what does not exist are refused with a sentence', () => {
    const wrong = validateAnswers(form, { ...good, group: 'tide', colleague: { person: 'nobody' } }, (kind) => kind === 'group');
    expect(wrong).toMatchObject({
      ok: false,
      problems: [{ field: 'group' }, { field: 'colleague', sentence: 'Colleague: this person is not known. Pick one from the list.' }],
    });
    expect(validateAnswers(form, { ...good, reason: { deep: [1] } })).toMatchObject({ ok: false, problems: [{ field: 'reason' }] });
  });

  it('are told wrong one by one while somebody fills in, without what is missing', () => {
    const wrong = (answers: Answers) => wrongAnswers(wideForm, answers).map((p) => p.field);
    expect(wrong({})).toEqual([]);
    expect(wrong({ code: 'x', cores: 99, mail: 'nobody', hour: '25:00', call: 'none', account: 'Held' })).toEqual([
      'cores',
      'mail',
      'hour',
      'call',
      'code',
    ]);
    expect(wrong({ code: 'SK-12', cores: 3, mail: 'a@example.org', hour: '09:30', call: '20 30 40' })).toEqual([]);
  });

  it('tell which required fields still miss', () => {
    expect(missingFields(form, { kind: 'project' }).map((f) => f.label)).toEqual(['Group', 'Why', 'Project']);
    expect(visibleFields(form, {}).map((f) => f.id)).not.toContain('project');
  });
});

describe('lines', () => {
  const lines: Form = { fields: wideForm.fields.filter((f) => f.id === 'gear').map((f) => ({ ...f, required: true, min: 2, max: 3 })) };
  const held = (gear: unknown, exists?: () => boolean) => validateAnswers(lines, { gear }, exists);
  const said = (gear: unknown, exists?: () => boolean) => {
    const result = held(gear, exists);
    return result.ok ? [] : result.problems.map((p) => p.sentence);
  };
  const line = (entry: Record<string, unknown>) => ({ entry });
  const good = [line({ what: ' Echo sounder ', many: 2, by: { person: 'p' }, state: 'new' }), line({ what: 'Tide gauge', many: 1 })];

  it('are taken with their columns and no more, trimmed, without those that say nothing', () => {
    expect(held([...good, line({ what: '  ', many: null }), line({ other: 'x' })])).toEqual({
      ok: true,
      answers: {
        gear: [
          line({ what: 'Echo sounder', many: 2, by: { person: 'p' }, state: 'new' }),
          line({ what: 'Tide gauge', many: 1, by: null, state: null }),
        ],
      },
    });
  });
  it.each<[string, unknown, string[]]>([
    ['of nothing', [line({ what: '' }), line({})], ['Fill in “Instruments”.']],
    ['too few', [good[1]], ['Instruments: at least 2 lines.']],
    ['too many', [...good, ...good], ['Instruments: at most 3 lines.']],
    ['with a cell left out', [good[0], line({ many: 2 })], ['Instruments, line 2: Fill in “Instrument”.']],
    ['below one that says nothing', [line({}), good[1], line({ many: 2 })], ['Instruments, line 3: Fill in “Instrument”.']],
    ['with a cell that is none', [good[0], line({ what: 'a', many: 'two' })], ['Instruments, line 2: How many must be a number.']],
    ['out of bounds', [line({ what: 'a', many: 10 }), good[1]], ['Instruments, line 1: How many: at most 9.']],
    [
      'with a choice that is not offered',
      [line({ what: 'a', many: 1, state: 'old' }), good[1]],
      ['Instruments, line 1: State: pick one of the choices.'],
    ],
    ['that are none', ['x', 'y'], ['Instruments must be a list of lines.']],
    ['that are one', 'x', ['Instruments must be a list of lines.']],
    ['in lines', [line({ what: line({}) })], ['Instruments holds something that is not an answer.']],
    ['with a key that is none', [line({ 'a b': 'x' })], ['Instruments holds something that is not an answer.']],
    ['with a key that means something to every object', [line({ constructor: 'x' })], ['Instruments holds something that is not an answer.']],
  ])('%s are refused with a sentence', (_, gear, sentences) => expect(said(gear)).toEqual(sentences));
  it('that name somebody who is not there are refused', () =>
    expect(said(good, () => false)).toEqual(['Instruments, line 1: Who brings it: this person is not known. Pick one from the list.']));
});

describe('what was posted', () => {
  it.each<[FieldKind, string, string[], unknown]>([
    ['number', '3.50', [], 3.5],
    ['number', '9007199254740993', [], { decimal: '9007199254740993' }],
    ['number', 'three', [], 'three'],
    ['yesNo', 'true', [], true],
    ['money', '12.50 eur', [], { amount: '12.50', currency: 'EUR' }],
    ['money', '12.50', [], '12.50'],
    ['people', '', ['p', 'q'], [{ person: 'p' }, { person: 'q' }]],
    ['choices', '', [], null],
    ['team', 't', [], { team: 't' }],
    ['text', '', [], null],
  ])('for a %s: “%s”', (kind, one, all, value) => expect(postedAs(kind, one, all)).toEqual(value));
});

describe('fields of every kind', () => {
  const field = (kind: Field['kind'], more: Partial<Field> = {}): Form => ({ fields: [{ id: 'x', kind, label: 'X', required: true, ...more }] });
  const said = (form: Form, x: unknown, exists = true) => {
    const held = validateAnswers(form, { x }, () => exists);
    return held.ok ? held.answers['x'] : held.problems.map((p) => p.sentence).join(' ');
  };
  const options = [
    { value: 'a', label: 'A' },
    { value: 'b', label: 'B' },
  ];
  it.each<[string, Form, unknown, unknown]>([
    ['a number', field('number'), 3.5, 3.5],
    ['zero', field('number', { min: 0 }), 0, 0],
    ['a number as text', field('number'), 'three', 'X must be a number.'],
    ['too small', field('number', { min: 2, unit: 'days' }), 1, 'X: at least 2 days.'],
    ['too large', field('number', { max: 2 }), 3, 'X: at most 2.'],
    ['a date', field('date'), '2026-03-30', '2026-03-30'],
    ['no date', field('date'), 'soon', 'X must be a date such as 2026-03-30.'],
    ['a day that does not exist', field('date'), '2026-13-40', 'X must be a date such as 2026-03-30.'],
    ['no', field('yesNo'), false, false],
    ['neither', field('yesNo'), 'perhaps', 'X must be yes or no.'],
    ['nothing', field('yesNo'), null, 'Choose “X”.'],
    ['several', field('choices', { options }), ['a', 'b'], ['a', 'b']],
    ['none of several', field('choices', { options }), [], 'Choose “X”.'],
    ['one that is not offered', field('choices', { options }), ['a', 'c'], 'X: pick among the choices.'],
    ['people', field('people'), [{ person: 'p' }], [{ person: 'p' }]],
    ['people as text', field('people'), ['p'], 'X must be a list of people.'],
    ['a list where one is wanted', field('text'), ['p'], 'X must be text.'],
    ['a sum of money', field('money'), { amount: '12.50', currency: 'EUR' }, { amount: '12.50', currency: 'EUR' }],
    ['an amount without its currency', field('money'), '12.50', 'X must be an amount and a currency such as 1250.50 EUR.'],
    ['a place', field('location'), { location: 'l' }, { location: 'l' }],
    ['a team as text', field('team'), 'desk', 'X: this team is not known. Pick one from the list.'],
    ['a mail address', field('address'), 'guest@example.org', 'guest@example.org'],
    ['no mail address', field('address'), 'guest at example', 'X must be a mail address such as name@example.org.'],
    ['more digits than a JSON number has', field('number'), { decimal: '9007199254740993' }, { decimal: '9007199254740993' }],
    ['too large by the last digit', field('number', { max: 2 }), { decimal: '2.00000000000000000001' }, 'X: at most 2.'],
  ])('%s', (_, form, given, wanted) => {
    expect(said(form, given)).toEqual(wanted);
  });
  it('name people who are not known', () => {
    expect(said(field('people'), [{ person: 'gone' }], false)).toBe('X names somebody who is not known.');
  });
});

describe('what must hold between fields', () => {
  const day = (id: string, more: Partial<Field> = {}): Field => ({
    id,
    kind: 'date',
    label: id === 'first' ? 'First day' : 'Last day',
    required: false,
    ...more,
  });
  const later: FormRule = {
    id: 'later',
    holds: { compare: 'more', left: { ref: 'form.last' }, right: { ref: 'form.first' } },
    field: 'last',
    sentence: 'The last day is after the first day.',
  };
  const form: Form = { fields: [day('first'), day('last')], rules: [later] };
  const told = (f: Form, answers: Record<string, Value>) => {
    const held = validateAnswers(f, answers);
    return held.ok ? [] : held.problems.map((p) => `${p.field}: ${p.sentence}`);
  };

  it('is told at the field it names where it is false, and not where it cannot be told', () => {
    expect(told(form, { first: '2026-03-02', last: '2026-03-03' })).toEqual([]);
    expect(told(form, { first: '2026-03-02', last: '2026-03-02' })).toEqual(['last: The last day is after the first day.']);
    expect(told(form, { first: '2026-03-02' })).toEqual([]);
    expect(told(form, {})).toEqual([]);
  });

  it('reads only what is shown, and says nothing at a field that is not', () => {
    const sometimes: Condition = { has: { ref: 'form.first' } };
    const hidden: Form = { ...form, fields: [day('first'), day('last', { visibleWhen: { not: sometimes } })] };
    expect(told(hidden, { first: '2026-03-02', last: '2026-03-01' })).toEqual([]);
    const either: FormRule = {
      id: 'either',
      holds: { any: [{ has: { ref: 'form.first' } }, { has: { ref: 'form.last' } }] },
      field: 'first',
      sentence: 'Give one of the two days.',
    };
    expect(told({ ...form, rules: [either] }, {})).toEqual(['first: Give one of the two days.']);
    expect(told({ ...hidden, rules: [either] }, { first: '', last: '2026-03-01' })).toEqual([]);
    // While somebody fills in, only what all answers are given for.
    expect(brokenRules({ ...form, rules: [either] }, {}, undefined, true)).toEqual([]);
    expect(brokenRules(form, { first: '2026-03-02', last: '2026-03-01' }, undefined, true)).toEqual([{ field: 'last', sentence: later.sentence }]);
  });

  it('what is wrong with the answer itself comes first; a rule that is not whole asks nothing', () => {
    expect(told(form, { first: '2026-03-02', last: 'soon' })).toEqual(['last: Last day must be a date such as 2026-03-30.']);
    for (const rule of [
      { ...later, holds: undefined },
      { ...later, field: undefined },
      { ...later, field: 'gone' },
      { ...later, sentence: ' ' },
    ])
      expect(told({ ...form, rules: [rule] }, { first: '2026-03-02', last: '2026-03-01' })).toEqual([]);
  });

  it('a field can be required by the answers to others, above and below it', () => {
    const needs: Form = { fields: [day('first', { requiredWhen: { has: { ref: 'form.last' } } }), day('last')] };
    expect(told(needs, {})).toEqual([]);
    expect(told(needs, { last: '2026-03-02' })).toEqual(['first: Pick “First day”.']);
    expect(told(needs, { first: '2026-03-01', last: '2026-03-02' })).toEqual([]);
    expect(missingFields(needs, { last: '2026-03-02' }).map((f) => f.id)).toEqual(['first']);
    expect([...requiredNow(needs, {})]).toEqual([]);
    // An answer that is hidden does not require anything.
    const hidden: Form = { fields: [...needs.fields.slice(0, 1), day('last', { visibleWhen: { has: { ref: 'form.first' } } })] };
    expect(told(hidden, { last: '2026-03-02' })).toEqual([]);
  });

  it('of people and choices there can be so many', () => {
    const people = (...ids: string[]) => ids.map((person) => ({ person }));
    const owners: Form = { fields: [{ id: 'owners', kind: 'people', label: 'Owners', required: true, min: 2, max: 3 }] };
    expect(told(owners, { owners: people('a') })).toEqual(['owners: Owners: at least 2 people.']);
    expect(told(owners, { owners: people('a', 'b') })).toEqual([]);
    expect(told(owners, { owners: people('a', 'b', 'c', 'd') })).toEqual(['owners: Owners: at most 3 people.']);
    const options = ['a', 'b', 'c'].map((value) => ({ value, label: value }));
    const kit: Form = { fields: [{ id: 'kit', kind: 'choices', label: 'Kit', required: false, options, max: 1 }] };
    expect(told(kit, { kit: ['a', 'b'] })).toEqual(['kit: Kit: at most 1 choice.']);
    expect(told(kit, {})).toEqual([]);
  });
});
