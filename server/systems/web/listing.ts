import { listedIn, type Listed, type Listing, type WebAction } from '../../../core/systems/index.ts';
import { PermanentError } from '../errors.ts';
import { sendWeb, type Registered } from './call.ts';

/** What a system has of what one of its actions gives. `odd`: why rows of it make no sense. */
export interface WholeList {
  rows: Listed[];
  odd: string[];
}

const mostRows = 500_000;
const mostPages = 20_000;
const mostBytes = 30_000_000;

/** Reads the whole list, page after page. Throws TransientError or PermanentError where that cannot be had. */
export async function listWhole(system: Registered, action: WebAction, listing: Listing): Promise<WholeList> {
  const { name } = system.definition;
  const all: WholeList = { rows: [], odd: [] };
  const seen = new Set<string>();
  for (let path: string | undefined = listing.path; path !== undefined;) {
    if (seen.has(path)) throw new PermanentError(`${name}: its list leads back to a page that was read already.`);
    seen.add(path);
    const answer = await sendWeb(system, { method: 'GET', path, headers: {} }, mostBytes);
    if (answer.status !== 200) throw new PermanentError(`${name} did not give its list (${answer.status}).`);
    const page = listedIn(action, listing, answer.body);
    if (!page.ok) throw new PermanentError(`${name}: ${page.sentence}`);
    for (const row of page.rows) all.rows.push(row);
    all.odd.push(...page.odd.slice(0, 1000));
    if (all.rows.length > mostRows || seen.size >= mostPages)
      throw new PermanentError(`${name}: its list has more than ${mostRows.toLocaleString('en')} rows or ${mostPages.toLocaleString('en')} pages.`);
    path = page.next;
  }
  return all;
}
