import type { Column } from '../../../core/forms/index.ts';
import { dateWords } from '../../../core/calendar/index.ts';
import { typedAs, valueWords } from '../../../core/values/index.ts';

/** A cell as it is read; as it is typed where it says nothing else. */
export const cellWords = (column: Column, text: string): string =>
  column.kind === 'date' && /^\d{4}-\d\d-\d\d$/.test(text)
    ? dateWords(text)
    : column.kind === 'formatted' && text !== ''
      ? valueWords(typedAs(text, 'formatted') ?? text, () => undefined)
      : text;

/** Whether a cell of a column may have several lines. */
export const hasLines = (column: Column): boolean => column.kind === 'longText' || column.kind === 'formatted';

/** Whether a column's cells stand at the right. */
export const atRight = (column: Column): boolean => column.kind === 'number' || column.kind === 'money';

/** How wide a column is before anybody widens it, in pixels. */
export const usualWidth = (column: Column): number =>
  (({ number: 96, money: 124, date: 112, time: 80, yesNo: 72, choice: 180 }) as Partial<Record<Column['kind'], number>>)[column.kind] ?? 200;

const words = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });
const amount = (text: string): number => Number(/^-?[\d.]+/.exec(text)?.[0] ?? Number.NaN);
/** Which of two cells of a column comes first. */
export const cellOrder = (column: Column) => (atRight(column) ? (a: string, b: string) => amount(a) - amount(b) : words.compare);

/** What a cell of a column may say, where that is known without asking: its choices. */
export const choicesOf = (column: Column): string[] | undefined =>
  column.kind === 'choice' ? (column.options ?? []).map((o) => o.label) : column.kind === 'yesNo' ? ['yes', 'no'] : undefined;

/** A block of cells as spreadsheets take it from the clipboard: tabs and lines. What would be worked out there has a mark before it. */
export const blockText = (block: readonly (readonly string[])[]): string =>
  block.map((row) => row.map((t) => quotedCell(/^[=+@\t\r]|^-(?![\d.])/.test(t) ? `'${t}` : t)).join('\t')).join('\n');
const quotedCell = (text: string): string => (/["\t\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
/** Our own mark is taken off again. */
export const unmarked = (text: string): string => text.replace(/^'(?=[=+@\t\r-])/, '');
