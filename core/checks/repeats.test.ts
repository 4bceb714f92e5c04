import { describe, expect, it } from 'vitest';
import type { Step } from '../steps/index.ts';
import { add, catalogue, step, tell, wideForm } from '../testing/samples.ts';
import { checkItem } from './index.ts';

/** The sample action, which wants to be asked every ten minutes at most. */
const apart = { ...catalogue, actions: catalogue.actions.map((a) => (a.id === 'directory.addMember' ? { ...a, apart: 'PT10M' } : a)) };
const until = { compare: 'is' as const, left: { ref: 'form.cores' }, right: { literal: 3 } };
const again = (body: Step[], pause?: string) =>
  step('repeat', 'r', { body, until, tries: 9, ...(pause && { pause: { length: pause, counted: 'always' } }) });
const waits = (length: string) => step('pause', 'w', { until: { span: { length, counted: 'working' } } });
const found = (steps: Step[], known = apart) => checkItem(wideForm, { steps: [...steps, tell('end', 'End')] }, known).map((f) => [f.code, f.step]);

describe('repeats that ask a system', () => {
  it('too often: with no pause, or one that is too short; in so long, pauses of the body counted, it is well', () => {
    expect(found([again([add])])).toEqual([['asks-too-often', 'add']]);
    expect(found([again([add], 'PT9M')])).toEqual([['asks-too-often', 'add']]);
    expect(found([again([add], 'PT10M')])).toEqual([]);
    expect(found([again([waits('PT4M'), add], 'PT6M')])).toEqual([]);
    // A working day is over after the hours of one, not after 24.
    expect(found([again([waits('P1D'), add])], { ...apart, actions: apart.actions.map((a) => ({ ...a, apart: 'P1D' })) })).toEqual([
      ['asks-too-often', 'add'],
    ]);
    // Asked once it is asked as soon as one likes, and what does not mind is not counted.
    expect(found([add])).toEqual([]);
    expect(found([again([add])], catalogue)).toEqual([]);
  });

  it('from within what it holds, a part among it, and told once where two repeats are one in the other', () => {
    const inside = (body: Step[]) => step('guard', 'g', { body, remedy: [] });
    expect(found([again([inside([add])])])).toEqual([['asks-too-often', 'add']]);
    expect(found([again([{ ...again([add], 'PT10M'), id: 'inner', name: 'Inner' } as Step])])).toEqual([['asks-too-often', 'add']]);
    const parts = { ...apart, parts: { p: { name: 'Access', inputs: [], outputs: [], steps: [add] } } };
    expect(found([again([step('part', 'p', { part: 'p', inputs: {} })])], parts)).toEqual([['asks-too-often', 'p']]);
  });
});
