import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan, wideCatalogue } from '../testing/any-plan.ts';
import { add, catalogue, finish, gate, joinGroup, step, tell, wideForm } from '../testing/samples.ts';
import {
  branches,
  above,
  freeze,
  moveTo,
  namingOf,
  outlineOf,
  pasteSteps,
  placesByStep,
  Plan,
  positionsFor,
  scriptText,
  sheetFacts,
  stepIds,
  unfolded,
  unwrapStep,
  walk,
  wrapSteps,
  type Part,
  type Step,
} from './index.ts';

const naming = (plan: Plan) => namingOf(placesByStep(plan, wideForm, wideCatalogue).anywhere, catalogue);
const ids = (plan: Plan) => [...walk(plan.steps)].map((w) => w.step.id);

describe('copies between plans', () => {
  it('get ids and names of their own, and read each other instead of the originals', () => {
    const work = step('workOut', 'w', { feel: 'if steps.add.already then 1 else 2', type: 'number' });
    const { plan, copies } = pasteSteps({ steps: [add, work] }, [add, work], { after: 'w' });
    expect(plan.steps.map((s) => s.id)).toEqual(['add', 'w', 'addToTheGroup', 'workoutW2']);
    expect(copies).toEqual(['addToTheGroup', 'workoutW2']);
    expect((plan.steps[3] as Extract<Step, { kind: 'workOut' }>).feel).toBe('if steps.addToTheGroup.already then 1 else 2');
  });

  it('leave a valid plan with unique ids, whatever is copied where', () => {
    fc.assert(
      fc.property(anyPlan, anyPlan, fc.nat(), (plan, other, at) => {
        const places = ids(plan);
        const target = places[at % Math.max(1, places.length)];
        const { plan: next } = pasteSteps(plan, other.steps, target ? { after: target } : 'start');
        expect(Plan.safeParse(next).success).toBe(true);
        expect(stepIds(next).size).toBe(ids(next).length);
        expect(ids(next)).toHaveLength(places.length + ids(other).length);
      }),
    );
  });
});

describe('wrapping and unwrapping', () => {
  it('undo each other: the steps come out as they went in', () => {
    fc.assert(
      fc.property(anyPlan, fc.nat(), fc.constantFrom('choose', 'together', 'guard', 'forEach', 'repeat' as const), (plan, at, kind) => {
        const all = ids(plan);
        const id = all[at % Math.max(1, all.length)];
        if (!id) return;
        const { plan: wrapped, wrapper } = wrapSteps(plan, [id], kind);
        expect(branches([...walk(wrapped.steps)].find((w) => w.step.id === wrapper)!.step)[0]!.block.map((s) => s.id)).toEqual([id]);
        expect(ids(unwrapStep(wrapped, wrapper!))).toEqual(all);
      }),
    );
  });
  it('a gate keeps what it holds', () => expect(unwrapStep(joinGroup, 'owners')).toEqual(joinGroup));
});

describe('where a step may go', () => {
  it('is beside any step that is not inside it, and into any empty branch; every one of them is a valid plan', () => {
    fc.assert(
      fc.property(anyPlan, fc.nat(), (plan, at) => {
        const all = ids(plan);
        const id = all[at % Math.max(1, all.length)];
        if (!id) return;
        for (const to of positionsFor(plan, [id])) expect(ids(moveTo(plan, [id], to)).sort()).toEqual([...all].sort());
      }),
      { numRuns: 60 },
    );
  });
});

describe('the script', () => {
  it('numbers every step once and reads as sentences', () => {
    const plan: Plan = {
      steps: [
        gate({ order: 'inTurn', reminders: { after: 'P1D', times: 2 }, deadline: 'P5D', sendBack: true, corrects: ['cores'] }),
        step('forEach', 'each', {
          list: { ref: 'form.crew' },
          atOnce: 2,
          body: [step('pause', 'p', { until: { span: { length: 'P1D', counted: 'working' } } })],
        }),
        step('repeat', 'r', { body: [add], until: { has: { ref: 'form.from' } }, pause: { length: 'PT5M', counted: 'always' }, tries: 12 }),
        step('guard', 'g', { body: [tell('t', 'T')], remedy: [finish('f', 'failed')], deadline: { length: 'P3D', counted: 'working' } }),
      ],
    };
    const text = scriptText(outlineOf(plan), sheetFacts(plan, naming(plan), catalogue));
    expect(text).toBe(
      [
        '1  Gate: Owners agree. Ask the owners of Group; the first reply decides, one after another. Remind them after 1 d of working time, at most 2 times. Lapses after 5 d of working time. They may correct Processors. They may send it back.',
        '2  For each: forEach each. For each of Crew, up to 2 at once.',
        '   2.1  Pause: pause p. Wait for 1 working day.',
        '3  Repeat: repeat r. Again every 5 minutes until First day has a value, at most 12 times.',
        '   3.1  Provision: Add to the group. In Directory: add a person to a group (group Group, person Requester).',
        '4  Guard: guard g. Try this; if it fails or takes more than 3 working days, do the other.',
        '   4.1  Tell: T. Tell Requester: “About your request”.',
        '   4x  If it fails:',
        '   4x.1  Finish: Finish f. End as Failed.',
      ].join('\n'),
    );
  });

  it('has a line for every step of any plan, with numbers that are never used twice', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const all = outlineOf(plan);
        const facts = sheetFacts(plan, naming(plan), wideCatalogue, 60);
        const lines = all.flatMap((l) => (l.is === 'step' ? [l] : []));
        expect(lines.map((l) => l.step.id)).toEqual(ids(plan));
        expect(new Set(lines.map((l) => l.number)).size).toBe(lines.length);
        expect(lines.every((l) => facts.steps.get(l.id)!.sentence.endsWith('.'))).toBe(true);
        // Whoever acts has a column; what begins is not before what it hangs on; every head has its words.
        expect(lines.every((l) => [...facts.parties, ''].includes(facts.steps.get(l.id)!.party))).toBe(true);
        const begins = (id: string) => facts.steps.get(id)?.begins ?? Infinity;
        for (const l of lines)
          for (const up of above(all, l.id).filter((u) => facts.steps.has(u))) expect(begins(up)).toBeLessThanOrEqual(begins(l.id));
        for (const l of all) if (l.is === 'branch') expect(facts.heads.get(l.id)).toBeTruthy();
        // Folded everywhere, only the plan's own steps are seen; a line is seen where nothing above it is folded.
        expect(unfolded(all, new Set(all.map((l) => l.id))).map((l) => l.id)).toEqual(plan.steps.map((s) => s.id));
        const some = new Set(all.filter((_, i) => i % 3 === 0).map((l) => l.id));
        expect(unfolded(all, some)).toEqual(all.filter((l) => above(all, l.id).every((u) => !some.has(u))));
      }),
    );
  });
});

describe('a published plan', () => {
  it('holds every part it uses, also those inside parts, and the undoing action of each provision', () => {
    const inner: Part = { name: 'Inner', inputs: [], outputs: [], steps: [add] };
    const outer: Part = { name: 'Outer', inputs: [], outputs: [], steps: [step('part', 'i', { part: 'inner', inputs: {} })] };
    const plan = freeze({ steps: [add, step('part', 'o', { part: 'outer', inputs: {} })] }, { ...catalogue, parts: { inner, outer, other: inner } });
    expect(Object.keys(plan.parts ?? {}).sort()).toEqual(['inner', 'outer']);
    expect(plan.steps[0]).toMatchObject({ undo: 'directory.removeMember' });
    expect(plan.parts!['inner']!.steps[0]).toMatchObject({ undo: 'directory.removeMember' });
    expect(freeze({ steps: [{ ...add, undo: 'none' } as Step] }, catalogue).steps[0]).toMatchObject({ undo: 'none' });
  });
});

describe('the outline', () => {
  it('heads each branch with a letter, a body with none, and what is done instead from x on; blocks have their guide', () => {
    const plan: Plan = {
      steps: [
        step('together', 's', { join: 'all', branches: ['a', 'b'].map((id) => ({ id, name: id, block: [tell(`t${id}`, `Tell ${id}`)] })) }),
        step('guard', 'g', { body: [step('repeat', 'r', { body: [] })], remedy: [], late: [tell('l', 'Late')] }),
      ],
    };
    expect(outlineOf(plan).map((l) => [l.number, l.id, l.level, l.guides.join(' '), l.holds])).toEqual([
      ['1', 's', 1, '', 2],
      ['1a', 's/a', 2, 'double', 1],
      ['1a.1', 'ta', 3, 'double', 0],
      ['1b', 's/b', 2, 'double', 1],
      ['1b.1', 'tb', 3, 'double', 0],
      ['2', 'g', 1, '', 2],
      ['2.1', 'r', 2, 'single', 0],
      ['2.1', 'r/body', 3, 'single bracket', 0],
      ['2x', 'g/remedy', 2, 'single', 0],
      ['2y', 'g/late', 2, 'single', 1],
      ['2y.1', 'l', 3, 'single', 0],
    ]);
  });

  it('says when each step begins and which values it takes from which', () => {
    const plan: Plan = {
      steps: [
        { ...gate(), expected: { min: 'PT4H', likely: 'PT4H', max: 'PT4H' } },
        step('workOut', 'w', { feel: '1', type: 'number' }),
        step('choose', 'c', {
          cases: [{ id: 'one', name: 'One', when: { compare: 'is', left: { ref: 'steps.w.value' }, right: { literal: 1 } }, block: [] }],
        }),
      ],
    };
    const facts = sheetFacts(plan, naming(plan), wideCatalogue, 60);
    expect([facts.longest, facts.steps.get('w')!.begins, facts.steps.get('w')!.critical]).toEqual([240, 240, true]);
    expect(facts.chance).toBeLessThan(0.01);
    expect(facts.steps.get('c')!.takes).toEqual([{ from: 'w', label: expect.any(String) }]);
    expect(facts.heads.get('c/one')).toContain('is 1');
  });
});
