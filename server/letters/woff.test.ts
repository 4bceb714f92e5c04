import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { create, type Font } from 'fontkit';
import { expect, it } from 'vitest';
import { sfntOf } from './woff.ts';

const { resolve } = createRequire(import.meta.url);
const woff = readFileSync(resolve('@fontsource/newsreader/files/newsreader-latin-ext-700-italic.woff'));

it('a font unpacked is the one that fontkit reads packed: its signs, its measures, its shapes', () => {
  const [packed, unpacked] = [create(woff) as Font, create(sfntOf(woff)) as Font];
  expect(unpacked.postscriptName).toBe(packed.postscriptName);
  expect(unpacked.characterSet).toEqual(packed.characterSet);
  expect(unpacked.characterSet.length).toBeGreaterThan(100);
  for (const sign of packed.characterSet.slice(0, 40)) {
    const [a, b] = [packed.glyphForCodePoint(sign), unpacked.glyphForCodePoint(sign)];
    expect([b.advanceWidth, b.path.toSVG()]).toEqual([a.advanceWidth, a.path.toSVG()]);
  }
});

it('what is none, or is cut off, is refused', () => {
  expect(() => sfntOf(Buffer.from('%PDF-1.7 and more than forty-four bytes of it, so that a head would fit'))).toThrow('This is not a WOFF font.');
  expect(() => sfntOf(woff.subarray(0, woff.length / 2))).toThrow();
});
