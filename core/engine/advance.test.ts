import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan, gate, joinGroup, tell } from '../testing/samples.ts';
import type { Plan, Step } from '../plans/index.ts';
import { advance, newState, openActivities, replay, RunState, type Effect, type RunEvent } from './index.ts';

const now = '2026-03-02T09:00:00Z';
const begin: RunEvent = {
  type: 'begin',
  requester: { person: 'req' },
  number: 'R-1',
  answers: { group: { group: 'g1' }, reason: 'x', kind: 'daily' },
};
const found = (...people: string[]): RunEvent => ({ type: 'found', key: 'owners#1', people: people.map((person) => ({ person })) });
const decide = (person: string, decision: 'approve' | 'decline', comment = ''): RunEvent => ({
  type: 'decided',
  key: 'owners#1',
  person,
  decision,
  comment,
});

function run(plan: Plan, ...events: RunEvent[]): { state: RunState; effects: Effect[]; last: Effect[] } {
  let state = newState();
  const effects: Effect[] = [];
  let last: Effect[] = [];
  for (const event of events) {
    const next = advance(plan, state, event, now);
    state = next.state;
    last = next.effects;
    effects.push(...last);
  }
  return { state, effects, last };
}
const named = (effects: Effect[]) => effects.map((e) => e.effect);

describe('a run', () => {
  it('approved: asks the owners, calls the directory, tells, is fulfilled', () => {
    const { state, effects } = run(joinGroup, begin, found('o1', 'o2'), decide('o1', 'approve', 'Fine'), {
      type: 'answered',
      key: 'add#1',
      outputs: { already: false },
    });
    expect(named(effects)).toEqual([
      'began',
      'find',
      'openGate',
      'decision',
      'closeGate',
      'ended',
      'began',
      'call',
      'ended',
      'began',
      'ended',
      'began',
      'message',
      'ended',
      'finished',
    ]);
    expect(state).toMatchObject({
      status: 'ended',
      outcome: 'fulfilled',
      outputs: { owners: { outcome: 'approved', decidedBy: { person: 'o1' }, comment: 'Fine' } },
    });
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'ended', key: 'which#1', taken: 'otherwise', notTaken: ['was'] }));
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'message', key: 'welcome#1', to: 'req', values: { 'request.number': 'R-1' } }));
  });

  it('declined: tells why, never calls, ends as declined with the words', () => {
    const { state, effects } = run(joinGroup, begin, found('o1'), decide('o1', 'decline', 'Not your survey'));
    expect(state).toMatchObject({ status: 'ended', outcome: 'declined', reason: 'Not your survey' });
    expect(named(effects)).not.toContain('call');
    expect(named(effects)).toContain('message');
  });

  it('declined without a block: the engine tells the requester itself', () => {
    const { state, effects } = run({ steps: [gate()] }, begin, found('o1'), decide('o1', 'decline', 'No'));
    expect(state.outcome).toBe('declined');
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'message', to: 'req', body: [[{ text: 'No' }]] }));
  });

  it('takes the first of two decisions; the second is ignored with a reason and changes nothing', () => {
    const first = run(joinGroup, begin, found('o1', 'o2'), decide('o1', 'approve'));
    const second = advance(joinGroup, first.state, decide('o2', 'decline'), now);
    expect(second).toEqual({ state: first.state, effects: [{ effect: 'ignored', reason: 'not-open' }] });
    expect(advance(joinGroup, first.state, decide('o1', 'approve'), now).effects).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });

  it('nobody to ask: asks someone else, passes or fails as the gate states; unstated it is stuck, never silent', () => {
    expect(run(joinGroup, begin, found()).last).toContainEqual(expect.objectContaining({ effect: 'openGate', asks: [{ person: 'ada' }] }));
    expect(run({ steps: [gate({ nobody: { then: 'pass' } }), tell('t', 'T')] }, begin, found()).state.outcome).toBe('fulfilled');
    const failed = run({ steps: [gate({ nobody: { then: 'fail' } })] }, begin, found());
    expect(failed.state.outcome).toBe('failed');
    expect(named(failed.last)).toContain('message');
    expect(openActivities(run({ steps: [gate({ nobody: undefined })] }, begin, found()).state)).toMatchObject([{ phase: 'stuck' }]);
  });

  it('the requester among the approvers is skipped, replaced by the manager, or allowed, as the gate says', () => {
    const asks = (ownRequest: 'skip' | 'manager' | 'allow') =>
      run({ steps: [gate({ ownRequest })] }, begin, {
        type: 'found',
        key: 'owners#1',
        people: [
          { person: 'req', manager: 'boss' },
          { person: 'o1', delegate: 'd1' },
        ],
      }).state.root.current?.asks;
    expect(asks('skip')).toEqual([{ person: 'd1', insteadOf: 'o1' }]);
    expect(asks('manager')).toEqual([
      { person: 'boss', insteadOf: 'req' },
      { person: 'd1', insteadOf: 'o1' },
    ]);
    expect(asks('allow')).toEqual([{ person: 'req' }, { person: 'd1', insteadOf: 'o1' }]);
  });

  it('a call that failed for good is stuck with its cause; a retry is a new call with a new round', () => {
    const stuck = run(joinGroup, begin, found('o1'), decide('o1', 'approve'), { type: 'callFailed', key: 'add#1', cause: 'The directory refused' });
    expect(openActivities(stuck.state)).toMatchObject([{ key: 'add#1', phase: 'stuck', cause: 'The directory refused' }]);
    const again = advance(joinGroup, stuck.state, { type: 'retried', key: 'add#1', person: 'tech' }, now);
    expect(again.effects).toMatchObject([{ effect: 'call', key: 'add#1', round: 1 }]);
    expect(advance(joinGroup, again.state, { type: 'answered', key: 'add#1', outputs: { already: false } }, now).state.outcome).toBe('fulfilled');
  });

  it('withdrawn by its requester: open work is closed; by anybody else: ignored', () => {
    const open = run(joinGroup, begin, found('o1', 'o2'));
    expect(advance(joinGroup, open.state, { type: 'withdrawn', person: 'o1' }, now).effects).toEqual([{ effect: 'ignored', reason: 'not-yours' }]);
    const { state, effects } = advance(joinGroup, open.state, { type: 'withdrawn', person: 'req' }, now);
    expect(state.outcome).toBe('withdrawn');
    expect(effects).toMatchObject([{ effect: 'closeGate', result: 'withdrawn' }, { effect: 'ended', end: 'withdrawn' }, { effect: 'finished' }]);
    const calling = run(joinGroup, begin, found('o1'), decide('o1', 'approve'), { type: 'withdrawn', person: 'req' });
    expect(calling.last).toContainEqual({ effect: 'cancelCall', key: 'add#1' });
  });

  it.each<[string, Step['kind'] extends never ? never : { rule: 'all' | 'any' | 'first' } | { rule: 'atLeast'; count: number }, string, string]>([
    // Common practice, no source: 2 of 3 and 2 of 5.
    ['2 of 3', { rule: 'atLeast', count: 2 }, 'ad', 'open'],
    ['2 of 3', { rule: 'atLeast', count: 2 }, 'ada', 'approved'],
    ['2 of 3', { rule: 'atLeast', count: 2 }, 'dd', 'declined'],
    ['all', { rule: 'all' }, 'aa', 'open'],
    ['all', { rule: 'all' }, 'aaa', 'approved'],
    ['all', { rule: 'all' }, 'd', 'declined'],
    ['any', { rule: 'any' }, 'dd', 'open'],
    ['any', { rule: 'any' }, 'dda', 'approved'],
    ['any', { rule: 'any' }, 'ddd', 'declined'],
    ['first', { rule: 'first' }, 'd', 'declined'],
  ])('rule %s with three approvers, %#', (_, rule, replies, result) => {
    const decisions = [...replies].map((r, i) => decide(`o${i}`, r === 'a' ? 'approve' : 'decline'));
    const { state } = run({ steps: [gate({ rule })] }, begin, found('o0', 'o1', 'o2'), ...decisions);
    expect(state.outputs['owners']?.['outcome'] ?? 'open').toBe(result);
  });
});

describe('any plan under any order of events', () => {
  const people = ['req', 'o1', 'o2', 'ada', 'boss'];
  const step = fc.record({
    pick: fc.nat(),
    person: fc.constantFrom(...people),
    what: fc.integer({ min: 0, max: 9 }),
    yes: fc.boolean(),
    n: fc.integer({ min: 0, max: 3 }),
  });

  it('ends or waits for someone; replay equals the snapshot; what ended has nothing open; what it took stays', () => {
    let ended = 0;
    fc.assert(
      fc.property(anyPlan, fc.array(step, { maxLength: 25 }), (plan, moves) => {
        const events: { event: RunEvent; at: string }[] = [{ event: begin, at: now }];
        let state = advance(plan, newState(), begin, now).state;
        for (const move of moves) {
          const open = openActivities(state);
          if (state.status === 'open') expect(open.length).toBeGreaterThan(0);
          else expect([state.root, state.outcome !== undefined]).toEqual([{ at: 0 }, true]);
          const event = eventFor(open[move.pick % Math.max(1, open.length)], move);
          const next = advance(plan, state, event, now);
          if (next.effects[0]?.effect === 'ignored') expect(next.state).toBe(state);
          state = next.state;
          events.push({ event, at: now });
          expect(RunState.safeParse(state).success).toBe(true);
        }
        if (state.status === 'ended') ended++;
        expect(replay(plan, events, newState())).toEqual(state);
      }),
      { numRuns: 400 },
    );
    expect(ended).toBeGreaterThan(100);
  });

  it('every step that began also ends, once, when the run has ended', () => {
    fc.assert(
      fc.property(anyPlan, fc.array(step, { maxLength: 25 }), (plan, moves) => {
        const effects: Effect[] = [];
        let state = newState();
        const feed = (event: RunEvent) => {
          const next = advance(plan, state, event, now);
          state = next.state;
          effects.push(...next.effects);
        };
        feed(begin);
        for (const move of moves) feed(eventFor(openActivities(state)[0], move));
        feed({ type: 'withdrawn', person: 'req' });
        const count = (name: 'began' | 'ended') => effects.flatMap((e) => (e.effect === name ? [e.key] : [])).sort();
        expect(count('ended')).toEqual(count('began'));
        expect(effects.filter((e) => e.effect === 'finished')).toHaveLength(1);
      }),
      { numRuns: 300 },
    );
  });

  function eventFor(
    open: ReturnType<typeof openActivities>[number] | undefined,
    m: { person: string; what: number; yes: boolean; n: number },
  ): RunEvent {
    const key = open?.key ?? 'none#1';
    if (m.what === 9) return { type: 'withdrawn', person: m.person };
    if (m.what === 8) return begin;
    if (open?.phase === 'finding' && m.what > 1)
      return { type: 'found', key, people: people.slice(m.n).map((person) => ({ person, ...(m.yes && { manager: 'boss' }) })) };
    if (open?.phase === 'calling' && m.what > 1)
      return m.yes || m.what > 4 ? { type: 'answered', key, outputs: { already: m.yes } } : { type: 'callFailed', key, cause: 'down' };
    if (open?.phase === 'stuck' && m.what > 1) return { type: 'retried', key, person: m.person };
    return {
      type: 'decided',
      key,
      person: m.what > 4 ? (open?.asks?.[0]?.person ?? m.person) : m.person,
      decision: m.yes ? 'approve' : 'decline',
      comment: '',
    };
  }
});
