import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileHours, usualHours, type Calendar } from '../calendar/index.ts';
import { meetingTime, play, playOut, type Player } from '../testing/player.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { add, answers, createAccount, gate, joinGroup, tell } from '../testing/samples.ts';
import type { Plan, Step, StepOf } from '../plans/index.ts';
import { givenId } from '../steps/index.ts';
import { advance, newState, openActivities, replay, RunState, type Effect, type RunEvent } from './index.ts';
import { undoActivities } from './state.ts';

const now = '2026-03-02T09:00:00Z';
const begin: RunEvent = {
  type: 'begin',
  requester: { person: 'req' },
  number: 'R-1',
  zone: 'Atlantic/Faroe',
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
      'gave',
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
    expect(effects).toContainEqual(
      expect.objectContaining({
        effect: 'message',
        key: 'welcome#1',
        to: 'req',
        body: { text: [[{ text: 'Number ' }, { ref: 'request.number' }]], values: { 'request.number': 'R-1' } },
      }),
    );
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
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'message', to: 'req', body: { text: [[{ text: 'No' }]], values: {} } }));
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
    expect(again.effects).toMatchObject([
      { effect: 'retry', key: 'add#1' },
      { effect: 'call', key: 'add#1', round: 1 },
    ]);
    expect(advance(joinGroup, again.state, { type: 'answered', key: 'add#1', outputs: { already: false } }, now).state.outcome).toBe('fulfilled');
  });

  it('a secret goes to whoever is there when the call is made; where there is nobody none is made', () => {
    const make = (to: string) => ({
      steps: [{ ...(createAccount as StepOf<'provision'>), note: { to: { ref: to }, openFor: 'P3D' } }, tell('end', 'End')],
    });
    expect(run(make('request.requester'), begin).effects).toContainEqual(
      expect.objectContaining({ effect: 'call', note: { to: 'req', openFor: 'P3D' } }),
    );
    const { state, effects } = run(make('form.colleague'), begin);
    expect(named(effects)).not.toContain('call');
    expect(openActivities(state)).toMatchObject([{ phase: 'stuck', cause: 'There is nobody whom the sealed note of “provision acc” could go to.' }]);
  });

  it('what has no value when a system is asked is not given', () => {
    const group = { ref: 'form.group' };
    const asked = run(
      { steps: [{ ...(add as StepOf<'provision'>), inputs: { group, person: { ref: 'form.colleague' } } }, tell('end', 'End')] },
      begin,
    );
    expect(asked.effects).toContainEqual(expect.objectContaining({ effect: 'call', inputs: { group: { group: 'g1' } } }));
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
  const move = fc.record({
    pick: fc.nat(),
    person: fc.constantFrom(...people),
    what: fc.integer({ min: 0, max: 19 }),
    yes: fc.boolean(),
    n: fc.integer({ min: 0, max: 3 }),
  });
  type Move = { pick: number; person: string; what: number; yes: boolean; n: number };

  it('ends or waits for someone; replay equals the snapshot; what ended has nothing open but its undo; what it took stays', () => {
    let ended = 0;
    fc.assert(
      fc.property(anyPlan, fc.array(move, { maxLength: 30 }), (plan, moves) => {
        const player = play(plan);
        for (const m of moves) {
          const before = player.state();
          const open = openActivities(before);
          if (before.status === 'open') expect(open.length).toBeGreaterThan(0);
          else
            expect([before.root, before.outcome !== undefined, open.every((a) => a.key.startsWith('undo:'))]).toEqual([
              { id: 'plan', at: 0 },
              true,
              true,
            ]);
          for (const a of open) if (a.phase === 'pausing' || a.phase === 'between') expect(player.nextTimer()).toBeDefined();
          if (m.what === 19) player.until(player.nextTimer()?.at ?? player.now());
          else {
            const effects = player.feed(eventFor(player, m, open[m.pick % Math.max(1, open.length)]));
            if (effects[0]?.effect === 'ignored') expect(player.state()).toBe(before);
          }
          expect(RunState.safeParse(player.state()).success).toBe(true);
        }
        if (player.state().status === 'ended') ended++;
        expect(replay(plan, player.events, newState())).toEqual(player.state());
      }),
      { numRuns: 400 },
    );
    expect(ended).toBeGreaterThan(100);
  });

  it('hours may be others at every asking: no instant that is asked for is late or lost, and the events alone give the snapshot', () => {
    let asked = 0;
    fc.assert(
      fc.property(anyPlan, fc.array(move, { maxLength: 30 }), fc.infiniteStream(hours), (plan, moves, all) => {
        const player = play(plan, {}, () => all.next().value as Calendar);
        for (const m of moves) {
          if (m.what === 19) player.until(player.nextTimer()?.at ?? player.now());
          else player.feed(eventFor(player, m));
        }
        const wanted = player.effects.filter((e) => e.effect === 'reckon').length;
        const told = player.events.filter((e) => e.event.type === 'reckoned').length;
        expect(told).toBe(wanted);
        asked += told;
        // Nobody is asked for the hours again.
        expect(replay(plan, player.events, newState())).toEqual(player.state());
      }),
      { numRuns: 300 },
    );
    expect(asked).toBeGreaterThan(100);
  });

  it('every step that began also ends, once, when the run has ended; gates, tasks, questions that opened are closed, once', () => {
    fc.assert(
      fc.property(anyPlan, fc.array(move, { maxLength: 30 }), (plan, moves) => {
        const player = play(plan);
        for (const m of moves) player.feed(eventFor(player, m));
        end(player);
        takeBack(player);
        const keys = (...names: Effect['effect'][]) => player.effects.flatMap((e) => (names.includes(e.effect) && 'key' in e ? [e.key] : [])).sort();
        expect(keys('ended')).toEqual(keys('began'));
        expect(keys('closeTask')).toEqual(keys('openTask'));
        expect(keys('closeQuestion')).toEqual(keys('openQuestion'));
        expect(keys('closeGate')).toEqual(keys('openGate'));
        expect(player.effects.filter((e) => e.effect === 'finished')).toHaveLength(1);
      }),
      { numRuns: 400 },
    );
  });

  it('what was given and is to be undone is taken back, last first, and nothing else is', () => {
    fc.assert(
      fc.property(anyPlan, fc.array(move, { maxLength: 30 }), (plan, moves) => {
        const player = play(plan);
        for (const m of moves) if (m.what !== 10) player.feed(eventFor(player, m));
        end(player);
        takeBack(player);
        const took = player.effects.flatMap((e) => (e.effect === 'tookBack' ? [givenId(e.given)] : []));
        const undone = plan.undoWhen?.some((o) => o === player.state().outcome);
        expect(took).toEqual(undone ? expected(player) : []);
      }),
      { numRuns: 300 },
    );
  });

  it('an obliging world brings every plan to an end', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const player = play(plan);
        expect(playOut(player).status).toBe('ended');
      }),
      { numRuns: 300 },
    );
  });

  /** The order in which what was given is taken back: the last first; what comes in late goes before all that is not yet under way. */
  function expected(player: Player): string[] {
    const given: string[] = [];
    const undoable = (g: { undo?: string | undefined }) => g.undo !== undefined && g.undo !== 'none';
    const order: string[] = [];
    let waiting: string[] | undefined;
    for (const e of player.effects) {
      if (e.effect === 'finished') waiting = given.toReversed();
      if (e.effect === 'gave' && !undoable(e.given)) continue;
      if (e.effect === 'gave' && waiting) waiting.splice(waiting.length ? 1 : 0, 0, givenId(e.given));
      else if (e.effect === 'gave') given.push(givenId(e.given));
      if (e.effect === 'tookBack') order.push(waiting!.shift()!);
    }
    return order;
  }

  /** Withdraws the request; past a point of no return it is played to its end. */
  /** Working hours that somebody may have at the moment. */
  const hours: fc.Arbitrary<Calendar> = fc
    .record({
      zone: fc.constantFrom('utc', 'Europe/Oslo', 'Atlantic/Faroe'),
      days: fc.constantFrom([1, 2, 3, 4, 5], [1, 7], [1, 2, 3, 4, 5, 6, 7]),
      from: fc.integer({ min: 0, max: 700 }),
      to: fc.integer({ min: 701, max: 1440 }),
    })
    .map(({ zone, days, from, to }) =>
      compileHours({ ...usualHours(zone), week: [1, 2, 3, 4, 5, 6, 7].map((d) => ((days as readonly number[]).includes(d) ? [{ from, to }] : [])) }),
    );

  function end(player: Player) {
    player.feed({ type: 'withdrawn', person: 'req' });
    if (player.state().status === 'open') playOut(player);
    expect(player.state().status).toBe('ended');
  }

  function takeBack(player: Player) {
    for (let i = 0; player.state().undoing && i < 200; i++) {
      const [first] = undoActivities(player.state());
      const { key, phase } = first!;
      if (phase === 'stuck') player.feed({ type: 'retried', key, person: 'tech' });
      // What no action takes back is stuck still: somebody does it.
      const still = undoActivities(player.state()).find((a) => a.key === key);
      if (still?.phase === 'stuck') player.feed({ type: 'takenOver', key: still.key, person: 'tech', comment: 'Fetched', outputs: {} });
      else if (still?.phase === 'working') player.feed({ type: 'taskDone', key: still.key, person: 'own', values: {} });
      else if (still) player.feed({ type: 'answered', key: still.key, outputs: {} });
    }
  }

  function eventFor(player: Player, m: Move, open = openActivities(player.state())[0]): RunEvent {
    // An answer that was given up, or not waited for, comes all the same.
    const late = player.state().cancelled?.[0];
    if (late && m.what > 12 && m.yes)
      return { type: 'answered', key: late.key, ...(late.round !== undefined && { round: late.round }), outputs: { already: true } };
    // Something that was given goes back while the request is under way, or after it.
    const back = player.state().given?.[0];
    if (back && m.what === 10)
      return {
        type: 'givenBack',
        id: givenId(back),
        why: 'Back',
        ...(m.yes ? { person: m.person, hand: 'own' } : back.key.length % 2 && { gone: true }),
      };
    const round = open?.round ?? 0;
    const key = open?.key ?? 'none#1';
    const { person } = m;
    if (m.what === 9) return { type: 'withdrawn', person };
    if (m.what === 8) return { ...begin, answers } as RunEvent;
    if (m.what === 7) return { type: 'timer', key, name: m.yes ? 'remind' : 'lapse' };
    if (m.what > 1) {
      switch (open?.phase) {
        case 'finding':
          return {
            type: 'found',
            key,
            people: people.slice(m.n).map((p, i) => ({ person: p, ...(m.yes && { manager: 'boss' }), sources: i === 0 ? [0, m.n] : [1, 2] })),
          };
        case 'calling':
          return m.yes || m.what > 12
            ? { type: 'answered', key, round, outputs: { already: m.yes, ...(open.invited && meetingTime) } }
            : { type: 'callFailed', key, round, cause: 'down', ...(m.n > 0 && { mayCome: true as const }) };
        case 'coming':
          return {
            type: 'coming',
            key,
            round,
            person: m.n === 2 ? person : (open.invited?.[m.n]?.person ?? person),
            says: m.yes ? 'yes' : m.what > 8 ? 'no' : 'maybe',
          };
        case 'working':
          return { type: 'taskDone', key, person, values: {} };
        case 'answering':
          return { type: 'replied', key, person, values: { answer: 'yes' } };
        case 'returned':
          return { type: 'resubmitted', key, person: 'req', answers: { reason: 'y' } };
        case 'stuck':
          return m.n === 0
            ? { type: 'retried', key, person }
            : { type: m.n === 1 ? 'skipped' : 'takenOver', key, person, comment: 'By hand', outputs: {} };
        default:
      }
    }
    const asked = m.what > 4 ? (open?.asks?.find((a) => !a.decision && !a.waits)?.person ?? person) : person;
    if (m.what === 6) return { type: 'sentBack', key, person: asked, comment: 'Look again' };
    return { type: 'decided', key, person: asked, decision: m.yes ? 'approve' : 'decline', comment: '' };
  }
});
