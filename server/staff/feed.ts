import { readPage, type StaffPage } from '../../core/staff/index.ts';
import { config } from '../config.ts';
import { callOutside, isTransient } from '../systems/client.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';

/** Whether a staff feed is set up here. */
export const hasFeed = (): boolean => config().STAFF_URL !== undefined;

/** A page of the feed after a line, with what names it; `same`: it is as it was when it was called so. */
export async function pageAfter(after: number, etag: string | null): Promise<'same' | { page: StaffPage; etag: string | null }> {
  const { STAFF_URL: address, STAFF_TOKEN: token } = config();
  if (address === undefined) throw new PermanentError('No staff feed is set up here: the host has not set STAFF_URL.');
  const feed = { name: 'The staff feed', address, ownNetwork: true, timeoutMs: 8000, mostBytes: 4_000_000 };
  const answer = await callOutside(feed, {
    method: 'GET',
    path: `/changes?after=${after}`,
    headers: { authorization: `Bearer ${token}`, accept: 'application/json, text/csv;q=0.9', ...(etag !== null && { 'if-none-match': etag }) },
  });
  if (answer.status === 304) return 'same';
  if (answer.status !== 200) {
    const said = `The staff feed answered ${answer.status}.`;
    throw isTransient(answer.status) ? new TransientError(said) : new PermanentError(said);
  }
  const read = readPage(answer.text, answer.type === 'text/csv' ? 'csv' : 'json', after);
  if (!read.ok) throw new TransientError(`The staff feed gave a page that cannot be read. ${read.sentence}`);
  return { page: read.page, etag: answer.etag ?? null };
}
