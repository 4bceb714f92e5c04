import fc from 'fast-check';
import { XMLParser } from 'fast-xml-parser';
import { describe, expect, it } from 'vitest';
import { htmlText, isFormatted, Link, piecesOf, plainText, quoted, RichText, sayText, sentence } from './index.ts';

const welcome: RichText = [
  [{ text: 'Hello ' }, { ref: 'request.requester', bold: true }, { text: ',' }],
  {
    list: 'numbers',
    items: [[{ text: 'Read ' }, { text: 'the guide', link: 'https://desk.skerrin.example/guide' }, { text: '.' }], [{ text: 'Sign in & look' }]],
  },
  { list: 'points', items: [[{ text: 'once', italic: true }]] },
];
const say = (ref: string) => (ref === 'request.requester' ? 'Tuva <T>' : '?');

describe('a text', () => {
  it('keeps its pieces and is said with the values of the moment', () => {
    expect(plainText([...sentence('Hello'), [{ ref: 'request.number' }]], () => 'R-1')).toBe('Hello\nR-1');
    expect(RichText.safeParse([[{ ref: 'not a path' }]]).success).toBe(false);
    expect(RichText.safeParse([[{ html: '<b>' }]]).success).toBe(false);
    expect(RichText.safeParse([{ list: 'points', items: [] }]).success).toBe(false);
  });
  it('is read as plain words: a line a list item, an address after the words that lead there', () => {
    expect(plainText(welcome, say)).toBe('Hello Tuva <T>,\n1. Read the guide (https://desk.skerrin.example/guide).\n2. Sign in & look\n- once');
    expect(plainText([[{ text: 'https://a.example', link: 'https://a.example' }]])).toBe('https://a.example');
    expect(
      plainText([
        [
          { text: 'the ', link: 'mailto:desk@skerrin.example' },
          { text: 'desk', bold: true, link: 'mailto:desk@skerrin.example' },
        ],
      ]),
    ).toBe('the desk (desk@skerrin.example)');
  });
  it('goes out as HTML of a few elements, with all else escaped', () => {
    expect(htmlText(sayText(welcome, say))).toBe(
      [
        '<p>Hello <strong>Tuva &#60;T&#62;</strong>,</p>',
        '<ol><li>Read <a href="https://desk.skerrin.example/guide">the guide</a>.</li><li>Sign in &#38; look</li></ol>',
        '<ul><li><em>once</em></li></ul>',
      ].join('\n'),
    );
  });
  it('quotes what somebody wrote in several lines, so that none of them stands where a line of ours could', () => {
    const wrote = 'Please.\n\nApprove or decline, signed in:\nhttps://elsewhere.example/desk';
    const body: RichText = [[{ text: 'They say: ' }, { ref: 'form.reason' }, { text: 'So much.' }], [{ ref: 'form.reason', italic: true }]];
    const asQuoted = '> Please.\n> \n> Approve or decline, signed in:\n> https://elsewhere.example/desk';
    expect(plainText(sayText(body, () => wrote))).toBe(`They say: \n${asQuoted}\nSo much.\n${asQuoted}`);
    expect(plainText(sayText(body, () => 'In one line.'))).toBe('They say: In one line.So much.\nIn one line.');
    const link = 'https://elsewhere.example/';
    fc.assert(
      fc.property(fc.array(fc.constantFrom('\n', '\r\n', '\r', '\u2028', '\u2029', 'a', link), { maxLength: 12 }), (parts) => {
        const lines = plainText(sayText(body, () => parts.join(''))).split(/\r\n|[\r\n\u2028\u2029]/);
        if (lines.length > 2) expect(lines.filter((l) => !l.startsWith('> '))).toEqual(['They say: ', 'So much.']);
      }),
    );
    expect(quoted('one')).toBe('one');
  });
  it('is formatted when plain words would lose something', () => {
    expect(isFormatted(welcome)).toBe(true);
    expect(isFormatted([[{ text: 'a' }, { ref: 'request.number' }], []])).toBe(false);
    expect(isFormatted([[{ ref: 'request.number', italic: true }]])).toBe(true);
  });
  it.each(['javascript:alert(1)', 'data:text/html,x', '//elsewhere.example', 'https://', 'https://a.example/" onclick="x', 'https://a b'])(
    'takes no link to %s',
    (link) => {
      expect(Link.safeParse(link).success).toBe(false);
      expect(htmlText([[{ text: 'x', link }]])).toBe('<p>x</p>');
    },
  );
});

const anyPiece = fc.record(
  { text: fc.string(), bold: fc.constant(true as const), italic: fc.constant(true as const), link: fc.constant('https://a.example/?a=1&b=2') },
  { requiredKeys: ['text'] },
);
const anyPieces = fc.array(anyPiece, { maxLength: 4 });
const anyText: fc.Arbitrary<RichText> = fc.array(
  fc.oneof(
    anyPieces,
    fc.record({ list: fc.constantFrom('points' as const, 'numbers' as const), items: fc.array(anyPieces, { minLength: 1, maxLength: 3 }) }),
  ),
  { maxLength: 4 },
);

describe('any text', () => {
  it('as HTML is well formed, has only our elements, and says the same words (read by fast-xml-parser)', () => {
    const parser = new XMLParser({ preserveOrder: true, trimValues: false, htmlEntities: true, parseTagValue: false });
    type Element = Record<string, unknown>;
    const words = (all: Element[]): string =>
      all
        .map((e) =>
          Object.entries(e)
            .filter(([name]) => name !== ':@')
            .map(([name, inside]) => {
              if (name === '#text') return String(inside);
              expect(['p', 'br', 'ul', 'ol', 'li', 'strong', 'em', 'a', 'all']).toContain(name);
              return name === 'br' ? '\n' : words(inside as Element[]);
            })
            .join(''),
        )
        .join('');
    fc.assert(
      fc.property(anyText, (all) => {
        const parsed = parser.parse(`<all>${htmlText(all).replaceAll('\n', '')}</all>`) as Element[];
        expect(words(parsed)).toBe(
          piecesOf(all)
            .map((p) => ('text' in p ? p.text : ''))
            .join(''),
        );
      }),
    );
  });
  it('said has no references left, and reads the same before and after', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const holed = [...text, [{ ref: 'form.a', bold: true as const }]];
        const full = sayText(holed, () => 'value');
        expect(piecesOf(full).every((p) => 'text' in p)).toBe(true);
        expect(plainText(full)).toBe(plainText(holed, () => 'value'));
        expect(RichText.parse(full)).toEqual(full);
      }),
    );
  });
});
