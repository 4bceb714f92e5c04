import { and, eq, inArray, sql, type SQL } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { serviceCase, storedFile } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { hasPartIn, maySeeInside } from '../requests/confidential.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { readsTickets } from '../tickets/whose.ts';

/** Whether a viewer reads a file of a ticket: the desk all of them; who asked what stands in no note, and, where theirs went into another, what the desk says there. */
const ofTheirTicket = (viewer: Viewer): SQL => sql`exists (
  select from ticket t left join case_word w on w.id = ${storedFile.wordId} where t.case_id = ${storedFile.caseId} and (
    ${readsTickets(viewer)} or t.holder_id = ${viewer.id} or t.team_id in (select m.team_id from team_member m where m.person_id = ${viewer.id})
    or (not coalesce(w.inside, false) and (${serviceCase.requesterId} = ${viewer.id} or (w."from" = 'desk' and exists (
      select from ticket j join service_case c on c.id = j.case_id where j.joined_id = t.case_id and c.requester_id = ${viewer.id}))))))`;

/** What stands with a note within the desk is none of whoever asked. */
const notKeptFrom = (
  viewer: Viewer,
): SQL => sql`not ((${serviceCase.requesterId} = ${viewer.id} or coalesce(${serviceCase.forId} = ${viewer.id}, false)) and exists (
  select from case_word w where w.id = ${storedFile.wordId} and w.inside))`;

/** Whether a file went to a viewer with a message. */
const sentTo = (viewer: Viewer): SQL => sql`exists (
  select from message m where m.case_id = ${storedFile.caseId} and m.to_id = ${viewer.id}::uuid and ${storedFile.id} = any(m.files))`;

/** A file, for who brought it, for who may see the answers of the request it stands in, or the word of the ticket, and for those it was sent to. */
export async function fileFor(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const part = mayReadLedger(viewer) ? sql`(${hasPartIn(viewer)} or ${maySeeInside(viewer)})` : hasPartIn(viewer);
  const sees = sql`((${serviceCase.kind} = 'request' and ${part} and ${notKeptFrom(viewer)}) or ${ofTheirTicket(viewer)} or ${sentTo(viewer)})`;
  const [row] = await db()
    .select({ id: storedFile.id, name: storedFile.name, type: storedFile.type, size: storedFile.size, hash: storedFile.hash })
    .from(storedFile)
    .leftJoin(serviceCase, eq(serviceCase.id, storedFile.caseId))
    .where(sql`${storedFile.id} = ${id}::uuid and (${storedFile.by} = ${viewer.id}::uuid or (${storedFile.caseId} is not null and ${sees}))`);
  return row;
}

/** What files are called that somebody brought themselves. */
export async function namesOfOwn(viewer: Viewer, ids: string[]): Promise<Record<string, string>> {
  const rows = await db()
    .select({ id: storedFile.id, name: storedFile.name })
    .from(storedFile)
    .where(and(inArray(storedFile.id, ids.filter(isId)), eq(storedFile.by, viewer.id)));
  return Object.fromEntries(rows.map((r) => [r.id, r.name]));
}
