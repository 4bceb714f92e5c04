import { eq, sql } from 'drizzle-orm';
import { validateAnswers, type Answers } from '../../core/forms/index.ts';
import { Because, CaseWords } from '../../core/posts/index.ts';
import { isFinal, moveOf, statusOf, wordNeeded } from '../../core/statuses/index.ts';
import { priorityFor } from '../../core/targets/index.ts';
import { whyNotMove, type GatedMove, type TicketEvent } from '../../core/tickets/index.ts';
import { plainText } from '../../core/values/index.ts';
import { limits, waitWords } from '../auth/limits.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { looseFiles } from '../conversation/files.ts';
import { formattedWords, onceFor } from '../conversation/keep.ts';
import { db, type Tx } from '../db/database.ts';
import { person, ticket, ticketEvent, caseWord } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { cannotDo, existing } from '../people/existing.ts';
import { answersRefused, holdTo, notAllowed, notFound, refuse, tooMuch, type Refusal, type Result } from '../refusal.ts';
import { happen, lockTicket, lockTickets, numberOf, readTicket, type Ticket } from './happen.ts';
import { tellDesk } from './tell.ts';
import { actingOn } from './whose.ts';
import { keepWord } from './write.ts';

type Acts = Awaited<ReturnType<typeof actingOn>>;

/** The ticket, locked, if the viewer is one of those who act on it. */
async function actedOn(tx: Tx, viewer: Viewer, number: number): Promise<{ ok: true; t: Ticket; as: Acts } | Refusal> {
  const t = await lockTicket(tx, number);
  if (!t) return notFound('This ticket');
  const as = await actingOn(tx, viewer, t);
  if (t.state.joined !== undefined && (as.team || as.holder))
    return refuse('ended', `This went into T-${await numberOf(tx, t.state.joined)}. Act there, or take it out of there first.`);
  if (as.team || as.holder || as.requester) return { ok: true, t, as };
  return has(viewer, 'teamMember', 'auditor', 'designer') ? notAllowed('act on this ticket: it is with another team') : notFound('This ticket');
}

/** The ticket of who asks, or, where it went into another, that one; locked. */
async function askedBy(tx: Tx, viewer: Viewer, number: number): Promise<{ ok: true; t: Ticket; as: Acts } | Refusal> {
  const asked = await readTicket(tx, number);
  if (asked?.requesterId !== viewer.id) return notFound('This ticket');
  const [t] = await lockTickets(tx, sql`${ticket.caseId} = ${asked.state.joined ?? asked.caseId}`);
  return t ? { ok: true, t, as: { team: false, holder: false, requester: true } } : notFound('This ticket');
}

/** What somebody writes about a ticket, where it is to go with it, and what they fill in. */
export interface Written {
  number: number;
  /** In CommonMark; may be nothing where it only moves. */
  words: string;
  /** Within the desk: the requester does not read it. */
  inside: boolean;
  /** The status it goes to, and the one it was in when that was chosen. */
  move?: { to: string; from: string } | undefined;
  filled?: Record<string, unknown> | undefined;
  /** Files that were brought for it. */
  files?: string[] | undefined;
  /** Made by the screen that sends it: sent twice it is one. */
  once: string;
  /** From the page of whoever asked: who is also of the desk writes there as who asked. */
  asRequester?: boolean;
}

/**
 * Writes about a ticket, moves it, or both at once: all of it or nothing. Of the requester a word may move it by itself. Where somebody else
 * has moved it meanwhile nothing is done, and what was written is still there to be sent.
 */
export async function writeOnTicket(viewer: Viewer, input: Written): Promise<Result<{ moved: boolean; asked?: boolean }>> {
  const held = holdTo(CaseWords, { words: input.words });
  if (!held.ok) return held;
  const words = held.value.words;
  const wait = input.asRequester ? await limits.word(viewer.id) : 0;
  if (wait > 0) return tooMuch(waitWords(wait));
  return db().transaction(async (tx): Promise<Result<{ moved: boolean; asked?: boolean }>> => {
    const open = input.asRequester ? await askedBy(tx, viewer, input.number) : await actedOn(tx, viewer, input.number);
    if (!open.ok) return open;
    const { t } = open;
    const fromDesk = !input.asRequester;
    const as = { ...open.as, requester: !fromDesk, ...(!fromDesk && { team: false, holder: false }) };
    if (!fromDesk && input.move && t.number !== input.number) return notAllowed('move the ticket that yours went into');
    if (fromDesk && !as.team && !as.holder) return notAllowed('write on this ticket: it is with another team');
    if (input.inside && !fromDesk) return notAllowed('write within the desk');
    const content = words === '' ? [] : formattedWords(words);
    if (words === '' && !input.move && !input.files?.length)
      return refuse('invalid', 'Write something, or say where it goes.', [{ field: 'words', sentence: 'Write something.' }]);
    if (!fromDesk && !input.move && isFinal(t.kind.map, t.state.status))
      return refuse('ended', 'This is closed for good. What you wrote is still here; report it anew if it comes again.');
    const [sent] =
      input.once === ''
        ? []
        : await tx
            .select({ text: caseWord.text })
            .from(caseWord)
            .where(eq(caseWord.once, onceFor(t.caseId, input.once)));
    if (sent?.text === plainText(content)) return { ok: true, moved: input.move !== undefined };
    // Other words under the same key are no repetition: they are kept.
    const once = sent ? '' : input.once;
    const loose = await looseFiles(tx, viewer, input.files ?? []);
    if (!loose.ok) return loose;
    const { files } = loose;
    const moving = input.move ? await moveHeld(tx, viewer, t, as, { ...input, words, move: input.move }) : undefined;
    if (moving && !moving.ok) return moving;
    return keepWord(tx, viewer, t, { content, inside: input.inside, fromDesk, moving, once, via: 'screen', files }, now());
  });
}

interface Moving {
  ok: true;
  to: string;
  filled: Answers;
  gate?: GatedMove;
}

/** Whether a ticket may be moved so, with what is filled in for it. */
async function moveHeld(
  tx: Tx,
  viewer: Viewer,
  t: Ticket,
  as: Acts,
  input: Written & { move: { to: string; from: string } },
): Promise<Moving | Refusal> {
  const { to, from } = input.move;
  if (from !== t.state.status) {
    const here = statusOf(t.kind.map, t.state.status)?.name ?? t.state.status;
    return refuse(
      'changed-meanwhile',
      `It was moved to “${here}”${await byWhom(tx, t, viewer)} meanwhile. Nothing was sent; what you wrote is still here.`,
    );
  }
  const why = whyNotMove(t.kind, from, to, as);
  if (why !== undefined) return refuse('not-allowed', why);
  const move = moveOf(t.kind.map, from, to)!;
  const { needs, gate } = move;
  const { asking } = t.state;
  if (gate && asking)
    return refuse(
      'invalid',
      `It is asked already whether it may go to “${statusOf(t.kind.map, asking.to)?.name ?? asking.to}”. Wait for the answer, or take that back first.`,
    );
  if (needs.includes(wordNeeded) && (input.words === '' || input.inside)) {
    const there = statusOf(t.kind.map, to)!.name;
    return refuse('invalid', `Write to the requester what there is to say: “${there}” needs a word to them.`, [
      { field: 'words', sentence: `“${there}” needs a word to the requester.` },
    ]);
  }
  const fields = t.kind.desk.filter((f) => needs.includes(f.id)).map((f) => ({ ...f, required: true }));
  const given = { ...t.filled, ...input.filled };
  const exists = await existing(tx, Object.values(given));
  const held = validateAnswers({ fields }, given, exists.for(viewer.id, t.caseId));
  return held.ok ? { ok: true, to, filled: held.answers, ...(gate && { gate: { ...move, gate } }) } : answersRefused(held.problems);
}

/** Who moved it last, in words; nothing where it was whoever asks, or nobody. */
async function byWhom(tx: Tx, t: Ticket, viewer: Viewer): Promise<string> {
  const rows = await tx
    .select({ id: person.id, name: person.name, event: ticketEvent.event })
    .from(ticketEvent)
    .leftJoin(person, eq(person.id, ticketEvent.by))
    .where(eq(ticketEvent.caseId, t.caseId))
    .orderBy(ticketEvent.seq);
  const last = rows.findLast((r) => r.event.type === 'moved');
  return last?.name && last.id !== viewer.id ? ` by ${last.name}` : '';
}

/** Takes a ticket, or gives it to a person or a team, who are told; what falls due is reckoned by the hours of the team it is with then. */
export async function giveTicket(
  viewer: Viewer,
  input: { number: number; team?: string | undefined; holder?: string | undefined; why?: string },
): Promise<Result> {
  const held = holdTo(Because, { why: input.why });
  if (!held.ok) return held;
  const [team, holder] = [input.team || undefined, input.holder || undefined];
  if ((team !== undefined && !isId(team)) || (holder !== undefined && !isId(holder)))
    return refuse('invalid', 'Choose a team or a person from the list.');
  if (team === undefined && holder === undefined)
    return refuse('invalid', 'Choose a team or a person.', [{ field: 'to', sentence: 'Choose a team or a person.' }]);
  return db().transaction(async (tx): Promise<Result> => {
    const open = await actedOn(tx, viewer, input.number);
    if (!open.ok) return open;
    const { t, as } = open;
    if (!as.team && !as.holder) return notAllowed('give this ticket to somebody');
    const problem = await cannotDo(tx, holder, team);
    if (problem) return refuse('invalid', problem, [{ field: 'to', sentence: problem }]);
    // A person alone gets it within the team it is with.
    const next = { team: team ?? t.state.team, holder };
    if (next.team === t.state.team && next.holder === t.state.holder) return { ok: true };
    const { why } = held.value;
    const at = now();
    const event: TicketEvent = {
      type: 'given',
      ...(next.team !== undefined && { team: next.team }),
      ...(next.holder !== undefined && { holder: next.holder }),
      ...(why !== '' && { why }),
    };
    const after = await happen(tx, t, [event], viewer.id, at);
    await tellDesk(
      tx,
      after.ticket,
      { key: `given:${after.ticket.seq}`, why: holder ? 'Given to you' : 'Given to your team', words: why || `From ${viewer.name}.`, but: viewer.id },
      at,
    );
    await record(tx, {
      actor: viewer.id,
      action: holder === viewer.id ? 'take' : 'give',
      object: 'ticket',
      objectId: t.caseId,
      detail: { number: t.number, ...next },
    });
    return { ok: true };
  });
}

/** Judges anew how bad and how urgent it is; what falls due is what it would have been from the beginning. */
export async function judgeTicket(viewer: Viewer, input: { number: number; impact: string; urgency: string; why?: string }): Promise<Result> {
  const held = holdTo(Because, { why: input.why });
  if (!held.ok) return held;
  return db().transaction(async (tx): Promise<Result> => {
    const open = await actedOn(tx, viewer, input.number);
    if (!open.ok) return open;
    const { t, as } = open;
    if (!as.team && !as.holder) return notAllowed('judge how urgent this ticket is');
    const priority = priorityFor(t.kind.priority, input.impact, input.urgency);
    if (priority === undefined) return refuse('invalid', 'Choose an impact and an urgency from the list.');
    if (input.impact === t.state.impact && input.urgency === t.state.urgency) return { ok: true };
    const { why } = held.value;
    const event: TicketEvent = { type: 'judged', impact: input.impact, urgency: input.urgency, priority, ...(why !== '' && { why }) };
    await happen(tx, t, [event], viewer.id, now());
    await record(tx, { actor: viewer.id, action: 'judge', object: 'ticket', objectId: t.caseId, detail: { number: t.number, priority } });
    return { ok: true };
  });
}

/** Whoever asked says whether it helped. It stays where it is: a word of theirs reopens it, where its map says so. */
export async function sayWhetherHelped(viewer: Viewer, input: { number: number; helped: boolean }): Promise<Result> {
  return db().transaction(async (tx): Promise<Result> => {
    const t = await lockTicket(tx, input.number);
    if (t?.requesterId !== viewer.id) return notFound('This ticket');
    if (t.state.endedAt === undefined) return refuse('invalid', 'It is not done yet.');
    await tx.update(ticket).set({ helped: input.helped }).where(eq(ticket.caseId, t.caseId));
    await record(tx, {
      actor: viewer.id,
      action: input.helped ? 'helped' : 'not-helped',
      object: 'ticket',
      objectId: t.caseId,
      detail: { number: t.number },
    });
    return { ok: true };
  });
}
