import { getSchema, type JSONContent } from '@tiptap/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { RichText, TextPiece } from '../../core/values/index.ts';
import { extensionsFor, fromDocument, toDocument, type Manner } from './text-document.ts';

const marks = { bold: fc.constant(true as const), italic: fc.constant(true as const), link: fc.constant('https://guide.skerrin.example/a') };
const piece: fc.Arbitrary<TextPiece> = fc.oneof(
  fc.record({ text: fc.string({ minLength: 1 }), ...marks }, { requiredKeys: ['text'] }),
  fc.record({ ref: fc.constantFrom('form.a', 'steps.b.c'), ...marks }, { requiredKeys: ['ref'] }),
);
const pieces = fc.array(piece, { maxLength: 4 });
const text: fc.Arbitrary<RichText> = fc.array(
  fc.oneof(
    pieces,
    fc.record({ list: fc.constantFrom('points' as const, 'numbers' as const), items: fc.array(pieces, { minLength: 1, maxLength: 3 }) }),
  ),
  { minLength: 1, maxLength: 4 },
);
const schema = (manner: Manner) => getSchema(extensionsFor(manner));
const name = (ref: string) => `[${ref}]`;

/** Neighbours that look alike joined, as the editor does. */
const joined = (t: RichText): RichText => {
  const join = (all: TextPiece[]) =>
    all.reduce<TextPiece[]>((done, p) => {
      const last = done.at(-1);
      const alike = last && 'text' in last && 'text' in p && (['bold', 'italic', 'link'] as const).every((m) => last[m] === p[m]);
      return alike ? [...done.slice(0, -1), { ...last, text: last.text + p.text }] : [...done, p];
    }, []);
  return t.map((b) => ('list' in b ? { ...b, items: b.items.map(join) } : join(b)));
};

describe('a text in the editor', () => {
  it('goes there and back unchanged', () => {
    fc.assert(fc.property(text, (t) => void expect(fromDocument(toDocument(t, name, 'formatted'))).toEqual(t)));
  });

  it('is a document its schema takes, with everything in it', () => {
    const s = schema('formatted');
    fc.assert(
      fc.property(text, (t) => {
        const node = s.nodeFromJSON(toDocument(t, name, 'formatted'));
        node.check();
        expect(joined(fromDocument(node.toJSON() as JSONContent))).toEqual(joined(t));
      }),
    );
  });

  it('that is empty is one empty paragraph', () => {
    expect(toDocument([], name, 'formatted')).toEqual({ type: 'doc', content: [{ type: 'paragraph', content: [] }] });
    expect(fromDocument({ type: 'doc' })).toEqual([]);
  });

  it('keeps a link only where links may lead', () => {
    const linked = (href: unknown) =>
      fromDocument({ content: [{ type: 'paragraph', content: [{ type: 'text', text: 'x', marks: [{ type: 'link', attrs: { href } }] }] }] });
    expect(linked('https://a.example')).toEqual([[{ text: 'x', link: 'https://a.example' }]]);
    expect(linked('javascript:alert(1)')).toEqual([[{ text: 'x' }]]);
    expect(linked(null)).toEqual([[{ text: 'x' }]]);
  });

  it('that has more form than an editor is there with all its words and values, in a document that it takes', () => {
    const words = (t: RichText) =>
      t
        .flatMap((b) => ('list' in b ? b.items.flat() : b))
        .map((p) => ('ref' in p ? `[${p.ref}]` : p.text))
        .join('');
    fc.assert(
      fc.property(text, fc.constantFrom<Manner>('line', 'plain'), (t, manner) => {
        const node = schema(manner).nodeFromJSON(toDocument(t, name, manner));
        node.check();
        const back = fromDocument(node.toJSON() as JSONContent);
        expect(words(back).replaceAll(' ', '')).toBe(words(t).replaceAll(' ', ''));
        expect(manner === 'line' ? back.length : 1).toBe(1);
      }),
    );
    expect(
      fromDocument(toDocument([[{ text: 'a', bold: true }], { list: 'points', items: [[{ ref: 'form.a', italic: true }]] }], name, 'line')),
    ).toEqual([[{ text: 'a' }, { text: ' ' }, { ref: 'form.a' }]]);
  });
});
