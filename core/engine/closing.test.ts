import { describe, expect, it } from 'vitest';
import { checkItem } from '../checks/index.ts';
import { passages, type Block, type Plan, type Step } from '../plans/index.ts';
import { play, type Player } from '../testing/player.ts';
import { add, catalogue, finish, form, gate, step, tell } from '../testing/samples.ts';
import { openActivities, type Effect } from './index.ts';

// Before a request ends as declined, withdrawn, lapsed or failed, its closing for that outcome runs; then what was provisioned is taken back.

const task = (id: string): Step => step('task', id, { assignee: { team: 'desk' }, instructions: passages('Do it'), checklist: [], fields: [] });
const closing = (more: Partial<Record<'declined' | 'withdrawn' | 'lapsed' | 'failed', Block>>, id = 'close'): Step => step('closing', id, more);
const doTask = (p: Player, id: string) => p.feed({ type: 'taskDone', key: p.open(id)!.key, person: 'tech', values: {} });
const kinds = (effects: Effect[]) => effects.map((e) => e.effect);
const withdrawn = { type: 'withdrawn' as const, person: 'req' };

describe('a closing', () => {
  const plan: Plan = { steps: [task('pack'), task('send'), closing({ withdrawn: [task('fetch'), tell('back', 'It is back')] })] };

  it('is passed by while all goes well', () => {
    const p = play(plan);
    doTask(p, 'pack');
    doTask(p, 'send');
    expect(p.state().outcome).toBe('fulfilled');
    expect(p.done()).not.toContain('task fetch');
  });

  it('runs before the request ends so, from wherever it was; what was open is withdrawn first, and the requester reads why', () => {
    const p = play(plan);
    const effects = p.feed(withdrawn);
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'closeTask', key: 'pack#1', result: 'withdrawn' }));
    expect(effects).toContainEqual(
      expect.objectContaining({ effect: 'mark', shows: 'status', words: 'Withdrawn; what was begun is being wound up' }),
    );
    expect(p.state().status).toBe('open');
    expect(openActivities(p.state()).map((a) => a.key)).toEqual(['fetch#1']);
    const last = doTask(p, 'fetch');
    expect(kinds(last)).toContain('message');
    expect(p.state()).toMatchObject({ status: 'ended', outcome: 'withdrawn', reason: 'Withdrawn by the requester.' });
    expect(p.state().ending).toBeUndefined();
  });

  it('is begun once: a second withdrawal and additions come too late', () => {
    const p = play(plan);
    p.feed(withdrawn);
    expect(p.feed(withdrawn)).toEqual([{ effect: 'ignored', reason: 'ended' }]);
    expect(p.feed({ type: 'added', to: 'end', step: task('more') as never, person: 'tech' })).toEqual([{ effect: 'ignored', reason: 'ended' }]);
    doTask(p, 'fetch');
    expect(p.feed(withdrawn)).toEqual([{ effect: 'ignored', reason: 'ended' }]);
  });

  it('is of its outcome only: another end comes at once', () => {
    const p = play({ steps: [finish('no', 'declined'), closing({ withdrawn: [task('fetch')] })] });
    expect(p.state()).toMatchObject({ status: 'ended', outcome: 'declined' });
  });

  it('keeps its outcome whatever a step in it would end as, and the reason why', () => {
    const p = play({
      steps: [
        gate({ approvers: { from: 'people', people: [{ person: 'a' }] } }),
        closing({ declined: [task('tidy'), finish('yes', 'fulfilled'), task('never')] }),
      ],
    });
    p.feed({ type: 'found', key: openActivities(p.state())[0]!.key, people: [{ person: 'a' }] });
    p.feed({ type: 'decided', key: p.open('owners')!.key, person: 'a', decision: 'decline', comment: 'Not this year' });
    doTask(p, 'tidy');
    expect(p.state()).toMatchObject({ status: 'ended', outcome: 'declined', reason: expect.stringContaining('Not this year') });
  });

  it('comes from inside branches side by side, rounds and guards; their other work is withdrawn', () => {
    const inside = step('guard', 'g', {
      body: [
        step('together', 't', {
          join: 'all',
          branches: [
            { id: 'a', name: 'A', block: [task('one'), finish('no', 'failed')] },
            { id: 'b', name: 'B', block: [task('two')] },
          ],
        }),
      ],
      remedy: [task('remedy')],
      deadline: { length: 'P1D', counted: 'always' },
    });
    const p = play({ steps: [inside, tell('end', 'End'), closing({ failed: [task('tidy')] })] });
    const effects = doTask(p, 'one');
    expect(effects).toContainEqual(expect.objectContaining({ effect: 'closeTask', key: 'two#1', result: 'withdrawn' }));
    expect(p.timers()).toEqual([]);
    expect(openActivities(p.state()).map((a) => a.key)).toEqual(['tidy#1']);
    doTask(p, 'tidy');
    expect(p.state().outcome).toBe('failed');
  });

  it('comes before what was provisioned is taken back; a step of it that fails waits for a person', () => {
    const p = play({
      undoWhen: ['withdrawn'],
      steps: [{ ...add, undo: 'directory.removeMember' } as Step, task('use'), closing({ withdrawn: [{ ...add, id: 'other' } as Step] })],
    });
    p.feed({ type: 'answered', key: 'add#1', outputs: { already: false } });
    p.feed(withdrawn);
    expect(p.state().undoing).toBeUndefined();
    p.feed({ type: 'callFailed', key: 'other#1', cause: 'down' });
    expect(openActivities(p.state())).toMatchObject([{ key: 'other#1', phase: 'stuck' }]);
    p.feed({ type: 'skipped', key: 'other#1', person: 'admin', comment: 'By hand' });
    expect(p.state().outcome).toBe('withdrawn');
    expect(p.state().undoing?.current?.key).toBe('undo:add#1');
  });

  it('is not taken back itself, nor what it had under way', () => {
    const p = play({
      undoWhen: ['withdrawn'],
      steps: [task('use'), closing({ withdrawn: [{ ...add, undo: 'directory.removeMember' } as Step] })],
    });
    p.feed(withdrawn);
    p.feed({ type: 'answered', key: 'add#1', outputs: { already: false } });
    expect(p.state()).toMatchObject({ status: 'ended', outcome: 'withdrawn', given: [{ key: 'add#1' }] });
    expect(p.state().undoing).toBeUndefined();
  });
});

describe('what the check finds in a closing', () => {
  const codes = (...steps: Block) => checkItem(form, { steps }, catalogue).map((f) => [f.code, f.step, f.severity]);
  it('a value that is not there wherever it is come from', () => {
    const words = step('tell', 'say', {
      to: { ref: 'request.requester' },
      subject: [[{ text: 'Back' }]],
      body: [{ text: [[{ ref: 'steps.add.already' }]] }],
    });
    const good = [gate({ declined: [tell('no', 'No'), finish('f', 'declined')] }), add, tell('end', 'End')];
    expect(codes(...good, closing({ withdrawn: [words] }))).toEqual([['may-have-no-value', 'say', 'warns']]);
    expect(codes(...good, closing({ withdrawn: [tell('say', 'It is over')] }))).toEqual([]);
  });
  it('nothing stated, another step around it, an outcome that an earlier one has, something given that nobody agreed to', () => {
    expect(codes(tell('t', 'T'), closing({}))).toEqual([['unset-setting', 'close', 'stops']]);
    const choose = step('choose', 'c', {
      cases: [
        {
          id: 'x',
          name: 'X',
          when: { compare: 'is', left: { ref: 'form.kind' }, right: { literal: 'daily' } },
          block: [closing({ failed: [tell('a', 'A')] })],
        },
      ],
      otherwise: [],
    });
    expect(codes(choose, tell('t', 'T'))).toContainEqual(['closing-inside', 'close', 'stops']);
    const twice = [closing({ failed: [tell('a', 'A')] }, 'one'), closing({ failed: [tell('b', 'B')] }, 'two')];
    expect(codes(tell('t', 'T'), ...twice)).toEqual([['never-reached', 'two', 'warns']]);
    const granting = { ...catalogue, actions: catalogue.actions.map((a) => ({ ...a, grants: true })) };
    const agreed = gate({ declined: [tell('no', 'No'), finish('f', 'declined')] });
    const given = checkItem(
      form,
      { steps: [agreed, add, tell('t', 'T'), closing({ failed: [{ ...add, id: 'again', name: 'Again' } as Step] })] },
      granting,
    );
    expect(given.map((f) => [f.code, f.step])).toEqual([['ungated', 'again']]);
  });
});
