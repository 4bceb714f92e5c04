import { and, eq, inArray, or, sql } from 'drizzle-orm';
import { RelatedNumber, CaseWords } from '../../core/posts/index.ts';
import { everStatus } from '../../core/statuses/index.ts';
import { linkWords } from '../../core/tickets/index.ts';
import { sentence } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { caseLink, person, serviceCase, ticket, caseWord } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { kindOf, kindsOf } from '../kinds/queries.ts';
import { soughtWords } from '../lists/narrow.ts';
import { holdTo, notAllowed, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { requestNumber, ticketNumber } from '../words.ts';
import { happen, lockTickets, numberOf, readTicket, type Ticket } from './happen.ts';
import { tellingWords } from './likely.ts';
import { openTicket } from './report.ts';
import { tellRequester } from './tell.ts';
import { actingOn, readsTickets } from './whose.ts';
import { keepWord } from './write.ts';

// What one ticket has to do with others: two of the same are joined, one that is two is split, what is alike is linked.

const at = (field: string, words: string): Refusal => refuse('invalid', words, [{ field, sentence: words }]);

/** Two tickets by their numbers, locked in the order of their cases, if the viewer acts on the first and reads the other. */
async function both(tx: Tx, viewer: Viewer, number: number, other: number): Promise<{ ok: true; t: Ticket; into: Ticket; its: Ticket[] } | Refusal> {
  // With those that had gone into the first, all in one order, so that no two who lock them wait for each other.
  const found = await lockTickets(
    tx,
    sql`${ticket.caseId} = any(array(select c.id from service_case c where c.number in (${number}, ${other})
      union all select j.case_id from ticket j join service_case c on c.id = j.joined_id where c.number = ${number}))`,
  );
  const [t, into] = [found.find((x) => x.number === number), found.find((x) => x.number === other)];
  if (!t) return notFound('This ticket');
  const as = await actingOn(tx, viewer, t);
  if (!as.team && !as.holder) return readsTickets(viewer) ? notAllowed('act on this ticket: it is with another team') : notFound('This ticket');
  if (!into || !readsTickets(viewer)) return at('other', `There is no ticket T-${other}.`);
  return { ok: true, t, into, its: found.filter((x) => x.state.joined === t.caseId) };
}

/** Whether others went into a ticket while it was waited for: they are not among those that were locked with it. */
async function wentInMeanwhile(tx: Tx, { t, its }: { t: Ticket; its: Ticket[] }): Promise<boolean> {
  const all = await tx.select({ id: ticket.caseId }).from(ticket).where(eq(ticket.joinedId, t.caseId));
  return all.some((j) => its.every((i) => i.caseId !== j.id));
}

/**
 * Joins a ticket into another: from then on it is dealt with there, and whoever asked reads there what the desk says. What had been joined
 * into it goes with it.
 */
export async function joinTicket(viewer: Viewer, input: { number: number; other: string }): Promise<Result<{ into: number }>> {
  const other = ticketIn(input.other);
  if (!other.ok) return other;
  if (other.number === input.number) return at('other', 'A ticket cannot go into itself. Give the number of the other one.');
  for (let tries = 0; tries < 5; tries++) {
    const joined = await joinInto(viewer, input.number, other.number);
    if (joined !== 'again') return joined;
  }
  return refuse('changed-meanwhile', 'Others are being joined into this one at the moment. Try again.');
}

/** `again`: others went into it meanwhile, and go along where it is tried again. */
const joinInto = (viewer: Viewer, number: number, other: number): Promise<Result<{ into: number }> | 'again'> =>
  db().transaction(async (tx): Promise<Result<{ into: number }> | 'again'> => {
    const open = await both(tx, viewer, number, other);
    if (!open.ok) return open;
    if (await wentInMeanwhile(tx, open)) return 'again';
    const { t, into, its } = open;
    if (t.state.joined !== undefined)
      return t.state.joined === into.caseId
        ? { ok: true, into: into.number }
        : refuse('ended', `It went into T-${await numberOf(tx, t.state.joined)} already.`);
    if (into.state.joined !== undefined)
      return at('other', `T-${into.number} itself went into T-${await numberOf(tx, into.state.joined)}. Join it with that one.`);
    if (into.state.endedAt !== undefined) return at('other', `T-${into.number} is done. Take that one up again first, or join it into this one.`);
    if (t.state.endedAt !== undefined) return refuse('ended', 'This ticket is done: there is nothing to be dealt with together.');
    const moment = now();
    for (const one of [t, ...its]) await happen(tx, one, [{ type: 'joined', into: into.caseId, number: into.number }], viewer.id, moment);
    const [asked] = await tx.select({ name: person.name }).from(person).where(eq(person.id, t.requesterId));
    const [first] = await tx
      .select({ text: caseWord.text })
      .from(caseWord)
      .where(and(eq(caseWord.caseId, t.caseId), eq(caseWord.inside, false)))
      .orderBy(caseWord.at)
      .limit(1);
    await note(tx, viewer, into, `${ticketNumber(t.number)} of ${asked?.name ?? 'somebody'} went into this one: ${t.subject}\n${first?.text ?? ''}`);
    await tellRequester(
      tx,
      t,
      {
        key: `joined:${t.seq + 1}`,
        words: sentence('It is dealt with together with another report of the same. What is said there reaches you here, as before.'),
      },
      moment,
    );
    await record(tx, { actor: viewer.id, action: 'join', object: 'ticket', objectId: t.caseId, detail: { number: t.number, into: into.number } });
    return { ok: true, into: into.number };
  });

/** Takes a ticket out of the one it went into: it goes on as if it had never been there. */
export async function partTicket(viewer: Viewer, input: { number: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const asked = await readTicket(tx, input.number);
    if (!asked?.state.joined) return asked && readsTickets(viewer) ? refuse('invalid', 'It is in no other ticket.') : notFound('This ticket');
    const found = await lockTickets(tx, sql`${ticket.caseId} in (${asked.caseId}, ${asked.state.joined})`);
    const [t, into] = [found.find((x) => x.caseId === asked.caseId), found.find((x) => x.caseId === asked.state.joined)];
    if (!t || !into) return notFound('This ticket');
    if (t.state.joined === undefined) return { ok: true };
    const acts = await Promise.all([actingOn(tx, viewer, t), actingOn(tx, viewer, into)]);
    if (!acts.some((as) => as.team || as.holder)) return notAllowed('act on this ticket: it is with another team');
    await happen(tx, t, [{ type: 'parted' }], viewer.id, now());
    await note(tx, viewer, into, `${ticketNumber(t.number)} was taken out of this one again.`);
    await record(tx, { actor: viewer.id, action: 'part', object: 'ticket', objectId: t.caseId, detail: { number: t.number, from: into.number } });
    return { ok: true };
  });
}

/** Splits off what is another matter, as a ticket of its own of the same requester: a word of the conversation, or words of the desk. */
export async function splitTicket(
  viewer: Viewer,
  input: { number: number; subject: string; words: string; wordId?: string | undefined; once: string },
): Promise<Result<{ number: number }>> {
  const held = holdTo(CaseWords, { words: input.words });
  if (!held.ok) return held;
  const subject = input.subject.trim().replace(/\s+/g, ' ');
  if (subject === '' || subject.length > 120) return at('subject', 'Say in a line what the other matter is.');
  return db().transaction(async (tx): Promise<Result<{ number: number }>> => {
    const [t] = await lockTickets(tx, sql`${serviceCase.number} = ${input.number}`);
    if (!t) return notFound('This ticket');
    const as = await actingOn(tx, viewer, t);
    if (!as.team && !as.holder) return readsTickets(viewer) ? notAllowed('act on this ticket: it is with another team') : notFound('This ticket');
    const kind = await kindOf(tx, t.kindId);
    const [word] =
      input.wordId !== undefined && isId(input.wordId)
        ? await tx
            .select({ id: caseWord.id, text: caseWord.text, content: caseWord.content })
            .from(caseWord)
            .where(and(eq(caseWord.id, input.wordId), eq(caseWord.caseId, t.caseId), eq(caseWord.inside, false)))
        : [];
    const words = held.value.words !== '' ? sentence(held.value.words) : (word?.content ?? (word ? sentence(word.text) : undefined));
    if (!kind || words === undefined) return at('words', 'Say what the other matter is, or choose what was said of it.');
    const moment = now();
    const made = await openTicket(
      tx,
      kind,
      {
        requesterId: t.requesterId,
        by: viewer.id,
        via: 'screen',
        subject,
        words,
        category: t.category !== null && kind.definition.categories.includes(t.category) ? t.category : undefined,
        placeId: t.placeId ?? undefined,
        impact: t.state.impact,
        urgency: t.state.urgency,
        answers: {},
        once: `split ${t.caseId} ${input.once}`.slice(0, 200),
      },
      moment,
    );
    if (!made.ok) return made;
    const [its] = await tx.select({ id: serviceCase.id }).from(serviceCase).where(eq(serviceCase.number, made.number));
    await tx.insert(caseLink).values({ fromId: its!.id, toId: t.caseId, how: 'split', by: viewer.id, at: moment }).onConflictDoNothing();
    return { ok: true, number: made.number };
  });
}

/** Says that a ticket is like another, or has to do with a request; or that it is not. */
export async function linkTicket(viewer: Viewer, input: { number: number; other: string; not?: boolean }): Promise<Result> {
  const other = caseIn(input.other);
  if (!other.ok) return other;
  return db().transaction(async (tx): Promise<Result> => {
    const t = await readTicket(tx, input.number);
    if (!t) return notFound('This ticket');
    const as = await actingOn(tx, viewer, t);
    if (!as.team && !as.holder) return readsTickets(viewer) ? notAllowed('act on this ticket: it is with another team') : notFound('This ticket');
    const [its] = await tx.select({ id: serviceCase.id }).from(serviceCase).where(eq(serviceCase.number, other.number));
    if (!its) return at('other', `There is nothing with the number ${other.number}.`);
    if (its.id === t.caseId) return at('other', 'A ticket has to do with itself. Give the number of another.');
    if (input.not)
      await tx
        .delete(caseLink)
        .where(
          and(
            eq(caseLink.how, 'like'),
            or(and(eq(caseLink.fromId, t.caseId), eq(caseLink.toId, its.id)), and(eq(caseLink.fromId, its.id), eq(caseLink.toId, t.caseId))),
          ),
        );
    else await tx.insert(caseLink).values({ fromId: t.caseId, toId: its.id, how: 'like', by: viewer.id, at: now() }).onConflictDoNothing();
    await record(tx, {
      actor: viewer.id,
      action: input.not ? 'unlink' : 'link',
      object: 'ticket',
      objectId: t.caseId,
      detail: { number: t.number, other: other.number },
    });
    return { ok: true };
  });
}

/** Says that a request was begun from a ticket, by whoever asked for the one and acts on the other. */
export async function linkBegun(viewer: Viewer, input: { ticket: number; request: number }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const t = await readTicket(tx, input.ticket);
    const as = t && (await actingOn(tx, viewer, t));
    if (!t || !as || (!as.team && !as.holder)) return notFound('This ticket');
    const [its] = await tx
      .select({ id: serviceCase.id })
      .from(serviceCase)
      .where(and(eq(serviceCase.number, input.request), eq(serviceCase.kind, 'request'), eq(serviceCase.requesterId, viewer.id)));
    if (!its) return notFound('This request');
    await tx.insert(caseLink).values({ fromId: its.id, toId: t.caseId, how: 'begun', by: viewer.id, at: now() }).onConflictDoNothing();
    await record(tx, {
      actor: viewer.id,
      action: 'begin',
      object: 'ticket',
      objectId: t.caseId,
      detail: { number: t.number, request: input.request },
    });
    return { ok: true };
  });
}

const note = (tx: Tx, viewer: Viewer, t: Ticket, words: string) =>
  keepWord(tx, viewer, t, { content: sentence(words.trim()), inside: true, fromDesk: true, once: '', via: 'screen' }, now());

const numberRead = (typed: string, what: RegExp, sentenceOf: string): { ok: true; number: number } | Refusal => {
  const held = holdTo(RelatedNumber, { other: typed });
  const number = held.ok ? what.exec(held.value.other)?.[1] : undefined;
  return number === undefined ? at('other', sentenceOf) : { ok: true, number: Number(number) };
};
const ticketIn = (typed: string) => numberRead(typed, /^t?-?(\d{1,12})$/i, 'Give the number of the other ticket, as T-1042.');
const caseIn = (typed: string) => numberRead(typed, /^[tr]?-?(\d{1,12})$/i, 'Give the number of the ticket or request, as T-1042 or R-1007.');

/** What a ticket has to do with others, as its page says it. */
export interface Related {
  /** T-1042 or R-1007. */
  number: string;
  to: string;
  name: string;
  /** How, seen from the ticket: “like”, “split off”. */
  how: string;
  state: string;
  like: boolean;
}

/** The cases that a ticket is linked with. */
export async function relatedOf(caseId: string): Promise<Related[]> {
  const links = await db()
    .select({ fromId: caseLink.fromId, toId: caseLink.toId, how: caseLink.how })
    .from(caseLink)
    .where(or(eq(caseLink.fromId, caseId), eq(caseLink.toId, caseId)))
    .limit(200);
  // Most have none.
  if (links.length === 0) return [];
  const cases = await db()
    .select({
      id: serviceCase.id,
      number: serviceCase.number,
      subject: ticket.subject,
      state: ticket.state,
      kindId: ticket.kindId,
      outcome: serviceCase.outcome,
      item: sql<string | null>`(select r.name from revision r where r.id = ${serviceCase.revisionId})`,
    })
    .from(serviceCase)
    .leftJoin(ticket, eq(ticket.caseId, serviceCase.id))
    .where(
      inArray(
        serviceCase.id,
        links.map((l) => (l.fromId === caseId ? l.toId : l.fromId)),
      ),
    );
  const kinds = await kindsOf(
    db(),
    cases.flatMap((c) => c.kindId ?? []),
  );
  return links
    .flatMap((l): (Related & { n: number })[] => {
      const isFrom = l.fromId === caseId;
      const c = cases.find(({ id }) => id === (isFrom ? l.toId : l.fromId));
      if (!c) return [];
      const kind = kinds.get(c.kindId ?? '')?.definition;
      const common = { n: c.number, how: linkWords[l.how][isFrom ? 'from' : 'to'], like: l.how === 'like' };
      return [
        kind && c.state
          ? {
              ...common,
              number: ticketNumber(c.number),
              to: `/desk/queue/tickets/${c.number}`,
              name: c.subject ?? '',
              state: everStatus(kind.map, c.state.status)?.name ?? '',
            }
          : { ...common, number: requestNumber(c.number), to: `/ledger/${c.number}`, name: c.item ?? '', state: c.outcome ?? 'under way' },
      ];
    })
    .toSorted((a, b) => a.n - b.n)
    .map(({ n: _, ...r }) => r);
}

/** The tickets that went into one, and the one it went into. */
export async function joinedOf(t: Pick<Ticket, 'caseId' | 'state'>) {
  const rows = await db()
    .select({ caseId: ticket.caseId, number: serviceCase.number, subject: ticket.subject, requester: person.name })
    .from(ticket)
    .innerJoin(serviceCase, eq(serviceCase.id, ticket.caseId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(eq(ticket.joinedId, t.caseId))
    .orderBy(serviceCase.number);
  return { here: rows, into: t.state.joined === undefined ? undefined : await numberOf(db(), t.state.joined) };
}

const few = 3;

/** So many of the open tickets around one are looked at, by when they fall due: an answer must not wait for the words of a whole house. */
const lookedAt = 100;

/** Open tickets around a ticket, of its team, else of those of no team, whose subjects are like its own: the likest first, for joining or linking. */
export async function likeTickets(t: Pick<Ticket, 'caseId' | 'subject' | 'state'>): Promise<{ number: number; subject: string }[]> {
  const sought = tellingWords(t.subject);
  if (sought.length === 0) return [];
  const any = sql`(${sql.join(
    sought.map((w) => soughtWords(w)),
    sql` || `,
  )})`;
  const { team } = t.state;
  const { rows } = await db().execute<{ number: string; subject: string }>(sql`
    select c.number, k.subject from (
      select case_id, subject, to_tsvector('simple', subject) as words from ticket
      where ended_at is null and case_id <> ${t.caseId} and ${team === undefined ? sql`team_id is null` : sql`team_id = ${team}`}
      order by due_order, case_id limit ${lookedAt}) k join service_case c on c.id = k.case_id
    where k.words @@ ${any} order by ts_rank(k.words, ${any}) desc, c.number desc limit ${few}`);
  return rows.map((r) => ({ number: Number(r.number), subject: r.subject }));
}
