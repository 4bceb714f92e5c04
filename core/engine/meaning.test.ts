import { describe, expect, it } from 'vitest';
import { passages, type Block, type Plan, type Step } from '../plans/index.ts';
import { play, playOut, type Player } from '../testing/player.ts';
import { add, finish, gate, step, tell } from '../testing/samples.ts';
import { sentence } from '../values/index.ts';
import { causeChain, openActivities, type Effect, type RunEvent } from './index.ts';

// A specification of the plan language, point by point.

const plan = (...steps: Block): Plan => ({ steps });
const task = (id: string, more: object = {}): Step =>
  step('task', id, { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [], ...more });
const only = <K extends Effect['effect']>(effects: Effect[], kind: K) =>
  effects.filter((e): e is Extract<Effect, { effect: K }> => e.effect === kind);
const find = (p: Player, ...people: string[]) =>
  p.feed({ type: 'found', key: openActivities(p.state())[0]!.key, people: people.map((person) => ({ person })) });
const decide = (p: Player, person: string, decision: 'approve' | 'decline' = 'approve', more: object = {}) =>
  p.feed({ type: 'decided', key: p.open('owners')!.key, person, decision, comment: '', ...more });
const doTask = (p: Player, id: string, values = {}) => p.feed({ type: 'taskDone', key: p.open(id)!.key, person: 'tech', values });

describe('1. advance', () => {
  it('calls more than 10,000 automatic steps a runaway and fails the run with that word', () => {
    const endless = step('repeat', 'r', { body: [], until: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'never' } } });
    const p = play(plan(endless));
    expect(p.state()).toMatchObject({ outcome: 'failed', reason: expect.stringContaining('Runaway') });
    expect(only(p.effects, 'message')).toMatchObject([{ to: 'req' }]);
  });
});

describe('3. together', () => {
  const side = (join: 'all' | 'first') =>
    plan(
      step('together', 'side', {
        join,
        branches: [
          { id: 'a', name: 'A', block: [task('t1')] },
          { id: 'b', name: 'B', block: [task('t2')] },
        ],
      }),
      tell('end', 'End'),
    );
  it('joins all: goes on with its last branch', () => {
    const p = play(side('all'));
    doTask(p, 't2');
    expect(p.state().status).toBe('open');
    doTask(p, 't1');
    expect(p.state().outcome).toBe('fulfilled');
  });
  it('joins first: the others are withdrawn and closed as no longer needed', () => {
    const p = play(side('first'));
    expect(only(doTask(p, 't2'), 'closeTask')).toMatchObject([
      { key: 't2#1', result: 'done' },
      { key: 't1#1', result: 'withdrawn' },
    ]);
    expect(p.state().outcome).toBe('fulfilled');
  });
});

describe('5. for each', () => {
  const rounds = (atOnce?: number) =>
    plan(
      step('forEach', 'each', {
        list: { ref: 'form.crew' },
        atOnce,
        body: [task('t'), step('workOut', 'n', { feel: 'row.number * 10', type: 'number' })],
      }),
    );
  const openTasks = (p: Player) => openActivities(p.state()).length;
  it('runs all rounds at once, up to m, or in order', () => {
    expect([undefined, 2, 1].map((m) => openTasks(play(rounds(m))))).toEqual([3, 2, 1]);
    const p = play(rounds(2));
    p.feed({ type: 'taskDone', key: 't#2', person: 'tech', values: {} });
    expect(openActivities(p.state()).map((a) => a.key)).toEqual(['t#1', 't#3']);
    expect(playOut(p).outputs['each']).toEqual({ count: 3 });
  });
  it('gives each round its row, and keeps what a round sets inside it', () => {
    const p = play(rounds());
    playOut(p);
    expect(only(p.effects, 'ended').flatMap((e) => (e.key.startsWith('n#') ? [e.outputs['value']] : []))).toEqual([10, 20, 30]);
    expect(p.state().outputs['n']).toBeUndefined();
  });
  it('over lines gives each round what its line holds, by its columns', () => {
    const p = play(
      plan(
        step('forEach', 'each', {
          list: { ref: 'form.gear' },
          body: [
            step('choose', 'many', {
              cases: [
                {
                  id: 'several',
                  name: 'Several',
                  when: { compare: 'more', left: { ref: 'row.many' }, right: { literal: 1 } },
                  block: [step('workOut', 'n', { feel: 'row.what + " x" + string(row.many) + " of " + string(count(form.gear))', type: 'text' })],
                },
              ],
              otherwise: [step('task', 't', { assignee: { from: { ref: 'row.by' } }, instructions: [], checklist: [], fields: [] })],
            }),
          ],
        }),
      ),
    );
    expect(only(p.effects, 'ended').flatMap((e) => (e.key.startsWith('n#') ? [e.outputs['value']] : []))).toEqual(['Echo sounder x2 of 2']);
    // The second line names nobody.
    expect(only(p.effects, 'stuck').map((e) => e.key)).toEqual(['t#1']);
  });
  it('ends at once for an empty list, and reads the list only when it begins', () => {
    expect(play(rounds(), { answers: { crew: [] } }).state().outcome).toBe('fulfilled');
  });
});

describe('6. repeat', () => {
  const invite = (more: object) =>
    plan(
      step('repeat', 'r', {
        body: [task('look', { fields: [{ id: 'yes', kind: 'yesNo', label: 'Accepted', required: true }] })],
        until: { compare: 'is', left: { ref: 'steps.look.yes' }, right: { literal: true } },
        ...more,
      }),
    );
  // Common practice, no source: a guest is looked for every five minutes until they have accepted.
  it('tries again after its pause until the condition holds', () => {
    const p = play(invite({ pause: { length: 'PT5M', counted: 'always' } }));
    doTask(p, 'look', { yes: false });
    expect(p.nextTimer()).toEqual({ key: 'r#1', name: 'again', at: '2026-03-02T09:05:00.000Z' });
    p.until('2026-03-02T09:05:00.000Z');
    doTask(p, 'look', { yes: true });
    expect(p.state()).toMatchObject({ outcome: 'fulfilled', outputs: { r: { tries: 2 } } });
  });
  it('exhausted is a failure: after its tries, or at its deadline', () => {
    const tries = play(invite({ tries: 1 }));
    doTask(tries, 'look', { yes: false });
    expect(tries.open('r')).toMatchObject({ phase: 'stuck', cause: expect.stringContaining('tried 1 time') });
    const late = play(invite({ deadline: { length: 'PT2H', counted: 'working' } }));
    late.until('2026-03-02T11:00:00.000Z');
    expect(only(late.effects, 'closeTask')).toMatchObject([{ result: 'withdrawn' }]);
    expect(late.open('r')?.cause).toContain('ran for 2 working hours');
  });
});

describe('7. guard', () => {
  const guarded = (more: object = {}) =>
    plan(step('guard', 'g', { body: [add, task('after')], remedy: [task('byHand')], ...more }), tell('end', 'End'));
  it('takes a failure after the retries of the step, withdraws the rest and runs the remedy', () => {
    const p = play(guarded());
    const effects = p.feed({ type: 'callFailed', key: 'add#1', cause: 'The directory refused' });
    expect(only(effects, 'ended')).toMatchObject([{ key: 'add#1', end: 'failed', note: 'The directory refused' }]);
    expect(only(effects, 'stuck')).toEqual([]);
    doTask(p, 'byHand');
    expect(p.state().outcome).toBe('fulfilled');
  });
  it('does so with the late block past its deadline', () => {
    const p = play(guarded({ deadline: { length: 'PT4H', counted: 'working' }, late: [task('hurry')] }));
    p.until('2026-03-02T13:00:00.000Z');
    expect(only(p.effects, 'cancelCall')).toEqual([{ effect: 'cancelCall', key: 'add#1' }]);
    expect(p.open('hurry')).toBeDefined();
  });
  it('without one around it a failure makes the step stuck, not the run lost: retried, skipped or taken over', () => {
    const stuck = () => {
      const p = play(plan(add, tell('end', 'End')));
      p.feed({ type: 'callFailed', key: 'add#1', cause: 'down' });
      return p;
    };
    const outcome = (...events: RunEvent[]) => {
      const p = stuck();
      events.forEach((e) => p.feed(e));
      return [p.state().outcome, p.state().outputs['add']];
    };
    const who = { key: 'add#1', person: 'tech' };
    expect(outcome({ type: 'retried', ...who }, { type: 'answered', key: 'add#1', outputs: { already: false } })).toEqual([
      'fulfilled',
      { already: false },
    ]);
    expect(outcome({ type: 'skipped', ...who, comment: 'Not needed' })).toEqual(['fulfilled', undefined]);
    expect(outcome({ type: 'takenOver', ...who, comment: 'By hand', outputs: { already: false } })).toEqual(['fulfilled', { already: false }]);
  });
  it('a stuck gate cannot be skipped: nothing passes it but an approval', () => {
    const p = play(plan(gate({ nobody: undefined })));
    find(p);
    expect(p.feed({ type: 'skipped', key: 'owners#1', person: 'tech', comment: '' })).toEqual([{ effect: 'ignored', reason: 'not-allowed' }]);
  });
});

describe('8. and 9. provision and undo', () => {
  const two: Plan = {
    undoWhen: ['declined', 'withdrawn'],
    steps: [{ ...add, id: 'a', name: 'A', undo: 'x.out' } as Step, { ...add, id: 'b', name: 'B', undo: 'x.out' } as Step, gate()],
  };
  const given = (p: Player) => ['a#1', 'b#1'].forEach((key) => p.feed({ type: 'answered', key, outputs: {} }));
  it('takes back in reverse order of completion when the run ends so, and only what was given', () => {
    const p = play(two);
    given(p);
    find(p, 'o1');
    const effects = decide(p, 'o1', 'decline');
    expect(only(effects, 'call')).toMatchObject([{ key: 'undo:b#1', action: 'x.out', inputs: { group: { group: 'g1' } } }]);
    p.feed({ type: 'answered', key: 'undo:b#1', outputs: {} });
    p.feed({ type: 'callFailed', key: 'undo:a#1', cause: 'down' });
    expect(openActivities(p.state())).toMatchObject([{ key: 'undo:a#1', phase: 'stuck' }]);
    p.feed({ type: 'retried', key: 'undo:a#1', person: 'tech' });
    p.feed({ type: 'answered', key: 'undo:a#1', outputs: {} });
    expect(only(p.effects, 'tookBack').map((e) => e.given.key)).toEqual(['b#1', 'a#1']);
    expect(p.state().undoing).toBeUndefined();
  });
  it('leaves alone what was found as wanted, and what ended well', () => {
    const p = play(two);
    ['a#1', 'b#1'].forEach((key) => p.feed({ type: 'answered', key, outputs: {}, changed: false }));
    p.feed({ type: 'withdrawn', person: 'req' });
    expect(p.state().undoing).toBeUndefined();
    const well = play(two);
    playOut(well);
    expect(only(well.effects, 'tookBack')).toEqual([]);
  });
  it('takes back what a call under way gave after the request was withdrawn', () => {
    const p = play(two);
    p.feed({ type: 'withdrawn', person: 'req' });
    const late = p.feed({ type: 'answered', key: 'a#1', outputs: {} });
    expect(late.map((e) => e.effect)).toEqual(['gave', 'began', 'call']);
  });
  it('a late answer was completed last, so it is taken back next: before what is still waiting to be', () => {
    const p = play({
      ...two,
      steps: [
        step('together', 's', { join: 'all', branches: two.steps.slice(0, 2).map((s, i) => ({ id: `b${i}`, name: `B${i}`, block: [s] })) }),
        two.steps[2]!,
        { ...add, id: 'c', name: 'C', undo: 'x.out' } as Step,
      ],
    });
    given(p);
    find(p, 'o1');
    decide(p, 'o1');
    p.feed({ type: 'withdrawn', person: 'req' });
    p.feed({ type: 'answered', key: 'c#1', outputs: { serial: 'S-7' } });
    for (let i = 0; p.state().undoing && i < 9; i++) p.feed({ type: 'answered', key: p.state().undoing!.current!.key, outputs: {} });
    // b was under way; c came back late and goes before a.
    expect(only(p.effects, 'tookBack').map((e) => e.given.key)).toEqual(['b#1', 'c#1', 'a#1']);
    expect(only(p.effects, 'call').find((c) => c.key === 'undo:c#1')?.inputs).toMatchObject({ serial: 'S-7', group: { group: 'g1' } });
  });
});

describe('8. an answer that comes later', () => {
  const made = { ...add, id: 'm', name: 'M', undo: 'x.out' } as Step;
  const timedOut = (...around: Step[]) => {
    const p = play({ undoWhen: ['withdrawn'], steps: around.length > 0 ? around : [made, task('after')] });
    p.feed({ type: 'callFailed', key: 'm#1', round: 0, cause: 'No answer within 2 h.', mayCome: true });
    return p;
  };
  const answer = (round: number, serial: string): RunEvent => ({ type: 'answered', key: 'm#1', round, outputs: { serial } });
  const gave = (p: Player) => only(p.effects, 'gave').map(({ given: g }) => [g.round, g.byHand ?? false, g.outputs['serial']]);

  it('given up and then come: the step that is stuck for want of it goes on with it, once', () => {
    const p = timedOut();
    expect(p.open('m')).toMatchObject({ phase: 'stuck' });
    p.feed(answer(0, 'S-1'));
    expect(p.state().outputs['m']).toEqual({ serial: 'S-1' });
    expect(p.open('after')).toBeDefined();
    expect(gave(p)).toEqual([[0, false, 'S-1']]);
    expect(p.feed(answer(0, 'S-1'))).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });
  it('tried again meanwhile: each call gives a thing of its own, and both are taken back', () => {
    const p = timedOut();
    p.feed({ type: 'retried', key: 'm#1', person: 'tech' });
    expect(p.feed({ type: 'callFailed', key: 'm#1', round: 0, cause: 'down' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    p.feed(answer(0, 'S-1'));
    expect(p.open('m')).toMatchObject({ phase: 'calling', round: 1 });
    p.feed(answer(1, 'S-2'));
    expect(p.state().outputs['m']).toEqual({ serial: 'S-2' });
    expect(gave(p)).toEqual([
      [0, false, 'S-1'],
      [1, false, 'S-2'],
    ]);
    p.feed({ type: 'withdrawn', person: 'req' });
    for (let i = 0; p.state().undoing && i < 9; i++) p.feed({ type: 'answered', key: p.state().undoing!.current!.key, outputs: {} });
    expect(only(p.effects, 'tookBack').map((e) => e.given.outputs['serial'])).toEqual(['S-2', 'S-1']);
    expect(only(p.effects, 'began').map((e) => e.key)).toEqual(['m#1', 'after#1', 'undo:m#1/1', 'undo:m#1']);
  });
  it('done by hand meanwhile, or gone on another way: what comes late is kept beside it', () => {
    const hand = timedOut();
    hand.feed({ type: 'takenOver', key: 'm#1', person: 'tech', comment: 'By hand', outputs: { serial: 'H-1' } });
    hand.feed(answer(0, 'S-1'));
    expect(gave(hand)).toEqual([
      [0, true, 'H-1'],
      [0, false, 'S-1'],
    ]);
    expect(hand.state().outputs['m']).toEqual({ serial: 'H-1' });
    const other = timedOut(step('guard', 'g', { body: [made], remedy: [task('byHand')] }), task('after'));
    other.feed(answer(0, 'S-1'));
    expect(gave(other)).toEqual([[0, false, 'S-1']]);
    other.feed({ type: 'withdrawn', person: 'req' });
    expect(only(other.effects, 'call').at(-1)).toMatchObject({ key: 'undo:m#1', action: 'x.out', inputs: { serial: 'S-1' } });
  });
  it('an undo that was given up is done when it is done after all', () => {
    const p = play({ undoWhen: ['withdrawn'], steps: [made, task('after')] });
    p.feed(answer(0, 'S-1'));
    p.feed({ type: 'withdrawn', person: 'req' });
    p.feed({ type: 'callFailed', key: 'undo:m#1', round: 0, cause: 'No answer within 2 h.', mayCome: true });
    expect(openActivities(p.state())).toMatchObject([{ key: 'undo:m#1', phase: 'stuck' }]);
    p.feed({ type: 'answered', key: 'undo:m#1', round: 0, outputs: {} });
    expect(only(p.effects, 'tookBack').map((e) => e.given.key)).toEqual(['m#1']);
    expect(p.state().undoing).toBeUndefined();
  });
});

describe('10. and 11. finish and withdrawal', () => {
  it('finish withdraws whatever is open', () => {
    const p = play(
      plan(
        step('together', 's', {
          join: 'all',
          branches: [
            { id: 'a', name: 'A', block: [task('t')] },
            { id: 'b', name: 'B', block: [finish('f', 'failed')] },
          ],
        }),
      ),
    );
    expect(p.state().outcome).toBe('failed');
    expect(only(p.effects, 'closeTask')).toMatchObject([{ result: 'withdrawn' }]);
  });
  it('withdrawal is possible until a marked point of no return', () => {
    const p = play(plan(step('mark', 'm', { shows: 'milestone', words: 'Ordered', noReturn: true }), task('t')));
    expect(p.feed({ type: 'withdrawn', person: 'req' })).toEqual([{ effect: 'ignored', reason: 'no-return' }]);
  });
});

describe('12. late additions', () => {
  const steps = plan(task('t'), step('mark', 'ready', { shows: 'milestone', words: 'Ready' }), task('u'));
  it('open at once; the milestone and the steps after it wait for them', () => {
    const p = play(steps);
    expect(only(p.feed({ type: 'added', person: 'tech', to: 'ready', step: task('extra') as never }), 'openTask')).toHaveLength(1);
    doTask(p, 't');
    expect(p.open('ready')).toMatchObject({ phase: 'held' });
    doTask(p, 'extra');
    expect(p.state().reached).toEqual(['ready']);
    expect(p.open('u')).toBeDefined();
    expect(p.feed({ type: 'added', person: 'tech', to: 'ready', step: task('more') as never })).toEqual([
      { effect: 'ignored', reason: 'milestone-ended' },
    ]);
  });
  it('the end waits for what was added to it; an added gate that is declined ends the request', () => {
    const p = play(plan(task('t')));
    p.feed({ type: 'added', person: 'tech', to: 'end', step: gate() });
    doTask(p, 't');
    expect(p.state().status).toBe('open');
    find(p, 'o1');
    decide(p, 'o1', 'decline');
    expect(p.state().outcome).toBe('declined');
  });
});

describe('13. parts', () => {
  const parts: Plan['parts'] = {
    desk: {
      name: 'Desk work',
      inputs: [{ name: 'who', label: 'Who', type: 'person', required: true }],
      outputs: [{ name: 'tag', label: 'Tag', type: 'text', from: { ref: 'steps.t.tag' } }],
      steps: [task('t', { assignee: { from: { ref: 'part.who' } }, fields: [{ id: 'tag', kind: 'text', label: 'Tag', required: true }] })],
    },
  };
  const use = (id: string) => step('part', id, { part: 'desk', inputs: { who: { ref: 'request.requester' } } });
  it('see only what they are given, and give only their outputs; used twice they do not mix', () => {
    const p = play({ steps: [use('p1'), use('p2')], parts });
    expect(only(p.effects, 'openTask')).toMatchObject([{ key: 'p1~1/t#1', assignee: { person: 'req' } }]);
    p.feed({ type: 'taskDone', key: 'p1~1/t#1', person: 'req', values: { tag: 'T-1' } });
    p.feed({ type: 'taskDone', key: 'p2~1/t#1', person: 'req', values: { tag: 'T-2' } });
    expect(p.state().outputs).toEqual({ p1: { tag: 'T-1' }, p2: { tag: 'T-2' } });
  });
  it('that hold themselves are cut, and the step says so', () => {
    const self: Plan['parts'] = { self: { name: 'Self', inputs: [], outputs: [], steps: [step('part', 'again', { part: 'self', inputs: {} })] } };
    expect(openActivities(play({ steps: [step('part', 'p', { part: 'self', inputs: {} })], parts: self }).state())).toMatchObject([
      { phase: 'stuck', cause: expect.stringContaining('for ever') },
    ]);
  });
});

describe('14. chains of causes', () => {
  it('are cut at depth 8 and reported', () => {
    let chain: string[] = [];
    for (let depth = 1; depth < 8; depth++) {
      const next = causeChain(chain, 'Join a group');
      if ('cut' in next) throw new Error(next.cut);
      ({ chain } = next);
    }
    expect(causeChain(chain, 'Join a group')).toEqual({ cut: expect.stringContaining('number 8') });
    expect(play(plan(task('t')), { causes: [...chain, 'one more'] }).state()).toMatchObject({
      outcome: 'failed',
      reason: expect.stringContaining('Cut'),
    });
  });
});

describe('tasks, questions, lookups, values, pauses, marks', () => {
  it('a task is due after working time, or at the close of the desk on a date; what was filled in can be used', () => {
    const due = (d: object) => only(play(plan(task('t', { due: d }))).effects, 'taskDue')[0]?.at;
    expect(due({ within: 'PT10H' })).toBe('2026-03-03T11:00:00.000Z');
    expect(due({ by: { ref: 'form.from' } })).toBe('2026-03-04T16:00:00.000Z');
  });
  it('a finished task cannot be finished again', () => {
    const p = play(plan(task('t'), task('u')));
    doTask(p, 't');
    expect(p.feed({ type: 'taskDone', key: 't#1', person: 'tech', values: {} })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });
  it('a question waits for the answer and gives it on', () => {
    const p = play(
      plan(step('askBack', 'q', { question: sentence('Which?'), fields: [{ id: 'answer', kind: 'text', label: 'Answer', required: true }] })),
    );
    p.feed({ type: 'replied', key: 'q#1', person: 'req', values: { answer: 'North' } });
    expect(p.state().outputs['q']).toEqual({ answer: 'North' });
  });
  it('a lookup may find nobody; work out that gives nothing or another type is stuck with a sentence', () => {
    const p = play(plan(step('find', 'f', { lookup: { find: 'managerOf', person: { ref: 'request.requester' } } })));
    find(p);
    expect(p.state().outputs['f']).toEqual({ person: null });
    const wrong = (feel: string) => openActivities(play(plan(step('workOut', 'w', { feel, type: 'number' }))).state())[0]?.cause;
    expect(wrong('form.cores +')).toContain('not');
    expect(wrong('form.nothing * 2')).toContain('form.nothing has no value');
    expect(wrong('"two"')).toContain('not a number');
  });
  it('a pause lasts for a span, or until the desk opens on a date; a date gone by does not wait', () => {
    const at = (until: object) => play(plan(step('pause', 'p', { until: until as never }))).nextTimer()?.at;
    expect(at({ span: { length: 'PT2H', counted: 'working' } })).toBe('2026-03-02T11:00:00.000Z');
    expect(at({ date: { ref: 'form.from' } })).toBe('2026-03-04T08:00:00.000Z');
    expect(play(plan(step('pause', 'p', { until: { date: { ref: 'form.from' } } })), { answers: { from: '2026-01-01' } }).state().outcome).toBe(
      'fulfilled',
    );
  });
  it('parts of a message show only under their condition', () => {
    const words = step('tell', 't', {
      to: { ref: 'request.requester' },
      subject: sentence('S'),
      body: [
        ...passages('Always'),
        { when: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'project' } }, text: sentence('Project') },
      ],
    });
    expect(only(play(plan(words)).effects, 'message')[0]?.body.text).toEqual([[{ text: 'Always' }]]);
  });
});

describe('a task that is late', () => {
  it('is told of when it is due, and each time after, at most so often; then others are; it stays open all the while', () => {
    const late = {
      reminders: { after: 'P1D', times: 2 },
      raise: { after: 'PT12H', to: { from: { ref: 'form.by' } }, how: 'handOver' },
    };
    // Monday 9:00: due at 13:00; reminded then and on Tuesday at 13:00; twelve working hours after it was due it goes to others.
    const p = play(plan(task('t', { due: { within: 'PT4H' }, late })), { answers: { by: { team: 'stores' } } });
    expect(p.state().status).toBe('open');
    const seen = () => p.effects.filter((e) => e.effect === 'taskLate' || e.effect === 'raiseTask');
    p.until('2026-03-02T12:59:59.000Z');
    expect(seen()).toEqual([]);
    p.until('2026-03-02T13:00:00.000Z');
    expect(seen()).toEqual([{ effect: 'taskLate', key: 't#1' }]);
    p.until('2026-03-03T13:00:00.000Z');
    expect(seen()).toHaveLength(2);
    p.until('2026-03-03T23:00:00.000Z');
    expect(seen()).toHaveLength(2);
    p.until('2026-03-10T00:00:00.000Z');
    expect(seen().slice(2)).toEqual([{ effect: 'raiseTask', key: 't#1', to: { team: 'stores' }, how: 'handOver' }]);
    expect(p.open('t')?.phase).toBe('working');
    doTask(p, 't');
    expect(p.state().outcome).toBe('fulfilled');
    expect(only(p.effects, 'cancelTimers')).toEqual([{ effect: 'cancelTimers', key: 't#1' }]);
  });

  it('is not told of once it is done, and brought before nobody where the value leads to nobody', () => {
    const late = { reminders: { after: 'P1D', times: 2 }, raise: { after: 'PT0S', to: { from: { ref: 'form.nobody' } }, how: 'tell' } };
    const p = play(plan(task('t', { due: { within: 'PT4H' }, late }), task('next')));
    doTask(p, 't');
    p.until('2026-03-20T00:00:00.000Z');
    expect(p.effects.filter((e) => e.effect === 'taskLate' || e.effect === 'raiseTask')).toEqual([]);
    const q = play(plan(task('t', { due: { within: 'PT4H' }, late })));
    q.until('2026-03-02T13:00:00.000Z');
    expect(q.effects.filter((e) => e.effect === 'taskLate' || e.effect === 'raiseTask')).toHaveLength(1);
  });
});
