import { line } from '../boundary/index.ts';
import { pointed, Segments } from './pointer.ts';

/** More rows than this of one page are not read. */
const mostRows = 100_000;

/** The path of a page may ask for something (RFC 3986, section 3.4), and does not leave the system. */
const NextPath = line(2000)
  .regex(/^\/[^\s#\\]*$/)
  .refine((p) => Segments.safeParse(p.split('?')[0]).success);

/** Rows of one page, as they came, and the path of the page after it. */
export type Page = { ok: true; rows: unknown[]; next: string | undefined } | { ok: false; sentence: string };

/** A page of a list: its rows stand at one JSON Pointer, the path by which it goes on at another. */
export function pageIn({ rows: at, next: nextAt }: { rows: string; next?: string | undefined }, answer: unknown): Page {
  const rows = pointed(answer, at);
  if (!Array.isArray(rows)) return { ok: false, sentence: `The answer has no list at “${at}”.` };
  if (rows.length > mostRows) return { ok: false, sentence: `The list has more than ${mostRows.toLocaleString('en')} rows on one page.` };
  const after = nextAt === undefined ? null : (pointed(answer, nextAt) ?? null);
  if (after === null || after === '') return { ok: true, rows, next: undefined };
  const next = NextPath.safeParse(after);
  if (!next.success) return { ok: false, sentence: `The answer has something at “${nextAt}” that is no path of the system.` };
  return { ok: true, rows, next: next.data };
}
