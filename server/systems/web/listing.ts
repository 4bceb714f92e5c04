import { linesIn, listedIn, type Listed, type Listing, type SystemList, type WebAction } from '../../../core/systems/index.ts';
import { PermanentError } from '../errors.ts';
import { sendWeb, type Registered } from './send.ts';

/** What a system has of what one of its actions gives. `odd`: why rows of it make no sense. */
export interface WholeList {
  rows: Listed[];
  odd: string[];
}

const mostRows = 500_000;
const mostPages = 20_000;
const mostBytes = 30_000_000;
const mostOdd = 1000;

/** Reads the whole list of what an action gives, page after page. Throws TransientError or PermanentError where that cannot be had. */
export const listWhole = (system: Registered, action: WebAction, listing: Listing): Promise<WholeList> =>
  wholeOf(system, listing.path, mostRows, (answer) => listedIn(action, listing, answer));

/** Reads the whole of a list as the lines of a sheet, `most` at most. Throws as `listWhole` does. */
export const linesWhole = (system: Registered, list: SystemList, most: number): Promise<{ rows: string[][]; odd: string[] }> =>
  wholeOf(system, list.path, most, (answer) => {
    const page = linesIn(list, answer);
    return page.ok ? { ...page, rows: page.lines } : page;
  });

type PageOf<Row> = { ok: true; rows: Row[]; odd: string[]; next: string | undefined } | { ok: false; sentence: string };

/** Reads all the pages of something that begins at a path. Throws as `listWhole` does. */
export async function wholeOf<Row>(
  system: Registered,
  first: string,
  most: number,
  read: (answer: unknown) => PageOf<Row>,
): Promise<{ rows: Row[]; odd: string[] }> {
  const { name } = system.definition;
  const all: { rows: Row[]; odd: string[] } = { rows: [], odd: [] };
  const seen = new Set<string>();
  for (let path: string | undefined = first; path !== undefined;) {
    if (seen.has(path)) throw new PermanentError(`${name}: its list leads back to a page that was read already.`);
    seen.add(path);
    const answer = await sendWeb(system, { method: 'GET', path, headers: {} }, mostBytes);
    if (answer.status !== 200) throw new PermanentError(`${name} did not give its list (${answer.status}).`);
    const page = read(answer.body);
    if (!page.ok) throw new PermanentError(`${name}: ${page.sentence}`);
    for (const row of page.rows) all.rows.push(row);
    all.odd.push(...page.odd.slice(0, mostOdd));
    if (all.rows.length > most || seen.size >= mostPages)
      throw new PermanentError(`${name}: its list has more than ${most.toLocaleString('en')} rows or ${mostPages.toLocaleString('en')} pages.`);
    path = page.next;
  }
  return all;
}
