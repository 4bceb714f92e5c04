import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Block, Gate, Plan } from '../plans/index.ts';
import { play, type Player } from '../testing/player.ts';
import { answers, finish, gate, step, tell } from '../testing/samples.ts';
import { settleGate } from '../steps/gate/resolve.ts';
import { advance, openActivities, type Effect } from './index.ts';

// A specification of the plan language, point by point.

const plan = (...steps: Block): Plan => ({ steps });
const only = <K extends Effect['effect']>(effects: Effect[], kind: K) =>
  effects.filter((e): e is Extract<Effect, { effect: K }> => e.effect === kind);
const find = (p: Player, ...people: string[]) =>
  p.feed({ type: 'found', key: openActivities(p.state())[0]!.key, people: people.map((person) => ({ person })) });
const decide = (p: Player, person: string, decision: 'approve' | 'decline' = 'approve', more: object = {}) =>
  p.feed({ type: 'decided', key: p.open('owners')!.key, person, decision, comment: '', ...more });

describe('2. gate', () => {
  const open = (more: Partial<Gate>, ...people: string[]) => {
    const p = play(plan(gate(more)));
    find(p, ...people);
    return p;
  };

  it('asks one after another: the next when the one before approved', () => {
    const p = open({ order: 'inTurn', rule: { rule: 'all' } }, 'o1', 'o2', 'o3');
    expect(decide(p, 'o2')).toEqual([{ effect: 'ignored', reason: 'not-asked' }]);
    expect(only(decide(p, 'o1'), 'askNext')).toEqual([{ effect: 'askNext', key: 'owners#1', person: 'o2' }]);
    decide(p, 'o2');
    decide(p, 'o3');
    expect(p.state().outcome).toBe('fulfilled');
  });

  it('one after another with one approval enough: a decline asks the next, so nobody waits in silence', () => {
    const p = open({ order: 'inTurn', rule: { rule: 'any' } }, 'o1', 'o2');
    expect(only(decide(p, 'o1', 'decline'), 'askNext')).toHaveLength(1);
  });

  it('a chain climbs to the first level whose limit covers the amount, and each level has to agree', () => {
    const approvers: Gate['approvers'] = {
      from: 'chain',
      person: { ref: 'request.requester' },
      levels: 4,
      amount: { ref: 'form.cores' },
      limits: [1, 5],
    };
    const wanted = (cores: number) => only(play(plan(gate({ approvers })), { answers: { cores } }).effects, 'find')[0]?.wanted;
    expect([1, 5, 6].map(wanted)).toEqual([1, 2, 3].map((levels) => ({ from: 'chain', person: 'req', levels })));
    const p = play(plan(gate({ approvers })));
    find(p, 'boss', 'head');
    expect(p.open('owners')!.asks).toEqual([{ person: 'boss' }, { person: 'head', waits: true }]);
    decide(p, 'boss');
    decide(p, 'head', 'decline');
    expect(p.state().outcome).toBe('declined');
  });

  // Common practice, no source: at most two reminders, and five days until an untouched approval is closed.
  it('reminds those who are silent after working time, at most so often, and lapses after its deadline', () => {
    const p = open({ rule: { rule: 'all' }, reminders: { after: 'P1D', times: 2 }, deadline: 'P5D' }, 'o1', 'o2');
    decide(p, 'o1');
    p.until('2026-03-31T00:00:00.000Z');
    expect(only(p.effects, 'remind')).toEqual([1, 2].map(() => ({ effect: 'remind', key: 'owners#1', people: ['o2'] })));
    expect(p.state()).toMatchObject({ outcome: 'lapsed', reason: expect.stringContaining('in time') });
    // Begun on a Monday at 9: five working days later it is Monday at 9 again; the Faroes keep UTC until the 29th.
    expect(only(p.effects, 'timer').map((t) => [t.name, t.at])).toEqual([
      ['remind:o1', '2026-03-03T09:00:00.000Z'],
      ['remind:o2', '2026-03-03T09:00:00.000Z'],
      ['lapse', '2026-03-09T09:00:00.000Z'],
      ['remind:o2', '2026-03-04T09:00:00.000Z'],
    ]);
  });

  it('a lapse with a block goes on there', () => {
    const p = open({ deadline: 'P1D', lapsed: [tell('t', 'T'), finish('f', 'failed')] }, 'o1');
    p.until('2026-03-31T00:00:00.000Z');
    expect(p.state().outcome).toBe('failed');
  });

  it('lets an approver correct the fields it opens and no others; what follows reads the new version', () => {
    const p = play(plan(gate({ corrects: ['cores'] }), step('workOut', 'w', { feel: 'form.cores * 10', type: 'number' })));
    find(p, 'o1');
    const effects = decide(p, 'o1', 'approve', { corrections: { cores: 4, reason: 'changed' } });
    expect(only(effects, 'answers')).toEqual([{ effect: 'answers', by: 'o1', changed: { cores: 4 } }]);
    expect(p.state().outputs['w']).toEqual({ value: 40 });
    expect(p.state().answers['reason']).toBe('x');
  });

  it('may be sent back: the requester corrects, and approvers are looked up and asked afresh', () => {
    const p = open({ sendBack: true }, 'o1', 'o2');
    const back = p.feed({ type: 'sentBack', key: 'owners#1', person: 'o1', comment: 'Which survey?' });
    expect(back).toContainEqual({ effect: 'closeGate', key: 'owners#1', result: 'returned', decidedBy: 'o1' });
    expect(only(back, 'openQuestion')).toMatchObject([{ to: 'req', question: { text: [[{ text: 'Which survey?' }]] } }]);
    expect(p.feed({ type: 'resubmitted', key: 'owners#1', person: 'o1', answers: {} })).toEqual([{ effect: 'ignored', reason: 'not-yours' }]);
    const again = p.feed({ type: 'resubmitted', key: 'owners#1', person: 'req', answers: { ...answers, reason: 'North' } });
    expect(only(again, 'find')).toMatchObject([{ key: 'owners#2' }]);
    expect(p.state().answers['reason']).toBe('North');
    expect(p.feed({ type: 'decided', key: 'owners#1', person: 'o2', decision: 'approve', comment: '' })).toEqual([
      { effect: 'ignored', reason: 'not-open' },
    ]);
  });

  it('follows the rule its policy brings, and passes where the policy asks nobody', () => {
    const approvers: Gate['approvers'] = { from: 'policy', policy: 'spend', inputs: { amount: { ref: 'form.cores' } } };
    const p = play(plan(gate({ approvers })));
    expect(only(p.effects, 'find')[0]?.wanted).toEqual({ from: 'policy', policy: 'spend', values: { amount: 2 } });
    p.feed({ type: 'found', key: 'owners#1', people: [{ person: 'o1' }, { person: 'o2' }], rule: { rule: 'all' } });
    decide(p, 'o1');
    expect(p.state().status).toBe('open');
    const free = play(plan(gate({ approvers })));
    free.feed({ type: 'found', key: 'owners#1', people: [], passes: 'One processor needs nobody' });
    expect(free.state().outcome).toBe('fulfilled');
  });

  it('reminds each approver by the time since they were asked: the second of a chain not at once', () => {
    const p = open({ order: 'inTurn', rule: { rule: 'all' }, reminders: { after: 'P1D', times: 2 } }, 'o1', 'o2');
    p.until('2026-03-04T12:00:00.000Z');
    decide(p, 'o1');
    expect(only(p.effects, 'remind').map((r) => r.people)).toEqual([['o1'], ['o1']]);
    p.until('2026-03-20T12:00:00.000Z');
    expect(only(p.effects, 'remind').map((r) => r.people)).toEqual([['o1'], ['o1'], ['o2'], ['o2']]);
    expect(only(p.effects, 'timer').at(-2)).toMatchObject({ name: 'remind:o2', at: '2026-03-05T12:00:00.000Z' });
  });

  it('a decision after the deadline is late, also where the timer has not fired yet', () => {
    const p = open({ deadline: 'P1D' }, 'o1');
    const at = (now: string) =>
      advance(plan(gate({ deadline: 'P1D' })), p.state(), { type: 'decided', key: 'owners#1', person: 'o1', decision: 'approve', comment: '' }, now)
        .effects;
    expect(at('2026-03-03T09:00:00.000Z')).toEqual([{ effect: 'ignored', reason: 'late' }]);
    expect(at('2026-03-03T08:59:59.999Z')).toContainEqual(expect.objectContaining({ effect: 'closeGate', result: 'approved' }));
  });

  it.each<[string, Gate['nobody'], string[], string | undefined]>([
    ['one of two can be asked: the gate fails as it states', { then: 'fail' }, ['o1'], 'failed'],
    ['one of two can be asked: the gate passes as it states', { then: 'pass' }, ['o1'], 'fulfilled'],
    ['nobody, and one is stated for two: it fails', { then: 'ask', person: { person: 'ada' } }, [], 'failed'],
    ['the one stated joins the one who is left', { then: 'ask', person: { person: 'ada' } }, ['o1'], undefined],
    ['two can be asked', { then: 'fail' }, ['o1', 'o2'], undefined],
  ])('at least two, never lowered: %s', (_, nobody, people, outcome) => {
    const p = open({ rule: { rule: 'atLeast', count: 2 }, nobody }, ...people);
    expect(p.state().outcome).toBe(outcome);
    if (outcome === 'failed') expect(only(p.effects, 'message')).toMatchObject([{ to: 'req' }]);
    if (outcome) return;
    const [one, two] = p.open('owners')!.asks!.map((a) => a.person) as [string, string];
    expect(only(decide(p, one), 'closeGate')).toEqual([]);
    expect(only(decide(p, two), 'closeGate')).toMatchObject([{ result: 'approved' }]);
  });

  it('away people give way to whoever answers for them in the end; with nobody there they count as nobody', () => {
    const p = play(plan(gate({ rule: { rule: 'all' }, ownRequest: 'manager', nobody: { then: 'fail' } })));
    p.feed({
      type: 'found',
      key: 'owners#1',
      people: [{ person: 'o1', delegate: 'd2' }, { person: 'o2', absent: true }, { person: 'req', manager: 'm' }, { person: 'd2' }],
    });
    expect(p.open('owners')!.asks).toEqual([
      { person: 'd2', insteadOf: 'o1' },
      { person: 'm', insteadOf: 'req' },
    ]);
    const none = play(plan(gate({ nobody: { then: 'fail' } })));
    none.feed({ type: 'found', key: 'owners#1', people: [{ person: 'o1', absent: true }] });
    expect(none.state().outcome).toBe('failed');
  });

  it('who leaves while asked is replaced at once; what was decided stays, who is new is asked', () => {
    const p = open({ rule: { rule: 'all' }, reminders: { after: 'P1D', times: 1 } }, 'o1', 'o2', 'o3');
    decide(p, 'o1');
    expect(only(p.feed({ type: 'staffChanged', key: 'owners#1' }), 'find')).toMatchObject([{ key: 'owners#1', wanted: { from: 'ownersOf' } }]);
    const effects = p.feed({ type: 'found', key: 'owners#1', people: [{ person: 'o3' }, { person: 'o4' }] });
    expect(only(effects, 'changeAsks')).toEqual([{ effect: 'changeAsks', key: 'owners#1', added: [{ person: 'o4' }], released: ['o2'] }]);
    expect(only(effects, 'timer')).toMatchObject([{ name: 'remind:o4' }]);
    expect(decide(p, 'o2')).toEqual([{ effect: 'ignored', reason: 'not-asked' }]);
    decide(p, 'o3');
    expect(only(decide(p, 'o4'), 'closeGate')).toMatchObject([{ result: 'approved' }]);
  });

  it('with too few left after somebody leaves, the gate does what it states; with all others decided it is settled', () => {
    const left = (more: Partial<Gate>, ...people: string[]) => {
      const p = open(more, 'o1', 'o2');
      decide(p, 'o1');
      p.feed({ type: 'staffChanged', key: 'owners#1' });
      p.feed({ type: 'found', key: 'owners#1', people: people.map((person) => ({ person })) });
      return p;
    };
    expect(left({ rule: { rule: 'all' } }, 'o1').state().outcome).toBe('fulfilled');
    expect(left({ rule: { rule: 'atLeast', count: 2 }, nobody: { then: 'fail' } }, 'o1').state().outcome).toBe('failed');
    const stated = left({ rule: { rule: 'atLeast', count: 2 } }, 'o1');
    expect(only(decide(stated, 'ada'), 'closeGate')).toMatchObject([{ result: 'approved' }]);
    expect(open({}, 'o1').feed({ type: 'staffChanged', key: 'other#1' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });

  it('in turn, somebody new waits for their turn', () => {
    const p = open({ order: 'inTurn', rule: { rule: 'all' } }, 'o1', 'o2');
    p.feed({ type: 'staffChanged', key: 'owners#1' });
    expect(only(p.feed({ type: 'found', key: 'owners#1', people: [{ person: 'o3' }] }), 'changeAsks')).toMatchObject([{ released: ['o1', 'o2'] }]);
    expect(only(p.effects, 'askNext').at(-1)).toEqual({ effect: 'askNext', key: 'owners#1', person: 'o3' });
    decide(p, 'o3');
    expect(p.state().outcome).toBe('fulfilled');
  });

  it('a second round keeps nothing of the first: a lapse was decided by nobody', () => {
    const again = step('repeat', 'r', {
      body: [gate({ declined: [], lapsed: [], deadline: 'P1D' })],
      until: { compare: 'is', left: { ref: 'steps.owners.outcome' }, right: { literal: 'approved' } },
      tries: 3,
    });
    const p = play(plan(again));
    find(p, 'o1');
    decide(p, 'o1', 'decline', { comment: 'Not yet' });
    p.feed({ type: 'found', key: 'owners#2', people: [{ person: 'o1' }] });
    p.until('2026-03-04T12:00:00.000Z');
    expect(p.events.length).toBeGreaterThan(3);
    const ended = only(p.effects, 'ended').filter((e) => e.key.startsWith('owners'));
    expect(ended.map((e) => [e.end, e.outputs['decidedBy'] ?? null])).toEqual([
      ['declined', { person: 'o1' }],
      ['lapsed', null],
    ]);
  });

  it('what a corrected or resubmitted form hides is empty from then on', () => {
    const shown = { ...answers, project: 'North', kind: 'project' };
    const begin = { answers: shown };
    const sent = play(plan(gate({ sendBack: true })), begin);
    find(sent, 'o1');
    sent.feed({ type: 'sentBack', key: 'owners#1', person: 'o1', comment: 'Daily?' });
    const { project: _, ...rest } = shown;
    sent.feed({ type: 'resubmitted', key: 'owners#1', person: 'req', answers: { ...rest, kind: 'daily' } });
    expect(sent.state().answers).toMatchObject({ kind: 'daily', project: null });
    const corrected = play(
      plan(
        gate({ corrects: ['kind'] }),
        step('mark', 'm', { shows: 'status', words: 'On' }),
        step('pause', 'p', { until: { span: { length: 'P1D', counted: 'always' } } }),
      ),
      begin,
    );
    find(corrected, 'o1');
    decide(corrected, 'o1', 'approve', { corrections: { kind: 'daily', project: null, reason: 'other' } });
    expect(corrected.state().answers).toMatchObject({ kind: 'daily', project: null, reason: 'x' });
  });

  const sides: Gate['approvers'] = {
    from: 'several',
    of: [
      { from: 'ownersOf', group: { literal: { group: 'tides' } } },
      { from: 'managerOf', person: { ref: 'request.requester' } },
      { from: 'person', person: { ref: 'form.colleague' } },
    ],
  };
  const found = (p: Player, people: Record<string, number[]>) =>
    p.feed({
      type: 'found',
      key: openActivities(p.state())[0]!.key,
      people: Object.entries(people).map(([person, sources]) => ({ person, sources })),
    });

  it('of several sources: each is looked up, one that leads to nobody keeps its place, and all who are found are counted', () => {
    const p = play(plan(gate({ approvers: sides, rule: { rule: 'atLeast', count: 2 } })));
    expect(only(p.effects, 'find')[0]?.wanted).toEqual({
      from: 'several',
      of: [{ from: 'ownersOf', group: 'tides' }, { from: 'managerOf', person: 'req', levels: 1 }, null],
    });
    found(p, { o1: [0], boss: [0, 1] });
    expect(p.open('owners')!.asks).toEqual([
      { person: 'o1', sources: [0] },
      { person: 'boss', sources: [0, 1] },
    ]);
    decide(p, 'o1');
    expect(p.state().status).toBe('open');
    decide(p, 'boss');
    expect(p.state().outcome).toBe('fulfilled');
  });

  it('one of each side: whoever speaks for two counts for both; declined once all of one side have declined', () => {
    const rule: Gate['rule'] = { rule: 'oneOfEach' };
    const ask = (people: Record<string, number[]>, more: Partial<Gate> = {}) => {
      const p = play(plan(gate({ approvers: sides, rule, ...more })));
      found(p, people);
      return p;
    };
    const p = ask({ o1: [0], o2: [0], boss: [1, 2] });
    decide(p, 'boss');
    decide(p, 'o1', 'decline');
    expect(p.state().status).toBe('open');
    decide(p, 'o2');
    expect(p.state().outcome).toBe('fulfilled');
    const q = ask({ o1: [0], o2: [0], boss: [1, 2] });
    decide(q, 'boss', 'decline');
    expect(q.state().outcome).toBe('declined');
    // A side without anybody is what the gate states for nobody: here somebody is asked for it, and for it only.
    const r = ask({ o1: [0], boss: [1] });
    expect(r.open('owners')!.asks).toContainEqual({ person: 'ada', sources: [2] });
    expect(ask({ o1: [0], boss: [1] }, { nobody: { then: 'fail' } }).state()).toMatchObject({
      outcome: 'failed',
    });
    expect(ask({ o1: [0], boss: [1] }, { nobody: { then: 'pass' } }).state().outcome).toBe('fulfilled');
    // Who was found twice is one voice for both, also where somebody answers for them.
    const s = play(plan(gate({ approvers: sides, rule })));
    s.feed({
      type: 'found',
      key: openActivities(s.state())[0]!.key,
      people: [
        { person: 'o1', sources: [0], delegate: 'ada' },
        { person: 'boss', sources: [1, 2], delegate: 'ada' },
      ],
    });
    expect(s.open('owners')!.asks).toEqual([{ person: 'ada', insteadOf: 'o1', sources: [0, 1, 2] }]);
  });

  it('one of each, one after another: nobody is asked for a side that has agreed', () => {
    const p = play(plan(gate({ approvers: sides, rule: { rule: 'oneOfEach' }, order: 'inTurn' })));
    found(p, { o1: [0], o2: [0], boss: [1], ada: [2] });
    expect(only(decide(p, 'o1'), 'askNext')).toEqual([{ effect: 'askNext', key: 'owners#1', person: 'boss' }]);
    expect(only(decide(p, 'boss'), 'askNext')).toEqual([{ effect: 'askNext', key: 'owners#1', person: 'ada' }]);
    decide(p, 'ada');
    expect(p.state().outcome).toBe('fulfilled');
  });

  it('what one side decided stays when somebody of another leaves', () => {
    const p = play(plan(gate({ approvers: sides, rule: { rule: 'oneOfEach' } })));
    found(p, { o1: [0], boss: [1], ada: [2] });
    decide(p, 'o1');
    p.feed({ type: 'staffChanged', key: 'owners#1' });
    found(p, { head: [1], ada: [2] });
    expect(p.open('owners')!.asks).toEqual([
      { person: 'o1', sources: [0], decision: 'approve' },
      { person: 'head', sources: [1] },
      { person: 'ada', sources: [2] },
    ]);
  });
});

it('whoever is asked already speaks for a side that they come to while it is open', () => {
  const approvers: Gate['approvers'] = {
    from: 'several',
    of: [
      { from: 'ownersOf', group: { literal: { group: 'tides' } } },
      { from: 'managerOf', person: { ref: 'request.requester' } },
    ],
  };
  const p = play(plan(gate({ approvers, rule: { rule: 'oneOfEach' } })));
  const find = (people: Record<string, number[]>) =>
    p.feed({ type: 'found', key: 'owners#1', people: Object.entries(people).map(([person, sources]) => ({ person, sources })) });
  find({ o1: [0], o2: [0], boss: [1] });
  decide(p, 'o2');
  // The manager leaves, and an owner is the manager now: their side is not forgotten.
  p.feed({ type: 'staffChanged', key: 'owners#1' });
  find({ o1: [0, 1], o2: [0] });
  expect(p.state().status).toBe('open');
  expect(p.open('owners')!.asks).toContainEqual({ person: 'o1', sources: [0, 1] });
  decide(p, 'o1', 'decline');
  expect(p.state().outcome).toBe('declined');
});

it('one of each is settled as soon as it is certain, and not before, on generated approvers', () => {
  const asked = fc.record({
    sources: fc.uniqueArray(fc.nat({ max: 2 }), { minLength: 1, maxLength: 3 }),
    decision: fc.option(fc.constantFrom('approve' as const, 'decline' as const), { nil: undefined }),
  });
  fc.assert(
    fc.property(fc.array(asked, { minLength: 1, maxLength: 6 }), (all) => {
      const asks = all.map((a, i) => ({ person: `p${i}`, ...a }));
      const sides = [...new Set(asks.flatMap((a) => a.sources))];
      // Every way in which those who are silent could still answer.
      const silent = asks.filter((a) => a.decision === undefined);
      const ends = Array.from({ length: 2 ** silent.length }, (_, bits) => {
        const end = asks.map((a) => ({ ...a, decision: a.decision ?? ((bits >> silent.indexOf(a)) & 1 ? 'approve' : 'decline') }));
        return sides.every((s) => end.some((a) => a.sources.includes(s) && a.decision === 'approve'));
      });
      const certain = ends.every((e) => e) ? 'approved' : ends.some((e) => e) ? undefined : 'declined';
      expect(settleGate({ rule: 'oneOfEach' }, asks)).toBe(certain);
    }),
  );
});
