import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { anyPlan } from '../testing/any-plan.ts';
import { gate, step, tell } from '../testing/samples.ts';
import { roomOf, requesterNames, stepIds, walk } from './index.ts';

const mark = (id: string, words: string) => step('mark', id, { shows: 'milestone', words });
const task = (id: string, more: object = {}) => ({ ...step('task', id, { instructions: [], checklist: [], fields: [] }), ...more });

describe('what the requester reads of a step', () => {
  it('is its name for them, else the milestone it leads to, else what its kind says; in branches what comes after them counts', () => {
    const names = requesterNames({
      steps: [
        { ...gate({ id: 'agree', name: 'Internal gate name', declined: [task('clear')] }), forRequester: 'Your manager is asked' },
        task('before'),
        mark('ready', 'It is ready'),
        step('together', 'both', { join: 'all', branches: [{ id: 'a', name: 'A', block: [task('in'), mark('half', 'Half way'), task('rest')] }] }),
        mark('done', 'All is done'),
        task('after'),
        tell('t', 'Tell the days are wrong'),
      ],
    });
    expect(Object.fromEntries(names)).toMatchObject({
      agree: 'Your manager is asked',
      clear: 'On the way to: It is ready',
      before: 'On the way to: It is ready',
      in: 'On the way to: Half way',
      rest: 'On the way to: All is done',
      after: 'The desk works on it',
      t: 'Somebody is told',
    });
  });

  it('is there for every step of any plan, and never the name that designers gave it', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const names = requesterNames(plan);
        for (const id of stepIds(plan)) expect(names.get(id)).toBeTruthy();
        for (const { step: s } of walk(plan.steps))
          if (s.forRequester === undefined && roomOf(s).milestone?.(s) === undefined) expect(names.get(s.id)).not.toBe(s.name);
      }),
    );
  });
});
