import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { advance, newState, openActivities, replay, RunState, type RunEvent } from '../engine/index.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { obliging, play } from '../testing/player.ts';
import { catalogue, joinGroup, wideForm } from '../testing/samples.ts';
import { itemFormat, keptDocument, kindFormat, policyFormat, readDocument, runFormat, systemFormat, Unreadable } from './index.ts';
import { checkItem } from '../checks/index.ts';
import { checkKind } from '../tickets/index.ts';
import { plainText } from '../values/index.ts';

/** Documents as the code wrote them that had each version: made by that code, and never changed. */
const older = (name: string) => JSON.parse(readFileSync(`core/documents/older/${name}.json`, 'utf8')) as never;

describe('a document', () => {
  const item = { name: 'Join', summary: '', category: '', form: wideForm, plan: joinGroup };

  it('comes back as it was kept, with its version said', () => {
    const kept = keptDocument(itemFormat, item);
    expect(kept['format']).toBe(itemFormat.version);
    expect(readDocument(itemFormat, JSON.parse(JSON.stringify(kept)))).toEqual(item);
  });

  it('of a newer Nessmoor, or that is none any more, is refused with what is wrong', () => {
    expect(() => readDocument(itemFormat, { ...item, format: 99 })).toThrow(/newer Nessmoor \(format 99; known here are those up to 2\)/);
    expect(() => readDocument(itemFormat, { ...item, name: 7, format: 2 })).toThrow(Unreadable);
    expect(() => readDocument(itemFormat, 'an item')).toThrow('This is no item.');
  });

  it('of each older version is lifted to one that fits, and what it meant stays', () => {
    const [odd, plain] = older('items-1') as unknown[];
    const lifted = readDocument(itemFormat, odd);
    expect([lifted.name, lifted.summary, lifted.promise]).toEqual(['Line broken', 'Old', 'P3653D']);
    expect(lifted.form.fields.at(-1)).toMatchObject({ id: 'constructor_own', label: 'Who built it' });
    const [gate, told, worked] = lifted.plan.steps;
    expect(gate).toMatchObject({ deadline: 'P3653D', corrects: ['constructor_own'] });
    expect(told).toMatchObject({
      id: 'toString_own',
      body: [{ text: [[{ ref: 'form.constructor_own' }, { text: ' and ' }, { ref: 'request.number' }]] }],
    });
    expect(worked).toMatchObject({ feel: 'form.constructor_own + "x"' });
    expect(checkItem(lifted.form, lifted.plan, catalogue).map((f) => f.code)).not.toContain('unknown-reference');
    expect(readDocument(itemFormat, plain)).toEqual(plain);
    const { policy, system } = older('others-1') as { policy: unknown; system: unknown };
    expect(readDocument(policyFormat, policy)).toMatchObject({
      purpose: 'Who agrees',
      inputs: [{ name: 'valueOf_own' }],
      lines: [{ when: { left: { ref: 'input.valueOf_own' } } }],
    });
    expect(readDocument(systemFormat, system)).toMatchObject({ timeoutMs: 5000, actions: [{ label: 'Book a berth' }] });
    const [incident] = older('kinds-1') as unknown[];
    const kind = readDocument(kindFormat, incident);
    expect(kind.map.statuses.map((s) => plainText(s.tells))).toEqual([
      '',
      'We have read it and will look into it.',
      '',
      '',
      'It is done. Write back within five working days if it is not.',
      '',
    ]);
    expect(checkKind(kind).filter((f) => f.stops)).toEqual([]);
    const { system: second } = older('others-2') as { system: unknown };
    expect(readDocument(systemFormat, second)).toEqual({
      name: 'Berths',
      address: 'http://127.0.0.1:9/api',
      ownNetwork: true,
      timeoutMs: 30_000,
      actions: [],
    });
  });
});

describe('a run', () => {
  it('is kept and read as it is, wherever it stands, on any plan', () => {
    fc.assert(
      fc.property(anyPlan, fc.integer({ min: 0, max: 12 }), (plan, moves) => {
        const p = play(plan);
        for (let i = 0; i < moves; i++) {
          const event = openActivities(p.state()).map((a) => obliging(a))[0];
          if (!event || p.state().status !== 'open') break;
          p.feed(event);
        }
        const kept = JSON.parse(JSON.stringify(keptDocument(runFormat, p.state()))) as unknown;
        expect(readDocument(runFormat, kept)).toEqual(JSON.parse(JSON.stringify(p.state())));
      }),
      { numRuns: 200 },
    );
  });

  interface Older {
    what: string;
    plan: unknown;
    events: { event: RunEvent; at: string }[];
    state: unknown;
  }
  it.each((older('runs-1') as Older[]).map((r) => [r.what, r] as const))('that an older Nessmoor left with %s goes on to its end', (_, left) => {
    const { plan } = readDocument(itemFormat, { name: 'Old', summary: '', category: '', form: wideForm, plan: left.plan });
    let state = readDocument(runFormat, left.state);
    // Its events give what it stood at, so that a trace is not rewritten by the upgrade.
    expect(openActivities(replay(plan, left.events, newState())).map((a) => [a.key, a.phase])).toEqual(
      openActivities(state).map((a) => [a.key, a.phase]),
    );
    for (let i = 0; i < 40 && state.status === 'open'; i++) {
      const [a] = openActivities(state);
      const at = `2026-04-${String(1 + Math.floor(i / 2)).padStart(2, '0')}T09:00:00.000Z`;
      const timer = a && { pausing: 'over', between: 'again' }[a.phase as 'pausing'];
      const event: RunEvent = timer ? { type: 'timer', key: a.key, name: timer } : obliging({ ...a!, lapsesAt: undefined })!;
      // A gate whose deadline has passed by now takes no decision: its timer lapses it.
      const late = a!.lapsesAt !== undefined && at >= a!.lapsesAt ? ({ type: 'timer', key: a!.key, name: 'lapse' } as const) : undefined;
      const next = advance(plan, state, late ?? event, at);
      expect(next.effects.find((e) => e.effect === 'ignored')).toBeUndefined();
      state = next.state;
      expect(RunState.safeParse(state).success).toBe(true);
    }
    expect(state.status).toBe('ended');
  });
});
