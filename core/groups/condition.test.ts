import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkBelonging, groupsRead, KeepCondition, movesUnasked } from './index.ts';

const of = (group: string) => ({ group: { group } });

describe('who belongs to a group by itself', () => {
  it('asks about other groups only', () => {
    expect(checkBelonging('a', [{ department: 'Charts' }, of('a')], new Map())).toEqual([
      'Who is in this group cannot depend on who is in it already. Take that line out.',
    ]);
    expect(checkBelonging('a', [of('b')], new Map([['b', ['c']]]))).toEqual([]);
    expect(groupsRead([of('b'), { department: 'Charts', ...of('c') }, of('b')])).toEqual(['b', 'c']);
  });

  it('makes no circle: exactly where the group can be come back to along the others', () => {
    const name = fc.constantFrom('a', 'b', 'c', 'd', 'e');
    fc.assert(
      fc.property(fc.uniqueArray(name, { minLength: 1 }), fc.array(fc.tuple(name, name), { maxLength: 12 }), (asked, edges) => {
        const others = edges.filter(([from]) => from !== 'a');
        const reads = new Map<string, string[]>();
        for (const [from, to] of others) reads.set(from, [...(reads.get(from) ?? []), to]);
        // Beside it: the closure, by as many rounds as there are groups.
        const reached = new Set(asked);
        for (let round = 0; round < 5; round++) for (const [from, to] of others) if (reached.has(from)) reached.add(to);
        expect(checkBelonging('a', asked.map(of), reads).length > 0).toBe(reached.has('a'));
      }),
    );
  });

  it('is kept with why, and as what can be read', () => {
    const good = { version: '0', members: JSON.stringify([{ department: 'Charts' }]), why: ' They draw. ' };
    expect(KeepCondition.parse(good)).toEqual({ version: 0, in: 0, out: 0, members: [{ department: 'Charts' }], why: 'They draw.' });
    for (const bad of [
      { ...good, members: '{' },
      { ...good, members: '[]' },
      { ...good, members: '[{"group":7}]' },
      { ...good, why: ' ' },
      { ...good, version: 'x' },
      { ...good, version: '1e99' },
    ])
      expect(KeepCondition.safeParse(bad).success).toBe(false);
  });
});

describe('how many move without a word', () => {
  const none = { in: 0, out: 0 };
  it('is twenty, or a tenth of those who are in by it', () => {
    expect(movesUnasked({ in: 20, out: 20 }, { inByIt: 0, sure: none })).toBe(true);
    expect(movesUnasked({ in: 21, out: 0 }, { inByIt: 209, sure: none })).toBe(false);
    expect(movesUnasked({ in: 0, out: 21 }, { inByIt: 210, sure: none })).toBe(true);
  });
  it('is as many as somebody said yes to, and no more', () => {
    const n = fc.integer({ min: 0, max: 500 });
    fc.assert(
      fc.property(n, n, n, n, n, (comeIn, out, inByIt, sureIn, sureOut) => {
        const may = movesUnasked({ in: comeIn, out }, { inByIt, sure: { in: sureIn, out: sureOut } });
        const fine = (moved: number, sure: number) => moved <= 20 || moved <= sure || moved * 10 <= inByIt;
        expect(may).toBe(fine(comeIn, sureIn) && fine(out, sureOut));
      }),
    );
  });
});
