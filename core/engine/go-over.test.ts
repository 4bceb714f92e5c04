import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { findStep, removeSteps, replaceStep, type Block, type Plan } from '../plans/index.ts';
import type { Field } from '../forms/index.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { obliging, play, playOut } from '../testing/player.ts';
import { add, gate, step, tell } from '../testing/samples.ts';
import { advance, newState, openActivities, replay, whyNotOver } from './index.ts';

const none = { fields: [] };
const over = (before: Plan, after: Plan, events: Parameters<typeof whyNotOver>[2]) =>
  whyNotOver({ form: none, plan: before }, { form: none, plan: after }, events);
const task = (id: string, words: string) =>
  step('task', id, { assignee: { team: 'desk' }, instructions: [{ text: [[{ text: words }]] }], checklist: [], fields: [] });
const plan = (...steps: Block): Plan => ({ steps });

describe('a run goes over to another revision', () => {
  const before = plan(gate(), task('set', 'Set it up'), tell('t', 'Tell the end'));
  const waiting = () => {
    const p = play(before);
    p.feed({ type: 'found', key: 'owners#1', people: [{ person: 'o1' }] });
    return p;
  };

  it('where only what is to come is otherwise, and goes on there', () => {
    const p = waiting();
    const after = plan(gate({ name: 'Owners agree, renamed' }), task('set', 'Set it up with care'), add, tell('t', 'Tell the end'));
    // The name of a gate that is open stands before those who are asked.
    expect(over(before, after, p.events)).toBe('“Owners agree” went otherwise than it would in the new revision.');
    const later = plan(gate(), task('set', 'Set it up with care'), add, tell('t', 'Tell the end'));
    expect(over(before, later, p.events)).toBeUndefined();
    const { state, effects } = advance(
      later,
      p.state(),
      { type: 'decided', key: 'owners#1', person: 'o1', decision: 'approve', comment: '' },
      p.now(),
    );
    expect(effects.find((e) => e.effect === 'openTask')).toMatchObject({ instructions: { text: [[{ text: 'Set it up with care' }]] } });
    expect(state.status).toBe('open');
  });

  it('not where something was done otherwise, too many, or too few', () => {
    const p = waiting();
    expect(over(before, plan(gate({ rule: { rule: 'all' } }), ...before.steps.slice(1)), p.events)).toBe(
      '“Owners agree” went otherwise than it would in the new revision.',
    );
    expect(over(before, plan(tell('first', 'Say hello'), ...before.steps), p.events)).toBe(
      '“Owners agree” has begun where the new revision has “Say hello”.',
    );
    expect(over(plan(tell('first', 'Say hello'), ...before.steps), before, play(plan(tell('first', 'Say hello'), ...before.steps)).events)).toBe(
      '“Say hello” has begun where the new revision has “Owners agree”.',
    );
  });

  it('not where the form wants what it does not have, or has it as another kind', () => {
    const p = waiting();
    const why = (field: Partial<Field>) =>
      whyNotOver(
        { form: none, plan: before },
        { form: { fields: [{ id: 'centre', kind: 'text', label: 'Cost centre', required: true, ...field } as Field] }, plan: before },
        p.events,
      );
    expect(why({})).toBe('The new form wants “Cost centre”, which this request does not have.');
    expect(why({ required: false })).toBeUndefined();
    expect(why({ id: 'reason', kind: 'number' })).toBe('“Cost centre” is of another kind in the new form.');
  });

  it('exactly where what happened comes to the same, on generated plans, changes and ways through them', () => {
    let [can, cannot] = [0, 0];
    fc.assert(
      fc.property(anyPlan, fc.nat(), fc.nat({ max: 12 }), fc.nat({ max: 3 }), (before, n, moves, how) => {
        const p = play(before);
        for (let i = 0; i < moves && p.state().status === 'open'; i++) {
          const event = openActivities(p.state())
            .map((a) => obliging(a))
            .find((e) => e !== undefined);
          if (!event) break;
          p.feed(event);
        }
        expect(over(before, structuredClone(before), p.events)).toBeUndefined();
        const ids = [...new Set(p.effects.flatMap((e) => (e.effect === 'began' ? [e.step] : [])))];
        const begun = new Set(ids);
        const top = before.steps.map((s) => s.id);
        const id = top[n % Math.max(1, top.length)];
        const old = id === undefined ? undefined : findStep(before, id);
        const after: Plan =
          how === 0 || !old
            ? { ...before, steps: [...before.steps, tell('news', 'News')] }
            : how === 1
              ? removeSteps(before, [old.id])
              : how === 2
                ? replaceStep(before, { ...old, expected: { min: 'PT1H', likely: 'PT2H', max: 'PT3H' } })
                : { ...before, steps: [tell('news', 'News'), ...before.steps] };
        const why = over(before, after, p.events);
        if (why === undefined) {
          can++;
          expect(replay(after, p.events, newState())).toEqual(p.state());
          // It goes on from there, and what has begun does not begin again.
          const whole = play(after);
          for (const e of p.events.slice(1))
            if (e.event.type !== 'reckoned' && e.event.type !== 'rowsRead' && e.event.type !== 'rowsFound') whole.feed(e.event);
          expect(whole.state()).toEqual(p.state());
          playOut(whole);
          const keys = whole.effects.flatMap((e) => (e.effect === 'began' ? [e.key] : []));
          expect(new Set(keys).size).toBe(keys.length);
        } else cannot++;
        // Known beforehand: what comes last of all, and how long something should take, matter to no run that is open.
        if (p.state().status === 'open' && (how === 0 || how === 2)) expect(why).toBeUndefined();
        if (how === 1 && old && begun.has(old.id)) expect(why).toBeDefined();
        if (how === 1 && old && !begun.has(old.id) && p.state().status === 'open') expect(why).toBeUndefined();
        if (how === 3) expect(why).toBeDefined();
      }),
      { numRuns: 200 },
    );
    expect(can).toBeGreaterThan(20);
    expect(cannot).toBeGreaterThan(20);
  });
});
