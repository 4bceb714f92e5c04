import fc from 'fast-check';
import { expect, test } from 'vitest';
import { batched } from './batched.ts';

const turn = () => new Promise(setImmediate);

test('what arrives while a batch is under way goes into the next, at most so many at once', async () => {
  const batches: number[][] = [];
  const give = batched<number, number>(
    async (items) => {
      batches.push(items);
      await turn();
      return items.map((i) => i * 10);
    },
    { most: 3, atOnce: 1 },
  );
  expect(await Promise.all([1, 2, 3, 4, 5, 6].map(give))).toEqual([10, 20, 30, 40, 50, 60]);
  expect(batches).toEqual([[1], [2, 3, 4], [5, 6]]);
});

test('an item is done only when its batch is', async () => {
  let release = () => {};
  let done = false;
  const give = batched<string>(() => new Promise((go) => (release = () => go([undefined]))));
  const given = give('one').then(() => (done = true));
  await turn();
  expect(done).toBe(false);
  release();
  await given;
  expect(done).toBe(true);
});

test('of a batch that fails only the item at fault fails; the others are done', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.boolean(), { maxLength: 30 }),
      fc.integer({ min: 1, max: 8 }),
      fc.integer({ min: 1, max: 3 }),
      async (bad, most, atOnce) => {
        const committed: number[] = [];
        const give = batched<number>(
          async (items) => {
            await turn();
            const culprit = items.find((i) => bad[i]);
            if (culprit !== undefined) throw new Error(`no ${culprit}`);
            committed.push(...items);
            return items.map(() => undefined);
          },
          { most, atOnce },
        );
        const results = await Promise.allSettled(bad.map((_, i) => give(i)));
        expect(results.map((r) => r.status)).toEqual(bad.map((b) => (b ? 'rejected' : 'fulfilled')));
        expect(committed.toSorted((a, b) => a - b)).toEqual(bad.flatMap((b, i) => (b ? [] : [i])));
      },
    ),
  );
});
