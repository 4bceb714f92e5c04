import { sql, type SQL } from 'drizzle-orm';
import { has, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { isId } from '../ids.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { actionSpec } from '../systems/index.ts';
import { mayOpen } from './read.ts';

/** How a note stands: it waits to be opened, was opened, its time is over, or another is in its place. */
export type NoteState = 'waits' | 'opened' | 'over' | 'replaced';

type Row = {
  id: string;
  labels: string[];
  who: string;
  isMine: boolean;
  number: string;
  item: string;
  isTheirs: boolean;
  madeAt: string;
  openUntil: string;
  openedAt: string | null;
  by: string | null;
  waits: boolean;
  replaced: boolean;
  opens: boolean;
  sees: boolean;
  runId: string;
  key: string;
};

async function notesWhere(viewer: Viewer, where: SQL) {
  const { rows } = await db().execute<Row>(sql`
    select n.id, n.labels, p.name as who, p.id = ${viewer.id} as "isMine", service_case.number, v.name as item, n.run_id as "runId", n.key,
      (service_case.requester_id = ${viewer.id} or coalesce(service_case.for_id = ${viewer.id}, false)) as "isTheirs", n.made_at as "madeAt", n.open_until as "openUntil",
      n.opened_at as "openedAt", o.name as by, n.sealed is not null and n.open_until > ${now().toISOString()}::timestamptz as waits,
      n.replaced_at is not null as replaced, ${mayOpen(viewer)} as opens, ${maySeeInside(viewer)} as sees
    from sealed_note n join person p on p.id = n.person_id join run r on r.id = n.run_id join service_case on service_case.id = r.case_id
      join revision v on v.id = r.revision_id left join person o on o.id = n.opened_by
    where ${where} order by n.made_at desc, n.id limit 50`);
  return rows.map(({ number, madeAt, openUntil, openedAt, waits, replaced, sees, ...n }) => ({
    ...n,
    // Of a confidential request whoever has no part in it learns nothing else.
    item: sees || n.isMine ? n.item : 'confidential',
    number: Number(number),
    madeAt: new Date(madeAt),
    openUntil: new Date(openUntil),
    openedAt: openedAt === null ? null : new Date(openedAt),
    state: (openedAt !== null ? 'opened' : waits ? 'waits' : replaced ? 'replaced' : 'over') as NoteState,
  }));
}

/** A note as its page shows it, to those who may open it or have it made anew; what it says is not in it. */
export async function noteFor(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const may = has(viewer, 'administrator') ? sql`true` : sql`(p.id = ${viewer.id} or p.manager_id = ${viewer.id})`;
  const [note] = await notesWhere(viewer, sql`n.id = ${id} and ${may}`);
  if (!note) return undefined;
  const { runId, key, ...shown } = note;
  const { rows } = await db().execute<{ action: string | null; busy: boolean; newer: boolean }>(sql`
    select (select g ->> 'action' from run r, jsonb_array_elements(r.state -> 'given') g where r.id = ${runId}
        and ${key} = (g ->> 'key') || coalesce('/' || nullif(g ->> 'round', '0'), '') limit 1) as action,
      exists (select from call where run_id = ${runId} and closed_at is null and starts_with(key, ${`anew:${key}~`})) as busy,
      exists (select from sealed_note where run_id = ${runId} and key = ${key} and made_at > ${note.madeAt.toISOString()}::timestamptz) as newer`);
  const { action = null, busy = false, newer = false } = rows[0] ?? {};
  if (busy) return { ...shown, anew: 'underWay' as const };
  // What was made later is what counts.
  const closed = !newer && (note.state === 'opened' || note.state === 'over');
  const can = closed && action !== null && (await actionSpec(db(), action))?.anewBy !== undefined;
  return { ...shown, anew: can ? ('can' as const) : undefined };
}

/** The notes that wait for somebody to open them, of this request or of any. */
export const notesWaiting = async (viewer: Viewer, request?: number) =>
  (
    await notesWhere(
      viewer,
      sql`n.person_id = any(array(select p.id from person p where ${mayOpen(viewer)})) and n.sealed is not null and n.open_until > ${now().toISOString()}::timestamptz ${request === undefined ? sql`` : sql`and service_case.number = ${request}`}`,
    )
  ).map(({ runId: _, key: _k, ...n }) => n);

/** What became of the notes of a run, for its trace. */
export async function notesOfRun(runId: string) {
  const { rows } = await db().execute<{ callId: string; labels: string[]; who: string; openedAt: string | null; by: string | null }>(sql`
    select n.call_id as "callId", n.labels, p.name as who, n.opened_at as "openedAt", o.name as by
    from sealed_note n join person p on p.id = n.person_id left join person o on o.id = n.opened_by where n.run_id = ${runId} order by n.made_at`);
  return rows.map((r) => ({ ...r, openedAt: r.openedAt === null ? null : new Date(r.openedAt) }));
}
