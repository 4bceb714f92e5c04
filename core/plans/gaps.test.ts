import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { step, tell } from '../testing/samples.ts';
import { gapsFor, moveTo, nearestGap, outlineOf, stepIds, unfolded, walk, type Plan } from './index.ts';

const plan: Plan = {
  steps: [tell('a', 'A'), step('guard', 'g', { body: [tell('b', 'B')], remedy: [] })],
};

describe('the gaps between lines', () => {
  it('stand before and after lines, in empty branches, and in folded ones; none inside what is moved', () => {
    // a / g / b / g/remedy
    const lines = outlineOf(plan);
    expect(lines.map((l) => l.id)).toEqual(['a', 'g', 'b', 'g/remedy']);
    const of = (run: string[], seen = lines) => gapsFor(plan, run, seen).map((g) => [JSON.stringify(g.at), g.above, g.depth]);
    expect(of(['a'])).toEqual([
      ['{"after":"g"}', 4, 0],
      ['{"into":"g","branch":"remedy"}', 4, 1],
      ['{"before":"b"}', 2, 1],
      ['{"after":"b"}', 3, 1],
    ]);
    expect(of(['g'])).toEqual([
      ['{"before":"a"}', 0, 0],
      ['{"after":"a"}', 1, 0],
    ]);
    expect(of(['a'], unfolded(lines, new Set(['g'])))).toEqual([
      ['{"after":"g"}', 2, 0],
      ['{"into":"g","branch":"body"}', 2, 1],
    ]);
  });

  it('are met by place first, then by depth', () => {
    const gaps = gapsFor(plan, ['a'], outlineOf(plan));
    expect(nearestGap(gaps, 4, 0)?.at).toEqual({ after: 'g' });
    expect(nearestGap(gaps, 4, 3)?.at).toEqual({ into: 'g', branch: 'remedy' });
    expect(nearestGap(gaps, 2, 0)?.at).toEqual({ before: 'b' });
    expect(nearestGap([], 2, 0)).toBeUndefined();
  });

  it('lead to a plan with the same steps, whatever is moved and folded', () => {
    fc.assert(
      fc.property(anyPlan, fc.nat(), fc.nat(3), (any, n, every) => {
        const all = [...walk(any.steps)];
        const moved = all[n % Math.max(1, all.length)];
        if (!moved) return;
        const lines = outlineOf(any);
        const seen = unfolded(lines, new Set(lines.filter((_, i) => every > 0 && i % (every + 1) === 0).map((l) => l.id)));
        for (const gap of gapsFor(any, [moved.step.id], seen)) {
          expect(gap.above).toBeLessThanOrEqual(seen.length);
          expect([...stepIds(moveTo(any, [moved.step.id], gap.at))].sort()).toEqual([...stepIds(any)].sort());
        }
      }),
      { numRuns: 60 },
    );
  });
});
