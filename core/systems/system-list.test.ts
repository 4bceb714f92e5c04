import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { linesIn, SystemList, WebSystem } from './index.ts';

const sizes: SystemList = {
  id: 'sizes',
  label: 'Sizes',
  path: '/sizes',
  rows: '/sizes',
  next: '/next',
  columns: [
    { name: 'size', label: 'Size', at: '/id' },
    { name: 'memory', label: 'Memory', at: '/has/memoryGb' },
    { name: 'lent', label: 'Is lent', at: '/lent' },
    { name: 'kept', label: 'Kept by', at: '/keepers' },
  ],
};
const page = (...rows: unknown[]) => linesIn(sizes, { sizes: rows });

describe('a list that a system has', () => {
  it('is read as the lines of a sheet: texts, numbers, yes and no, several texts, and nothing', () => {
    const row = { id: 'Small', has: { memoryGb: 4.5 }, lent: true, keepers: ['a@x.example', 'b@x.example'] };
    expect(page(row, { id: 'Large', lent: false, keepers: null })).toEqual({
      ok: true,
      lines: [
        ['Small', '4.5', 'yes', 'a@x.example, b@x.example'],
        ['Large', '', 'no', ''],
      ],
      odd: [],
      next: undefined,
    });
    expect(page({ id: 1e-7, has: { memoryGb: 1e21 } })).toMatchObject({ lines: [['0.0000001', '1000000000000000000000', '', '']] });
  });
  it('a row with what can be no cell is told and left out, and harms no other', () => {
    for (const odd of [{ id: {} }, { id: 'a\0' }, { id: '\ud800' }, { keepers: [1] }, { keepers: [['x']] }, { id: 'x'.repeat(20_001) }]) {
      const read = page(odd, { id: 'Small' });
      expect(read).toMatchObject({ ok: true, lines: [['Small', '', '', '']] });
      expect(read.ok && read.odd).toHaveLength(1);
    }
    expect(page(7)).toMatchObject({ lines: [['', '', '', '']], odd: [] });
  });
  it('whatever it answers, every line has a text a column, and nothing is thrown', () => {
    fc.assert(
      fc.property(fc.array(fc.jsonValue({ maxDepth: 3 }), { maxLength: 5 }), (rows) => {
        const read = linesIn({ ...sizes, columns: [{ name: 'all', label: 'All', at: '' }, ...sizes.columns] }, { sizes: rows });
        expect(read.ok && read.lines.length + read.odd.length).toBe(rows.length);
        expect(read.ok && read.lines.every((l) => l.length === 5 && l.every((c) => typeof c === 'string'))).toBe(true);
      }),
    );
  });
  it('stands at one path of the system, says something, and is called as no other', () => {
    expect(SystemList.safeParse({ ...sizes, path: '/sizes/{of}' }).success).toBe(false);
    expect(SystemList.safeParse({ ...sizes, columns: [] }).success).toBe(false);
    const system = { name: 'Park', address: 'https://park.example', ownNetwork: false, timeoutMs: 1000, actions: [] };
    expect(WebSystem.safeParse({ ...system, lists: [sizes] }).success).toBe(true);
    expect(WebSystem.safeParse({ ...system, lists: [sizes, { ...sizes, id: 'others', label: 'SIZES' }] }).error?.issues[0]?.message).toBe(
      'Two lists are called “SIZES”.',
    );
  });
});
