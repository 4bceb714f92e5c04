import fc from 'fast-check';
import { evaluate } from 'feelin';
import { describe, expect, it } from 'vitest';
import { Id, idFrom, isEmpty, sameValue, Value } from './index.ts';

describe('ids', () => {
  it('are made from the words, and never twice', () => {
    expect(idFrom('Owners of the group agree', new Set())).toBe('ownersOfTheGroup');
    expect(idFrom('Owners of the group', new Set(['ownersOfTheGroup']))).toBe('ownersOfTheGroup2');
    expect(idFrom('Ελπίδα', new Set())).toBe('s');
    expect(idFrom('2 of 3', new Set())).toBe('s2Of3');
    expect(idFrom('If', new Set())).not.toBe('if');
  });

  it('from any label are valid, free, and readable by an independent FEEL interpreter (feelin)', () => {
    fc.assert(
      fc.property(fc.string(), fc.array(fc.string()), (label, others) => {
        const taken = new Set(others.map((o) => idFrom(o, new Set())));
        const id = idFrom(label, taken);
        expect(Id.safeParse(id).success).toBe(true);
        expect(taken.has(id)).toBe(false);
        const result = evaluate(`form.${id} = 7`, { form: { [id]: 7 } }) as { value?: unknown } | boolean;
        expect(typeof result === 'object' ? result.value : result).toBe(true);
      }),
      { numRuns: 300 },
    );
  });

  it('that the expression language keeps are refused', () => {
    for (const word of ['if', 'then', 'and', 'not', 'null', 'for', 'Upper', '1st', 'a-b', '']) expect(Id.safeParse(word).success).toBe(false);
  });
});

describe('values', () => {
  it('are empty when absent, null or blank, and not when false or zero', () => {
    expect([undefined, null, '', '  '].map(isEmpty)).toEqual([true, true, true, true]);
    expect([false, 0, 'x', { person: 'a' }].map((v) => isEmpty(v))).toEqual([false, false, false, false]);
  });
  it('are the same by content; a person is never a group', () => {
    expect(sameValue({ person: 'a' }, { person: 'a' })).toBe(true);
    expect(sameValue({ person: 'a' }, { group: 'a' })).toBe(false);
    expect(sameValue(undefined, null)).toBe(true);
    expect(Value.safeParse({ person: 7 }).success).toBe(false);
  });
});
