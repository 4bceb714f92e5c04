import { eq, sql } from 'drizzle-orm';
import { placesAround } from '../../core/routing/index.ts';
import { requesterWords, statusOf } from '../../core/statuses/index.ts';
import { advanceTicket, datesOf, type Dates, type TicketEvent, type TicketKind, type TicketState } from '../../core/tickets/index.ts';
import { calendarsOf, type Calendars } from '../hours/nearest.ts';
import { zoneOf } from '../auth/viewer.ts';
import type { Reader, Tx } from '../db/database.ts';
import { person, serviceCase, ticket, ticketEvent } from '../db/schema/index.ts';
import { insertAll } from '../db/insert-all.ts';
import { kindsAt, kindsOf, type Kind } from '../kinds/queries.ts';
import { placeTree } from '../routing/places.ts';
import { deliver, lockRuns } from '../runtime/deliver.ts';
import { addJobs } from '../runtime/jobs.ts';
import { ticketNumber } from '../words.ts';

/** A ticket as a transaction has it. */
export interface Ticket {
  caseId: string;
  number: number;
  kindId: string;
  kind: TicketKind;
  requesterId: string;
  /** The zone of whoever asked, for hours that say none. */
  zone: string;
  subject: string;
  category: string | null;
  placeId: string | null;
  filled: Record<string, unknown>;
  /** Where it came from in chat: the room, and the message in whose thread it is answered. */
  chatRoom: string | null;
  chatRoot: string | null;
  state: TicketState;
  seq: number;
}

/**
 * Tickets with their rows locked until the transaction ends, in the order of their cases; and where several of them wait at gates, the runs
 * that ask, in theirs: whoever locks a ticket and a run locks the ticket first.
 */
export async function lockTickets(tx: Tx, which: ReturnType<typeof sql>): Promise<Ticket[]> {
  const rows = await ticketsWhere(tx, which).orderBy(ticket.caseId).for('no key update', { of: ticket });
  const runs = rows.flatMap((r) => r.state.asking?.run ?? []);
  if (runs.length > 1) await lockRuns(tx, runs);
  // Read after the lock: whoever waited for it goes by the kind as it is now, and a change of it finds the ticket where it went.
  const kinds = await kindsOf(
    tx,
    rows.map((r) => r.kindId),
  );
  return withKinds(rows, kinds);
}

/** The ticket of a number, locked; undefined where there is none. */
export async function lockTicket(tx: Tx, number: number): Promise<Ticket | undefined> {
  const [found] = await lockTickets(tx, sql`${serviceCase.number} = ${number}`);
  return found;
}

/** A ticket and those that went into it, by their cases; as an array, so that each is found by its index. */
export const withJoined = (caseId: string) =>
  sql`array(select ${caseId}::uuid union all select j.case_id from ticket j where j.joined_id = ${caseId})`;

/** The number of a case. */
export async function numberOf(tx: Reader, caseId: string): Promise<number> {
  const [row] = await tx.select({ number: serviceCase.number }).from(serviceCase).where(eq(serviceCase.id, caseId));
  return row?.number ?? 0;
}

/** The same without a lock, to be read. */
export async function readTicket(tx: Reader, number: number): Promise<Ticket | undefined> {
  const rows = await ticketsWhere(tx, sql`${serviceCase.number} = ${number}`);
  const kinds = await kindsAt(
    tx,
    rows.map((r) => ({ id: r.kindId, version: r.kindVersion })),
  );
  return withKinds(rows, kinds)[0];
}

/** Tickets with their kinds, each of which is read once. */
const withKinds = (rows: (Omit<Ticket, 'kind'> & { kindVersion: number })[], kinds: ReadonlyMap<string, Kind>): Ticket[] =>
  rows.map(({ kindVersion: _, ...r }) => ({ ...r, kind: kinds.get(r.kindId)!.definition }));

const ticketsWhere = (tx: Reader, which: ReturnType<typeof sql>) =>
  tx
    .select({
      caseId: ticket.caseId,
      number: serviceCase.number,
      kindId: ticket.kindId,
      kindVersion: sql<number>`(select k.version from ticket_kind k where k.id = ${ticket.kindId})`,
      requesterId: serviceCase.requesterId,
      zone: zoneOf,
      subject: ticket.subject,
      category: ticket.category,
      placeId: ticket.placeId,
      filled: sql<Record<string, unknown>>`${ticket.filled}`,
      chatRoom: ticket.chatRoom,
      chatRoot: ticket.chatRoot,
      state: ticket.state,
      seq: ticket.seq,
    })
    .from(ticket)
    .innerJoin(serviceCase, eq(serviceCase.id, ticket.caseId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(which)
    .$dynamic();

/** What each transaction has read of the hours: they are the same to its end. */
const hours = new WeakMap<Reader, Calendars>();
const calendars = (tx: Reader): Calendars => {
  const known = hours.get(tx) ?? calendarsOf(tx);
  hours.set(tx, known);
  return known;
};

/** By what a ticket is reckoned: the places around it, and the hours of the team it is with, else of where whoever asked works. */
export async function reckonedBy(tx: Tx, t: Pick<Ticket, 'placeId' | 'requesterId' | 'zone' | 'state'>) {
  return {
    places: placesAround(await placeTree(tx), t.placeId),
    desk: await calendars(tx).of({ team: t.state.team, person: t.requesterId, zone: t.zone }),
  };
}

/** What `reckonedBy` gives, turned into the dates of a ticket. */
export async function datesFor(tx: Tx, t: Pick<Ticket, 'kind' | 'placeId' | 'requesterId' | 'zone' | 'state'>): Promise<Dates> {
  const { places, desk } = await reckonedBy(tx, t);
  return datesOf(t.kind, t.state, places, desk);
}

/** The columns of a ticket that follow from its state. */
export const columnsOf = (state: TicketState, dates: Dates) => ({
  state,
  status: state.status,
  priority: state.priority,
  teamId: state.team ?? null,
  holderId: state.holder ?? null,
  dueAt: moment(dates.due),
  responseDueAt: state.answeredAt === undefined ? moment(dates.responseDue) : null,
  nextAt: moment(dates.next?.at),
  endedAt: moment(state.endedAt),
  joinedId: state.joined ?? null,
  askingId: state.asking?.run ?? null,
});
const moment = (iso: string | undefined): Date | null => (iso === undefined ? null : new Date(iso));

/**
 * Lets something happen to a ticket that is locked: its state goes on, the events are appended, its dates follow, and what happens by
 * itself next has its job. Gives the ticket as it is then, and which statuses it has come to.
 */
export async function happen(tx: Tx, t: Ticket, events: TicketEvent[], by: string | null, at: Date): Promise<{ ticket: Ticket; entered: string[] }> {
  if (events.length === 0) return { ticket: t, entered: [] };
  let state = t.state;
  for (const event of events) state = advanceTicket(t.kind, state, event, at.toISOString());
  const next = { ...t, state, seq: t.seq + events.length };
  const dates = await datesFor(tx, next);
  await insertAll(
    tx,
    ticketEvent,
    events.map((event, i) => ({ caseId: t.caseId, seq: t.seq + 1 + i, at, by, event })),
  );
  await tx
    .update(ticket)
    // Whether it helped is asked anew of what is taken up again.
    .set({ seq: next.seq, ...columnsOf(state, dates), ...(state.endedAt === undefined && t.state.endedAt !== undefined && { helped: null }) })
    .where(eq(ticket.caseId, t.caseId));
  // What went into another is over for who asked when that one is.
  if ((state.endedAt === undefined) !== (t.state.endedAt === undefined) && state.joined === undefined)
    await tx
      .update(serviceCase)
      .set(state.endedAt === undefined ? { endedAt: null, outcome: null } : { endedAt: new Date(state.endedAt), outcome: 'fulfilled' })
      .where(sql`${serviceCase.id} = any(${withJoined(t.caseId)})`);
  // Whatever else becomes of it, nobody need agree any more to where it was to go.
  if (t.state.asking && state.asking?.run !== t.state.asking.run && !events.some(isSettled)) {
    const { ignored } = await deliver(tx, t.state.asking.run, { type: 'withdrawn', person: t.requesterId }, at);
    // It may have been decided a moment ago; anything else would leave people asked for nothing.
    if (ignored !== undefined && ignored !== 'ended') throw new Error(`What asks about T-${t.number} could not be withdrawn (${ignored}).`);
  }
  await setTime(tx, t.caseId, dates);
  await sayWhereItCameFrom(tx, next, events, at);
  return { ticket: next, entered: events.flatMap((e) => (e.type === 'moved' && statusOf(t.kind.map, e.to) ? [e.to] : [])) };
}

const isSettled = (e: TicketEvent): boolean => e.type === 'notAgreed' || (e.type === 'moved' && e.cause === 'gate');

/** The job for what happens to a ticket by itself next. */
export async function setTime(tx: Tx, caseId: string, dates: Dates): Promise<void> {
  if (dates.next) await addJobs(tx, 'ticketTime', [{ payload: { caseId }, key: `ticket:${caseId}`, runAt: new Date(dates.next.at) }]);
}

/** In the threads of the channels it came from, and those that went into it: where it stands now, in the words of who asked. */
async function sayWhereItCameFrom(tx: Tx, t: Ticket, events: TicketEvent[], at: Date): Promise<void> {
  const last = events.findLast((e) => e.type === 'moved');
  const status = last && statusOf(t.kind.map, last.to);
  if (!status) return;
  const { rows } = await tx.execute<{ number: string; chatRoom: string; chatRoot: string }>(sql`
    select c.number, t.chat_room as "chatRoom", t.chat_root as "chatRoot" from ticket t join service_case c on c.id = t.case_id
    where t.case_id = any(${withJoined(t.caseId)}) and t.chat_root is not null order by c.number`);
  for (const r of rows)
    await sayInThread(tx, r, `${ticketNumber(Number(r.number))}: ${requesterWords(status)}`, `t${r.number}-${t.seq}-${at.getTime()}`);
}

/** A word in the thread of the channel from which a ticket came. */
export async function sayInThread(tx: Tx, t: Pick<Ticket, 'chatRoom' | 'chatRoot'>, text: string, once: string): Promise<void> {
  if (t.chatRoom === null || t.chatRoot === null) return;
  await addJobs(tx, 'sayInChat', [{ payload: { room: t.chatRoom, text, once, thread: t.chatRoot }, key: once }]);
}
