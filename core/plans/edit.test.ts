import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { joinGroup } from '../testing/samples.ts';
import {
  duplicateSteps,
  findStep,
  history,
  insertStep,
  moveRun,
  moveTo,
  newStep,
  Plan,
  removeSteps,
  runBetween,
  stepIds,
  walk,
  wrapSteps,
} from './index.ts';

const order = (plan: Plan) => [...walk(plan.steps)].map((w) => w.step.id).join(' ');

describe('structural edits', () => {
  it('insert beside, at the start, and into a branch', () => {
    const step = newStep(joinGroup, 'tell');
    expect(order(insertStep(joinGroup, { after: 'add' }, step))).toBe('owners sorry no add tell which still welcome');
    expect(order(insertStep(joinGroup, { before: 'no' }, step))).toBe('owners sorry tell no add which still welcome');
    expect(order(insertStep(joinGroup, 'start', step))).toBe('tell owners sorry no add which still welcome');
    expect(order(insertStep(joinGroup, { into: 'which', branch: 'otherwise' }, step))).toBe('owners sorry no add which still tell welcome');
  });

  it('move through a block, on into the neighbouring branch, and out beside the step that holds them', () => {
    const up = (plan: Plan, ...run: string[]) => order(moveRun(plan, run, 'up'));
    const down = (plan: Plan, ...run: string[]) => order(moveRun(plan, run, 'down'));
    expect(up(joinGroup, 'add')).toBe('add owners sorry no which still welcome');
    expect(down(joinGroup, 'no')).toBe('owners sorry no add which still welcome');
    expect(moveRun(joinGroup, ['owners'], 'up')).toBe(joinGroup);
    // From the end of one case into the next, and back.
    const over = moveRun(joinGroup, ['still'], 'down');
    expect(findStep(over, 'which')).toMatchObject({ cases: [{ block: [] }], otherwise: [{ id: 'still' }, { id: 'welcome' }] });
    expect(moveRun(over, ['still'], 'up')).toEqual(joinGroup);
    expect(order(moveRun(joinGroup, ['welcome'], 'down'))).toBe('owners sorry no add which still welcome');
    expect(moveRun(joinGroup, ['welcome'], 'down').steps.at(-1)!.id).toBe('welcome');
    expect(moveRun(joinGroup, ['still'], 'up').steps.map((s) => s.id)).toEqual(['owners', 'add', 'still', 'which']);
  });

  it('move into the step above and out of the one they are in', () => {
    expect(findStep(moveRun(joinGroup, ['add'], 'in'), 'owners')).toMatchObject({ declined: [{ id: 'sorry' }, { id: 'no' }, { id: 'add' }] });
    expect(moveRun(joinGroup, ['sorry'], 'out').steps.map((s) => s.id)).toEqual(['owners', 'sorry', 'add', 'which']);
    expect(moveRun(joinGroup, ['which'], 'in')).toBe(joinGroup);
    expect(moveRun(joinGroup, ['owners'], 'out')).toBe(joinGroup);
  });

  it('take whole siblings together: moved, wrapped, copied and removed as one', () => {
    expect(runBetween(joinGroup, 'which', 'add')).toEqual(['add', 'which']);
    expect(runBetween(joinGroup, 'sorry', 'which')).toEqual(['which']);
    const wide: Plan = { steps: ['a', 'b', 'c', 'd'].map((id) => ({ ...newStep({ steps: [] }, 'tell'), id, name: id.toUpperCase() })) };
    expect(order(moveRun(wide, ['b', 'c'], 'up'))).toBe('b c a d');
    expect(order(moveRun(wide, ['b', 'c'], 'down'))).toBe('a d b c');
    const { plan, wrapper } = wrapSteps(wide, ['b', 'c'], 'guard');
    expect(plan.steps.map((s) => s.id)).toEqual(['a', wrapper, 'd']);
    expect(findStep(plan, wrapper!)).toMatchObject({ body: [{ id: 'b' }, { id: 'c' }] });
    expect(duplicateSteps(wide, ['b', 'c']).plan.steps.map((s) => s.name)).toEqual(['A', 'B', 'C', 'B 2', 'C 2', 'D']);
    expect(removeSteps(wide, ['b', 'c'])).toMatchObject({ steps: [{ id: 'a' }, { id: 'd' }], retired: ['b', 'c'] });
  });

  it('never put a step inside itself', () => {
    expect(moveTo(joinGroup, ['owners'], { after: 'sorry' })).toBe(joinGroup);
    expect(order(moveTo(joinGroup, ['add'], { into: 'owners', branch: 'declined' }))).toBe('owners add sorry no which still welcome');
  });

  it('copy a step with everything in it under new ids and names', () => {
    const { plan, copies } = duplicateSteps(joinGroup, ['which']);
    expect(copies).toEqual(['whichWords2']);
    expect(stepIds(plan).size).toBe([...walk(plan.steps)].length);
    expect(new Set([...walk(plan.steps)].map((w) => w.step.name)).size).toBe([...walk(plan.steps)].length);
  });

  it('leave a valid plan with the same steps, whatever is moved where', () => {
    fc.assert(
      fc.property(anyPlan, fc.array(fc.tuple(fc.nat(), fc.constantFrom('up', 'down', 'in', 'out', 'twice', 'gone'), fc.nat(3))), (start, edits) => {
        let plan = start;
        for (const [n, what, more] of edits) {
          const ids = [...stepIds(plan)];
          const id = ids[n % Math.max(1, ids.length)];
          if (id === undefined) continue;
          const block = [...walk(plan.steps)].find((w) => w.step.id === id)!;
          const run = block.block.slice(block.index, block.index + 1 + more).map((s) => s.id);
          if (what === 'twice') plan = duplicateSteps(plan, run).plan;
          else if (what === 'gone') plan = removeSteps(plan, run);
          else {
            plan = moveRun(plan, run, what);
            expect([...stepIds(plan)].sort()).toEqual(ids.toSorted());
            // They still stand together, in their order.
            expect(runBetween(plan, run[0]!, run.at(-1)!)).toEqual(run);
          }
          if (plan.steps.length > 60) break;
        }
        expect(Plan.safeParse(plan).success).toBe(true);
        expect([...walk(plan.steps)].length).toBe(stepIds(plan).size);
        // What was taken out keeps its id, and what it was called: no other step gets it.
        expect((plan.retired ?? []).filter((id) => stepIds(plan).has(id))).toEqual([]);
        expect(start.retired?.every((id) => plan.retired?.includes(id)) ?? true).toBe(true);
        expect(plan.wereCalled?.map((c) => c.id) ?? []).toEqual(expect.arrayContaining(plan.retired ?? []));
      }),
      { numRuns: 60 },
    );
  });

  it('are undone and redone over a session, typing into one setting as one', () => {
    let h = history.begin('a');
    h = history.record(h, 'b', 'Insert', 0);
    h = history.record(h, 'c', 'Edit name', 0);
    h = history.record(h, 'd', 'Edit name', 0);
    h = history.undo(h);
    expect(h.present).toBe('b');
    expect(history.undo(h).present).toBe('a');
    expect(history.redo(h).present).toBe('d');
    expect(history.record(h, 'e', 'Remove', 0).future).toEqual([]);
  });
});
