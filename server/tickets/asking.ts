import { and, eq, sql } from 'drizzle-orm';
import { newState } from '../../core/engine/index.ts';
import { textLimit } from '../../core/forms/index.ts';
import { everStatus, statusOf } from '../../core/statuses/index.ts';
import { moveAnswers, moveDefinition, type GatedMove } from '../../core/tickets/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Reader, type Tx } from '../db/database.ts';
import { approval, gate, person, revision, run, ticketKind } from '../db/schema/index.ts';
import { hashOf } from '../items/definitions.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { deliverAll } from '../runtime/deliver.ts';
import { ticketNumber } from '../words.ts';
import { happen, lockTicket, type Ticket } from './happen.ts';
import { knownOf, tellEntered } from './known.ts';
import { tellDesk } from './tell.ts';
import { actingOn } from './whose.ts';

// A move that has a gate: a run asks whether the ticket may go, and it goes once that is agreed to.

/**
 * Asks those whom the gate of a move names, with what is known of the ticket. It stays where it is until they have agreed; where nobody need
 * be asked it goes at once. Gives the ticket as it is then.
 */
export async function askToMove(
  tx: Tx,
  viewer: Pick<Viewer, 'id'>,
  t: Ticket,
  { move, said }: { move: GatedMove; said: string },
  at: Date,
): Promise<Ticket> {
  const revisionId = await revisionFor(tx, t, move, viewer.id);
  const state = newState();
  const [made] = await tx.insert(run).values({ caseId: t.caseId, revisionId, beganAt: at, state }).returning({ id: run.id });
  const runId = made!.id;
  const { ticket } = await happen(tx, t, [{ type: 'asked', to: move.to, run: runId }], viewer.id, at);
  const begun = { id: runId, caseId: t.caseId, kind: 'ticket' as const, number: t.number, revisionId, requesterId: t.requesterId, seq: 0, state };
  // Whoever wants it moved is not asked, and neither is whoever reported it.
  const mover = viewer.id === t.requesterId ? {} : { for: { person: viewer.id } };
  const answers = moveAnswers(t.kind, { ...(await knownOf(tx, t)), moverId: viewer.id, said: said.slice(0, textLimit.longText) });
  await deliverAll(
    tx,
    [
      {
        run: begun,
        events: [{ type: 'begin', requester: { person: t.requesterId }, number: ticketNumber(t.number), answers, zone: t.zone, ...mover }],
      },
    ],
    at,
  );
  return settleAsking(tx, ticket, at);
}

/** What asks whether tickets of a kind may make this move; made when it is asked first, and anew when the kind has changed in what it says. */
async function revisionFor(tx: Tx, t: Ticket, move: GatedMove, by: string): Promise<string> {
  const definition = moveDefinition(t.kind, move);
  const contentHash = hashOf(definition);
  const [kind] = await tx.select({ version: ticketKind.version }).from(ticketKind).where(eq(ticketKind.id, t.kindId));
  const [made] = await tx
    .insert(revision)
    .values({ kindId: t.kindId, number: kind!.version, definition, contentHash, publishedBy: by })
    .onConflictDoNothing()
    .returning({ id: revision.id });
  if (made) return made.id;
  const [known] = await tx
    .select({ id: revision.id })
    .from(revision)
    .where(and(eq(revision.kindId, t.kindId), eq(revision.contentHash, contentHash)));
  return known!.id;
}

/** Lets a ticket that is locked go where it was asked whether it may, once that is decided; else leaves it as it is. */
export async function settleAsking(tx: Tx, t: Ticket, at: Date): Promise<Ticket> {
  const { asking } = t.state;
  if (!asking) return t;
  const [asked] = await tx
    .select({ outcome: run.outcome, reason: sql<string | null>`${run.state} ->> 'reason'`, decidedBy: gate.decidedBy })
    .from(run)
    .leftJoin(gate, eq(gate.runId, run.id))
    .where(eq(run.id, asking.run));
  if (!asked?.outcome) return t;
  const there = statusOf(t.kind.map, asking.to);
  const by = asked.decidedBy;
  if (asked.outcome === 'fulfilled' && there) {
    const { ticket } = await happen(tx, t, [{ type: 'moved', to: there.id, cause: 'gate' }], by, at);
    await tellEntered(tx, ticket, [there.id], at);
    await tellDesk(tx, ticket, { key: `agreed:${ticket.seq}`, why: 'Agreed to', words: `It is in “${there.name}” now.` }, at);
    return ticket;
  }
  const why = asked.outcome === 'declined' || asked.outcome === 'lapsed' ? asked.outcome : 'failed';
  const words = there ? (asked.reason ?? '').slice(0, 500) : 'This status is not there any more.';
  const { ticket } = await happen(tx, t, [{ type: 'notAgreed', to: asking.to, why, ...(words !== '' && { words }) }], by, at);
  const said = { declined: 'It was not agreed to', lapsed: 'Nobody answered in time', failed: 'Nobody could be asked' }[why];
  const goal = there?.name ?? asking.to;
  await tellDesk(
    tx,
    ticket,
    { key: `agreed:${ticket.seq}`, why: 'Not agreed to', words: `${said}, so it does not go to “${goal}”.${words === '' ? '' : `\n${words}`}` },
    at,
  );
  return ticket;
}

/** Takes back that it was asked whether a ticket may go somewhere; those who were asked are told. */
export async function takeBackAsking(viewer: Viewer, input: { number: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const t = await lockTicket(tx, input.number);
    if (!t) return notFound('This ticket');
    const as = await actingOn(tx, viewer, t);
    if (!as.team && !as.holder) return notAllowed('take that back: the ticket is with another team');
    const { asking } = t.state;
    if (!asking) return refuse('ended', 'Nobody is asked about it any more.');
    await happen(tx, t, [{ type: 'unasked', to: asking.to }], viewer.id, now());
    await record(tx, { actor: viewer.id, action: 'take-back', object: 'ticket', objectId: t.caseId, detail: { number: t.number, to: asking.to } });
    return { ok: true };
  });
}

/** Where a ticket waits to be let through: to which status, since when, and what each who was asked has said. */
export async function askingOf(tx: Reader, t: Ticket) {
  const { asking } = t.state;
  if (!asking) return undefined;
  const people = await tx
    .select({ name: person.name, status: approval.status, comment: approval.comment, gate: gate.name, lapsesAt: gate.lapsesAt })
    .from(gate)
    .innerJoin(approval, eq(approval.gateId, gate.id))
    .innerJoin(person, eq(person.id, approval.personId))
    .where(eq(gate.runId, asking.run))
    .orderBy(person.name);
  return {
    to: everStatus(t.kind.map, asking.to)?.name ?? asking.to,
    since: new Date(asking.at),
    gate: people[0]?.gate ?? '',
    lapsesAt: people[0]?.lapsesAt ?? undefined,
    people: people.map(({ name, status, comment }) => ({ name, status, comment })),
  };
}
