import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { categoryPath, categoryTree, isPicture, isWithin } from './categories.ts';

describe('categories', () => {
  it('are paths, however they are written', () => {
    expect(['Access/Groups', ' Access /  Groups ', '/Access//Groups/', 'Access'].map(categoryPath)).toEqual([
      'Access / Groups',
      'Access / Groups',
      'Access / Groups',
      'Access',
    ]);
    expect([categoryPath(''), categoryPath(' / ')]).toEqual(['', '']);
  });

  it('stand as a tree: each before what lies within it, with how much it holds, also where only what is within it is named', () => {
    const tree = categoryTree(['Machines', 'access/Groups', 'Access', 'Access / Accounts', 'People / Leaving', '', 'ACCESS / groups']);
    expect(tree.map((c) => [c.depth, c.path, c.count])).toEqual([
      [0, 'Access', 4],
      [1, 'Access / Accounts', 1],
      [1, 'Access / Groups', 2],
      [0, 'Machines', 1],
      [0, 'People', 1],
      [1, 'People / Leaving', 1],
    ]);
  });

  it('of any names: every one is there once, after what is around it, and counts what is within it', () => {
    const part = fc.constantFrom('a', 'A', 'B', 'b', 'ab', 'c d', 'é');
    fc.assert(
      fc.property(
        fc.array(
          fc.array(part, { maxLength: 3 }).map((p) => p.join('/')),
          { maxLength: 12 },
        ),
        (of) => {
          const tree = categoryTree(of);
          // The database gives them in any order.
          expect(categoryTree(of.toReversed())).toEqual(tree);
          expect(categoryTree(of.toSorted())).toEqual(tree);
          const paths = tree.map((c) => c.path.toLowerCase());
          expect(new Set(paths).size).toBe(paths.length);
          tree.forEach((c, i) => {
            expect(c.count).toBe(of.filter((text) => isWithin(text, c.path)).length);
            const around = c.path.split(' / ').slice(0, -1).join(' / ').toLowerCase();
            if (around) expect(paths.indexOf(around)).toBeLessThan(i);
          });
          for (const text of of) if (categoryPath(text)) expect(paths).toContain(categoryPath(text).toLowerCase());
        },
      ),
    );
  });

  it('have pictures that there are', () => {
    expect([isPicture('ship'), isPicture('toString'), isPicture('')]).toEqual([true, false, false]);
  });
});
