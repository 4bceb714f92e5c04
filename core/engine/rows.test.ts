import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Block } from '../plans/index.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { obliging, play, playOut } from '../testing/player.ts';
import { add, gate, machines, step, tell } from '../testing/samples.ts';
import { rowId, type Value } from '../values/index.ts';
import { newState, openActivities, replay, RunEvent } from './index.ts';

/** A table that somebody changes while requests run: what stands in a row, at each reading. */
function kept() {
  const table: Record<string, Record<string, Value>> = structuredClone(machines);
  const read: string[] = [];
  return { table, read, cellsOf: (row: { table: string; key: string }) => (read.push(rowId(row)), table[rowId(row)] ?? null) };
}
const large = { table: 'machines', key: 'Large' };
const playing = (steps: Block, k = kept(), parts = {}) => play({ steps, parts }, {}, undefined, k.cellsOf);
const double = step('workOut', 'double', { feel: 'form.machine.processors * 2', type: 'number' });
const pause = (id: string) => step('pause', id, { until: { span: { length: 'P1D', counted: 'always' } } });
const said = (p: ReturnType<typeof play>) => p.effects.flatMap((e) => (e.effect === 'message' ? [e.body.values] : []));

describe('a column of a table row', () => {
  it('is read when it is used: a change of the table counts from the next step on', () => {
    const k = kept();
    const ask = step('task', 'ask', { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] });
    const p = playing([double, ask, { ...double, id: 'again' }], k);
    k.table['machines/Large']!['processors'] = 16;
    p.feed(obliging(p.open('ask')!)!);
    expect(p.effects.flatMap((e) => (e.effect === 'ended' && 'value' in e.outputs ? [e.outputs['value']] : []))).toEqual([16, 32]);
    expect(k.read).toEqual(['machines/Large', 'machines/Large']);
    expect(p.state().outcome).toBe('fulfilled');
  });

  it('stands in messages, conditions and approvers, and in the trace of what a step began with', () => {
    const p = playing([
      { ...tell('say', 'Say it'), body: [{ text: [[{ ref: 'form.machine' }, { text: ': ' }, { ref: 'form.machine.daily' }]] }] } as never,
      gate({ approvers: { from: 'person', person: { ref: 'form.machine.keeper' } } }),
      step('choose', 'big', {
        cases: [
          { id: 'yes', name: 'Big', when: { compare: 'atLeast', left: { ref: 'form.machine.processors' }, right: { literal: 8 } }, block: [add] },
        ],
      }),
    ]);
    expect(said(p)).toEqual([{ 'form.machine': large, 'form.machine.daily': { amount: '12.50', currency: 'EUR' } }]);
    p.feed(obliging(p.open('owners')!)!);
    expect(p.open('owners')!.asks).toMatchObject([{ person: 'o1' }, { person: 'o2' }]);
    expect(p.effects.find((e) => e.effect === 'find')).toMatchObject({ wanted: { from: 'people', people: ['p1'] } });
    p.feed(obliging(p.open('owners')!)!);
    expect(p.open('add')).toBeDefined();
  });

  it('of no row, or of one that is not there, has no value', () => {
    const has = (ref: string) =>
      step('choose', ref.split('.')[1]!, {
        cases: [{ id: 'yes', name: 'Yes', when: { has: { ref } }, block: [tell(`${ref.split('.')[1]}Told`, 'Tell')] }],
      });
    const k = kept();
    delete k.table['machines/Large'];
    const p = playing([has('form.machine.processors'), has('form.spare.processors')], k);
    expect(said(p)).toEqual([]);
    expect(k.read, 'nothing is asked of a row that is not named').toEqual(['machines/Large']);
  });

  it('is read anew by a stuck step that is tried again, by each test of a repeat, and at the end of a part', () => {
    const k = kept();
    k.table['machines/Large'] = {};
    const p = playing([double], k);
    const stuck = openActivities(p.state())[0]!;
    expect(stuck).toMatchObject({ phase: 'stuck' });
    k.table['machines/Large'] = { processors: 3 };
    p.feed({ type: 'retried', key: stuck.key, person: 'tech' });
    expect(p.effects.at(-2)).toMatchObject({ effect: 'ended', outputs: { value: 6 } });
    expect(p.effects.filter((e) => e.effect === 'began')).toHaveLength(1);

    const more = kept();
    more.table['machines/Large'] = { processors: 1 };
    const again = playing(
      [
        step('repeat', 'grow', {
          body: [tell('round', 'Round')],
          until: { compare: 'atLeast', left: { ref: 'form.machine.processors' }, right: { literal: 4 } },
          tries: 9,
          pause: { length: 'PT1H', counted: 'always' },
        }),
      ],
      more,
    );
    for (let n = 2; n <= 4; n++) {
      more.table['machines/Large'] = { processors: n };
      again.until(again.nextTimer()!.at);
    }
    expect(again.state().outputs['grow']).toEqual({ tries: 4 });

    const inside = kept();
    const part = {
      name: 'Sizes',
      inputs: [{ name: 'machine', label: 'Machine', type: 'row' as const, required: true, table: 'machines' }],
      outputs: [{ name: 'cores', label: 'Processors', type: 'number' as const, from: { ref: 'part.machine.processors' } }],
      steps: [pause('wait')],
    };
    const outer = playing([step('part', 'use', { part: 'sizes', inputs: { machine: { ref: 'form.machine' } } })], inside, { sizes: part });
    inside.table['machines/Large'] = { processors: 5 };
    outer.until(outer.nextTimer()!.at);
    expect(outer.state().outputs['use']).toEqual({ cores: 5 });
  });

  it('of a row of a list is that of the round', () => {
    const p = play(
      {
        steps: [
          step('forEach', 'each', {
            list: { ref: 'steps.found.rows' },
            body: [step('workOut', 'w', { feel: 'row.value.processors', type: 'number' })],
          }),
        ],
      },
      {},
    );
    expect(p.state().outcome, 'a list that is nowhere has no rows').toBe('fulfilled');
    const rows = ['Small', 'Large'].map((key) => ({ table: 'machines', key }));
    const two = play({
      steps: [
        step('task', 'found', { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] }),
        step('forEach', 'each', {
          list: { ref: 'steps.found.rows' },
          body: [step('workOut', 'w', { feel: 'row.value.processors', type: 'number' })],
        }),
      ],
    });
    two.feed({ type: 'taskDone', key: two.open('found')!.key, person: 'tech', values: { rows } });
    expect(two.effects.flatMap((e) => (e.effect === 'ended' && 'value' in e.outputs ? [e.outputs['value']] : []))).toEqual([1, 8]);
  });

  it('is not asked for by a step that ended in the same breath; rows nobody waits for change nothing', () => {
    const p = playing([
      step('together', 'both', {
        join: 'first',
        branches: [
          { id: 'a', name: 'A', block: [double, pause('on')] },
          { id: 'b', name: 'B', block: [] },
        ],
      } as never),
    ]);
    expect(p.effects.filter((e) => e.effect === 'readRows')).toEqual([]);
    expect(p.effects.some((e) => (e.effect === 'began' || e.effect === 'ended') && e.key.startsWith('double'))).toBe(false);
    const q = playing([pause('on')]);
    expect(q.feed({ type: 'rowsRead', key: q.open('on')!.key, rows: [{ ...large, cells: {} }] })).toEqual([
      { effect: 'ignored', reason: 'not-open' },
    ]);
  });
});

it('any plan, with a table that changes at every reading: the events alone give the same state, and every event can be kept', () => {
  fc.assert(
    fc.property(anyPlan, (plan) => {
      let n = 0;
      const p = play(plan, {}, undefined, (row) => {
        const cells = machines[rowId(row)];
        return ++n % 5 === 0 || !cells ? null : { ...cells, processors: n };
      });
      playOut(p);
      for (const { event } of p.events) expect(RunEvent.parse(JSON.parse(JSON.stringify(event)))).toEqual(JSON.parse(JSON.stringify(event)));
      expect(replay(plan, p.events, newState())).toEqual(p.state());
      expect(openActivities(p.state()).filter((a) => a.phase === 'reading')).toEqual([]);
    }),
    { numRuns: 300 },
  );
});
