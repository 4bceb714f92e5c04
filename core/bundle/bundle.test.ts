import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blankItem } from '../items/index.ts';
import { anyPlan } from '../testing/any-plan.ts';
import { form, wideForm } from '../testing/samples.ts';
import { bundleJsonSchema, idsIn, readBundle, withIds, writeBundle, type Bundle } from './index.ts';

const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const bundle = (more: Partial<Bundle> = {}): Bundle => ({
  item: id(1),
  made: '2026-11-27T12:00:00.000Z',
  items: [{ id: id(1), kind: 'item', definition: { ...blankItem('Join a group'), form } }],
  policies: [],
  tables: [],
  systems: [],
  named: [],
  ...more,
});
const part = (n: number, uses?: number): Bundle['items'][number] => ({
  id: id(n),
  kind: 'part',
  definition: {
    ...blankItem(`Part ${n}`),
    plan: {
      steps: uses
        ? [{ id: 'use', kind: 'part', name: 'Use it', expected: { min: 'PT0S', likely: 'PT0S', max: 'PT0S' }, part: id(uses), inputs: {} }]
        : [],
    },
  },
});
const why = (text: string) => {
  const read = readBundle(text);
  return read.ok ? undefined : read.sentence;
};
const written = (b: Bundle) => JSON.stringify(writeBundle(b));

describe('a file of an item', () => {
  it('is read as it was written, whatever plan and form it holds', () => {
    fc.assert(
      fc.property(anyPlan, fc.boolean(), (plan, wide) => {
        const b = bundle({ items: [{ id: id(1), kind: 'item', definition: { ...blankItem('Any'), form: wide ? wideForm : form, plan } }, part(2)] });
        const read = readBundle(written(b));
        expect(read).toEqual({ ok: true, bundle: JSON.parse(JSON.stringify(b)) as unknown });
      }),
      { numRuns: 60 },
    );
  });

  it('fits its published JSON Schema (2020-12) as ajv reads it, and what is broken does not', () => {
    const valid = new Ajv2020({ strict: false, formats: { 'date-time': true, uri: true, email: true } }).compile(bundleJsonSchema());
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const file = writeBundle(bundle({ items: [{ id: id(1), kind: 'item', definition: { ...blankItem('Any'), form: wideForm, plan } }] }));
        const fits = valid(JSON.parse(JSON.stringify(file)));
        expect(valid.errors ?? []).toEqual([]);
        expect(fits).toBe(true);
      }),
      { numRuns: 40 },
    );
    const file = JSON.parse(written(bundle())) as Record<string, unknown>;
    for (const wrong of [
      { ...file, bundle: 'else' },
      { ...file, items: [] },
      { ...file, version: 2 },
      { ...file, tables: [{ id: id(3) }] },
    ])
      expect([valid(wrong), readBundle(JSON.stringify(wrong)).ok]).toEqual([false, false]);
  });

  it('cut in half, of a newer version, or nothing of the kind: each says what is wrong', () => {
    const text = written(bundle());
    for (let at = 1; at < text.length; at += Math.ceil(text.length / 40))
      expect(why(text.slice(0, at))).toMatch(/^This is not a (whole )?file of an item/);
    expect(why('')).toBe('The file is empty.');
    expect(why(text.replace('"version":1', '"version":7'))).toBe(
      'This file was written by a newer Nessmoor (version 7; read here are those up to 1).',
    );
    expect(why('{"name":"x"}')).toBe('This is not a file of an item: it does not say so.');
    expect(why(text.replace('"format":2', '"format":99'))).toMatch(/^This item was written by a newer Nessmoor/);
    expect(why('['.repeat(200))).toMatch(/nested more than 64 levels/);
    expect(why(written(bundle({ item: id(9) })))).toBe('This file does not fit: the item it was made for is not in it.');
    expect(why(written(bundle({ items: [...bundle().items, { ...part(2), definition: blankItem('JOIN a group') }] })))).toBe(
      'This file does not fit: “JOIN a group” stands in it twice.',
    );
  });

  it('with parts that use each other in a circle is not taken', () => {
    const of = (...parts: Bundle['items']) => why(written(bundle({ items: [...bundle().items, ...parts] })));
    expect(of(part(2, 3), part(3, 4), part(4))).toBeUndefined();
    expect(of(part(2, 3), part(3, 4), part(4, 2))).toBe(
      'The parts of this file use each other in a circle: “Part 2” uses “Part 3” uses “Part 4” uses “Part 2”. Nothing was taken in.',
    );
    expect(of(part(2, 2))).toMatch(/circle/);
  });

  it('ids are found wherever they stand, and put in place of others, nothing else', () => {
    const json = { a: [`web.${id(1)}.make`, { [id(2)]: 'x' }], b: `${id(3)}/Small`, c: 5, d: null, e: 'no id' };
    expect([...idsIn(json)]).toEqual([id(1), id(2), id(3)]);
    const there = new Map([
      [id(1), id(11)],
      [id(2), id(12)],
    ]);
    expect(withIds(json, there)).toEqual({ a: [`web.${id(11)}.make`, { [id(12)]: 'x' }], b: `${id(3)}/Small`, c: 5, d: null, e: 'no id' });
    expect(withIds(withIds(json, there), new Map([...there].map(([a, b]) => [b, a])))).toEqual(json);
  });
});
