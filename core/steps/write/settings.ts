import { z } from 'zod';
import { line } from '../../boundary/index.ts';
import { Id, Reference, RichText } from '../../values/index.ts';
import { base, kind } from '../base.ts';
import { Passage } from '../settings.ts';

/** A table in a letter: a row for each of a list; no columns: one, with the row itself. */
export const LetterTable = z.object({
  list: Reference.optional(),
  /** What stands in each column, by the column of the list, and the words at its head. */
  columns: z.array(z.object({ id: Id, head: line(100) })).max(8),
});
export type LetterTable = z.infer<typeof LetterTable>;

/** A piece of a letter: words, and below them, where there is one, a table. */
export const LetterPassage = Passage.extend({ table: LetterTable.optional() });
export type LetterPassage = z.infer<typeof LetterPassage>;

/** A letter, made as a PDF and filed with the request. */
export const Write = z.object({
  ...base,
  kind: kind('write'),
  /** What its file is called; the ending is added. */
  fileName: RichText,
  /** At the top of each page. */
  head: RichText.optional(),
  title: RichText,
  body: z.array(LetterPassage).max(60),
  /** Its pages are numbered. */
  numbered: z.boolean(),
});
export type Write = z.infer<typeof Write>;
