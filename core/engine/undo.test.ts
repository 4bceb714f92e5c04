import { describe, expect, it } from 'vitest';
import type { Step } from '../plans/index.ts';
import { play, type Player } from '../testing/player.ts';
import { add, step } from '../testing/samples.ts';
import { openActivities, type Effect } from './index.ts';

const only = <K extends Effect['effect']>(effects: Effect[], kind: K) =>
  effects.filter((e): e is Extract<Effect, { effect: K }> => e.effect === kind);
const made = (id: string, undo?: string) => ({ ...add, id, name: id.toUpperCase(), ...(undo && { undo }) }) as Step;
/** What two steps gave, each with its own number; the request goes on, or is over. */
function given(rest: Step[] = [], undo: [string?, string?] = ['x.out', 'x.out']): Player {
  const p = play({ undoWhen: ['withdrawn'], steps: [made('a', undo[0]), made('b', undo[1]), ...rest] });
  for (const id of ['a', 'b']) p.feed({ type: 'answered', key: `${id}#1`, round: 0, outputs: { serial: `${id}-1` } });
  return p;
}
const took = (p: Player) => only(p.effects, 'tookBack').map((e) => e.given.key);

describe('given back', () => {
  it('after the request was fulfilled: the system takes it back, with why, and once', () => {
    const p = given();
    expect(p.state().outcome).toBe('fulfilled');
    const effects = p.feed({ type: 'givenBack', id: 'a#1', person: 'req', why: 'I need it no more.' });
    expect(only(effects, 'call')).toMatchObject([{ key: 'undo:a#1', action: 'x.out', inputs: { serial: 'a-1', group: { group: 'g1' } } }]);
    expect(p.feed({ type: 'givenBack', id: 'a#1', why: 'Again' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    const over = p.feed({ type: 'answered', key: 'undo:a#1', round: 0, outputs: {} });
    expect(only(over, 'ended')).toMatchObject([{ key: 'undo:a#1', end: 'done', note: 'I need it no more.' }]);
    expect(took(p)).toEqual(['a#1']);
    expect(p.feed({ type: 'givenBack', id: 'a#1', why: 'Again' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    expect(p.feed({ type: 'givenBack', id: 'nothing#1', why: '' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
  });
  it('while the request goes on: what is under way stays first when it is withdrawn, and nothing is taken twice', () => {
    const p = given([step('task', 't', { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] })]);
    p.feed({ type: 'givenBack', id: 'a#1', why: 'Gone' });
    expect(p.open('t')).toBeDefined();
    p.feed({ type: 'withdrawn', person: 'req' });
    for (let i = 0; p.state().undoing && i < 9; i++) p.feed({ type: 'answered', key: p.state().undoing!.current!.key, outputs: {} });
    expect(took(p)).toEqual(['a#1', 'b#1']);
    expect(p.state().outcome).toBe('withdrawn');
  });
  it('what a system has no more is nobody’s any more, and nothing is asked of the system; what is being taken back already goes on', () => {
    const p = given();
    const effects = p.feed({ type: 'givenBack', id: 'a#1', person: 'adm', why: 'The park has it no more.', gone: true });
    expect(effects.map((e) => e.effect)).toEqual(['began', 'tookBack', 'ended']);
    expect(only(effects, 'ended')).toMatchObject([{ key: 'undo:a#1', end: 'takenOver', note: 'The park has it no more.' }]);
    expect(p.feed({ type: 'givenBack', id: 'a#1', why: 'Again', gone: true })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    p.feed({ type: 'givenBack', id: 'b#1', why: 'Left.' });
    expect(p.feed({ type: 'givenBack', id: 'b#1', why: 'Gone', gone: true })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    p.feed({ type: 'answered', key: 'undo:b#1', round: 0, outputs: {} });
    expect(took(p)).toEqual(['a#1', 'b#1']);
  });
  it('what no action takes back is a task for whoever answers for the system; without one it waits, stuck', () => {
    const p = given([], [undefined, 'none']);
    const effects = p.feed({ type: 'givenBack', id: 'a#1', why: 'Left.', hand: 'own' });
    expect(only(effects, 'openTask')).toMatchObject([{ key: 'undo:a#1', name: 'Take back: A', assignee: { person: 'own' } }]);
    expect(only(effects, 'openTask')[0]!.instructions).toMatchObject({
      text: expect.arrayContaining([
        [{ text: 'Left.' }],
        [{ text: 'Nothing takes back what “A” gave.' }],
        [{ text: 'Serial: ' }, { ref: 'given.serial' }],
      ]),
      values: { 'given.serial': 'a-1' },
    });
    const done = p.feed({ type: 'taskDone', key: 'undo:a#1', person: 'own', values: {} });
    expect(done.map((e) => e.effect)).toEqual(['closeTask', 'tookBack', 'ended']);
    p.feed({ type: 'givenBack', id: 'b#1', why: 'Left.' });
    expect(openActivities(p.state())).toMatchObject([{ key: 'undo:b#1', phase: 'stuck' }]);
    p.feed({ type: 'retried', key: 'undo:b#1', person: 'tech' });
    expect(openActivities(p.state())).toMatchObject([{ key: 'undo:b#1', phase: 'stuck' }]);
    p.feed({ type: 'takenOver', key: 'undo:b#1', person: 'tech', outputs: {}, comment: 'Fetched' });
    expect(took(p)).toEqual(['a#1', 'b#1']);
    expect(p.state().undoing).toBeUndefined();
  });
  it('what waits for a person holds nothing else up: each is given back by itself', () => {
    const p = given();
    p.feed({ type: 'givenBack', id: 'a#1', why: 'I move.' });
    p.feed({ type: 'givenBack', id: 'b#1', why: 'I move, too.' });
    const failed = p.feed({ type: 'callFailed', key: 'undo:a#1', round: 0, cause: 'It keeps two.', hand: 'own' });
    expect(only(failed, 'openTask')).toMatchObject([{ key: 'undo:a#1' }]);
    expect(only(failed, 'call')).toMatchObject([{ key: 'undo:b#1' }]);
    expect(openActivities(p.state()).map((a) => [a.key, a.phase])).toEqual([
      ['undo:b#1', 'calling'],
      ['undo:a#1', 'working'],
    ]);
    expect(p.feed({ type: 'givenBack', id: 'a#1', why: 'Again' })).toEqual([{ effect: 'ignored', reason: 'not-open' }]);
    p.feed({ type: 'answered', key: 'undo:b#1', round: 0, outputs: {} });
    expect(took(p)).toEqual(['b#1']);
    expect(p.state().undoing).toMatchObject({ waiting: [], aside: [{ activity: { key: 'undo:a#1' } }] });
    p.feed({ type: 'taskDone', key: 'undo:a#1', person: 'own', values: {} });
    expect(took(p)).toEqual(['b#1', 'a#1']);
    expect(p.state().undoing).toBeUndefined();
  });
  it('one that is stuck is tried again beside what goes on, and what is aside when the run ends is not taken twice', () => {
    const p = given([step('task', 't', { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] })]);
    p.feed({ type: 'givenBack', id: 'a#1', why: 'I move.' });
    p.feed({ type: 'callFailed', key: 'undo:a#1', round: 0, cause: 'down' });
    expect(openActivities(p.state()).find((a) => a.key === 'undo:a#1')).toMatchObject({ phase: 'stuck' });
    expect(only(p.feed({ type: 'retried', key: 'undo:a#1', person: 'tech' }), 'call')).toMatchObject([{ key: 'undo:a#1', round: 1 }]);
    p.feed({ type: 'callFailed', key: 'undo:a#1', round: 1, cause: 'down still' });
    p.feed({ type: 'withdrawn', person: 'req' });
    p.feed({ type: 'answered', key: 'undo:b#1', round: 0, outputs: {} });
    expect(took(p)).toEqual(['b#1']);
    p.feed({ type: 'takenOver', key: 'undo:a#1', person: 'tech', outputs: {}, comment: 'Fetched' });
    expect(took(p)).toEqual(['b#1', 'a#1']);
    expect(p.state().undoing).toBeUndefined();
  });
  it('left with whoever has it, it can be given back again, and is taken back when the request is withdrawn: each under a key of its own', () => {
    const p = given([step('task', 't', { assignee: { team: 'desk' }, instructions: [], checklist: [], fields: [] })]);
    for (const key of ['undo:a#1', 'undo:a#1~1']) {
      p.feed({ type: 'givenBack', id: 'a#1', why: 'Gone' });
      p.feed({ type: 'callFailed', key, round: 0, cause: 'down' });
      expect(p.feed({ type: 'skipped', key, person: 'tech', comment: 'Let them keep it' }).map((e) => e.effect)).toEqual(['leftHeld', 'ended']);
    }
    p.feed({ type: 'withdrawn', person: 'req' });
    for (let i = 0; p.state().undoing && i < 9; i++) p.feed({ type: 'answered', key: p.state().undoing!.current!.key, outputs: {} });
    expect(took(p)).toEqual(['b#1', 'a#1']);
    const began = only(p.effects, 'began').map((e) => e.key);
    expect(new Set(began).size).toBe(began.length);
  });
  it('what the system refuses to take back is a task; an answer that comes after all closes it', () => {
    const p = given();
    p.feed({ type: 'givenBack', id: 'a#1', why: 'Left.' });
    p.feed({ type: 'callFailed', key: 'undo:a#1', round: 0, cause: 'No answer within 2 h.', mayCome: true, hand: 'own' });
    expect(only(p.effects, 'openTask')).toMatchObject([{ key: 'undo:a#1', assignee: { person: 'own' } }]);
    p.feed({ type: 'answered', key: 'undo:a#1', round: 0, outputs: {} });
    expect(only(p.effects, 'closeTask')).toEqual([{ effect: 'closeTask', key: 'undo:a#1', result: 'withdrawn' }]);
    expect(took(p)).toEqual(['a#1']);
    expect(p.feed({ type: 'taskDone', key: 'undo:a#1', person: 'own', values: {} })[0]!.effect).toBe('ignored');
  });
});
