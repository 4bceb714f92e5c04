import { z } from 'zod';
import { line } from '../boundary/index.ts';

/** The sorts of character that a piece of a shape may be made of, each with its words and its class in a regular expression. */
const sorts = {
  digits: { one: 'digit', many: 'digits', is: /^[0-9]$/, class: '[0-9]' },
  letters: { one: 'letter', many: 'letters', is: /^\p{L}$/u, class: '\\p{L}' },
  capitals: { one: 'capital letter', many: 'capital letters', is: /^\p{Lu}$/u, class: '\\p{Lu}' },
  smalls: { one: 'small letter', many: 'small letters', is: /^\p{Ll}$/u, class: '\\p{Ll}' },
  lettersOrDigits: { one: 'letter or digit', many: 'letters or digits', is: /^[\p{L}0-9]$/u, class: '[\\p{L}0-9]' },
  nameCharacters: { one: 'letter, digit or hyphen', many: 'letters, digits or hyphens', is: /^[\p{L}0-9-]$/u, class: '[\\p{L}0-9\\-]' },
  any: { one: 'character', many: 'characters', is: /^[^\n\r\u2028\u2029]$/u, class: '.' },
} as const;
/** A sort of character. */
export type Sort = keyof typeof sorts;
const Sort = z.enum(Object.keys(sorts) as [Sort, ...Sort[]]);
/** The sorts of character by their words, in the order in which screens offer them. */
export const sortWords = Object.fromEntries(Object.entries(sorts).map(([sort, s]) => [sort, s.many])) as Record<Sort, string>;

/** A piece of a shape: exactly these characters, or so many of a sort. */
export const ShapePiece = z.union([
  z.object({ exactly: line(40) }),
  z.object({ of: Sort, least: z.number().int().min(0).max(200), most: z.number().int().min(1).max(200) }),
]);
export type ShapePiece = z.infer<typeof ShapePiece>;
/** How a text must be written: these pieces one after another, and nothing else. `sentence`: what is told in its place. */
export const Shape = z.object({ pieces: z.array(ShapePiece).max(12), sentence: line(300).optional() });
export type Shape = z.infer<typeof Shape>;

/**
 * Whether a text is written in a shape. Every way of sharing its characters among the pieces is followed at once, so that the time
 * grows with the length times the number of pieces, whatever is typed.
 */
export function isInShape({ pieces }: Pick<Shape, 'pieces'>, text: string): boolean {
  const characters = [...text];
  /** Where the pieces so far may have ended. */
  let ends = new Set([0]);
  for (const piece of pieces) {
    const next = new Set<number>();
    if ('exactly' in piece) {
      const wanted = [...piece.exactly];
      for (const from of ends) if (wanted.every((c, i) => characters[from + i] === c)) next.add(from + wanted.length);
    } else {
      const { is } = sorts[piece.of];
      // How many characters of the sort stand one after another from each place on: each is looked at once.
      const run = new Uint32Array(characters.length + 1);
      for (let at = characters.length - 1; at >= 0; at--) run[at] = is.test(characters[at]!) ? run[at + 1]! + 1 : 0;
      for (const from of ends) for (let n = piece.least; n <= Math.min(piece.most, run[from]!); n++) next.add(from + n);
    }
    ends = next;
  }
  return ends.has(characters.length);
}

/** A shape as a regular expression of JSON Schema (ECMA-262, with its unicode flag). */
export const shapePattern = ({ pieces }: Pick<Shape, 'pieces'>): string =>
  `^${pieces
    .map((p) =>
      'exactly' in p ? p.exactly.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&').replace(/\\-/g, '-') : `${sorts[p.of].class}{${p.least},${p.most}}`,
    )
    .join('')}$`;

/** A shape in words: “PRJ-”, then 4 digits. */
export const shapeWords = ({ pieces }: Pick<Shape, 'pieces'>): string =>
  pieces
    .map((p) => {
      if ('exactly' in p) return `“${p.exactly}”`;
      const { one, many } = sorts[p.of];
      const name = p.most === 1 ? one : many;
      return p.least === p.most ? `${p.most} ${name}` : p.least === 0 ? `up to ${p.most} ${name}` : `${p.least} to ${p.most} ${name}`;
    })
    .join(', then ');

/** What is not whole in a shape, as a sentence; undefined where nothing is. */
export function shapeProblem({ pieces }: Pick<Shape, 'pieces'>): string | undefined {
  if (pieces.length === 0) return 'has a form with nothing in it';
  if (pieces.some((p) => 'exactly' in p && p.exactly === '')) return 'has a form with an empty piece';
  if (pieces.some((p) => 'of' in p && p.least > p.most)) return 'has a form with a piece of more characters than it may have';
  return undefined;
}
