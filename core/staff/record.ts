import Papa from 'papaparse';
import { z } from 'zod';
import { line, readJson } from '../boundary/index.ts';
import { isDate } from '../calendar/index.ts';

const Day = z.string().refine(isDate, 'Has to be a day such as 2026-11-26.');
/** What a feed leaves out, says to be nothing, or leaves empty, is nothing. */
const orNothing = <T extends z.ZodType<unknown, string>>(schema: T) =>
  z.preprocess((v) => (v === undefined || v === '' ? null : v), schema.nullable());
const Words = orNothing(line(120).trim());

/** An employment as whoever keeps the staff knows it from a day on. Dates are of the place where it is, the last day is worked. */
export const StaffRecord = z
  .object({
    /** What names this employment; one person may have several, one after another or at once. */
    employment: line(60).trim().min(1),
    /** What names the person. */
    staffNumber: line(60).trim().min(1),
    /** The number somebody had who is here again under a new one. */
    formerly: orNothing(line(60).trim()),
    given: line(120).trim(),
    family: line(120).trim().min(1),
    department: Words,
    jobRole: Words,
    place: Words,
    /** The staff number of their manager. */
    manager: orNothing(line(60).trim()),
    contract: Words,
    firstDay: Day,
    lastDay: orNothing(Day),
  })
  .refine((r) => r.lastDay === null || r.lastDay >= r.firstDay, { path: ['lastDay'], error: 'Is before the first day.' })
  .refine((r) => r.formerly !== r.staffNumber, { path: ['formerly'], error: 'Is the staff number itself.' });
export type StaffRecord = z.infer<typeof StaffRecord>;

/** A line of the feed: from `from` on the employment is as its record says. Numbers only grow. */
export const StaffChange = z.object({ number: z.number().int().min(1).max(Number.MAX_SAFE_INTEGER), from: Day, record: StaffRecord });
export type StaffChange = z.infer<typeof StaffChange>;

/** A page of the feed: what can be kept, what cannot with its reason, and the last number on it. */
export interface StaffPage {
  changes: StaffChange[];
  odd: { number: number; what: unknown; why: string }[];
  /** Nothing where the page is empty: the feed is read to its end. */
  last: number | undefined;
}
/** More lines than this are no page. */
const mostLines = 1000;

const Numbered = z.looseObject({ number: z.coerce.number().int().min(1).max(Number.MAX_SAFE_INTEGER) });

/**
 * Reads a page of the feed, as JSON (`{ "changes": [{ "number", "from", "record": { … } }] }`) or as CSV (RFC 4180, the names of a record
 * with `number` and `from` in its first line). A line that makes no sense harms only itself; lines without a number, or out of order,
 * leave nobody knowing where to read on, and the page is refused with a sentence.
 */
export function readPage(text: string, as: 'json' | 'csv', after: number): { ok: true; page: StaffPage } | { ok: false; sentence: string } {
  const lines = as === 'csv' ? csvLines(text) : jsonLines(text);
  if (!Array.isArray(lines)) return { ok: false, sentence: lines.sentence };
  if (lines.length > mostLines) return { ok: false, sentence: `A page holds at most ${mostLines} lines; this one holds ${lines.length}.` };
  const page: StaffPage = { changes: [], odd: [], last: undefined };
  let before = after;
  for (const given of lines) {
    const numbered = Numbered.safeParse(given);
    if (!numbered.success) return { ok: false, sentence: 'A line has no number, so nobody knows where to read on.' };
    const { number } = numbered.data;
    if (number <= before) return { ok: false, sentence: `Line ${number} comes after line ${before}; numbers only grow.` };
    before = number;
    page.last = number;
    const read = StaffChange.safeParse(given);
    if (read.success) page.changes.push(read.data);
    else page.odd.push({ number, what: given, why: problem(read.error) });
  }
  return { ok: true, page };
}

const problem = (error: z.ZodError): string => {
  const [issue] = error.issues;
  const field = issue?.path.at(-1);
  return `${field === undefined ? 'The line' : `“${String(field)}”`}: ${issue?.message ?? 'makes no sense.'}`;
};

const Page = z.object({ changes: z.array(z.unknown()) });
function jsonLines(text: string): unknown[] | { sentence: string } {
  const read = readJson(text);
  if (!read.ok) return { sentence: read.sentence };
  const page = Page.safeParse(read.value);
  return page.success ? page.data.changes : { sentence: 'There is no list of changes in it.' };
}

function csvLines(text: string): unknown[] | { sentence: string } {
  const { data, errors, meta } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true });
  if (!meta.fields?.includes('number')) return { sentence: 'The first line does not name its columns: “number” is missing.' };
  const [error] = errors;
  if (error) return { sentence: `Line ${(error.row ?? 0) + 2} of the CSV cannot be read: ${error.message}.` };
  // A cell too many would have no name.
  return data.map(({ number, from, ...record }) => ({ number: /^\d{1,16}$/.test(number ?? '') ? Number(number) : number, from, record }));
}
