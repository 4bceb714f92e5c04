import { z } from 'zod';
import { heard } from '../boundary/index.ts';
import { Id } from '../values/index.ts';
import { pageIn } from './page.ts';
import { pointed, Pointer, Segments } from './pointer.ts';

const OfJob = Segments.refine((p) => p.includes('{job}'), 'The path says with {job} what it is about.');

/**
 * How people here and there write to each other about something that a system has under way: what was said there is read, page after
 * page, and something is said there with POST.
 */
export const Exchange = z.object({
  /** Asked with GET; `rows`, `next`: as a list of the system has them. `id`: what it calls what was said, the same each time it is read. */
  read: z.object({
    path: OfJob,
    rows: Pointer,
    next: Pointer.optional(),
    id: Pointer,
    text: Pointer,
    /** Who said it. */
    by: Pointer.optional(),
  }),
  /**
   * The members of the body that hold the words and who says them; where the answer says what it calls them, as `read` does. Left out:
   * nothing is said there from here.
   */
  say: z.object({ path: OfJob, text: Id, by: Id.optional(), id: Pointer }).optional(),
});
export type Exchange = z.infer<typeof Exchange>;

/** Something that was said there. `by`: nobody where the system does not say. */
export interface SaidThere {
  id: string;
  text: string;
  by: string;
}

/** A page of what was said there. `odd`: what makes no sense, with why. */
export type SaidPage = { ok: true; rows: SaidThere[]; odd: string[]; next: string | undefined } | { ok: false; sentence: string };

/** More of one text, and of a name, is not kept. */
const mostText = 20_000;
const mostName = 120;

/** Reads a page of what was said there, in its order. What has no words (a picture, say) is told and left out; what cannot be kept of a text is marked (U+FFFD). */
export function saidIn({ read }: Exchange, answer: unknown): SaidPage {
  const page = pageIn(read, answer);
  if (!page.ok) return page;
  const rows: SaidThere[] = [];
  const odd: string[] = [];
  for (const row of page.rows) {
    const id = idAt(row, read.id);
    const text = pointed(row, read.text);
    const by = read.by === undefined ? undefined : pointed(row, read.by);
    if (id === undefined) odd.push(`Something was said there that has no name of its own at “${read.id}”.`);
    else if (typeof text !== 'string' || text.trim() === '') odd.push(`What was said there as “${heard(id, 40)}” has no words at “${read.text}”.`);
    else rows.push({ id, text: heard(text.replace(/\r\n?/g, '\n').trim(), mostText), by: typeof by === 'string' ? heard(by.trim(), mostName) : '' });
  }
  return { ok: true, rows, odd, next: page.next };
}

/** What a system calls something that was said there, as it answers it: a text or a number of at most 200 characters; undefined otherwise. */
export function idAt(answer: unknown, pointer: string): string | undefined {
  const found = pointed(answer, pointer);
  const id = typeof found === 'number' ? String(found) : found;
  return typeof id === 'string' && id !== '' && id.length <= 200 && heard(id, 200) === id ? id : undefined;
}

/** The body by which something is said there. Where the system does not want to know who says it apart, the words begin with it. */
export const sayingBody = ({ text, by }: NonNullable<Exchange['say']>, words: { text: string; by: string }): Record<string, string> =>
  by === undefined ? { [text]: `${words.by}: ${words.text}` } : { [text]: words.text, [by]: words.by };

/**
 * Whether what was said there may be what was sent from here, whose answer was never heard: the same words, whatever became of the
 * white space between them.
 */
export const sameWords = (one: string, other: string): boolean => squeezed(one) === squeezed(other);
const squeezed = (words: string): string => words.replace(/\s+/g, ' ').trim();
