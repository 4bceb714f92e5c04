import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { step, tell } from '../testing/samples.ts';
import { analyseTime, chanceWithin, criticalPath, networkOf, walk, type NetworkActivity, type Plan } from './index.ts';

/**
 * The house-building project of Hillier and Lieberman, Introduction to Operations Research: 14 activities, weeks.
 * The three-point estimates behind the variances are from memory; that they sum to 9 along the path is the check.
 */
const house: [string, number, number, string][] = [
  ['A', 2, 1 / 9, ''],
  ['B', 4, 1, 'A'],
  ['C', 10, 4, 'B'],
  ['D', 6, 1, 'C'],
  ['E', 4, 4 / 9, 'C'],
  ['F', 5, 1, 'E'],
  ['G', 7, 1, 'D'],
  ['H', 9, 4, 'E G'],
  ['I', 7, 1, 'C'],
  ['J', 8, 1, 'F I'],
  ['K', 4, 0, 'J'],
  ['L', 5, 1, 'J'],
  ['M', 2, 1 / 9, 'H'],
  ['N', 6, 4 / 9, 'K L'],
];
const network: NetworkActivity[] = house.map(([id, mean, variance, after]) => ({ id, mean, variance, after: after.split(' ').filter(Boolean) }));

describe('the critical path', () => {
  it('of the house-building project (Hillier and Lieberman): 44 weeks along A B C E F J L N, variance 9', () => {
    const { length, path, variance, times } = criticalPath(network);
    expect(length).toBe(44);
    expect(path.join(' ')).toBe('A B C E F J L N');
    expect(variance).toBeCloseTo(9, 10);
    expect(
      [...times]
        .filter(([, t]) => t.slack === 0)
        .map(([id]) => id)
        .sort()
        .join(' '),
    ).toBe('A B C E F J L N');
    expect(Object.fromEntries([...times].map(([id, t]) => [id, t.slack]))).toMatchObject({ D: 4, G: 4, H: 4, M: 4, I: 2, K: 1 });
  });

  it('gives the chance to end within 47 weeks as 0.84', () => {
    expect(chanceWithin(47, 44, 9)).toBeCloseTo(0.8413, 4);
    expect([chanceWithin(44, 44, 9), chanceWithin(43, 44, 0), chanceWithin(44, 44, 0)]).toEqual([expect.closeTo(0.5, 6), 0, 1]);
  });

  it('does not depend on the order of the activities, and refuses circles', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray(network, { minLength: network.length }), (shuffled) => {
        expect(criticalPath(shuffled).path).toEqual(criticalPath(network).path);
      }),
    );
    expect(() =>
      criticalPath([
        { id: 'a', mean: 1, variance: 0, after: ['b'] },
        { id: 'b', mean: 1, variance: 0, after: ['a'] },
      ]),
    ).toThrow(RangeError);
  });
});

const minutes = (n: number) => ({ min: `PT${n}M`, likely: `PT${n}M`, max: `PT${n}M` });
const timed = (id: string, n: number) => ({ ...tell(id, id), expected: minutes(n) });

describe('the time of a plan', () => {
  it('is the longest of branches side by side, with the slack of the others', () => {
    const plan: Plan = {
      steps: [
        timed('a', 10),
        step('together', 't', {
          join: 'all',
          branches: [
            { id: 'x', name: 'X', block: [timed('b', 30), timed('c', 30)] },
            { id: 'y', name: 'Y', block: [timed('d', 20)] },
          ],
        }),
        timed('e', 5),
      ],
    };
    const { longest, mean, slack, critical } = analyseTime(plan);
    expect([longest, mean]).toEqual([75, 75]);
    expect([slack.get('d'), slack.get('b')]).toEqual([40, 0]);
    expect([...critical].sort()).toEqual(['a', 'b', 'c', 'e', 't']);
  });

  it('weighs the cases of a choice by how often they are taken (law of total variance)', () => {
    const when = { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } } as const;
    const plan: Plan = {
      steps: [
        step('choose', 'c', { cases: [{ id: 'a', name: 'A', when, share: 25, block: [timed('long', 100)] }], otherwise: [timed('short', 20)] }),
      ],
    };
    const { longest, mean, variance } = analyseTime(plan);
    // 0.25 * 100 + 0.75 * 20; 0.25 * 60² + 0.75 * 20².
    expect([longest, mean, variance]).toEqual([100, 40, 1200]);
  });

  it('has every step in its network once, and no step with negative slack', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const ids = networkOf(plan).map((a) => a.id);
        expect(new Set(ids).size).toBe(ids.length);
        const all = new Set([...walk(plan.steps)].map((w) => w.step.id));
        expect(ids.every((id) => all.has(id.split('/')[0]!))).toBe(true);
        expect([...analyseTime(plan).slack.values()].every((s) => s >= 0)).toBe(true);
      }),
    );
  });
});
