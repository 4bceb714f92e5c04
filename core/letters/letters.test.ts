import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyPlan } from '../testing/any-plan.ts';
import { step } from '../testing/samples.ts';
import { walk, type LetterPiece } from '../plans/index.ts';
import { sentence } from '../values/index.ts';
import { inFaces, layOut, Letter, sampleLetter, sayLetter, type Face, type Faces } from './index.ts';

const range = (name: string, from: number, to: number): Face => ({ name, has: (sign) => sign >= from && sign <= to });
/** Latin, then Greek with the accents that are put together of two signs. */
const latin = range('latin', 0x20, 0x7e);
const greek = range('greek', 0x370, 0x3ff);
const faces: Faces = { words: [latin, greek], titles: [latin, greek] };

describe('words in faces', () => {
  it('are each in the first face that has them, spaces with what is before them', () =>
    expect(inFaces('To Νίκη and Ada', [latin, greek])).toEqual([
      { text: 'To ', font: 'latin' },
      { text: 'Νίκη ', font: 'greek' },
      { text: 'and Ada', font: 'latin' },
    ]));
  it('that no face has are written as they sound, and what has no sound is seen to be missing', () =>
    expect(inFaces('Ж 渡辺 \u0000\u{1fae8}\u{10fffd}', [latin, greek])).toEqual([
      { text: expect.stringMatching(/^Zh DuBian \?.*\?$/) as string, font: 'latin' },
    ]));
  it('are one sign where two stand for one, however they were typed', () =>
    expect(inFaces('Νι\u0301κη', [latin, greek])).toEqual([{ text: 'Νίκη', font: 'greek' }]));
  it('lose nothing that a face has, and hold nothing that none has', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (words) => {
        const runs = inFaces(words, [latin, greek]);
        for (const { text, font } of runs)
          for (const sign of text.replaceAll('\n', ' ')) {
            const face = [latin, greek].find((f) => f.name === font)!;
            expect(sign === ' ' || face.has(sign.codePointAt(0)!)).toBe(true);
          }
        const had = [...words.normalize('NFC')].filter((c) => latin.has(c.codePointAt(0)!) && c !== ' ').length;
        expect(runs.map((r) => r.text).join('').length).toBeGreaterThanOrEqual(had);
      }),
    );
  });
});

const table: LetterPiece['table'] = {
  list: 'form.gear',
  rows: [{ entry: { what: 'Sounder' } }, { entry: {} }],
  columns: [{ id: 'what', head: 'Instrument' }],
};
const written = {
  title: { text: sentence('A title'), values: {} },
  body: [
    {
      words: {
        text: [[{ text: 'One ' }, { text: 'two', bold: true as const }], { list: 'points' as const, items: [[{ text: 'a' }], [{ text: 'b' }]] }],
        values: {},
      },
    },
    { words: { text: [], values: {} }, table },
  ],
  numbered: false,
};

it('a letter is said once, and laid out from its title down', () => {
  const letter = sayLetter(written, 'Loan.pdf', {
    text: ({ text }) => text,
    cell: (row, list, column) => `${list} ${column} ${JSON.stringify(row).length}`,
  });
  expect(Letter.parse(letter)).toEqual(letter);
  expect(layOut(letter, faces)).toEqual({
    title: 'A title',
    head: undefined,
    numbered: false,
    blocks: [
      { block: 'title', runs: [{ text: 'A title', font: 'latin' }] },
      {
        block: 'paragraph',
        runs: [
          { text: 'One ', font: 'latin' },
          { text: 'two', font: 'latin', bold: true },
        ],
      },
      { block: 'list', ordered: false, items: [[{ text: 'a', font: 'latin' }], [{ text: 'b', font: 'latin' }]] },
      {
        block: 'table',
        heads: [[{ text: 'Instrument', font: 'latin', bold: true }]],
        rows: [
          [[{ block: 'paragraph', runs: [{ text: 'form.gear what 28', font: 'latin' }] }]],
          [[{ block: 'paragraph', runs: [{ text: 'form.gear what 12', font: 'latin' }] }]],
        ],
      },
    ],
  });
});

it('a table of things without columns has one, and no head', () => {
  const things = { list: 'form.crew', rows: ['a', 'b'], columns: [] };
  const letter = sayLetter({ ...written, body: [{ words: { text: [], values: {} }, table: things }] }, 'x.pdf', {
    text: ({ text }) => text,
    cell: String,
  });
  expect(letter.body[0]?.table).toEqual({ heads: [], rows: [[[[{ text: 'a' }]]], [[[{ text: 'b' }]]]] });
  expect(layOut(letter, faces).blocks[1]).toMatchObject({ heads: [], rows: [expect.anything(), expect.anything()] });
});

it('before anybody asked, it has the names of its values in brackets, every passage, and a file name that a disk can hold', () => {
  const sample = sampleLetter(
    step('write', 'w', {
      fileName: [[{ text: 'Loan: ' }, { ref: 'form.reason' }]],
      title: [[{ text: 'For ' }, { ref: 'request.for' }]],
      body: [
        {
          when: { has: { ref: 'form.colleague' } },
          text: sentence('Only then'),
          table: { list: { ref: 'form.gear' }, columns: [{ id: 'what', head: 'Instrument' }] },
        },
      ],
      numbered: true,
    }) as never,
    (ref) => ref.toUpperCase(),
  );
  expect(sample).toMatchObject({
    fileName: 'Loan- [FORM.REASON].pdf',
    title: [[{ text: 'For ' }, { text: '[REQUEST.FOR]' }]],
    body: [
      { words: sentence('Only then'), table: { heads: ['Instrument'], rows: [[[[{ text: '[Instrument]' }]]], [[[{ text: '[Instrument]' }]]]] } },
    ],
  });
});

it('of any plan every letter can be looked at, and laid out', () => {
  fc.assert(
    fc.property(anyPlan, (plan) => {
      for (const { step: s } of walk(plan.steps))
        if (s.kind === 'write') expect(layOut(Letter.parse(sampleLetter(s, (ref) => ref)), faces).blocks.length).toBeGreaterThan(0);
    }),
  );
});
