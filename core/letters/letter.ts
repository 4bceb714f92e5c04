import { z } from 'zod';
import { RichText, type Value } from '../values/index.ts';
import type { LetterPiece, TextSnapshot } from '../steps/index.ts';

const Table = z.object({
  /** The words at the head of each column; none: the rows have no heads. */
  heads: z.array(z.string()),
  /** How wide each column is, in hundredths of the page; left out: all alike. */
  shares: z.array(z.number()).optional(),
  /** What stands in each cell, row by row. */
  rows: z.array(z.array(RichText)),
});

/** A letter in words: every value said, nothing picked left in it. */
export const Letter = z.object({
  /** What its file is called, with its ending. */
  fileName: z.string(),
  /** At the top of each page. */
  head: RichText.optional(),
  title: RichText,
  body: z.array(z.object({ words: RichText, table: Table.optional() })),
  numbered: z.boolean(),
  /** On pages that are wider than high. */
  landscape: z.boolean().optional(),
});
export type Letter = z.infer<typeof Letter>;

/** How what was written down for a letter is said. */
export interface Saying {
  text: (words: TextSnapshot) => RichText;
  /** A value that stands in the column of a list; no column: a row that is one thing. */
  cell: (row: Value, list: string, column: string | undefined) => string | RichText;
}

/** A letter as it was written down, said. `fileName` is without its ending. */
export function sayLetter(
  written: { head?: TextSnapshot | undefined; title: TextSnapshot; body: LetterPiece[]; numbered: boolean },
  fileName: string,
  { text, cell }: Saying,
): Letter {
  const cellOf = (said: string | RichText): RichText => (typeof said === 'string' ? [[{ text: said }]] : said);
  return {
    fileName,
    ...(written.head && { head: text(written.head) }),
    title: text(written.title),
    body: written.body.map(({ words, table }) => ({
      words: text(words),
      ...(table && {
        table: {
          heads: table.columns.map((c) => c.head),
          rows: table.rows.map((row) =>
            table.columns.length === 0 ? [cellOf(cell(row, table.list, undefined))] : table.columns.map((c) => cellOf(cell(row, table.list, c.id))),
          ),
        },
      }),
    })),
    numbered: written.numbered,
  };
}
