import { and, asc, eq, gt, ne } from 'drizzle-orm';
import type { Coming } from '../../core/meetings/index.ts';
import { plainText } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db } from '../db/database.ts';
import { invited, meeting, revision, run, serviceCase } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { namesFor, readIn } from '../people/names.ts';
import { sayNow } from '../words.ts';
import { guestsOf } from './told.ts';

/** Somebody who is invited, and what they said of the time it has now. */
export interface Guest {
  id: string;
  name: string;
  says: Coming | null;
  words: string;
  /** Their calendar could not be seen when the time was found. */
  unseen: boolean;
}

/** A meeting as the pages of its request show it. */
export interface Meeting {
  id: string;
  title: string;
  place: string;
  status: 'seeking' | 'planned' | 'off' | 'failed';
  /** While it is planned, or was before it was called off. */
  beginsAt: Date | null;
  endsAt: Date | null;
  guests: Guest[];
  /** Whoever reads it is invited: they can say whether they come. */
  isMine: boolean;
}

/** The meetings of a case as somebody reads it, in the order in which they are. What was never told to anybody and is not needed any more is left out. */
export async function meetingsOf(caseId: string, reader?: string): Promise<Meeting[]> {
  const rows = await db()
    .select({ m: meeting })
    .from(meeting)
    .innerJoin(run, eq(run.id, meeting.runId))
    .where(and(eq(run.caseId, caseId), ne(meeting.status, 'failed')))
    .orderBy(asc(meeting.beginsAt), asc(meeting.createdAt));
  const shown = rows.filter(({ m }) => m.status !== 'off' || m.sequence !== null);
  const guests = await guestsIn(shown.map(({ m }) => m.id));
  return shown.map(({ m }) => ({
    ...factsOf(m),
    isMine: guests.get(m.id)?.some((g) => g.id === reader) ?? false,
    guests: guests.get(m.id) ?? [],
  }));
}

/** What pages show of a meeting, and of those who are invited to it now. */
const factsOf = ({ id, title, place, status, beginsAt, endsAt }: typeof meeting.$inferSelect) => ({ id, title, place, status, beginsAt, endsAt });
const guestsIn = async (meetings: string[]): Promise<Map<string, Guest[]>> =>
  new Map(
    [...(await guestsOf(db(), meetings))].map(([id, all]) => [
      id,
      all.flatMap((g): Guest[] => (g.gone ? [] : [{ id: g.personId, name: g.name, says: g.says, words: g.words, unseen: g.unseen }])),
    ]),
  );

/** So many meetings that lie ahead are shown. */
const mostAhead = 20;

/** The meetings that somebody is invited to and that are not over, the next first. */
export async function meetingsAhead(viewer: Viewer) {
  return db()
    .select({
      id: meeting.id,
      title: meeting.title,
      place: meeting.place,
      status: meeting.status,
      beginsAt: meeting.beginsAt,
      endsAt: meeting.endsAt,
      says: invited.says,
    })
    .from(invited)
    .innerJoin(meeting, and(eq(meeting.id, invited.meetingId), eq(meeting.status, 'planned'), gt(meeting.endsAt, now())))
    .where(and(eq(invited.personId, viewer.id), eq(invited.gone, false)))
    .orderBy(asc(meeting.beginsAt), asc(meeting.id))
    .limit(mostAhead);
}

/** A meeting as somebody who is invited to it reads it; undefined for everybody else. */
export async function meetingFor(viewer: Viewer, id: string) {
  if (!isId(id)) return undefined;
  const [row] = await db()
    .select({
      m: meeting,
      kind: serviceCase.kind,
      number: serviceCase.number,
      requesterId: serviceCase.requesterId,
      forId: serviceCase.forId,
      revisionId: run.revisionId,
      item: revision.name,
    })
    .from(meeting)
    .innerJoin(invited, and(eq(invited.meetingId, meeting.id), eq(invited.personId, viewer.id), eq(invited.gone, false)))
    .innerJoin(run, eq(run.id, meeting.runId))
    .innerJoin(revision, eq(revision.id, run.revisionId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .where(eq(meeting.id, id));
  if (!row) return undefined;
  const { m, kind, number, item } = row;
  const names = readIn(viewer.zone, await namesFor(db(), Object.values(m.words.body.values)));
  const words = sayNow(m.words.body, { kind, number, definition: await definitionOf(db(), row.revisionId) }, names);
  const guests = (await guestsIn([m.id])).get(m.id) ?? [];
  return {
    ...factsOf(m),
    sequence: m.sequence ?? 0,
    isOver: m.beginsAt !== null && m.beginsAt <= now(),
    words: { rich: words, plain: plainText(words) },
    guests,
    mine: guests.find((g) => g.id === viewer.id),
    /** Their own request: they may follow it. */
    request: kind === 'request' && (row.requesterId === viewer.id || row.forId === viewer.id) ? { number, item } : undefined,
  };
}
