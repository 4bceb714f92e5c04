import { describe, expect, it } from 'vitest';
import { checkItem } from '../../checks/index.ts';
import type { Invite, Plan, Step } from '../../plans/index.ts';
import { play } from '../../testing/player.ts';
import { catalogue, tell, wideForm } from '../../testing/samples.ts';
import { passages } from '../../plans/index.ts';
import { sentence } from '../../values/index.ts';

const meet = (more: Partial<Invite> = {}) =>
  ({
    kind: 'invite',
    id: 'meet',
    name: 'Talk it over',
    expected: { min: 'PT0S', likely: 'PT1H', max: 'P1D' },
    who: [{ ref: 'form.crew' }],
    title: sentence('Talk'),
    body: passages('What you need to know'),
    minutes: 45,
    within: 5,
    ...more,
  }) satisfies Step;
const after = tell('end', 'Tell');
const found = (...steps: Plan['steps']) =>
  checkItem(wideForm, { steps }, catalogue)
    .filter((f) => f.step === 'meet' || f.step === 'end')
    .map((f) => [f.code, f.sentence]);

describe('what the check finds of an invitation', () => {
  it('nothing, where it is whole', () => expect(found(meet({ from: { ref: 'form.from' } }), after)).toEqual([]));
  it.each<[string, Partial<Invite>, string]>([
    ['anybody invited', { who: [] }, 'anyone to invite'],
    ['a title', { title: sentence(' ') }, 'a title'],
    ['words', { body: [] }, 'words'],
  ])('that it has not %s', (_, more, what) => {
    const all = found(meet(more), after);
    expect(all.map(([code]) => code)).toEqual(['unset-setting']);
    expect(all[0]![1]).toContain(what);
  });
  it('that those invited are no people, or the day is no date', () => {
    expect(found(meet({ who: [{ ref: 'form.cores' }] }), after).map(([c]) => c)).toEqual(['wrong-type']);
    expect(found(meet({ from: { ref: 'form.reason' } }), after).map(([c]) => c)).toEqual(['wrong-type']);
  });
  it('that who is invited may be nobody', () => {
    expect(found(meet({ who: [{ ref: 'form.colleague' }] }), after).map(([c]) => c)).toEqual(['may-have-no-value']);
  });
  it('that who comes is known only where it waits, and may be nobody; when it is, is certain', () => {
    const says = (ref: string) => ({ ...after, body: [{ text: [[{ ref }]] }] }) as Step;
    expect(found(meet(), says('steps.meet.begins'))).toEqual([]);
    expect(found(meet(), says('steps.meet.accepted')).map(([c]) => c)).toEqual(['unknown-reference']);
    expect(found(meet({ waits: { again: 0 } }), says('steps.meet.accepted')).map(([c]) => c)).toEqual(['may-have-no-value']);
  });
});

describe('an invitation of a request', () => {
  const key = 'meet#1';
  const crew = [{ person: 'a' }, { person: 'b' }, { person: 'a' }];
  const at = (begins: string, ends: string) => ({ begins: `2026-03-${begins}:00.000Z`, ends: `2026-03-${ends}:00.000Z` });
  const first = at('10T09:00', '10T09:45');
  const second = at('10T10:00', '10T10:45');
  const begun = (more: Partial<Invite> = {}) =>
    play({ steps: [meet(more), after] }, { answers: { crew, from: '2026-03-10', colleague: null } as never });
  const arranged = (p: ReturnType<typeof play>, round = 0, outputs = first) => p.feed({ type: 'answered', key, round, outputs });
  const say = (p: ReturnType<typeof play>, person: string, says: 'yes' | 'no' | 'maybe', round = 0) =>
    p.feed({ type: 'coming', key, round, person, says });

  it('has a time found for each once, with the values of the moment, and goes on with it', () => {
    const p = begun({ from: { ref: 'form.from' }, notice: 'PT4H', place: sentence('Chart Hall') });
    expect(p.effects.filter((e) => e.effect === 'invite')).toMatchObject([
      { key, round: 0, people: ['a', 'b'], minutes: 45, window: { from: '2026-03-10', notice: 'PT4H', within: 5 }, waits: false },
    ]);
    arranged(p);
    expect(p.state().outcome).toBe('fulfilled');
    expect(p.state().outputs['meet']).toEqual(first);
    expect(say(p, 'a', 'no')).toMatchObject([{ effect: 'ignored' }]);
  });
  it('waits for what everybody says: perhaps is no answer, and an answer can be changed', () => {
    const p = begun({ waits: { again: 0 } });
    expect(say(p, 'a', 'yes')).toMatchObject([{ effect: 'ignored' }]);
    arranged(p);
    say(p, 'a', 'yes');
    say(p, 'b', 'maybe');
    expect(p.state().outcome).toBeUndefined();
    expect(say(p, 'c', 'yes')).toEqual([{ effect: 'ignored', reason: 'not-asked' }]);
    say(p, 'a', 'no');
    say(p, 'b', 'yes');
    expect(p.state().outputs['meet']).toEqual({ ...first, accepted: [{ person: 'b' }], declined: [{ person: 'a' }] });
    expect(p.timers()).toEqual([]);
    expect(p.state().outcome).toBe('fulfilled');
  });
  it('goes on when it begins, with what was said until then', () => {
    const p = begun({ waits: { again: 0 } });
    arranged(p);
    say(p, 'a', 'yes');
    p.until(first.begins);
    expect(p.state().outputs['meet']).toEqual({ ...first, accepted: [{ person: 'a' }], declined: [] });
  });
  it('is moved where somebody cannot come, so often as it says; what was said of the time before counts no more', () => {
    const p = begun({ waits: { again: 1 } });
    arranged(p);
    say(p, 'a', 'yes');
    expect(say(p, 'b', 'no')).toContainEqual(expect.objectContaining({ effect: 'invite', round: 1, window: { within: 5, after: first.ends } }));
    expect(p.timers()).toEqual([]);
    expect(arranged(p, 0)).toMatchObject([{ effect: 'ignored' }]);
    arranged(p, 1, second);
    expect(say(p, 'a', 'yes', 0)).toMatchObject([{ effect: 'ignored' }]);
    say(p, 'a', 'no', 1);
    say(p, 'b', 'yes', 1);
    expect(p.state().outputs['meet']).toEqual({ ...second, accepted: [{ person: 'b' }], declined: [{ person: 'a' }] });
  });
  it('for which there is no time waits for a person; tried anew, it is arranged from the beginning', () => {
    const p = begun();
    p.feed({ type: 'callFailed', key, round: 0, cause: 'Nobody is free.' });
    expect(p.open('meet')).toMatchObject({ phase: 'stuck', cause: 'Nobody is free.' });
    expect(p.feed({ type: 'retried', key, person: 'tech' })).toContainEqual(expect.objectContaining({ effect: 'invite', round: 1 }));
    arranged(p, 1);
    expect(p.state().outcome).toBe('fulfilled');
  });
  it('is called off where the request is withdrawn while it is arranged, or waits', () => {
    for (const more of [false, true]) {
      const p = begun({ waits: { again: 0 } });
      if (more) arranged(p);
      expect(p.feed({ type: 'withdrawn', person: 'req' })).toContainEqual({ effect: 'callOff', key });
    }
  });
  it('of nobody cannot be arranged', () => {
    const p = begun({ who: [{ ref: 'form.colleague' }] });
    expect(p.open('meet')).toMatchObject({ phase: 'stuck', cause: '“Talk it over” has nobody to invite.' });
  });
});
