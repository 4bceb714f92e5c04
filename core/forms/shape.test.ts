import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isInShape, shapePattern, shapeProblem, shapeWords, sortWords, validateAnswers, type ShapePiece, type Sort } from './index.ts';

const anyPiece: fc.Arbitrary<ShapePiece> = fc.oneof(
  fc.record({ exactly: fc.oneof(fc.constantFrom('SK-', 'a', '.', '(x)', '^', '\\d', '-', '🌊'), fc.string({ minLength: 1, maxLength: 4 })) }),
  fc
    .record({ of: fc.constantFrom(...(Object.keys(sortWords) as Sort[])), least: fc.nat(4), more: fc.nat(4) })
    .map(({ of, least, more }) => ({ of, least, most: Math.max(1, least + more) })),
);
const anyText = fc.oneof(
  fc.string({ maxLength: 12 }),
  fc.stringMatching(/^[A-Za-z0-9-]{0,12}$/),
  fc.array(fc.constantFrom('S', 'K', '-', '1', 'a', 'Å', 'ß', '🌊', '.', '\n', '\u2028', '(x)', '\\d')).map((p) => p.join('')),
);

describe('a shape', () => {
  it('takes what its regular expression takes (the engine of ECMA-262, an independent matcher), and nothing else', () => {
    fc.assert(
      fc.property(fc.array(anyPiece, { maxLength: 5 }), anyText, (pieces, text) => {
        expect(isInShape({ pieces }, text), `${shapePattern({ pieces })} ${JSON.stringify(text)}`).toBe(
          new RegExp(shapePattern({ pieces }), 'u').test(text),
        );
      }),
      { numRuns: 2000 },
    );
  });

  it('takes every text that is written by it', () => {
    const sample: Record<Sort, string> = {
      digits: '7',
      letters: 'ü',
      capitals: 'Å',
      smalls: 'þ',
      lettersOrDigits: 'z',
      nameCharacters: '-',
      any: '&',
    };
    fc.assert(
      fc.property(fc.array(anyPiece, { maxLength: 6 }), (pieces) => {
        const text = pieces.map((p) => ('exactly' in p ? p.exactly : sample[p.of].repeat(p.most))).join('');
        expect(isInShape({ pieces }, text)).toBe(true);
      }),
    );
  });

  it('is looked through in no time where a regular expression would try every way of sharing', () => {
    const pieces: ShapePiece[] = Array.from({ length: 12 }, () => ({ of: 'lettersOrDigits', least: 0, most: 200 }));
    expect(isInShape({ pieces }, `${'a'.repeat(200)}!`)).toBe(false);
    expect(isInShape({ pieces }, 'a'.repeat(200))).toBe(true);
  });

  it('reads as words, and refuses with them or with the designer’s own', () => {
    const shape = { pieces: [{ exactly: 'SK-' }, { of: 'digits', least: 4, most: 4 }, { of: 'capitals', least: 0, most: 1 }] satisfies ShapePiece[] };
    expect(shapeWords(shape)).toBe('“SK-”, then 4 digits, then up to 1 capital letter');
    const field = { id: 'code', kind: 'text', label: 'Code', required: true, shape } as const;
    const told = (f: typeof field | (Omit<typeof field, 'shape'> & { shape: typeof shape & { sentence: string } }), code: string) => {
      const held = validateAnswers({ fields: [f] }, { code });
      return held.ok ? 'taken' : held.problems[0]!.sentence;
    };
    expect(told(field, 'SK-2040A')).toBe('taken');
    expect(told(field, 'SK-20')).toBe('Code is not written as it must be: “SK-”, then 4 digits, then up to 1 capital letter.');
    expect(told({ ...field, shape: { ...shape, sentence: 'A code begins with SK-.' } }, 'x')).toBe('A code begins with SK-.');
  });

  it('that is not whole is named', () => {
    expect(shapeProblem({ pieces: [] })).toBeDefined();
    expect(shapeProblem({ pieces: [{ exactly: '' }] })).toBeDefined();
    expect(shapeProblem({ pieces: [{ of: 'digits', least: 3, most: 2 }] })).toBeDefined();
    expect(shapeProblem({ pieces: [{ of: 'digits', least: 2, most: 3 }] })).toBeUndefined();
  });
});
