import { and, asc, desc, eq, lt, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { workingBetween, type Calendar } from '../../core/calendar/index.ts';
import { placesAround } from '../../core/routing/index.ts';
import { everStatus, requesterWords, statusOf } from '../../core/statuses/index.ts';
import { levelWords, tideLine, type Standing, type TideLine } from '../../core/targets/index.ts';
import { eventWords, movesFor, standingsOf, type TicketEvent } from '../../core/tickets/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { wordsWhere } from '../conversation/read.ts';
import { db } from '../db/database.ts';
import { location, person, serviceCase, team, ticket, ticketEvent, caseWord } from '../db/schema/index.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { kindsAt } from '../kinds/queries.ts';
import { pageOf } from '../lists/page.ts';
import { namesFor, readIn } from '../people/names.ts';
import { momentWords, said } from '../words.ts';
import { askingOf } from './asking.ts';
import { numberOf, readTicket, withJoined, type Ticket } from './happen.ts';
import { joinedOf, likeTickets, relatedOf } from './related.ts';
import { othersReading } from './readers.ts';
import { actingOn, readsTickets } from './whose.ts';

/** What is promised of a ticket and where it stands, ready to be drawn. */
export interface Promised {
  of: 'response' | 'fulfilment';
  standing: Standing;
  tide: TideLine;
}

async function reckoned(t: Ticket): Promise<{ promised: Promised[]; desk: Calendar }> {
  const calendars = calendarsOf(db());
  const [desk, tree] = await Promise.all([calendars.of({ team: t.state.team, person: t.requesterId, zone: t.zone }), calendars.tree()]);
  const its = standingsOf(t.kind, t.state, placesAround(tree, t.placeId), desk, now().toISOString());
  const promised = (['response', 'fulfilment'] as const).flatMap((of) => (its[of] ? [{ of, standing: its[of], tide: tideLine(its[of]) }] : []));
  return { promised, desk };
}

/** What was answered in the form of a ticket, in words. */
async function answersOf(viewer: Viewer, t: Ticket, caseAnswers: Record<string, unknown>) {
  const values = caseAnswers as Parameters<typeof namesFor>[1] extends Iterable<infer V> ? Record<string, V> : never;
  const names = readIn(viewer.zone, await namesFor(db(), [...Object.values(values), ...(Object.values(t.filled) as (typeof values)[string][])]));
  const inWords = (fields: Ticket['kind']['desk'], from: Record<string, unknown>) =>
    fields.flatMap((f) => {
      const its = said((Object.hasOwn(from, f.id) ? from[f.id] : undefined) as (typeof values)[string], names, f);
      return its.words ? [{ label: f.label, ...its }] : [];
    });
  return [...inWords(t.kind.form.fields, caseAnswers), ...inWords(t.kind.desk, t.filled)];
}

/** Everything the desk needs of a ticket, for those who act on it and those who read all. */
export async function ticketFor(viewer: Viewer, number: number) {
  const t = await readTicket(db(), number);
  if (!t) return undefined;
  const requester = alias(person, 'requester');
  // All of it at once; nothing is given to whoever may not read it.
  const [as, [found], words, events, { promised, desk }, like, asking] = await Promise.all([
    actingOn(db(), viewer, t),
    db()
      .select({
        answers: serviceCase.answers,
        requester: requester.name,
        job: requester.jobRole,
        department: requester.department,
        email: requester.email,
        place: sql<string | null>`(select n.name from ${location} n where n.id = ${ticket.placeId})`,
        team: sql<string | null>`(select n.name from ${team} n where n.id = ${ticket.teamId})`,
        holder: sql<string | null>`(select n.name from ${person} n where n.id = ${ticket.holderId})`,
        helped: ticket.helped,
        // What few tickets have is read of those that have it.
        isRead: sql<boolean>`exists (select from ticket_reader r where r.case_id = ${ticket.caseId})`,
        isLinked: sql<boolean>`exists (select from case_link l where l.from_id = ${ticket.caseId} or l.to_id = ${ticket.caseId})`,
        isJoined: sql<boolean>`${ticket.joinedId} is not null or exists (select from ticket j where j.joined_id = ${ticket.caseId})`,
      })
      .from(ticket)
      .innerJoin(serviceCase, eq(serviceCase.id, ticket.caseId))
      .innerJoin(requester, eq(requester.id, serviceCase.requesterId))
      .where(eq(ticket.caseId, t.caseId)),
    // With what is said of the tickets that went into this one.
    wordsWhere(sql`${caseWord.caseId} = any(${withJoined(t.caseId)})`),
    eventsOf(t.caseId),
    reckoned(t),
    t.state.endedAt === undefined ? likeTickets(t) : [],
    askingOf(db(), t),
  ]);
  if (!found || (!as.team && !as.holder && !readsTickets(viewer))) return undefined;
  const { isRead, isLinked, isJoined, ...row } = found;
  const [readers, related, joined] = await Promise.all([
    isRead ? othersReading(t.caseId, viewer.id) : [],
    isLinked ? relatedOf(t.caseId) : [],
    isJoined ? joinedOf(t) : { here: [], into: undefined },
  ]);
  const { state, kind } = t;
  const names = await namesFor(
    db(),
    events.flatMap((e) => namedIn(e.event)),
  );
  const say = (of: 'team' | 'person', id: string) => names.of(of, id) ?? (of === 'team' ? 'a team that is gone' : 'somebody who has left');
  const acts = as.team || as.holder;
  const known = new Set(related.map((r) => r.number));
  return {
    number: t.number,
    readers,
    /** Whom it waits for before it goes on. */
    asking,
    related,
    joined,
    /** What it may be joined with. */
    like: acts ? like.filter((l) => !known.has(`T-${l.number}`)) : [],
    kind: kind.name,
    subject: t.subject,
    category: t.category,
    status: everStatus(kind.map, state.status) ?? { id: state.status, name: state.status, clock: 'runs' as const },
    priority: levelWords(kind.priority.priorities, state.priority),
    impact: state.impact,
    urgency: state.urgency,
    levels: { impacts: kind.priority.impacts, urgencies: kind.priority.urgencies },
    openedAt: new Date(state.openedAt),
    answeredAt: state.answeredAt === undefined ? undefined : new Date(state.answeredAt),
    endedAt: state.endedAt === undefined ? undefined : new Date(state.endedAt),
    requesterId: t.requesterId,
    ...row,
    answers: await answersOf(viewer, t, row.answers),
    mine: state.holder === viewer.id,
    inTeam: as.team,
    teamId: state.team,
    promised,
    words,
    held: state.held
      .filter((h) => h.why !== 'ended')
      .map((h) => ({
        from: new Date(h.from),
        to: h.to === undefined ? undefined : new Date(h.to),
        why: h.why,
        minutes: workingBetween(h.from, h.to ?? now().toISOString(), desk),
      })),
    history: events.map((e) => ({ at: e.at, by: e.by, words: eventWords(kind, e.event, say, (iso) => momentWords(new Date(iso), viewer.zone)) })),
    acts,
    moves: acts
      ? movesFor(kind, state.status, { ...as, requester: false }).map((m) => ({ ...m, to: { id: m.to.id, name: m.to.name, clock: m.to.clock } }))
      : [],
    fields: kind.desk,
    filled: t.filled,
    replies: kind.replies,
  };
}

const eventsOf = (caseId: string) =>
  db()
    .select({ at: ticketEvent.at, by: person.name, event: ticketEvent.event })
    .from(ticketEvent)
    .leftJoin(person, eq(person.id, ticketEvent.by))
    .where(eq(ticketEvent.caseId, caseId))
    .orderBy(asc(ticketEvent.seq));

/** Whom an event names, as values. */
const namedIn = (event: TicketEvent) =>
  'team' in event || 'holder' in event ? [...(event.team ? [{ team: event.team }] : []), ...(event.holder ? [{ person: event.holder }] : [])] : [];

const pageSize = 30;

/** The viewer's tickets, newest first, a page at a time by number. */
export async function myTickets(viewer: Viewer, before?: number) {
  // Where it went into another it stands where that one stands.
  const stands = alias(ticket, 'stands');
  const rows = await db()
    .select({
      number: serviceCase.number,
      subject: ticket.subject,
      state: stands.state,
      kindId: stands.kindId,
      kindVersion: sql<number>`(select k.version from ticket_kind k where k.id = ${stands.kindId})`,
      openedAt: serviceCase.openedAt,
      endedAt: serviceCase.endedAt,
    })
    .from(serviceCase)
    .innerJoin(ticket, eq(ticket.caseId, serviceCase.id))
    .innerJoin(stands, eq(stands.caseId, sql`coalesce(${ticket.joinedId}, ${ticket.caseId})`))
    .where(and(eq(serviceCase.requesterId, viewer.id), before ? lt(serviceCase.number, before) : undefined))
    .orderBy(desc(serviceCase.number))
    .limit(pageSize + 1);
  const page = pageOf(rows, pageSize, (last) => last.number);
  const kinds = await kindsAt(
    db(),
    page.rows.map((r) => ({ id: r.kindId, version: r.kindVersion })),
  );
  return {
    ...page,
    rows: page.rows.map(({ state, kindId, kindVersion: _, ...r }) => {
      const kind = kinds.get(kindId)!.definition;
      const status = everStatus(kind.map, state.status);
      return { ...r, kind: kind.name, words: status ? requesterWords(status) : state.status, asked: status?.clock === 'holds' };
    }),
  };
}

/** One of the viewer's own tickets, as its requester reads it: in words for them, without what is said within the desk. */
export async function myTicket(viewer: Viewer, number: number) {
  const asked = await readTicket(db(), number);
  if (asked?.requesterId !== viewer.id) return undefined;
  // What went into another stands where that one stands.
  const t = asked.state.joined === undefined ? asked : ((await readTicket(db(), await numberOf(db(), asked.state.joined))) ?? asked);
  const mine = alias(ticket, 'mine');
  const [row] = await db()
    .select({ answers: serviceCase.answers, team: team.name, holder: person.name, place: location.name, helped: mine.helped })
    .from(ticket)
    .innerJoin(serviceCase, eq(serviceCase.id, asked.caseId))
    .innerJoin(mine, eq(mine.caseId, asked.caseId))
    .leftJoin(team, eq(team.id, ticket.teamId))
    .leftJoin(person, eq(person.id, ticket.holderId))
    .leftJoin(location, eq(location.id, ticket.placeId))
    .where(eq(ticket.caseId, t.caseId));
  if (!row) return undefined;
  const { state, kind } = t;
  const status = statusOf(kind.map, state.status);
  const was = everStatus(kind.map, state.status);
  const moves = t === asked ? movesFor(kind, state.status, { team: false, holder: false, requester: true }) : [];
  const joinedAt = t === asked ? undefined : (await eventsOf(asked.caseId)).findLast((e) => e.event.type === 'joined')?.at;
  const { promised } = await reckoned(t);
  const fulfilment = promised.find((p) => p.of === 'fulfilment');
  return {
    number: asked.number,
    kind: asked.kind.name,
    subject: asked.subject,
    category: asked.category,
    ...row,
    answers: await answersOf(viewer, asked, row.answers),
    status: was ? requesterWords(was) : state.status,
    statusId: state.status,
    clock: was?.clock ?? ('runs' as const),
    openedAt: new Date(state.openedAt),
    endedAt: state.endedAt === undefined ? undefined : new Date(state.endedAt),
    due: state.endedAt === undefined && fulfilment?.standing.due !== undefined ? new Date(fulfilment.standing.due) : undefined,
    promised: fulfilment,
    words: await wordsWhere(
      sql`not ${caseWord.inside} and (${caseWord.caseId} = ${asked.caseId} or (${caseWord.caseId} = ${t.caseId} and ${caseWord.from} = 'desk' and ${caseWord.at} >= ${(joinedAt ?? new Date(0)).toISOString()}::timestamptz))`,
    ),
    /** Whether it was said in chat, and is answered there. */
    inChat: asked.chatRoot !== null,
    /** The ticket it is dealt with in, where that is another. */
    inside: t === asked ? undefined : t.number,
    /** Where a word of theirs takes it. */
    answered: status?.answered === undefined ? undefined : statusOf(kind.map, status.answered)?.id,
    /** Whether they can still write: not once nothing leads on. */
    over: state.endedAt !== undefined && status?.answered === undefined && moves.length === 0,
    closes: moves.find((m) => m.to.clock === 'ends')?.to.id,
  };
}

/** Whether a ticket is with the viewer, or with a team of theirs. */
export async function actsOnTicket(viewer: Viewer, number: number): Promise<boolean> {
  const t = await readTicket(db(), number);
  const as = t && (await actingOn(db(), viewer, t));
  return as !== undefined && (as.team || as.holder);
}

/** What a ticket is about, and whose it is, by its number; for finding it. */
export async function ticketCalled(number: number) {
  const [row] = await db()
    .select({ subject: ticket.subject, requesterId: serviceCase.requesterId })
    .from(serviceCase)
    .innerJoin(ticket, eq(ticket.caseId, serviceCase.id))
    .where(eq(serviceCase.number, number));
  return row;
}
