import { describe, expect, it } from 'vitest';
import type { Condition } from '../conditions/index.ts';
import { checkDefinition, blankItem, ItemDefinition } from '../items/index.ts';
import type { form } from '../testing/samples.ts';
import { catalogue, createAccount, finish, gate, add, step, tell, wideForm } from '../testing/samples.ts';
import { sentence } from '../values/index.ts';
import { analyseTime, outlineOf, placesByStep, type Block, type Catalogue, type Step } from '../plans/index.ts';
import { checkItem } from './index.ts';

const found = (steps: Block, f = wideForm, c = catalogue) => checkItem(f, { steps }, c).map((x) => [x.code, x.step] as const);
const codes = (steps: Block, f = wideForm, c = catalogue) => found(steps, f, c).filter(([code]) => code !== 'untold');
const is = (ref: string, literal: string | number | null): Condition => ({ compare: 'is', left: { ref }, right: { literal } });
const says = (id: string, ref: string): Step => ({ ...tell(id, `Tell ${id}`), body: [{ text: [[{ ref }]] }] }) as Step;
const forColleague = (id = 'add') => ({ ...add, id, name: id, inputs: { group: { ref: 'form.group' }, person: { ref: 'form.colleague' } } }) as Step;
const choose = (id: string, cases: [Condition, Block][], otherwise?: Block): Step =>
  step('choose', id, { cases: cases.map(([when, block], i) => ({ id: `c${i}`, name: `C${i}`, when, block })), ...(otherwise && { otherwise }) });

describe('what is certain, and is not any more', () => {
  const hasColleague: Condition = { has: { ref: 'form.colleague' } };

  it('after approvers may correct the answers, or the form may come back, what was known of them is forgotten', () => {
    const inside = (g: Step) => codes([choose('c', [[hasColleague, [g, forColleague()]]], []), tell('t', 'T')]);
    expect(inside(gate())).toEqual([]);
    expect(inside(gate({ corrects: ['colleague'] }))).toEqual([['may-have-no-value', 'add']]);
    expect(inside(gate({ sendBack: true }))).toEqual([['may-have-no-value', 'add']]);
  });

  it('beside a branch that may correct them, and in rounds after a round that may, nothing is learned', () => {
    const beside = (g: Step) =>
      codes([
        step('together', 's', {
          join: 'all',
          branches: [
            {
              id: 'a',
              name: 'A',
              block: [
                choose('c', [[hasColleague, [step('pause', 'p', { until: { span: { length: 'P1D', counted: 'always' } } }), forColleague()]]], []),
              ],
            },
            { id: 'b', name: 'B', block: [g] },
          ],
        }),
        tell('t', 'T'),
      ]);
    expect(beside(gate())).toEqual([]);
    expect(beside(gate({ sendBack: true }))).toEqual([['may-have-no-value', 'add']]);
    const rounds = (g: Step) =>
      codes([
        choose('c', [[hasColleague, [step('repeat', 'r', { body: [forColleague(), g], until: is('form.kind', 'daily'), tries: 3 })]]], []),
        tell('t', 'T'),
      ]);
    expect(rounds(gate())).toEqual([]);
    expect(rounds(gate({ corrects: ['colleague'] }))).toEqual([['may-have-no-value', 'add']]);
  });

  it('a list that was looked up may be empty, and is not where its number says so', () => {
    const look = step('find', 'f', { lookup: { find: 'teamMembers', team: 'desk' } });
    const all = { ...tell('all', 'Tell all'), to: { ref: 'steps.f.people' } } as Step;
    expect(codes([look, all, tell('t', 'T')])).toEqual([['may-have-no-value', 'all']]);
    for (const when of [
      { compare: 'more', left: { ref: 'steps.f.count' }, right: { literal: 0 } },
      { has: { ref: 'steps.f.people' } },
    ] as Condition[])
      expect(codes([look, choose('c', [[when, [all]]], []), tell('t', 'T')])).toEqual([]);
  });

  it('a repeat that may be cut by its deadline sets nothing for certain; one by tries has run its body', () => {
    const repeat = (more: object) => step('repeat', 'r', { body: [add], until: is('steps.add.note', 'done'), tries: 3, ...more });
    expect(codes([repeat({}), says('s', 'steps.add.already')])).toEqual([]);
    expect(codes([repeat({ deadline: { length: 'P1D', counted: 'always' } }), says('s', 'steps.add.already')])).toEqual([['may-have-no-value', 's']]);
    expect(codes([repeat({}), says('s', 'steps.add.note')])).toEqual([]);
  });
});

describe('what is certain after all', () => {
  it('a field that is required under a condition, wherever that condition holds', () => {
    const elsewhere: Condition = { compare: 'is', left: { ref: 'form.remote' }, right: { literal: true } };
    const mails = says('m', 'form.mail');
    expect(codes([mails, tell('t', 'T')])).toEqual([['may-have-no-value', 'm']]);
    expect(codes([choose('c', [[elsewhere, [mails]]], []), tell('t', 'T')])).toEqual([]);
    expect(codes([choose('c', [[elsewhere, [tell('x', 'X')]]], [mails]), tell('t', 'T')])).toEqual([['may-have-no-value', 'm']]);
  });

  const hasColleague: Condition = { has: { ref: 'form.colleague' } };
  it('in a passage shown under the condition, and not in the next', () => {
    const passage = (when?: Condition) => ({ ...(when && { when }), text: [[{ ref: 'form.colleague' }]] });
    expect(codes([{ ...tell('s', 'S'), body: [passage(hasColleague)] } as Step])).toEqual([]);
    expect(codes([{ ...tell('s', 'S'), body: [passage(hasColleague), passage()] } as Step])).toEqual([['may-have-no-value', 's']]);
  });
  it('in what remains when a case for “has none” was not taken', () => {
    expect(codes([choose('c', [[{ not: hasColleague }, []]], [forColleague()]), tell('t', 'T')])).toEqual([]);
    expect(
      codes([
        choose(
          'c',
          [
            [is('form.colleague', null), []],
            [is('form.kind', 'daily'), [forColleague()]],
          ],
          [],
        ),
        tell('t', 'T'),
      ]),
    ).toEqual([['overlap', 'c']]);
  });
  it('a field that is required wherever it is shown, where the same condition holds', () => {
    const project = is('form.kind', 'project');
    expect(codes([choose('c', [[project, [says('s', 'form.project')]]], [])])).toEqual([]);
    expect(codes([choose('c', [[{ all: [hasColleague, project] }, [says('s', 'form.project')]]], [])])).toEqual([]);
    expect(codes([choose('c', [[is('form.kind', 'daily'), [says('s', 'form.project')]]], [])])).toEqual([['may-have-no-value', 's']]);
  });
  it('behind a test for null in an expression, so that two ways can be merged into one value', () => {
    const merge = (feel: string) =>
      codes([
        choose('c', [[is('form.kind', 'daily'), [step('workOut', 'a', { feel: '1', type: 'number' })]]], []),
        step('workOut', 'm', { feel, type: 'number' }),
      ]);
    expect(merge('if steps.a.value != null then steps.a.value else 0')).toEqual([]);
    expect(merge('if steps.a.value != null then 0 else steps.a.value')).toEqual([['may-have-no-value', 'm']]);
  });
});

describe('what the check finds in conditions, literals and parts', () => {
  const repeat = (until: Condition) => codes([step('repeat', 'r', { body: [tell('b', 'B')], until, tries: 3 }), tell('t', 'T')]);
  it('the condition of a repeat: what does not exist, a secret, what can never or always holds', () => {
    expect(repeat({ has: { ref: 'steps.gone.value' } })).toEqual([['unknown-reference', 'r']]);
    expect(repeat(is('form.cores', 99))).toEqual([['never-holds', 'r']]);
    expect(repeat({ compare: 'atLeast', left: { ref: 'form.cores' }, right: { literal: 1 } })).toEqual([['always-holds', 'r']]);
    expect(codes([step('repeat', 'r', { body: [createAccount], until: { has: { ref: 'steps.acc.password' } }, tries: 2 })])).toContainEqual([
      'secret',
      'r',
    ]);
  });

  it.each<[Condition, string | undefined]>([
    [is('form.cores', 'two'), 'a number, with something that is none'],
    [{ compare: 'less', left: { ref: 'form.group' }, right: { literal: { group: 'g' } } }, 'a group has no order'],
    [is('form.crew', 'p1'), 'which is a list'],
    [{ has: { ref: 'form.crew' } }, undefined],
    [{ compare: 'is', left: { ref: 'form.cores' }, right: { ref: 'form.reason' } }, 'with “Why”, a text'],
    [{ compare: 'is', left: { ref: 'form.kind' }, right: { ref: 'form.reason' } }, undefined],
    [is('form.kind', 'monthly'), 'a choice that it does not offer'],
    [is('form.from', '2026-02-30'), 'something that is none'],
    [{ not: { all: [is('form.cores', 'two')] } }, 'something that is none'],
  ])('%j', (when, wrong) => {
    const all = checkItem(wideForm, { steps: [choose('c', [[when, [tell('a', 'A')]]], [tell('b', 'B')])] }, catalogue);
    expect(all.map((f) => f.sentence).join()).toEqual(wrong === undefined ? '' : expect.stringContaining(wrong));
  });

  it('values that are stated, by their type; and at least five in a team of three', () => {
    const stated = (literal: unknown) =>
      codes([{ ...add, inputs: { group: { literal }, person: { ref: 'request.requester' } } } as Step, tell('t', 'T')]);
    expect(stated({ group: 'g1' })).toEqual([]);
    expect(stated('g1')).toEqual([['wrong-type', 'add']]);
    expect(stated(null)).toEqual([['unset-setting', 'add']]);
    const team = (count: number) => codes([gate({ approvers: { from: 'team', team: 'desk' }, rule: { rule: 'atLeast', count } }), tell('t', 'T')]);
    expect(team(3)).toEqual([]);
    expect(team(5)).toEqual([['nobody-to-ask', 'owners']]);
  });

  it('inside a choice its own condition is known, also about places the step itself does not read', () => {
    const nested = choose(
      'out',
      [[is('form.kind', 'daily'), [choose('in', [[is('form.kind', 'project'), [tell('a', 'A')]]], [tell('b', 'B')])]]],
      [tell('d', 'D')],
    );
    expect(codes([nested])).toEqual([['never-holds', 'in']]);
    const beside = choose(
      'out',
      [
        [
          { all: [is('form.kind', 'daily'), { has: { ref: 'form.crew' } }] },
          [choose('in', [[{ compare: 'more', left: { ref: 'form.cores' }, right: { literal: 16 } }, [tell('a', 'A')]]], [tell('b', 'B')])],
        ],
      ],
      [tell('d', 'D')],
    );
    expect(codes([beside])).toEqual([['never-holds', 'in']]);
  });

  it('what is given where nobody has agreed before', () => {
    const granting: Catalogue = {
      ...catalogue,
      actions: catalogue.actions.map((a) => (a.id === 'directory.addMember' ? { ...a, grants: true } : a)),
    };
    const given = (steps: Block) => found([...steps, tell('z', 'Z')], wideForm, granting).filter(([code]) => code === 'ungated');
    expect(given([add])).toEqual([['ungated', 'add']]);
    expect(given([gate(), add])).toEqual([]);
    expect(given([gate({ declined: [] }), add])).toEqual([['ungated', 'add']]);
    expect(given([choose('c', [[is('form.kind', 'daily'), [gate()]]], []), add])).toEqual([['ungated', 'add']]);
    const side = (join: 'all' | 'first') =>
      step('together', 's', { join, branches: [gate(), tell('q', 'Q')].map((s, i) => ({ id: `b${i}`, name: `B${i}`, block: [s] })) });
    expect(given([side('all'), add])).toEqual([]);
    expect(given([side('first'), add])).toEqual([['ungated', 'add']]);
    expect(given([step('guard', 'g', { body: [gate(), tell('w', 'W')], remedy: [add] })])).toEqual([['ungated', 'add']]);
    const parts = { ...granting, parts: { p: { name: 'Access', inputs: [], outputs: [], steps: [add] } } };
    expect(found([step('part', 'call', { part: 'p', inputs: {} }), tell('z', 'Z')], wideForm, parts).filter(([c]) => c === 'ungated')).toEqual([
      ['ungated', 'call'],
    ]);
  });

  it('a part: what it gives back that does not exist or is of another kind, a secret it passes on, and itself inside itself', () => {
    const part = (outputs: ItemDefinition['outputs']) =>
      checkDefinition('part', { ...blankItem('P'), plan: { steps: [createAccount] }, outputs }, catalogue).map((f) => f.code);
    expect(part([{ name: 'pw', label: 'Password', type: 'text', from: { ref: 'steps.acc.password' } }])).toEqual([]);
    expect(part([{ name: 'pw', label: 'Password', type: 'text', from: { ref: 'steps.gone.password' } }])).toEqual(['unknown-reference']);
    expect(part([{ name: 'pw', label: 'Password', type: 'number', from: { ref: 'steps.acc.password' } }])).toEqual(['wrong-type']);
    const outputs = [{ name: 'pw', label: 'Password', type: 'text' as const, from: { ref: 'steps.acc.password' } }];
    const parts = { ...catalogue, parts: { p: { name: 'P', inputs: [], outputs, steps: [createAccount] } } };
    const call = step('part', 'call', { part: 'p', inputs: {} });
    expect(codes([call, says('s', 'steps.call.pw')], wideForm, parts)).toEqual([['secret', 's']]);
    // P as it is now uses Q, and Q uses P: known only where the catalogue holds what is being published.
    const q = { name: 'Q', inputs: [], outputs: [], steps: [step('part', 'x', { part: 'p', inputs: {} })] };
    const now = { name: 'P', inputs: [], outputs: [], steps: [step('part', 'y', { part: 'q', inputs: {} })] };
    expect(codes(now.steps, wideForm, { ...catalogue, parts: { p: now, q } })).toEqual([['circle', 'y']]);
  });

  it('a form: the same choice twice, a beginning it would not take, a condition of another kind', () => {
    const check = (fields: typeof form.fields) => checkItem({ fields }, { steps: [tell('t', 'T')] }, catalogue).map((f) => f.code);
    const pick = { id: 'x', kind: 'choice', label: 'X', required: true, options: ['a', 'a'].map((value) => ({ value, label: value })) } as const;
    expect(check([pick as never])).toEqual(['name-twice']);
    expect(check([{ id: 'n', kind: 'number', label: 'N', required: false, min: 2, default: 1 }])).toEqual(['wrong-type']);
    expect(
      check([
        { id: 'n', kind: 'number', label: 'N', required: true },
        { id: 'd', kind: 'text', label: 'D', required: false, visibleWhen: is('form.n', 'x') },
      ]),
    ).toEqual(['wrong-type']);
  });

  it('is bounded: so many steps, so deep', () => {
    const deep = (n: number): Step => (n === 0 ? tell('t', 'T') : choose(`c${n}`, [[is('form.kind', 'daily'), [deep(n - 1)]]]));
    const parse = (steps: Block) => ItemDefinition.safeParse({ ...blankItem('X'), plan: { steps } }).error?.issues[0]?.message;
    expect(parse([deep(10)])).toBeUndefined();
    expect(parse([deep(40)])).toBe('The plan is nested too deep.');
    const many = (n: number) => Array.from({ length: n }, (_, i) => tell(`t${i}`, `T ${i}`));
    expect(
      parse([
        choose(
          'a',
          Array.from({ length: 4 }, () => [is('form.kind', 'daily'), many(300)] as [Condition, Block]),
        ),
      ]),
    ).toBe('A plan has at most 1000 steps.');
  });
});

describe('time', () => {
  const takes = (id: string, length: string): Step =>
    step('task', id, {
      assignee: { team: 'desk' },
      instructions: [{ text: sentence('Do') }],
      checklist: [],
      fields: [],
      expected: { min: length, likely: length, max: length },
    } as never);
  const branchesOf = (...blocks: Block[]) => blocks.map((block, i) => ({ id: `b${i}`, name: `B${i}`, block }));
  it('of a first-done join counts its quickest branch', () => {
    const time = analyseTime({
      steps: [step('together', 's', { join: 'first', branches: branchesOf([takes('a', 'PT6H')], [takes('b', 'PT2H')]) }), takes('c', 'PT1H')],
    });
    expect([time.longest, time.mean, [...time.critical]]).toEqual([180, 180, ['s', 'b', 'c']]);
  });
  it('is not held up by a branch that ends the request', () => {
    const time = analyseTime({
      steps: [choose('c', [[is('form.kind', 'daily'), [takes('a', 'PT6H'), finish('f', 'declined')]]], [takes('b', 'PT2H')]), takes('d', 'PT5H')],
    });
    expect([time.longest, [...time.critical]]).toEqual([420, ['c', 'b', 'd']]);
    // Half of the requests end after six hours, half after seven.
    expect(time.mean).toBe(390);
  });
  it('of a part counts what is inside it', () => {
    const parts = { p: { name: 'P', inputs: [], outputs: [], steps: [takes('i', 'PT3H'), takes('j', 'PT1H')] } };
    const plan = { steps: [step('part', 'call', { part: 'p', inputs: {} }), takes('k', 'PT1H')] };
    for (const time of [analyseTime(plan, undefined, { ...catalogue, parts }), analyseTime({ ...plan, parts })])
      expect([time.longest, time.mean, [...time.critical]]).toEqual([300, 300, ['call', 'call/i', 'call/j', 'k']]);
  });
});

it('cases past the twenty-sixth are numbered aa, ab', () => {
  const plan = {
    steps: [
      choose(
        'c',
        Array.from({ length: 28 }, (_, i) => [is('form.cores', i), [tell(`t${i}`, `T${i}`)]] as [Condition, Block]),
      ),
    ],
  };
  const numbers = outlineOf(plan).flatMap((l) => (l.is === 'step' ? [l.number] : []));
  expect([numbers[1], numbers[26], numbers[27], numbers[28]]).toEqual(['1a.1', '1z.1', '1aa.1', '1ab.1']);
  expect(placesByStep(plan, wideForm, catalogue).at.size).toBe(29);
});
