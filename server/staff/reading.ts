import { eq, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { staffFeed } from '../db/schema/index.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { causeWords, putAside } from '../set-aside/put-aside.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { hasFeed, pageAfter } from './feed.ts';
import { takeOver } from './take-over.ts';

/** One reading goes on no further than so many pages; the next goes on from there. */
const mostPages = 1000;

/**
 * Reads the feed on from where it was read to, page after page to its end, each taken over by itself. A page that has not changed since
 * it was found empty is not read. Where it cannot be read the reading says why, and what was taken over stays; with the database away
 * the job comes again.
 */
export async function readStaff(): Promise<void> {
  if (!hasFeed()) return;
  const began = now();
  await db()
    .insert(staffFeed)
    .values({ beganAt: began })
    .onConflictDoUpdate({ target: staffFeed.id, set: { beganAt: began } });
  let lines = 0;
  let cause: string | null = null;
  try {
    for (let page = 0; page < mostPages; page++) {
      const taken = await readOn();
      if (taken === undefined) break;
      lines += taken;
    }
  } catch (error) {
    if (isDatabaseTrouble(error)) throw error;
    const known = error instanceof PermanentError || error instanceof TransientError;
    cause = heard(known ? error.message : `Unexpected: ${causeWords(error)}`, 1000);
  }
  await db().update(staffFeed).set({ endedAt: now(), lines, cause }).where(eq(staffFeed.id, 1));
}

/** Reads the next page and takes it over: how many lines; undefined at the end of the feed. */
async function readOn(): Promise<number | undefined> {
  const [at] = await db().select({ after: staffFeed.after, etag: staffFeed.etag }).from(staffFeed).where(eq(staffFeed.id, 1));
  const { after, etag } = at!;
  const read = await pageAfter(after, etag);
  if (read === 'same') return undefined;
  const { page } = read;
  const { last } = page;
  if (last === undefined) {
    // Only while nobody else has read on: the mark belongs to the page after this very line.
    await db()
      .update(staffFeed)
      .set({ etag: read.etag })
      .where(sql`${staffFeed.id} = 1 and ${staffFeed.after} = ${after}`);
    return undefined;
  }
  await db().transaction(async (tx) => {
    for (const { number, what, why } of page.odd)
      await putAside(tx, { source: 'staff', key: `line ${number}`, what: `Line ${number} of the staff feed`, cause: why, payload: what });
    await takeOver(tx, after, page.changes, last, null);
  });
  return page.changes.length + page.odd.length;
}
