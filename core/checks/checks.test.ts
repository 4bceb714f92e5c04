import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { withoutField, type Form, type FormRule } from '../forms/index.ts';
import { sentence, type Operand, type Value } from '../values/index.ts';
import { anyPlan, wideCatalogue } from '../testing/any-plan.ts';
import { add, catalogue, createAccount, finish, form, gate, joinGroup, step, tell, wideForm } from '../testing/samples.ts';
import {
  applyEdit,
  passages,
  placesByStep,
  removeSteps,
  type ActionSpec,
  type FindingCode,
  type Part,
  type Plan,
  type Step,
  type StepOf,
} from '../plans/index.ts';
import { checkForm, checkItem, stops } from './index.ts';

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
        { ...tell('t', 'T'), to: undefined, subject: [], body: [{ text: [[]] }] } as Step,
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

  it('warns of what nothing takes back, by the system or by the step', () => {
    const gives = { kind: 'group', person: 'person', what: 'group' };
    const found = (undoneBy: string | undefined, undo: string | undefined) => {
      const actions = catalogue.actions.map(({ undoneBy: _, ...a }) => ({ ...a, gives, ...(undoneBy && { undoneBy }) }));
      const plan = { steps: [{ ...add, ...(undo && { undo }) } as Step, tell('t', 'T')] };
      return checkItem(form, plan, { ...catalogue, actions }).map((f) => `${f.code} ${f.severity}`);
    };
    const kept = ['not-taken-back warns'];
    expect([found(undefined, undefined), found(undefined, 'none'), found('x.out', 'none')]).toEqual([kept, kept, kept]);
    expect([found('x.out', undefined), found(undefined, 'x.out')]).toEqual([[], []]);
  });

  it('warns of what is to be mirrored with a system where nobody can say anything', () => {
    const found = (exchanges: 'bothWays' | 'here' | undefined, mirrors: boolean) => {
      const actions = catalogue.actions.map((a) => ({ ...a, ...(exchanges && { exchanges }) }));
      return checkItem(form, { steps: [{ ...add, ...(mirrors && { mirrors }) } as Step, tell('t', 'T')] }, { ...catalogue, actions }).map(
        (f) => f.code,
      );
    };
    expect(found(undefined, true)).toEqual(['nothing-mirrored']);
    expect([found(undefined, false), found('bothWays', true), found('here', true), found('bothWays', false)]).toEqual([[], [], [], []]);
  });

  it('finds references to what is gone, and to what has not happened yet', () => {
    const gone = { ...add, inputs: { group: { ref: 'form.removed' }, person: { ref: 'request.requester' } } } as Step;
    expect(codes([gone, tell('t', 'T')])).toEqual([['unknown-reference', 'add']]);
    const early = { ...tell('t', 'T'), body: [{ text: [[{ ref: 'steps.add.already' }]] }] } as Step;
    const [finding] = checkItem(form, { steps: [early, add] }, catalogue);
    expect(finding).toMatchObject({ code: 'unknown-reference', step: 't', sentence: expect.stringContaining('is not there at this point') });
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
    const after = { ...tell('t', 'T'), body: [{ text: [[{ ref: 'steps.add.already' }]] }] } as Step;
    expect(codes([onlyIf, after])).toEqual([['may-have-no-value', 't']]);
    // What an action can do without may have none.
    const spared = catalogue.actions.map((a) => ({ ...a, inputs: a.inputs.map((i) => ({ ...i, required: i.required && i.name !== 'person' })) }));
    const found = checkItem(form, { steps: [forColleague, tell('t', 'T')] }, { ...catalogue, actions: spared });
    expect(found.map((f) => f.code)).toEqual([]);
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
        const certain = placesByStep(plan, wideForm, wideCatalogue).at;
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
        const found = stops(checkItem(wideForm, plan, wideCatalogue)).map((f) => f.code);
        // A guard or choice may have been generated without anything in it.
        expect(found.filter((f) => f !== 'unset-setting')).toEqual(plan.steps.length === 0 ? ['no-outcome'] : []);
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
      const before = paths;
      if (step.kind === 'provision') paths = paths.map((p) => new Set(p).add(step.id));
      if (step.kind === 'finish') paths = [];
      if (step.kind === 'gate')
        paths = [
          run(step.approved ?? [], before),
          ...[step.declined, step.deadline === undefined ? undefined : step.lapsed].map((b) => (b ? run(b, before) : [])),
        ].flat();
      if (step.kind === 'choose')
        paths = [...step.cases.flatMap((c) => run(c.block, before)), ...(step.otherwise ? run(step.otherwise, before) : before)];
      if (step.kind === 'together' && step.join === 'first') paths = step.branches.flatMap((b) => run(b.block, before));
      if (step.kind === 'together' && step.join === 'all') {
        // Every pair of a path through one branch and a path through the next.
        paths = step.branches
          .map((b) => run(b.block, before))
          .reduce((all, more) => all.flatMap((x) => more.slice(0, 20).map((y) => new Set([...x, ...y]))).slice(0, 200));
      }
      if (step.kind === 'forEach') run(step.body, before);
      if (step.kind === 'repeat') paths = run(step.body, before);
      if (step.kind === 'guard') paths = [...run(step.body, before), ...run(step.remedy, before), ...(step.late ? run(step.late, before) : [])];
      paths = paths.slice(0, 200);
    }
    return paths;
  };
  run(plan.steps, [new Set()]);
  return seen;
}

describe('the check of every step kind', () => {
  const cores = (compare: 'less' | 'atLeast' | 'is', literal: number) => ({ compare, left: { ref: 'form.cores' }, right: { literal } });
  const found = (...steps: Step[]) => checkItem(wideForm, { steps: [...steps, tell('end', 'End')] }, catalogue).map((f) => [f.code, f.step]);
  const choose = (id: string, whens: object[], otherwise?: Step[]) =>
    step('choose', id, { cases: whens.map((when, i) => ({ id: `case${i}`, name: `Case ${i}`, when: when as never, block: [] })), otherwise });

  it('knows what the columns of lines hold inside a For each over them, and only there', () => {
    const when = (ref: string, literal: unknown) => ({ compare: 'is', left: { ref }, right: { literal } });
    const each = (...body: Step[]) => step('forEach', 'e', { list: { ref: 'form.gear' }, body });
    const forOne = (ref: string) =>
      step('task', 't', { assignee: { from: { ref } }, instructions: [{ text: [[{ text: 'Do' }]] }], checklist: [], fields: [] });
    expect(found(each(choose('c', [when('row.many', 2), when('row.state', 'new')], [])))).toEqual([['overlap', 'c']]);
    expect(found(each(choose('c', [when('row.many', 10)], [])))).toEqual([['never-holds', 'c']]);
    expect(found(each(choose('c', [when('row.what', 2)], [])))).toEqual([['wrong-type', 'c']]);
    // Who brings it may be left empty, and nobody is found in what is a text.
    expect(found(each(forOne('row.by')))).toEqual([['may-have-no-value', 't']]);
    expect(found(each(forOne('row.what')))).toEqual([['wrong-type', 't']]);
    expect(found(choose('c', [when('row.many', 2)], [])).map(([code]) => code)).toContain('unknown-reference');
    expect(
      found(step('forEach', 'e', { list: { ref: 'form.crew' }, body: [choose('c', [when('row.many', 2)], [])] })).map(([code]) => code),
    ).toContain('unknown-reference');
  });

  it('calls a field or a step that was taken out by the name it had', () => {
    const asks = withoutField({ ...wideForm, rules: undefined }, 'cores');
    const before: Plan = { steps: [step('workOut', 'n', { feel: '1', type: 'number' }), choose('c', [cores('less', 2)], []), tell('end', 'End')] };
    const reads = { ...tell('end', 'End'), subject: [[{ text: 'Number ' }, { ref: 'steps.n.value' }]] } as Step;
    const after = { ...removeSteps(before, ['n']), steps: [choose('c', [cores('less', 2)], []), gate({ corrects: ['cores'] }), reads] };
    const said = checkItem(asks, after, catalogue).flatMap((f) => (f.code === 'unknown-reference' ? [f.sentence] : []));
    expect(said).toEqual([
      'Case “Case 0” of “choose c” uses “Processors”, which the form does not ask any more.',
      '“Owners agree” lets approvers correct “Processors”, which the form does not ask any more.',
      'Subject of “End” uses a value of “workOut n”, a step that is not there any more.',
    ]);
    // What was never called anything is told by its key.
    expect(found(choose('c', [{ has: { ref: 'form.never' } }], []))).toEqual([['unknown-reference', 'c']]);
  });

  it('finds repeats without a bound, and bounds them', () => {
    const endless = step('repeat', 'r', { body: [], until: cores('is', 3) });
    expect(found(endless)).toEqual([['does-not-end', 'r']]);
    const [finding] = checkItem(wideForm, { steps: [endless, tell('end', 'End')] }, catalogue);
    expect(checkItem(wideForm, applyEdit({ steps: [endless, tell('end', 'End')] }, finding!.fix!.edit), catalogue)).toEqual([]);
  });

  it('finds cases that never hold within the bounds of the form, or after the cases above them', () => {
    expect(found(choose('c', [cores('less', 1)], []))).toEqual([['never-holds', 'c']]);
    expect(found(choose('c', [cores('atLeast', 2), cores('atLeast', 4)], []))).toEqual([['never-holds', 'c']]);
    expect(found(choose('c', [cores('atLeast', 1)], []))).toEqual([['always-holds', 'c']]);
    expect(found(choose('c', [cores('atLeast', 4), cores('less', 4)]))).toEqual([]);
  });

  it('finds gaps where nothing is said for otherwise, and overlaps, each with an example', () => {
    const gap = checkItem(wideForm, { steps: [choose('c', [cores('less', 2), cores('atLeast', 4)]), tell('end', 'End')] }, catalogue);
    expect(gap).toMatchObject([{ code: 'gap', sentence: expect.stringMatching(/when Processors is [23]/) }]);
    const daily = { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } };
    const overlap = checkItem(wideForm, { steps: [choose('c', [daily, cores('atLeast', 4)], []), tell('end', 'End')] }, catalogue);
    expect(overlap).toMatchObject([{ code: 'overlap', sentence: expect.stringContaining('Kind of work is Day to day') }]);
  });

  it('knows inside a case what holds there', () => {
    const inner = choose('in', [cores('less', 3)], []);
    const outer = step('choose', 'out', { cases: [{ id: 'a', name: 'A', when: cores('atLeast', 4) as never, block: [inner] }], otherwise: [] });
    expect(found(outer)).toEqual([['never-holds', 'in']]);
  });

  it('finds a currency that is none', () => {
    const codes = (unit?: string) =>
      checkForm({ fields: [{ id: 'p', kind: 'money', label: 'Price', required: true, ...(unit && { unit }) }] }).map((f) => f.code);
    expect([codes(), codes('EUR'), codes('EU')]).toEqual([[], [], ['wrong-type']]);
  });

  it('finds wrong expressions, and expressions that read what may be missing', () => {
    const work = (feel: string) => step('workOut', 'w', { feel, type: 'number' });
    expect(found(work('form.cores * '))).toEqual([['wrong-expression', 'w']]);
    expect(found(work('today()'))).toEqual([['wrong-expression', 'w']]);
    // A number has no currency.
    expect(found(work('form.cores.amount'))).toEqual([['wrong-expression', 'w']]);
    expect(found(work('if form.cores > "4" then 1 else 2'))).toEqual([['wrong-expression', 'w']]);
    expect(found(work('form.price.amount * 2'))).toEqual([]);
    expect(found(work('form.gone + 1'))).toEqual([['unknown-reference', 'w']]);
    expect(found(work('count(form.colleague)'))).toEqual([['may-have-no-value', 'w']]);
    expect(found(work('form.cores * 2'))).toEqual([]);
  });

  it('finds choices for which a table has no row: each, and together where rows are looked up by several', () => {
    const by = (where: Record<string, Operand>) => step('find', 'f', { lookup: { find: 'rows', table: 'machines', where } });
    const looked = (rows: Value[][]) => ({
      ...catalogue,
      tables: {
        machines: {
          name: 'Machine sizes',
          columns: ['size', 'state'].map((id) => ({ id, kind: 'text' as const, label: id, required: true })),
          looked: { columns: ['size', 'state'], rows },
        },
      },
    });
    const found = (where: Record<string, Operand>, rows: Value[][]) =>
      checkItem(wideForm, { steps: [by(where), tell('t', 'T')] }, looked(rows)).flatMap((f) => (f.code === 'no-row' ? [f.sentence] : []));
    const kind = { size: { ref: 'form.kind' } };
    expect(found(kind, [['daily', 'new']])).toEqual(['“find f” finds no row of “Machine sizes” for “A project”.']);
    expect(
      found(kind, [
        ['daily', null],
        ['project', null],
      ]),
    ).toEqual([]);
    expect(found(kind, [])).toEqual(['“find f” finds no row of “Machine sizes” for “Day to day”, “A project”.']);
    // With a value that is stated, only the rows that say so count.
    expect(
      found({ ...kind, state: { literal: 'new' } }, [
        ['daily', 'new'],
        ['project', 'old'],
      ]),
    ).toEqual(['“find f” finds no row of “Machine sizes” for “A project”.']);
    expect(
      found({ ...kind, state: { ref: 'form.kind' } }, [
        ['daily', 'daily'],
        ['project', 'project'],
      ]),
    ).toEqual(['“find f” finds no row of “Machine sizes” for “Day to day” with “A project”, “A project” with “Day to day”.']);
    // What is not a choice says nothing of it.
    expect(found({ size: { ref: 'form.reason' } }, [])).toEqual([]);
  });

  it('finds what comes from a lookup that may find nobody, and what is seen inside a round only', () => {
    const manager = step('find', 'f', { lookup: { find: 'managerOf', person: { ref: 'request.requester' } } });
    const task = (ref: string) => step('task', 't', { assignee: { from: { ref } }, instructions: passages('Do'), checklist: [], fields: [] });
    expect(found(manager, task('steps.f.person'))).toEqual([['may-have-no-value', 't']]);
    const each = step('forEach', 'e', { list: { ref: 'form.crew' }, body: [task('row.value')] });
    expect(found(each)).toEqual([]);
    expect(
      found(each, step('task', 'u', { assignee: { from: { ref: 'row.value' } }, instructions: passages('Do'), checklist: [], fields: [] })),
    ).toEqual([['unknown-reference', 'u']]);
    expect(found(step('task', 'v', { assignee: { from: { ref: 'form.crew' } }, instructions: passages('Do'), checklist: [], fields: [] }))).toEqual([
      ['wrong-type', 'v'],
    ]);
  });

  it('finds teams without members, policies and parts that are not there, parts in a circle', () => {
    const task = step('task', 't', { assignee: { team: 'ghosts' }, instructions: passages('Do'), checklist: [], fields: [] });
    expect(found(task)).toEqual([['nobody-to-ask', 't']]);
    expect(found(gate({ approvers: { from: 'policy', policy: 'gone', inputs: {} } }))).toEqual([['unknown-policy', 'owners']]);
    expect(found(gate({ approvers: { from: 'policy', policy: 'spend', inputs: {} } }))).toEqual([['unset-setting', 'owners']]);
    expect(found(step('part', 'p', { part: 'gone', inputs: {} }))).toEqual([['unknown-part', 'p']]);
    const self: Part = { name: 'Self', inputs: [], outputs: [], steps: [step('part', 'again', { part: 'self', inputs: {} })] };
    const circle = checkItem(
      wideForm,
      { steps: [step('part', 'p', { part: 'self', inputs: {} }), tell('end', 'End')] },
      { ...catalogue, parts: { self } },
    );
    expect(circle.map((f) => f.code)).toEqual(['circle']);
  });

  it('finds secrets that would be shown', () => {
    const leak = step('tell', 't', {
      to: { ref: 'request.requester' },
      subject: sentence('Welcome'),
      body: [{ text: [[{ ref: 'steps.acc.password' }]] }],
    });
    expect(found(createAccount, leak)).toEqual([['secret', 't']]);
  });

  it('finds a number that the system does not take, stated or asked for', () => {
    const lend = {
      id: 'x.lend',
      system: 'Berths',
      label: 'Lend',
      inputs: [{ name: 'days', label: 'Days', type: 'number', required: true, most: 90 }],
      outputs: [],
    };
    const of = (days: Operand, max?: number) =>
      checkItem(
        { fields: [{ id: 'days', kind: 'number', label: 'For how long', required: true, ...(max !== undefined && { max }) }] },
        { steps: [step('provision', 'p', { action: 'x.lend', inputs: { days } }), tell('t', 'T')] },
        { ...catalogue, actions: [lend as ActionSpec] },
      )
        .filter((f) => f.step === 'p')
        .map((f) => f.sentence);
    expect([of({ literal: 90 }), of({ literal: { decimal: '89.9' } }), of({ ref: 'form.days' }, 90), of({ ref: 'form.days' }, 30)]).toEqual([
      [],
      [],
      [],
      [],
    ]);
    expect(of({ literal: { decimal: '90.5' } })).toEqual(['Days of “provision p” is 90.5, and at most 90 is taken.']);
    expect(of({ ref: 'form.days' })).toEqual(['Days of “provision p” is at most 90, and “For how long” in the form has no most.']);
    expect(of({ ref: 'form.days' }, 120)).toEqual(['Days of “provision p” is at most 90, and “For how long” in the form may be 120.']);
  });

  it('finds a word that the system does not know, stated or offered by a choice of the form', () => {
    const lend = {
      id: 'x.lend',
      system: 'Stores',
      label: 'Lend',
      inputs: [{ name: 'kind', label: 'Kind', type: 'text', required: true }],
      outputs: [],
    };
    const of = (kind: Operand, oneOf: string[] | undefined, offers: string[] = [], anyCase = true) =>
      checkItem(
        {
          fields: [
            { id: 'kind', kind: 'choice', label: 'What', required: true, options: offers.map((value) => ({ value, label: `A ${value}` })) },
            { id: 'words', kind: 'text', label: 'In words', required: true },
          ],
        },
        { steps: [step('provision', 'p', { action: 'x.lend', inputs: { kind } }), tell('t', 'T')] },
        { ...catalogue, actions: [{ ...lend, inputs: [{ ...lend.inputs[0]!, ...(oneOf && { oneOf, anyCase }) }] } as ActionSpec] },
      )
        .filter((f) => f.code === 'not-known-there')
        .map((f) => f.sentence);
    const known = ['Tablet', 'Lamp'];
    expect([of({ literal: 'tablet ' }, known), of({ literal: 'Sextant' }, undefined), of({ ref: 'form.words' }, known)]).toEqual([[], [], []]);
    expect(of({ ref: 'form.kind' }, known, ['Lamp', 'Tablet'])).toEqual([]);
    // A system of others is asked in the very letters.
    expect([of({ literal: 'Lamp' }, known, [], false), of({ literal: 'lamp' }, known, [], false).length]).toEqual([[], 1]);
    expect(of({ ref: 'form.kind' }, known, ['lamp', 'Tablet'], false)[0]).toContain('offers “A lamp”,');
    expect(of({ literal: 'Sextant' }, known)).toEqual(['Kind of “provision p” is “Sextant”, which is not known there (“Tablet”, “Lamp”).']);
    expect(of({ literal: 'Sextant' }, [])).toEqual(['Kind of “provision p” is “Sextant”, which is not known there (none is known yet).']);
    expect(of({ ref: 'form.kind' }, known, ['Lamp', 'Buoy', 'Oar'])).toEqual([
      '“What” offers “A Buoy”, “A Oar”, which is not known where “provision p” takes it as kind (“Tablet”, “Lamp”).',
    ]);
  });

  it('finds a secret that goes to nobody, or to something that is no person', () => {
    const { note: _, ...bare } = createAccount as StepOf<'provision'>;
    expect(found(bare, tell('t', 'T'))).toEqual([['secret-for-nobody', 'acc']]);
    const [finding] = checkItem(wideForm, { steps: [bare, tell('t', 'T')] }, catalogue);
    expect(finding).toMatchObject({
      severity: 'stops',
      sentence: '“provision acc” gives a secret (First password), and nobody gets the sealed note that it goes into.',
    });
    const note = (to: Operand) => ({ ...bare, note: { to, openFor: 'P3D' } });
    expect(found(note({ ref: 'form.cores' }), tell('t', 'T'))).toEqual([['wrong-type', 'acc']]);
    expect(found(note({ ref: 'form.gone' }), tell('t', 'T'))).toEqual([['unknown-reference', 'acc']]);
    expect(found(note({ literal: null }), tell('t', 'T'))).toEqual([['unset-setting', 'acc']]);
  });

  it('finds milestones that are never reached, and promises that cannot be kept', () => {
    const never = checkItem(
      wideForm,
      { steps: [tell('t', 'T'), finish('f', 'fulfilled'), step('mark', 'm', { shows: 'milestone', words: 'Ready' })] },
      catalogue,
    );
    expect(never).toMatchObject([{ code: 'never-reached', step: 'm', sentence: expect.stringContaining('milestone') }]);
    const slow = checkItem(wideForm, { steps: [gate({ deadline: 'P5D' }), tell('t', 'T')] }, catalogue, 'PT4H');
    expect(slow.map((f) => [f.code, f.step])).toEqual([
      ['promise', undefined],
      ['promise', 'owners'],
    ]);
    expect(slow[0]!.sentence).toBe('The longest way is expected to take 6 h 43 min; promised are 4 h, 2 h 43 min less.');
  });

  it('finds milestones that are promised before they are expected, or after the whole', () => {
    const plan = (promised: string): Plan => ({
      steps: [gate(), step('mark', 'm', { shows: 'milestone', words: 'Agreed', promised }), tell('t', 'T')],
    });
    const found = (promised: string, whole?: string) =>
      checkItem(wideForm, plan(promised), catalogue, whole)
        .filter((f) => f.step === 'm')
        .map((f) => f.sentence);
    expect(found('P2D', 'P5D')).toEqual([]);
    expect(found('PT1H')).toEqual([expect.stringMatching(/^“mark m” is expected \d.* after asking; promised are 1 h, .* less\.$/)]);
    expect(found('P6D', 'P5D')).toEqual([expect.stringMatching(/^“mark m” is promised within .*, and the whole request within .*\.$/)]);
  });

  it('mends what can be mended mechanically: carrying a mend out takes its finding away', () => {
    const plan: Plan = {
      steps: [
        gate({ nobody: undefined, ownRequest: 'allow', corrects: ['gone'] }),
        tell('a', 'Same'),
        tell('b', 'Same'),
        finish('f', 'fulfilled'),
        step('mark', 'm', { shows: 'status', words: 'Late' }),
      ],
    };
    let next = plan;
    for (let i = 0; i < 20; i++) {
      const fixable = checkItem(wideForm, next, wideCatalogue).find((f) => f.fix);
      if (!fixable) break;
      next = applyEdit(next, fixable.fix!.edit);
    }
    expect(checkItem(wideForm, plan, wideCatalogue).length).toBeGreaterThan(4);
    expect(checkItem(wideForm, next, wideCatalogue)).toEqual([]);
  });
});

describe('rules between fields', () => {
  const date = (id: string, label: string) => ({ id, kind: 'date' as const, label, required: false });
  const fields = [date('first', 'First day'), date('last', 'Last day'), { id: 'many', kind: 'number' as const, label: 'How many', required: true }];
  const after = { compare: 'more' as const, left: { ref: 'form.last' }, right: { ref: 'form.first' } };
  const rule: FormRule = { id: 'r', holds: after, field: 'last', sentence: 'Choose a later day.' };
  const told = (f: Form) => checkForm(f).map((x) => `${x.code}${x.rule ? ` ${x.rule}` : ''}: ${x.sentence}`);

  it('are whole, compare like with like, and stand at a field that is there', () => {
    expect(told({ fields, rules: [rule] })).toEqual([]);
    expect(told({ fields, rules: [{ id: 'r', sentence: '' }] })).toEqual([
      'unset-setting r: Rule 1 says nothing that must hold.',
      'unset-setting r: Rule 1 has no sentence for whoever breaks it.',
      'unset-setting r: Rule 1 names no field to stand at.',
    ]);
    expect(told({ fields, rules: [{ ...rule, holds: { ...after, right: { ref: 'form.many' } } }] })).toEqual([
      'wrong-type r: Rule 1 wants something that compares “Last day”, a date, with “How many”, a number.',
    ]);
  });

  it('over a field that was taken out say which; so does what a field is required by', () => {
    const left = withoutField({ fields, rules: [rule] }, 'first');
    expect(told(left)).toEqual(['unknown-reference r: Rule 1 wants something that reads “First day”, which the form does not ask any more.']);
    expect(told(withoutField({ fields, rules: [rule] }, 'last'))).toEqual([
      'unknown-reference r: Rule 1 names no field to stand at.',
      'unknown-reference r: Rule 1 wants something that reads “Last day”, which the form does not ask any more.',
    ]);
    const needs = { fields: [{ ...fields[0]!, requiredWhen: { has: { ref: 'form.last' } } }, fields[1]!] };
    expect(told(needs)).toEqual([]);
    expect(told(withoutField(needs, 'last'))).toEqual([
      'unknown-reference: “First day” is required under a condition that reads “Last day”, which the form does not ask any more.',
    ]);
    expect(told({ fields: [{ ...fields[0]!, required: true, requiredWhen: { has: { ref: 'form.last' } } }, fields[1]!] })).toEqual([
      'always-holds: “First day” is always required, so when it is required says nothing.',
    ]);
  });
});
