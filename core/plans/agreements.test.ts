import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { play, playOut } from '../testing/player.ts';
import { add, answers, anyPlan, finish, gate, step, tell } from '../testing/samples.ts';
import { agreements, type Block, type Plan } from './index.ts';

const project = { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } } as const;
const already = { compare: 'is', left: { ref: 'steps.add.already' }, right: { literal: true } } as const;
const g = (id: string) => gate({ id, name: id });
const raised = (plan: Plan, given: Record<string, string> = {}) => agreements(plan, given).map((a) => `${a.gate.id}${a.certain ? '' : '?'}`);
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
    expect(raised({ steps: [add, choose([[already, [finish('no', 'declined')]]]), g('last')] })).toEqual(['last']);
    const both = [finish('a', 'declined')];
    expect(raised({ steps: [add, choose([[already, both]], [finish('b', 'declined')]), g('last')] })).toEqual([]);
  });

  it('looks into side-by-side branches, rounds, guards and parts', () => {
    const branches = (join: 'all' | 'first') =>
      step('together', 't', { join, branches: ['x', 'y'].map((id) => ({ id, name: id, block: [g(`gate${id}`)] })) });
    expect(raised({ steps: [branches('all')] })).toEqual(['gatex', 'gatey']);
    expect(raised({ steps: [branches('first')] })).toEqual(['gatex?', 'gatey?']);
    expect(raised({ steps: [step('forEach', 'e', { list: { ref: 'form.crew' }, body: [g('each')] })] })).toEqual(['each?']);
    const guard = step('guard', 'gu', {
      body: [g('inside')],
      remedy: [g('remedy')],
      deadline: { length: 'P1D', counted: 'always' },
      late: [g('late')],
    });
    expect(raised({ steps: [guard] })).toEqual(['inside', 'remedy?', 'late?']);
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
        const met = player.effects.flatMap((e) => (e.effect === 'openGate' ? [e.key.replace(/#.*/, '').split('/').at(-1)!] : []));
        const named = new Set(agreements(plan, answers).map((a) => a.gate.id));
        expect(met.filter((id) => !named.has(id))).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });

  it('raises nothing for a plan without gates', () => {
    expect(raised({ steps: [add, tell('end', 'End')] })).toEqual([]);
  });
});
