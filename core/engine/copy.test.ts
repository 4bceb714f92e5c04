import fc from 'fast-check';
import { expect, it } from 'vitest';
import { copyOf } from './copy.ts';

it('is what the language’s own clone gives, of any JSON, hostile names among it, and shares nothing with it', () => {
  const name = fc.oneof(fc.string(), fc.constantFrom('__proto__', 'constructor', 'toString', 'length'));
  const { json } = fc.letrec((tie) => ({
    json: fc.oneof(
      { maxDepth: 4 },
      fc.constant(null),
      fc.boolean(),
      fc.integer(),
      fc.string(),
      fc.array(tie('json'), { maxLength: 4 }),
      fc.array(fc.tuple(name, tie('json')), { maxLength: 4 }).map((entries) => Object.fromEntries(entries)),
    ),
  }));
  fc.assert(
    fc.property(json, (value) => {
      const copy = copyOf(value);
      expect(copy).toEqual(structuredClone(value));
      expect(JSON.stringify(copy)).toBe(JSON.stringify(value));
      if (typeof value === 'object' && value !== null) {
        expect(copy).not.toBe(value);
        for (const [k, inner] of Object.entries(value))
          if (typeof inner === 'object' && inner !== null) expect(Object.entries(copy as object).find(([n]) => n === k)![1]).not.toBe(inner);
      }
    }),
    { numRuns: 500 },
  );
});
