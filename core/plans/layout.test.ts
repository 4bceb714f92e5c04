import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { catalogue, form, joinGroup } from '../testing/samples.ts';
import { analyseTime, layoutSheet, namingOf, placesByStep, stepSentence, walk, type Plan } from './index.ts';

const naming = (plan: Plan) => namingOf(placesByStep(plan, form, catalogue).anywhere, catalogue);
const layout = (plan: Plan) => layoutSheet(plan, naming(plan), catalogue);

describe('the plan sheet', () => {
  it('draws every step once, left to right within its area, never over another', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const { marks, areas, width, height } = layout(plan);
        expect(marks.map((m) => m.step).sort()).toEqual([...walk(plan.steps)].map((w) => w.step.id).sort());
        for (const area of areas) {
          const own = marks.filter((m) => m.area === area.id);
          for (const [i, m] of own.entries()) {
            expect(m.x + m.width).toBeLessThanOrEqual(own[i + 1]?.x ?? width);
            expect(m.y).toBeGreaterThanOrEqual(area.y);
            expect(m.y).toBeLessThan(area.y + area.height);
          }
          expect(area.y + area.height).toBeLessThanOrEqual(height);
        }
      }),
    );
  });

  it('keeps bands apart: no two areas overlap', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const { areas } = layout(plan);
        for (const a of areas) {
          for (const b of areas) if (a.id !== b.id) expect(a.y + a.height <= b.y || b.y + b.height <= a.y, `${a.id} and ${b.id}`).toBe(true);
        }
      }),
    );
  });

  it('draws a gate as a lock across all rows of its area, and the ruler in rising order', () => {
    const { marks, areas, ruler, length } = layout(joinGroup);
    const lock = marks.find((m) => m.step === 'owners')!.lock!;
    const main = areas[0]!;
    expect([lock.y, lock.y + lock.height]).toEqual([main.y, main.y + main.height]);
    expect(main.rows.map((r) => r.party)).toEqual(['Requester', 'The owners of Group', 'Directory']);
    expect(ruler.map((t) => t.minutes)).toEqual([0, 15, 60, 240]);
    expect(ruler.every((t, i) => i === 0 || t.x > ruler[i - 1]!.x)).toBe(true);
    // PERT mean of 15 min, 4 h, 3 d of 8 h: (15 + 4 * 240 + 1440) / 6.
    expect(length).toBe((15 + 960 + 1440) / 6);
    expect(analyseTime(joinGroup).critical.has('sorry')).toBe(false);
  });

  it('has a sentence for every step', () => {
    const words = [...walk(joinGroup.steps)].map((w) => stepSentence(w.step, naming(joinGroup), catalogue));
    expect(words[0]).toBe('Ask the owners of Group; the first reply decides.');
    expect(words).toContain('In Directory: add a person to a group (group Group, person Requester).');
    expect(words).toContain('End as Declined.');
  });
});
