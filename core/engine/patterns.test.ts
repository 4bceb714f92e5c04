import { describe, expect, it } from 'vitest';
import { passages, type Block, type Plan, type Step } from '../plans/index.ts';
import { monday, play, playOut, type Player } from '../testing/player.ts';
import { add, finish, gate, step, tell } from '../testing/samples.ts';
import { openActivities } from './index.ts';

/**
 * The control-flow patterns of the workflow patterns catalogue (van der Aalst, ter Hofstede, Kiepuszewski, Barros 2003;
 * revised by Russell, ter Hofstede, van der Aalst, Mulyar 2006), by their names and numbers there. Those that are not
 * here are listed with the reason in docs/plans.md.
 */
const task = (id: string): Step =>
  step('task', id, {
    assignee: { team: 'desk' },
    instructions: passages('Do'),
    checklist: [],
    fields: [{ id: 'n', kind: 'number', label: 'N', required: false }],
  });
const plan = (...steps: Block): Plan => ({ steps });
const open = (p: Player) => openActivities(p.state()).map((a) => a.step);
const did = (p: Player, id: string, n = 1) => p.feed({ type: 'taskDone', key: p.open(id)!.key, person: 'tech', values: { n } });
const when = (literal: string) => ({ compare: 'is', left: { ref: 'form.kind' }, right: { literal } }) as const;
const cases = (id: string, blocks: Block[], otherwise?: Block) =>
  step('choose', id, {
    cases: blocks.map((block, i) => ({ id: `c${i}`, name: `C${i}`, when: when(['daily', 'project', 'other'][i]!), block })),
    otherwise,
  });
const side = (id: string, join: 'all' | 'first', ...blocks: Block[]) =>
  step('together', id, { join, branches: blocks.map((block, i) => ({ id: `b${i}`, name: `B${i}`, block })) });
const until = (ref: string, literal: number) => ({ compare: 'atLeast', left: { ref }, right: { literal } }) as const;

describe('basic control flow', () => {
  it('1 Sequence', () => {
    const p = play(plan(task('a'), task('b')));
    expect(open(p)).toEqual(['a']);
    did(p, 'a');
    expect(open(p)).toEqual(['b']);
  });
  it('2 Parallel Split', () => expect(open(play(plan(side('s', 'all', [task('a')], [task('b')]))))).toEqual(['a', 'b']));
  it('3 Synchronization', () => {
    const p = play(plan(side('s', 'all', [task('a')], [task('b')]), task('c')));
    did(p, 'a');
    expect(open(p)).toEqual(['b']);
    did(p, 'b');
    expect(open(p)).toEqual(['c']);
  });
  it('4 Exclusive Choice', () => expect(open(play(plan(cases('c', [[task('a')], [task('b')]], [task('o')]))))).toEqual(['a']));
  it('5 Simple Merge', () => {
    const p = play(plan(cases('c', [[task('a')], [task('b')]]), task('d')));
    did(p, 'a');
    expect(open(p)).toEqual(['d']);
  });
});

describe('advanced branching', () => {
  const branch = (id: string, literal: string) => [
    step('choose', `if${id}`, { cases: [{ id: 'c', name: 'C', when: when(literal), block: [task(id)] }], otherwise: [] }),
  ];
  it('6 Multi-Choice: branches side by side, each behind a condition of its own', () => {
    expect(open(play(plan(side('s', 'all', branch('a', 'daily'), branch('b', 'project'), branch('d', 'daily')))))).toEqual(['a', 'd']);
  });
  it('7 Structured Synchronizing Merge: waits for those branches that were taken', () => {
    const p = play(plan(side('s', 'all', branch('a', 'daily'), branch('b', 'project')), task('z')));
    did(p, 'a');
    expect(open(p)).toEqual(['z']);
  });
  it('9 Structured Discriminator, as 29 Cancelling Discriminator: the first to end goes on, the others are withdrawn', () => {
    const p = play(plan(side('s', 'first', [task('a')], [task('b')]), task('c')));
    did(p, 'b');
    expect(open(p)).toEqual(['c']);
    expect(p.effects).toContainEqual({ effect: 'closeTask', key: 'a#1', result: 'withdrawn' });
  });
  it('32 Cancelling Partial Join: at least k of n, over the approvers of a gate', () => {
    const p = play(plan(gate({ rule: { rule: 'atLeast', count: 2 } }), task('c')));
    p.feed({ type: 'found', key: 'owners#1', people: ['x', 'y', 'z'].map((person) => ({ person })) });
    for (const person of ['x', 'z']) p.feed({ type: 'decided', key: 'owners#1', person, decision: 'approve', comment: '' });
    expect(open(p)).toEqual(['c']);
  });
  it('41 Thread Merge and 42 Thread Split: a for-each opens rounds and goes on once all are over', () => {
    const p = play(plan(step('forEach', 'e', { list: { ref: 'form.crew' }, body: [task('a')] }), task('z')));
    expect(open(p)).toEqual(['a', 'a', 'a']);
    [1, 2, 3].forEach((n) => p.feed({ type: 'taskDone', key: `a#${n}`, person: 'x', values: {} }));
    expect(open(p)).toEqual(['z']);
  });
});

describe('several instances', () => {
  const each = (atOnce?: number) => step('forEach', 'e', { list: { ref: 'form.crew' }, atOnce, body: [task('a')] });
  it('13 Multiple Instances with a priori Design-Time Knowledge: as many branches as are drawn', () =>
    expect(open(play(plan(side('s', 'all', [task('a')], [task('b')], [task('c')]))))).toHaveLength(3));
  it('14 Multiple Instances with a priori Run-Time Knowledge: as many as the list has rows', () => {
    expect(open(play(plan(each()), { answers: { crew: ['u', 'v'] } }))).toHaveLength(2);
    expect(open(play(plan(each(2))))).toHaveLength(2);
  });
});

describe('state-based', () => {
  it('16 Deferred Choice: the first of several things to happen decides; here an approval or the end of a wait', () => {
    const race = plan(
      side('s', 'first', [task('answer')], [step('pause', 'late', { until: { span: { length: 'PT4H', counted: 'always' } } }), task('chase')]),
    );
    const p = play(race);
    p.until('2026-03-02T14:00:00.000Z');
    expect(open(p)).toEqual(['answer', 'chase']);
    const q = play(race);
    did(q, 'answer');
    expect(q.state().outcome).toBe('fulfilled');
    expect(q.nextTimer()).toBeUndefined();
  });
  it('18 Milestone: work added late holds a milestone, and what follows it, back', () => {
    const p = play(plan(task('a'), step('mark', 'm', { shows: 'milestone', words: 'Ready' }), task('b')));
    p.feed({ type: 'added', person: 'x', to: 'm', step: task('extra') as never });
    did(p, 'a');
    expect(open(p)).toEqual(['m', 'extra']);
    did(p, 'extra');
    expect(open(p)).toEqual(['b']);
  });
  it('40 Interleaved Routing, over rows: one round after another', () => {
    const p = play(plan(step('forEach', 'e', { list: { ref: 'form.crew' }, atOnce: 1, body: [task('a')] })));
    expect(open(p)).toEqual(['a']);
    did(p, 'a');
    expect(openActivities(p.state()).map((a) => a.key)).toEqual(['a#2']);
  });
});

describe('cancellation', () => {
  it('19 Cancel Activity: a deadline takes one step away', () => {
    const p = play(plan(step('guard', 'g', { body: [task('a')], remedy: [], deadline: { length: 'PT1H', counted: 'working' }, late: [task('b')] })));
    p.until('2026-03-02T10:00:00.000Z');
    expect(open(p)).toEqual(['b']);
  });
  it('20 Cancel Case: withdrawal by the requester', () => {
    const p = play(plan(side('s', 'all', [task('a')], [gate()])));
    p.feed({ type: 'withdrawn', person: 'req' });
    expect([p.state().outcome, open(p)]).toEqual(['withdrawn', []]);
  });
  it('25 Cancel Region: a failure takes the whole body of its guard away', () => {
    const p = play(plan(step('guard', 'g', { body: [side('s', 'all', [add], [task('a')], [gate()])], remedy: [task('r')] })));
    p.feed({ type: 'callFailed', key: 'add#1', cause: 'down' });
    expect(open(p)).toEqual(['r']);
  });
  it('26 Cancel Multiple Instance Activity: a for-each inside a guard goes with all its rounds', () => {
    const p = play(
      plan(
        step('guard', 'g', {
          body: [step('forEach', 'e', { list: { ref: 'form.crew' }, body: [task('a')] })],
          remedy: [],
          deadline: { length: 'PT1H', counted: 'working' },
        }),
      ),
    );
    p.until('2026-03-02T10:00:00.000Z');
    expect(p.effects.filter((e) => e.effect === 'closeTask')).toHaveLength(3);
    expect(p.state().outcome).toBe('fulfilled');
  });
});

describe('iteration', () => {
  it('21 Structured Loop: the body, then the test', () => {
    const p = play(plan(step('repeat', 'r', { body: [task('a')], until: until('steps.a.n', 3), tries: 9 }), task('z')));
    [1, 2, 3].forEach((n) => did(p, 'a', n));
    expect(open(p)).toEqual(['z']);
  });
  it('22 Recursion is cut: a part that holds itself stops at a stated depth', () => {
    const p = play({
      steps: [step('part', 'p', { part: 's', inputs: {} })],
      parts: { s: { name: 'S', inputs: [], outputs: [], steps: [step('part', 'q', { part: 's', inputs: {} })] } },
    });
    expect(p.state().status).toBe('open');
    expect(openActivities(p.state())[0]?.phase).toBe('stuck');
  });
});

describe('termination and triggers', () => {
  it('11 Implicit Termination: fulfilled when nothing is left to do', () =>
    expect(playOut(play(plan(task('a'), tell('t', 'T')))).outcome).toBe('fulfilled'));
  it('43 Explicit Termination: a finish ends all that is open', () => {
    const p = play(plan(side('s', 'all', [task('a')], [finish('f', 'failed')])));
    expect([p.state().outcome, open(p)]).toEqual(['failed', []]);
  });
  it('24 Persistent Trigger: what a run waits for can happen at any time after, and counts', () => {
    const p = play(plan(step('pause', 'p', { until: { date: { ref: 'form.from' } } }), task('a')));
    expect(p.now()).toBe(monday);
    p.until('2027-01-01T00:00:00.000Z');
    expect(open(p)).toEqual(['a']);
  });
});
