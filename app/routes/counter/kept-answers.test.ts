import { describe, expect, it } from 'vitest';
import { form, wideForm } from '../../../core/testing/samples.ts';
import { keptIn } from './kept-answers.ts';

const now = Date.parse('2026-11-26T12:00:00Z');
const kept = (answers: unknown, more: object = {}) => JSON.stringify({ answers, names: {}, at: '2026-11-26T11:00:00.000Z', ...more });

describe('what a browser kept of a form that was not sent', () => {
  it('is offered as far as the form asks it today, and files not at all', () => {
    const found = keptIn(kept({ reason: 'Soundings', kind: 7, gone: 'x', colleague: { person: 'p' } }, { names: { p: 'Una', q: 3 } }), form, now);
    expect(found).toEqual({ answers: { reason: 'Soundings', colleague: { person: 'p' } }, names: { p: 'Una' }, at: '2026-11-26T11:00:00.000Z' });
    expect(keptIn(kept({ sketch: [{ file: 'f' }], cores: 4 }), wideForm, now)?.answers).toEqual({ cores: 4 });
  });

  it('is nothing where it is old, empty, broken, or put there by something else', () => {
    expect(keptIn(kept({ reason: 'Soundings' }, { at: '2026-11-01T11:00:00.000Z' }), form, now)).toBeUndefined();
    for (const raw of [
      null,
      '',
      '{',
      'null',
      '7',
      '[]',
      '{"answers":null}',
      kept({}),
      kept({ reason: null }),
      kept('x'),
      kept({ reason: 'x' }, { at: 'soon' }),
      kept({ reason: 'a\u0000b' }),
      '{"answers":{"__proto__":{"reason":"x"}},"at":"2026-11-26T11:00:00Z"}',
    ])
      expect([raw, keptIn(raw, form, now)]).toEqual([raw, undefined]);
  });
});
