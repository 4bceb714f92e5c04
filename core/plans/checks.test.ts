import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { add, anyPlan, catalogue, finish, form, gate, joinGroup, tell } from '../testing/samples.ts';
import { checkItem, placesByStep, stops, type FindingCode, type Plan, type Step } from './index.ts';

const codes = (steps: Step[]): [FindingCode, string | undefined][] => checkItem(form, { steps }, catalogue).map((f) => [f.code, f.step]);

describe('the check', () => {
  it('finds nothing in a whole plan', () => {
    expect(checkItem(form, joinGroup, catalogue)).toEqual([]);
  });

  it('finds unset settings, each with its step', () => {
    expect(
      codes([
        { ...gate(), approvers: undefined },
        { ...add, action: undefined } as Step,
        { ...tell('t', 'T'), to: undefined, subject: [], body: [[]] } as Step,
      ]),
    ).toEqual([
      ['unset-setting', 'owners'],
      ['unset-setting', 'add'],
      ['unset-setting', 't'],
      ['unset-setting', 't'],
      ['unset-setting', 't'],
      ['untold', 't'],
    ]);
  });

  it('finds references to what is gone, and to what has not happened yet', () => {
    const gone = { ...add, inputs: { group: { ref: 'form.removed' }, person: { ref: 'request.requester' } } } as Step;
    expect(codes([gone, tell('t', 'T')])).toEqual([['unknown-reference', 'add']]);
    const early = { ...tell('t', 'T'), body: [[{ ref: 'steps.add.already' }]] } as Step;
    const [finding] = checkItem(form, { steps: [early, add] }, catalogue);
    expect(finding).toMatchObject({ code: 'unknown-reference', step: 't', sentence: expect.stringContaining('has not happened at this point') });
  });

  it('finds values that may be missing: optional fields, hidden fields, outputs of one path only', () => {
    const forColleague = { ...add, inputs: { group: { ref: 'form.group' }, person: { ref: 'form.colleague' } } } as Step;
    expect(codes([forColleague, tell('t', 'T')])).toEqual([['may-have-no-value', 'add']]);
    const onlyIf: Step = {
      id: 'c',
      kind: 'choose',
      name: 'C',
      expected: add.expected,
      cases: [{ id: 'with', name: 'With', when: { has: { ref: 'form.colleague' } }, block: [forColleague] }],
      otherwise: [],
    };
    expect(codes([onlyIf, tell('t', 'T')])).toEqual([]);
    const after = { ...tell('t', 'T'), body: [[{ ref: 'steps.add.already' }]] } as Step;
    expect(codes([onlyIf, after])).toEqual([['may-have-no-value', 't']]);
  });

  it('finds gates with nobody to ask, people who left, and wrong types', () => {
    expect(codes([gate({ nobody: undefined }), tell('t', 'T')])).toEqual([['nobody-to-ask', 'owners']]);
    expect(
      codes([gate({ approvers: { from: 'people', people: [{ person: 'gone' }] }, rule: { rule: 'atLeast', count: 2 } }), tell('t', 'T')]),
    ).toEqual([
      ['unknown-person', 'owners'],
      ['nobody-to-ask', 'owners'],
    ]);
    expect(codes([gate({ approvers: { from: 'managerOf', person: { ref: 'form.group' } } }), tell('t', 'T')])).toEqual([['wrong-type', 'owners']]);
    expect(codes([gate({ ownRequest: 'allow' }), tell('t', 'T')])).toEqual([['own-request', 'owners']]);
  });

  it('finds plans without outcome and steps that are never reached', () => {
    expect(codes([])).toEqual([['no-outcome', undefined]]);
    expect(codes([tell('t', 'T'), finish('f', 'fulfilled'), add])).toEqual([['never-reached', 'add']]);
    expect(codes([tell('t', 'T'), { ...finish('f', 'fulfilled'), outcome: undefined } as Step])).toEqual([['no-outcome', 'f']]);
  });

  it('finds every path that ends without a word to the requester', () => {
    expect(codes([gate(), add])).toEqual([['untold', 'add']]);
    expect(codes([gate({ declined: [finish('no', 'declined')] }), add, tell('t', 'T')])).toEqual([['untold', 'no']]);
  });

  it('finds names used twice, actions nobody offers, and form fields that depend on what comes later', () => {
    expect(codes([{ ...add, action: 'moon.phase' } as Step, tell('t', 'Same'), tell('u', 'same')])).toEqual([
      ['unknown-action', 'add'],
      ['name-twice', 'u'],
    ]);
    const late = { fields: [form.fields[3]!, form.fields[2]!] };
    expect(checkItem(late, { steps: [tell('t', 'T')] }, catalogue).map((f) => [f.code, f.field])).toEqual([['unknown-reference', 'project']]);
  });

  it('gives a place as certain only where brute force over all paths finds it set on each (definite assignment)', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const certain = placesByStep(plan, form, catalogue).at;
        for (const [id, sets] of everyPathTo(plan)) {
          for (const place of certain.get(id)?.values() ?? []) {
            if (!place.always || !place.ref.endsWith('.already')) continue;
            for (const set of sets) expect(set.has(place.ref.split('.')[1]!), `${place.ref} at ${id}`).toBe(true);
          }
        }
      }),
      { numRuns: 200 },
    );
  });

  it('stops nothing in generated whole plans but empty ones', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const found = stops(checkItem(form, plan, catalogue)).map((f) => f.code);
        expect(found).toEqual(plan.steps.length === 0 ? ['no-outcome'] : []);
      }),
    );
  });
});

/** The provisions done before each step, once for every path: the slow and obvious way. */
function everyPathTo(plan: Plan): Map<string, Set<string>[]> {
  const seen = new Map<string, Set<string>[]>();
  const run = (block: Step[], starts: Set<string>[]): Set<string>[] => {
    let paths = starts;
    for (const step of block) {
      seen.set(step.id, [...(seen.get(step.id) ?? []), ...paths]);
      if (step.kind === 'provision') paths = paths.map((p) => new Set(p).add(step.id));
      if (step.kind === 'finish') paths = [];
      if (step.kind === 'gate') {
        if (step.declined) run(step.declined, paths);
        paths = step.approved ? run(step.approved, paths) : paths;
      }
      if (step.kind === 'choose') {
        const before = paths;
        paths = [...step.cases.flatMap((c) => run(c.block, before)), ...(step.otherwise ? run(step.otherwise, before) : before)];
      }
      paths = paths.slice(0, 200);
    }
    return paths;
  };
  run(plan.steps, [new Set()]);
  return seen;
}
