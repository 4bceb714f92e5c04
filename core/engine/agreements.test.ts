import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { obliging, play, playOut } from '../testing/player.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { add, answers, finish, gate, machines, step, tell } from '../testing/samples.ts';
import type { Block, Plan } from '../plans/index.ts';
import { rowId, type Row } from '../values/index.ts';
import { agreements, foreseenIn, openActivities } from './index.ts';

const project = { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } } as const;
const already = { compare: 'is', left: { ref: 'steps.add.already' }, right: { literal: true } } as const;
const cells = (row: Row) => machines[rowId(row)];
const g = (id: string) => gate({ id, name: id });
const raised = (plan: Plan, given: Record<string, string> = {}) =>
  agreements(plan, given, 'req', cells).map((a) => `${a.gate.id}${a.certain ? '' : '?'}`);
const choose = (cases: [condition: typeof project | typeof already, block: Block][], otherwise?: Block) =>
  step('choose', 'c', {
    cases: cases.map(([when, block], i) => ({ id: `case${i}`, name: `Case ${i}`, when, block })),
    ...(otherwise && { otherwise }),
  });

describe('what must be agreed', () => {
  it('follows the answers where a choice reads only them', () => {
    const plan = { steps: [choose([[project, [g('lead')]]], [g('owner')]), g('last')] };
    expect(raised(plan, { kind: 'project' })).toEqual(['lead', 'last']);
    expect(raised(plan, { kind: 'daily' })).toEqual(['owner', 'last']);
  });

  it('names every case of a choice that is decided only later, and none of them as certain', () => {
    const plan = { steps: [add, choose([[already, [g('again')]]], [g('fresh')]), g('last')] };
    expect(raised(plan)).toEqual(['again?', 'fresh?', 'last']);
    expect(
      raised(
        {
          steps: [
            add,
            choose(
              [
                [already, [g('again')]],
                [project, [g('lead')]],
              ],
              [g('fresh')],
            ),
          ],
        },
        { kind: 'project' },
      ),
    ).toEqual(['again?', 'lead?']);
  });

  it('stops where the answers lead to an end', () => {
    const plan = { steps: [choose([[project, [finish('no', 'declined')]]]), g('last')] };
    expect(raised(plan, { kind: 'project' })).toEqual([]);
    expect(raised(plan, { kind: 'daily' })).toEqual(['last']);
    expect(raised({ steps: [add, choose([[already, [finish('no', 'declined')]]]), g('last')] })).toEqual(['last?']);
    const both = [finish('a', 'declined')];
    expect(raised({ steps: [add, choose([[already, both]], [finish('b', 'declined')]), g('last')] })).toEqual([]);
  });

  it('looks into side-by-side branches, rounds, guards and parts', () => {
    const branches = (join: 'all' | 'first') =>
      step('together', 't', { join, branches: ['x', 'y'].map((id) => ({ id, name: id, block: [g(`gate${id}`)] })) });
    expect(raised({ steps: [branches('all')] })).toEqual(['gatex', 'gatey']);
    expect(raised({ steps: [branches('first')] })).toEqual(['gatex?', 'gatey?']);
    const each = { steps: [step('forEach', 'e', { list: { ref: 'form.crew' }, body: [g('each')] })] };
    expect(raised(each)).toEqual([]);
    expect(raised(each, { crew: ['a', 'b'] as never })).toEqual(['each', 'each']);
    expect(raised({ steps: [step('forEach', 'e', { list: { ref: 'steps.add.people' }, body: [g('each')] })] })).toEqual(['each?']);
    const guard = step('guard', 'gu', {
      body: [g('inside')],
      remedy: [g('remedy')],
      deadline: { length: 'P1D', counted: 'always' },
      late: [g('late')],
    });
    expect(raised({ steps: [guard] })).toEqual(['inside', 'remedy?', 'late?']);
    // The deadline of a guard further out cuts what a guard inside it holds, too.
    const pause = step('pause', 'p', { until: { date: { ref: 'form.from' } } });
    const late = step('guard', 'outer', {
      body: [step('guard', 'inner', { body: [pause], remedy: [] })],
      remedy: [step('finish', 'no', { outcome: 'declined' })],
      deadline: { length: 'PT2H', counted: 'working' },
    });
    expect(raised({ steps: [late, g('later')] })).toEqual(['later?']);
    // Its body ends the request; cut by its deadline and taken over by hand, it goes on.
    const cut = step('repeat', 'r', {
      body: [step('finish', 'f', { outcome: 'declined' })],
      until: { has: { ref: 'form.reason' } },
      deadline: { length: 'PT2H', counted: 'working' },
    });
    expect(raised({ steps: [cut, g('after')] })).toEqual(['after?']);
    const parts = { p: { name: 'P', inputs: [], outputs: [], steps: [g('within')] } };
    expect(raised({ steps: [step('part', 'use', { part: 'p', inputs: {} })], parts })).toEqual(['within']);
    const circle = { p: { name: 'P', inputs: [], outputs: [], steps: [g('within'), step('part', 'again', { part: 'p', inputs: {} })] } };
    expect(raised({ steps: [step('part', 'use', { part: 'p', inputs: {} })], parts: circle })).toHaveLength(8);
  });

  it('has every gate that a run meets while all agree, on any plan', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const player = play(plan);
        playOut(player);
        // What is done before it ends otherwise is not what was asked for.
        const ending = player.effects.findIndex((e) => 'key' in e && e.key === 'ending');
        const asked = ending < 0 ? player.effects : player.effects.slice(0, ending);
        const met = asked.flatMap((e) => (e.effect === 'openGate' ? [e.key.replace(/#.*/, '').split('/').at(-1)!] : []));
        const named = new Set(agreements(plan, answers, 'req', cells).map((a) => a.gate.id));
        expect(met.filter((id) => !named.has(id))).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });

  it('calls certain only what every run meets while all agree: whatever systems answer, and however late it gets', () => {
    let certain = 0;
    let ended = 0;
    fc.assert(
      fc.property(anyPlan, fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 60, maxLength: 60 }), (plan, rolls) => {
        const player = play(plan);
        const roll = () => rolls.shift() ?? 9;
        for (let i = 0; i < 300 && player.state().status === 'open'; i++) {
          const open = openActivities(player.state());
          const r = roll();
          const timer = player.timers().find((t) => ['over', 'again', 'deadline'].includes(t.name));
          // A look-up is answered in the transaction that asks for it: nothing comes between.
          const a = open.find((x) => x.phase === 'finding') ?? open[r % Math.max(1, open.length)];
          if (timer && a?.phase !== 'finding' && (r < 3 || !a || ['pausing', 'between'].includes(a.phase)))
            player.feed({ type: 'timer', key: timer.key, name: timer.name });
          else if (a?.phase === 'calling' && r < 5) player.feed({ type: 'callFailed', key: a.key, cause: 'down' });
          else if (a?.phase === 'stuck') player.feed({ type: 'retried', key: a.key, person: 'tech' });
          else {
            const event = a && obliging(a, { already: r % 2 === 0 });
            if (event) player.feed(event);
          }
        }
        if (player.state().status !== 'ended') return;
        ended++;
        const met = new Set(player.effects.flatMap((e) => (e.effect === 'openGate' ? [e.step] : [])));
        const sure = agreements(plan, answers, 'req', cells).filter((a) => a.certain);
        certain += sure.length;
        expect(sure.filter((a) => !met.has(a.gate.id)).map((a) => a.gate.id)).toEqual([]);
      }),
      { numRuns: 250 },
    );
    expect(certain).toBeGreaterThan(30);
    expect(ended).toBeGreaterThan(100);
  });

  it('whom a gate asks is what the run looks up: rows of a list, what a part is given, a chain by its amount', () => {
    const wanted = (steps: Block, parts = {}) => agreements({ steps, parts }, answers, 'req', cells).map((a) => a.wanted);
    const by = (ref: string) => gate({ id: 'x', approvers: { from: 'person', person: { ref } } });
    expect(wanted([step('forEach', 'e', { list: { ref: 'form.crew' }, body: [by('row.value')] })])).toEqual(
      ['p1', 'p2', 'p3'].map((p) => ({ from: 'people', people: [p] })),
    );
    const parts = { p: { name: 'P', inputs: [], outputs: [], steps: [by('part.who')] } };
    expect(wanted([step('part', 'use', { part: 'p', inputs: { who: { ref: 'request.requester' } } })], parts)).toEqual([
      { from: 'people', people: ['req'] },
    ]);
    expect(wanted([by('form.machine.keeper'), by('form.spare.keeper')])).toEqual([{ from: 'people', people: ['p1'] }, 'nobody']);
    expect(wanted([by('steps.later.person')])).toEqual([undefined]);
    expect(wanted([by('form.colleague')])).toEqual(['nobody']);
    const chain = { from: 'chain' as const, person: { ref: 'request.requester' }, levels: 3, amount: { ref: 'form.cores' }, limits: [1, 5] };
    expect(wanted([gate({ approvers: chain })])).toEqual([{ from: 'chain', person: 'req', levels: 2 }]);
  });

  it('after approvers may have corrected the answers, no choice by them is decided', () => {
    const plan = { steps: [gate({ id: 'first', corrects: ['kind'] }), choose([[project, [g('lead')]]], [g('owner')])] };
    expect(raised(plan, { kind: 'project' })).toEqual(['first', 'lead?', 'owner?']);
  });

  it('a call that may fail in a guard makes what stands behind it there, and what its remedy ends, uncertain', () => {
    const guard = (remedy: Block) => ({ steps: [step('guard', 'gu', { body: [add, g('inside')], remedy }), g('after')] });
    expect(raised(guard([]))).toEqual(['inside?', 'after']);
    expect(raised(guard([finish('no', 'failed')]))).toEqual(['inside?', 'after?']);
  });

  it('raises nothing for a plan without gates', () => {
    expect(raised({ steps: [add, tell('end', 'End')] })).toEqual([]);
  });
});

describe('what systems will be asked to do', () => {
  const choose = (when: object, block: Block) => step('choose', 'c', { cases: [{ id: 'x', name: 'X', when: when as never, block }], otherwise: [] });
  const acts = (steps: Block, given: Record<string, string> = {}) =>
    foreseenIn({ steps }, given, 'req', cells).acts.map((a) => [a.certain, a.inputs, a.from]);
  const from = { group: 'form.group', person: 'request.requester' };
  const inputs = { group: 'tides', person: { person: 'req' } };

  it('is told with what it is done and where that is picked from; in a case that is not taken it is not', () => {
    expect(acts([add], { group: 'tides' })).toEqual([[true, inputs, from]]);
    expect(acts([choose(project, [add])], { group: 'tides', kind: 'project' })).toEqual([[true, inputs, from]]);
    expect(acts([choose(project, [add])], { group: 'tides', kind: 'daily' })).toEqual([]);
    expect(acts([finish('no', 'declined'), add], { group: 'tides' })).toEqual([]);
  });

  it('is not certain where it hangs on what comes later, or on an answer that approvers may still correct', () => {
    expect(acts([add, choose(already, [{ ...add, id: 'again' }])], { group: 'tides' }).map(([certain]) => certain)).toEqual([true, false]);
    const later = { ...add, inputs: { ...(add as { inputs: object }).inputs, group: { ref: 'steps.which.group' } } } as never;
    expect(acts([later])).toEqual([[false, { group: undefined, person: { person: 'req' } }, { ...from, group: 'steps.which.group' }]]);
    expect(acts([gate({ corrects: ['group'] }), add], { group: 'tides' }).map(([certain, i]) => [certain, (i as typeof inputs).group])).toEqual([
      [false, undefined],
    ]);
  });
});
