import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { history } from './index.ts';

const change = fc.record({
  at: fc.nat(5000),
  value: fc.integer(),
  did: fc.constantFrom('Add a step', 'Remove a step', 'Edit the name', 'Edit the words'),
});

describe('undo and redo', () => {
  it('typing into one setting is one change; other changes are each their own', () => {
    let h = history.begin('');
    for (const value of ['T', 'Te', 'Tel', 'Tell']) h = history.record(h, value, 'Edit the name', 0);
    h = history.record(h, 'Tell!', 'Edit the words', 0);
    h = history.record(h, 'Tell!!', 'Add a step', 0);
    h = history.record(h, 'Tell!!!', 'Add a step', 0);
    expect(h.past.map((p) => p.did)).toEqual(['Edit the name', 'Edit the words', 'Add a step', 'Add a step']);
    expect(history.undo(history.undo(history.undo(h))).present).toBe('Tell');
    expect(history.undo(history.undo(history.undo(history.undo(h)))).present).toBe('');
  });

  it('the same setting changed again after a moment, or after undoing, is a change of its own', () => {
    let h = history.record(history.begin(1), 2, 'Edit the rule', 0);
    h = history.record(h, 3, 'Edit the rule', 400);
    h = history.record(h, 4, 'Edit the rule', 1500);
    expect(h.past.map((p) => p.value)).toEqual([1, 3]);
    h = history.record(history.undo(h), 5, 'Edit the rule', 1600);
    expect(h.past.map((p) => p.value)).toEqual([1, 3]);
  });

  it('nothing to undo, nothing to redo and no change leave all as it is', () => {
    const h = history.begin(1);
    expect(history.undo(h)).toBe(h);
    expect(history.redo(h)).toBe(h);
    expect(history.record(h, 1, 'Add a step', 0)).toBe(h);
  });

  it('undoing all gives the beginning, redoing all gives the end, over any session', () => {
    fc.assert(
      fc.property(fc.integer(), fc.array(change, { maxLength: 30 }), (first, changes) => {
        const h = changes.reduce((at, c) => history.record(at, c.value, c.did, c.at), history.begin(first));
        let back = h;
        for (let i = 0; i < h.past.length; i++) back = history.undo(back);
        expect(back.present).toBe(first);
        expect(history.undo(back)).toBe(back);
        let forth = back;
        for (let i = 0; i < h.past.length; i++) forth = history.redo(forth);
        expect({ ...forth, at: h.at }).toEqual(h);
        expect(history.redo(forth)).toBe(forth);
      }),
    );
  });

  it('a change after undoing forgets what was undone', () => {
    fc.assert(
      fc.property(fc.array(change, { minLength: 1, maxLength: 10 }), fc.nat(9), (changes, steps) => {
        const h = changes.reduce((at, c) => history.record(at, c.value, c.did, c.at), history.begin(Number.NaN));
        let back = h;
        for (let i = 0; i < steps; i++) back = history.undo(back);
        const on = history.record(back, Number.POSITIVE_INFINITY, 'Remove a step', 0);
        expect(on.future).toEqual([]);
        expect(history.redo(on)).toBe(on);
        expect(history.undo(on).present).toBe(back.present);
      }),
    );
  });
});
