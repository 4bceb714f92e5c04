import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { joinGroup } from '../testing/samples.ts';
import { duplicateStep, history, insertStep, moveStep, moveTo, newStep, Plan, removeStep, stepIds, walk } from './index.ts';

const order = (plan: Plan) => [...walk(plan.steps)].map((w) => w.step.id).join(' ');

describe('structural edits', () => {
  it('insert beside, at the start, and into a branch', () => {
    const step = newStep(joinGroup, 'tell');
    expect(order(insertStep(joinGroup, { after: 'add' }, step))).toBe('owners sorry no add tell which still welcome');
    expect(order(insertStep(joinGroup, { before: 'no' }, step))).toBe('owners sorry tell no add which still welcome');
    expect(order(insertStep(joinGroup, 'start', step))).toBe('tell owners sorry no add which still welcome');
    expect(order(insertStep(joinGroup, { into: 'which', branch: 'otherwise' }, step))).toBe('owners sorry no add which still tell welcome');
  });

  it('move within a block and out of it at its edge', () => {
    expect(order(moveStep(joinGroup, 'add', 'earlier'))).toBe('add owners sorry no which still welcome');
    expect(order(moveStep(joinGroup, 'no', 'later'))).toBe('owners sorry no add which still welcome');
    expect(moveStep(joinGroup, 'owners', 'earlier')).toBe(joinGroup);
  });

  it('never put a step inside itself', () => {
    expect(moveTo(joinGroup, 'owners', { after: 'sorry' })).toBe(joinGroup);
    expect(order(moveTo(joinGroup, 'add', { into: 'owners', branch: 'declined' }))).toBe('owners add sorry no which still welcome');
  });

  it('copy a step with everything in it under new ids and names', () => {
    const { plan, copy } = duplicateStep(joinGroup, 'which');
    expect(copy).toBe('whichWords2');
    expect(stepIds(plan).size).toBe([...walk(plan.steps)].length);
    expect(new Set([...walk(plan.steps)].map((w) => w.step.name)).size).toBe([...walk(plan.steps)].length);
  });

  it('leave a valid plan with the same steps, whatever is moved where', () => {
    fc.assert(
      fc.property(anyPlan, fc.array(fc.tuple(fc.nat(), fc.constantFrom('earlier', 'later', 'twice', 'out'))), (start, edits) => {
        let plan = start;
        for (const [n, what] of edits) {
          const ids = [...stepIds(plan)];
          const id = ids[n % Math.max(1, ids.length)];
          if (id === undefined) continue;
          const before = ids.length;
          if (what === 'twice') plan = duplicateStep(plan, id).plan;
          else if (what === 'out') plan = removeStep(plan, id);
          else plan = moveStep(plan, id, what === 'earlier' ? 'earlier' : 'later');
          if (what === 'earlier' || what === 'later') expect(stepIds(plan).size).toBe(before);
          if (plan.steps.length > 60) break;
        }
        expect(Plan.safeParse(plan).success).toBe(true);
        expect([...walk(plan.steps)].length).toBe(stepIds(plan).size);
      }),
      { numRuns: 60 },
    );
  });

  it('are undone and redone over a session, typing into one setting as one', () => {
    let h = history.begin('a');
    h = history.record(h, 'b', 'Insert');
    h = history.record(h, 'c', 'Edit name');
    h = history.record(h, 'd', 'Edit name');
    h = history.undo(h);
    expect(h.present).toBe('b');
    expect(history.undo(h).present).toBe('a');
    expect(history.redo(h).present).toBe('d');
    expect(history.record(h, 'e', 'Remove').future).toEqual([]);
  });
});
