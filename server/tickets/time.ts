import { and, asc, eq, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { statusOf } from '../../core/statuses/index.ts';
import { standingsOf, promisesOf, promisedWords, type TicketEvent } from '../../core/tickets/index.ts';
import { minutesWords } from '../../core/calendar/index.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { run, ticket } from '../db/schema/index.ts';
import { recountPromises } from '../requests/tell-promises.ts';
import { addJobs, type Jobs } from '../runtime/jobs.ts';
import { settleAsking } from './asking.ts';
import { columnsOf, datesFor, happen, lockTickets, reckonedBy, setTime, type Ticket } from './happen.ts';
import { tellEntered } from './known.ts';
import { tellDesk } from './tell.ts';

/** Lets happen what is due of a ticket: the desk is told that a promise is near or broken, it is raised, it passes on by itself. */
export async function ticketTime(caseId: string): Promise<void> {
  await db().transaction(async (tx) => {
    const [locked] = await lockTickets(tx, sql`${ticket.caseId} = ${caseId}`);
    if (!locked) return;
    let t = await settleAsking(tx, locked, now());
    // What follows from what is due may be due as well; as much as one ticket can owe at once.
    for (let n = 0; n < 20; n++) {
      const at = now();
      const dates = await datesFor(tx, t);
      const { next } = dates;
      if (!next || new Date(next.at) > at) {
        // It was called for a moment that is not its next one any more.
        if (n === 0) await tx.update(ticket).set(columnsOf(t.state, dates)).where(eq(ticket.caseId, caseId));
        return n === 0 ? setTime(tx, caseId, dates) : undefined;
      }
      t = 'passes' in next.what ? await passOn(tx, t, next.what.passes, at) : await told(tx, t, next.what, at);
    }
  });
}

async function passOn(tx: Tx, t: Ticket, to: string, at: Date): Promise<Ticket> {
  const after = await happen(tx, t, [{ type: 'moved', to, cause: 'time' }], null, at);
  await tellEntered(tx, after.ticket, [to], at);
  return after.ticket;
}

async function told(tx: Tx, t: Ticket, { told: of, that }: { told: 'response' | 'fulfilment'; that: 'near' | 'late' }, at: Date): Promise<Ticket> {
  const { places, desk } = await reckonedBy(tx, t);
  const promise = promisesOf(t.kind, t.state, places)[of];
  const standing = standingsOf(t.kind, t.state, places, desk, at.toISOString())[of];
  if (!promise || !standing) return t;
  const { late } = promise;
  const raise = that === 'late' && late.raise !== undefined && late.raise !== t.state.priority ? late.raise : undefined;
  const { impact, urgency } = t.state;
  const events: TicketEvent[] = [
    ...(raise === undefined
      ? []
      : [{ type: 'judged', impact, urgency, priority: raise, why: `the promise (${promisedWords[of]}) was broken` } as const]),
    { type: 'told', of, that },
  ];
  const after = await happen(tx, t, events, null, at);
  if (late.tell !== 'nobody') {
    const whom =
      late.tell === 'team' && t.state.team !== undefined ? { ...after.ticket, state: { ...after.ticket.state, holder: undefined } } : after.ticket;
    const words =
      that === 'near'
        ? `${minutesWords(standing.left)} of ${minutesWords(standing.promised)} are left for the promise (${promisedWords[of]}).`
        : `The promise of ${minutesWords(standing.promised)} (${promisedWords[of]}) is broken.`;
    await tellDesk(tx, whom as Ticket, { key: `told:${after.ticket.seq}`, why: that === 'near' ? 'Soon due' : 'Late', words }, at);
  }
  return after.ticket;
}

const atOnce = 200;

/**
 * Reckons open tickets anew, some at a time in the order of their cases: what counts has changed. Where what is due has moved, its history
 * says why; tickets in a status that is gone go where was said.
 */
export async function recount(what: Jobs['recount']): Promise<void> {
  // Once, before the tickets: the promises of requests count the same hours.
  if (what.why === 'hours' && what.after === undefined) await recountPromises(db());
  const cases = await db()
    .select({ caseId: ticket.caseId })
    .from(ticket)
    .where(
      and(
        isNull(ticket.endedAt),
        what.kind === undefined ? undefined : eq(ticket.kindId, what.kind),
        what.after === undefined ? undefined : sql`${ticket.caseId} > ${what.after}`,
      ),
    )
    .orderBy(asc(ticket.caseId))
    .limit(atOnce);
  const goes = new Map(Object.entries(what.goes ?? {}));
  for (const { caseId } of cases)
    await db().transaction(async (tx) => {
      const [t] = await lockTickets(tx, sql`${ticket.caseId} = ${caseId}`);
      if (!t) return;
      const at = now();
      const to = statusOf(t.kind.map, t.state.status) ? undefined : (goes.get(t.state.status) ?? t.kind.map.begin);
      const moved = to === undefined ? t : (await happen(tx, t, [{ type: 'moved', to, cause: 'map' }], null, at)).ticket;
      const [before] = await tx.select({ dueAt: ticket.dueAt, nextAt: ticket.nextAt }).from(ticket).where(eq(ticket.caseId, caseId));
      const dates = await datesFor(tx, moved);
      const [was, due] = [before?.dueAt?.toISOString(), dates.due];
      if (was !== due)
        await happen(
          tx,
          moved,
          [{ type: 'recounted', why: what.why, ...(was !== undefined && { was }), ...(due !== undefined && { due }) }],
          null,
          at,
        );
      else if (before?.nextAt?.toISOString() !== dates.next?.at) {
        await tx.update(ticket).set(columnsOf(moved.state, dates)).where(eq(ticket.caseId, caseId));
        await setTime(tx, caseId, dates);
      }
    });
  const last = cases.at(-1);
  if (cases.length === atOnce && last)
    await addJobs(db(), 'recount', [{ payload: { ...what, after: last.caseId }, key: `recount:${what.kind ?? what.why}:${last.caseId}` }]);
}

/** Tickets whose time has come and whose job was lost; the sweep adds it again. */
export const lostTimes = (late: Date, most: number) =>
  db()
    .select({ caseId: ticket.caseId })
    .from(ticket)
    .where(and(lt(ticket.nextAt, late), notAside))
    .orderBy(ticket.nextAt)
    .limit(most);

/** Tickets about which it was decided whether they may go on, and whose job was lost; the sweep adds it again. */
export const lostAskings = (late: Date, most: number) =>
  db()
    .select({ caseId: ticket.caseId })
    .from(ticket)
    .innerJoin(run, eq(run.id, ticket.askingId))
    .where(and(isNotNull(ticket.askingId), lt(run.endedAt, late), notAside))
    .orderBy(run.endedAt)
    .limit(most);

const notAside = sql`not exists (
  select from set_aside s where s.source = 'job' and s.key = 'ticket:' || ${ticket.caseId} and (s.settled_at is null or s.settled = 'discarded'))`;
