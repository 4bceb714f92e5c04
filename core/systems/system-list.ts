import { z } from 'zod';
import { line, text } from '../boundary/index.ts';
import { Id } from '../values/index.ts';
import { pageIn } from './page.ts';
import { pointed, Pointer, Segments } from './pointer.ts';

/** Something a system lists, such as what it has to give and at what price: reference tables are read from it. */
export const SystemList = z.object({
  id: Id,
  label: line(80).trim().min(1, 'Every list needs a name.'),
  /** Asked with GET. */
  path: Segments.refine((p) => !/[{}]/.test(p), 'The list stands at one path: it has no { or }.'),
  /** Where the rows stand in the answer, as a JSON Pointer (RFC 6901). */
  rows: Pointer,
  /** Where the answer says by which path the list goes on; nothing there where it does not. */
  next: Pointer.optional(),
  /** What a row says; `at`: where in the row. */
  columns: z
    .array(z.object({ name: Id, label: line(80).trim().min(1, 'Every column needs a name.'), at: Pointer }))
    .min(1, 'Say what a row of the list says.')
    .max(20),
});
export type SystemList = z.infer<typeof SystemList>;

/** A page of a list in words: of each row a text a column, in their order. `odd`: rows that make no sense, with why. */
export type LinesPage = { ok: true; lines: string[][]; odd: string[]; next: string | undefined } | { ok: false; sentence: string };

/**
 * Reads a page of what a system lists. What is a text, a number, yes or no is written as a cell of a sheet is; nothing is an empty cell;
 * several texts stand one after another, with commas. A row with anything else is told, and left out.
 */
export function linesIn(list: SystemList, answer: unknown): LinesPage {
  const page = pageIn(list, answer);
  if (!page.ok) return page;
  const lines: string[][] = [];
  const odd: string[] = [];
  for (const row of page.rows) {
    const cells = list.columns.map((c) => textOf(pointed(row, c.at)));
    const wrong = cells.indexOf(undefined);
    if (wrong < 0) lines.push(cells as string[]);
    else odd.push(`A row has something at “${list.columns[wrong]!.at}” that cannot be a cell.`);
  }
  return { ok: true, lines, odd, next: page.next };
}

const CellText = text(20_000);

/** What stands there, as a cell of a sheet has it; undefined where it can be none. */
function textOf(found: unknown): string | undefined {
  if (found === undefined || found === null) return '';
  if (typeof found === 'boolean') return found ? 'yes' : 'no';
  if (typeof found === 'number') return Number.isFinite(found) ? plainDigits(found) : undefined;
  if (Array.isArray(found)) {
    const texts = (found as unknown[]).map((x) => (typeof x === 'string' ? x : undefined));
    return texts.includes(undefined) ? undefined : textOf(texts.join(', '));
  }
  const read = CellText.safeParse(found);
  return read.success ? read.data : undefined;
}

/** A number without an exponent. */
const plainDigits = (n: number): string =>
  /e/i.test(String(n)) ? n.toLocaleString('en', { useGrouping: false, maximumFractionDigits: 20 }) : String(n);
