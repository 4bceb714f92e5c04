import { and, eq, sql } from 'drizzle-orm';
import { Report } from '../../core/posts/index.ts';
import { validateAnswers, type Answers } from '../../core/forms/index.ts';
import { priorityFor } from '../../core/targets/index.ts';
import { opened, type TicketEvent } from '../../core/tickets/index.ts';
import { plainText, sentence, type RichText } from '../../core/values/index.ts';
import { limits, waitWords } from '../auth/limits.ts';
import { has, zoneOf, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { formattedWords, insertWord } from '../conversation/keep.ts';
import { db, type Tx } from '../db/database.ts';
import { caseLink, person, serviceCase, ticket, ticketEvent } from '../db/schema/index.ts';
import { bindFiles, filesIn } from '../files/whose.ts';
import { isId } from '../ids.ts';
import { kindOf, type Kind } from '../kinds/queries.ts';
import { existing } from '../people/existing.ts';
import { answersRefused, holdTo, notAllowed, notFound, refuse, tooMuch, type Result } from '../refusal.ts';
import { routeTicket } from '../routing/route.ts';
import { ticketNumber } from '../words.ts';
import { columnsOf, datesFor, setTime, type Ticket } from './happen.ts';
import { tellDesk, tellRequester } from './tell.ts';

/** What is reported. Whoever reports for somebody on the telephone says for whom (`forWhom`). */
export interface Reported {
  kindId: string;
  subject: string;
  /** In CommonMark. */
  words: string;
  category?: string | undefined;
  placeId?: string | undefined;
  impact?: string | undefined;
  urgency?: string | undefined;
  answers: Record<string, unknown>;
  idempotencyKey: string;
  forWhom?: string | undefined;
  /** The number of a case of theirs that it follows. */
  follows?: number | undefined;
}

/** Reports something: a ticket is opened, and the one it is routed to is told. The same report sent twice is one ticket. */
export async function reportTicket(viewer: Viewer, input: Reported): Promise<Result<{ number: number }>> {
  const held = holdTo(Report, input);
  if (!held.ok) return held;
  const forWhom = input.forWhom === viewer.id ? undefined : input.forWhom;
  if (forWhom !== undefined && !has(viewer, 'teamMember', 'administrator')) return notAllowed('report something for somebody else');
  if (!isId(input.kindId) || (forWhom !== undefined && !isId(forWhom)) || (input.placeId !== undefined && !isId(input.placeId)))
    return refuse('invalid', 'Choose from what is offered.');
  const earlier = await reportedBefore(forWhom ?? viewer.id, input.idempotencyKey);
  if (earlier !== undefined) return { ok: true, number: earlier };
  const wait = await limits.report(viewer.id);
  if (wait > 0) return tooMuch(waitWords(wait));
  return db().transaction(async (tx): Promise<Result<{ number: number }>> => {
    const kind = await kindOf(tx, input.kindId);
    if (!kind || (!kind.definition.offered && !has(viewer, 'teamMember', 'administrator'))) return notFound('This kind of ticket');
    const exists = await existing(tx, [
      ...Object.values(input.answers),
      ...(forWhom ? [{ person: forWhom }] : []),
      ...(input.placeId ? [{ location: input.placeId }] : []),
    ]);
    if (forWhom !== undefined && !exists.has('person', forWhom))
      return refuse('invalid', 'Choose somebody who works here.', [{ field: 'for-whom', sentence: 'Choose somebody who works here.' }]);
    if (input.placeId !== undefined && !exists.has('location', input.placeId))
      return refuse('invalid', 'This place is not known any more.', [
        { field: 'place', sentence: 'This place is not known any more. Choose another.' },
      ]);
    const answered = validateAnswers(kind.definition.form, input.answers, exists.for(viewer.id));
    if (!answered.ok) return answersRefused(answered.problems);
    const follows = input.follows === undefined ? undefined : await caseOf(tx, forWhom ?? viewer.id, input.follows);
    return openTicket(
      tx,
      kind,
      {
        follows,
        requesterId: forWhom ?? viewer.id,
        by: viewer.id,
        via: forWhom === undefined ? 'screen' : 'phone',
        subject: held.value.subject.replace(/\s+/g, ' '),
        words: formattedWords(held.value.words),
        category: input.category,
        placeId: input.placeId,
        impact: input.impact,
        urgency: input.urgency,
        answers: answered.answers,
        once: input.idempotencyKey,
      },
      now(),
    );
  });
}

/** A case that somebody asked for, by its number. */
async function caseOf(tx: Tx, requesterId: string, number: number): Promise<string | undefined> {
  const [row] = await tx
    .select({ id: serviceCase.id })
    .from(serviceCase)
    .where(and(eq(serviceCase.number, number), eq(serviceCase.requesterId, requesterId)));
  return row?.id;
}

async function reportedBefore(requesterId: string, key: string): Promise<number | undefined> {
  const [row] = await db()
    .select({ number: serviceCase.number })
    .from(serviceCase)
    .where(sql`${serviceCase.requesterId} = ${requesterId} and ${serviceCase.idempotencyKey} = ${key}`);
  return row?.number;
}

const whatFollows = 'Whatever is written about it stands on its page, and comes to you by mail.';

interface Opening {
  requesterId: string;
  by: string;
  via: 'screen' | 'mail' | 'chat' | 'phone';
  subject: string;
  words: RichText;
  category?: string | undefined;
  placeId?: string | undefined;
  impact?: string | undefined;
  urgency?: string | undefined;
  answers: Answers;
  once: string;
  /** The message it came in as. */
  cameAs?: string | undefined;
  /** What came with it, brought by who opens it. */
  files?: string[];
  /** Where it came from in chat. */
  chat?: { room: string; root: string };
  /** The case that it follows. */
  follows?: string | undefined;
  /** Its requester is not told that it came in: nobody wrote it by hand, or they are told there. */
  silent?: boolean;
}

/** Opens a ticket of what was held: its case, its first word, whom it goes to, what is due, who is told. */
export async function openTicket(tx: Tx, kind: Kind, o: Opening, at: Date): Promise<Result<{ number: number }>> {
  const { definition } = kind;
  const grid = definition.priority;
  const [impact, urgency] = [o.impact ?? grid.usual.impact, o.urgency ?? grid.usual.urgency];
  const priority = priorityFor(grid, impact, urgency);
  if (priority === undefined) return refuse('invalid', 'Say how bad it is by what is offered.');
  const category = o.category === undefined || o.category === '' ? null : (definition.categories.find((c) => c === o.category) ?? undefined);
  if (category === undefined)
    return refuse('invalid', 'This category is not offered any more.', [
      { field: 'category', sentence: 'This category is not offered any more. Choose another.' },
    ]);
  const [asker] = await tx.select({ placeId: person.locationId, zone: zoneOf }).from(person).where(eq(person.id, o.requesterId));
  const placeId = o.placeId ?? asker?.placeId ?? null;
  const to = await routeTicket(tx, { kindId: kind.id, category, placeId, priority, requesterId: o.requesterId, answers: o.answers });
  const event: Extract<TicketEvent, { type: 'opened' }> = {
    type: 'opened',
    impact,
    urgency,
    priority,
    ...(to.team !== undefined && { team: to.team }),
    ...(to.holder !== undefined && { holder: to.holder }),
  };
  const state = opened(definition, event, at.toISOString());
  const text = plainText(o.words);
  const [made] = await tx
    .insert(serviceCase)
    .values({
      kind: 'ticket',
      requesterId: o.requesterId,
      answers: o.answers,
      openedAt: at,
      words: [o.subject, category, text].filter(Boolean).join('\n'),
      idempotencyKey: o.once,
    })
    .onConflictDoNothing()
    .returning({ id: serviceCase.id, number: serviceCase.number });
  if (!made) {
    const earlier = await reportedBefore(o.requesterId, o.once);
    return earlier === undefined ? refuse('invalid', 'The ticket could not be opened. Send it again.') : { ok: true, number: earlier };
  }
  const t: Ticket = {
    caseId: made.id,
    number: made.number,
    kindId: kind.id,
    kind: definition,
    requesterId: o.requesterId,
    zone: asker?.zone ?? 'UTC',
    subject: o.subject,
    category,
    placeId,
    filled: {},
    chatRoom: o.chat?.room ?? null,
    chatRoot: o.chat?.root ?? null,
    state,
    seq: 1,
  };
  const dates = await datesFor(tx, t);
  await tx.insert(ticket).values({
    caseId: t.caseId,
    kindId: kind.id,
    subject: o.subject,
    category,
    placeId,
    chatRoom: t.chatRoom,
    chatRoot: t.chatRoot,
    seq: 1,
    ...columnsOf(state, dates),
  });
  await tx.insert(ticketEvent).values({ caseId: t.caseId, seq: 1, at, by: o.by, event });
  await bindFiles(
    tx,
    filesIn(Object.values(o.answers)).map((id) => ({ id, caseId: t.caseId })),
    o.by,
  );
  const { via, cameAs, files } = o;
  const word = { caseId: t.caseId, at, by: o.requesterId, from: 'requester' as const, inside: false, via, content: o.words, cameAs, files };
  // Another's message that has the same id comes in at this moment: its server sends this one again.
  if (!(await insertWord(tx, { ...word, broughtBy: o.by }))) throw new Error('a message with this id is just being taken');
  await setTime(tx, t.caseId, dates);
  if (o.follows !== undefined) await tx.insert(caseLink).values({ fromId: t.caseId, toId: o.follows, how: 'follows', by: o.by, at });
  if (!o.silent) await tellRequester(tx, t, { key: 'opened', words: sentence(`It has come in as ${ticketNumber(t.number)}. ${whatFollows}`) }, at);
  await tellDesk(tx, t, { key: 'opened', why: `New ${definition.name.toLowerCase()}`, words: text, but: o.by }, at);
  await record(tx, {
    actor: o.by,
    action: 'open',
    object: 'ticket',
    objectId: t.caseId,
    detail: { number: t.number, via: o.via, ...(to.by && { by: { table: to.by.table, row: to.by.row === undefined ? 'fallback' : to.by.row + 1 } }) },
  });
  return { ok: true, number: t.number };
}
