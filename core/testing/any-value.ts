import fc from 'fast-check';
import type { FixedText, SingleType, Single } from '../values/index.ts';
import { tidiedText } from '../values/index.ts';
import { names } from './drawn.ts';

const id = fc.stringMatching(/^[a-z0-9][a-z0-9-]{0,20}$/);
const day = fc.integer({ min: -25_000, max: 83_000 }).map((n) => new Date(n * 86_400_000).toISOString().slice(0, 10));
/** A decimal as somebody may write it. */
export const anyDecimal = fc
  .tuple(fc.boolean(), fc.stringMatching(/^\d{1,18}$/), fc.option(fc.stringMatching(/^\d{1,16}$/)))
  .map(([minus, whole, part]) => `${minus ? '-' : ''}${whole}${part === null ? '' : `.${part}`}`);
const text = fc.oneof(
  names,
  fc.string({ minLength: 1, maxLength: 40 }).filter((s) => s.trim() !== '' && !/[\u0000-\u001f\u007f-\u009f]/.test(s)),
);

/** Words, and what stands between them. */
const words = fc.oneof(text, fc.constantFrom(' ', 'a ', ' b', '*', '_', 'x*y', '\n', '1. ', '- ', '# ', '> ')).filter((t) => !/https?:/.test(t));
const piece = fc.record(
  {
    text: words,
    bold: fc.constant(true as const),
    italic: fc.constant(true as const),
    link: fc.constantFrom('https://skerrin.example/a_b', 'mailto:stores@skerrin.example'),
  },
  { requiredKeys: ['text'] },
);
const line = fc.array(piece, { minLength: 1, maxLength: 3 });
/** Paragraphs and lists, tidied as they are kept. */
export const anyFixedText: fc.Arbitrary<FixedText> = fc
  .array(
    fc.oneof(
      line,
      fc.record({ list: fc.constantFrom('points' as const, 'numbers' as const), items: fc.array(line, { minLength: 1, maxLength: 3 }) }),
    ),
    { minLength: 1, maxLength: 3 },
  )
  .map(tidiedText)
  .filter((t) => t.length > 0);

/** Values of every type but a line. */
const cells = {
  text,
  choice: fc.constantFrom('daily', 'project'),
  boolean: fc.boolean(),
  number: fc.oneof(
    fc
      .double({ noNaN: true, noDefaultInfinity: true, min: -1e15, max: 1e15 })
      .map((n) => n + 0)
      .filter((n) => !String(n).includes('e')),
    fc.integer(),
    fc.constantFrom({ decimal: '0.1000000000000000000000000000000001' }, { decimal: '12345678901234567890.12' }, { decimal: '-99999999999999999.9' }),
  ),
  date: day,
  instant: fc.date({ min: new Date('1900-01-02'), max: new Date('2199-12-30'), noInvalidDate: true }).map((d) => d.toISOString()),
  person: id.map((person) => ({ person })),
  group: id.map((group) => ({ group })),
  time: fc.tuple(fc.nat(23), fc.nat(59)).map((t) => t.map((n) => String(n).padStart(2, '0')).join(':')),
  phone: fc.stringMatching(/^\+298( \d\d){3}$/),
  address: id.map((name) => `${name}@example.org`),
  money: fc
    .tuple(fc.boolean(), fc.stringMatching(/^\d{1,18}$/), fc.option(fc.stringMatching(/^\d{1,6}$/)), fc.constantFrom('EUR', 'NOK', 'DKK'))
    .map(([minus, whole, part, currency]) => ({ amount: `${minus ? '-' : ''}${whole}${part === null ? '' : `.${part}`}`, currency })),
  location: id.map((location) => ({ location })),
  team: id.map((team) => ({ team })),
  formatted: anyFixedText.map((text) => ({ formatted: text })),
  file: id.map((file) => ({ file })),
  holding: id.map((holding) => ({ holding })),
  row: fc.tuple(id, fc.oneof(names, id)).map(([table, key]) => ({ table, key })),
};

/** A line of a few values: one of each of some types that are told apart by their shape alone, the first of them never empty. */
const anyLine = (types: (keyof typeof cells)[]): fc.Arbitrary<Single> =>
  fc
    .tuple(cells.text, fc.record(Object.fromEntries(types.map((type) => [type, fc.option(cells[type] as fc.Arbitrary<Single>)]))))
    .map(([first, others]) => ({ entry: { first, ...others } }) as Single);

/** Values of every type. A type left out does not compile. What lines of people and places hold: `anyNamedLine`. */
export const anyValue: Record<SingleType, fc.Arbitrary<Single>> = { ...cells, entry: anyLine(['choice', 'number', 'boolean', 'money', 'date']) };
/** A line that names somebody and something. */
export const anyNamedLine: fc.Arbitrary<Single> = anyLine(['person', 'group', 'team', 'location', 'number']);
