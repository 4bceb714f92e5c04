import { eq } from 'drizzle-orm';
import { validateAnswers, type Answers } from '../../core/forms/index.ts';
import { Because, TicketWords } from '../../core/posts/index.ts';
import { isFinal, moveOf, reopens, statusOf, wordNeeded } from '../../core/statuses/index.ts';
import { priorityFor } from '../../core/targets/index.ts';
import { whyNotMove, type TicketEvent } from '../../core/tickets/index.ts';
import { isFormatted, plainText, type RichText } from '../../core/values/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { person, ticket, ticketEvent, ticketWord } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { cannotDo, existing } from '../people/existing.ts';
import { answersRefused, holdTo, notAllowed, notFound, refuse, type Refusal, type Result } from '../refusal.ts';
import { happen, lockTicket, type Ticket } from './happen.ts';
import { formattedWords } from './report.ts';
import { tellDesk, tellRequester } from './tell.ts';
import { actingOn } from './whose.ts';

type Acts = Awaited<ReturnType<typeof actingOn>>;

/** The ticket, locked, if the viewer is one of those who act on it. */
async function actedOn(tx: Tx, viewer: Viewer, number: number): Promise<{ ok: true; t: Ticket; as: Acts } | Refusal> {
  const t = await lockTicket(tx, number);
  if (!t) return notFound('This ticket');
  const as = await actingOn(tx, viewer, t);
  if (as.team || as.holder || as.requester) return { ok: true, t, as };
  return has(viewer, 'teamMember', 'auditor', 'designer') ? notAllowed('act on this ticket: it is with another team') : notFound('This ticket');
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
  /** Made by the screen that sends it: sent twice it is one. */
  once: string;
  /** From the page of whoever asked: who is also of the desk writes there as who asked. */
  asRequester?: boolean;
}

/**
 * Writes about a ticket, moves it, or both at once: all of it or nothing. Of the requester a word may move it by itself. Where somebody else
 * has moved it meanwhile nothing is done, and what was written is still there to be sent.
 */
export async function writeOnTicket(viewer: Viewer, input: Written): Promise<Result<{ moved: boolean }>> {
  const held = holdTo(TicketWords, { words: input.words });
  if (!held.ok) return held;
  const words = held.value.words;
  return db().transaction(async (tx): Promise<Result<{ moved: boolean }>> => {
    const open = await actedOn(tx, viewer, input.number);
    if (!open.ok) return open;
    const { t } = open;
    if (input.asRequester && !open.as.requester) return notFound('This ticket');
    const as = input.asRequester ? { team: false, holder: false, requester: true } : { ...open.as, requester: false };
    const fromDesk = !input.asRequester;
    if (fromDesk && !as.team && !as.holder) return notAllowed('write on this ticket: it is with another team');
    if (input.inside && !fromDesk) return notAllowed('write within the desk');
    if (words === '' && !input.move)
      return refuse('invalid', 'Write something, or say where it goes.', [{ field: 'words', sentence: 'Write something.' }]);
    if (!fromDesk && !input.move && isFinal(t.kind.map, t.state.status))
      return refuse('ended', 'This is closed for good. What you wrote is still here; report it anew if it comes again.');
    const [sent] =
      input.once === ''
        ? []
        : await tx
            .select({ text: ticketWord.text })
            .from(ticketWord)
            .where(eq(ticketWord.once, onceFor(t, input.once)));
    if (sent?.text === plainText(formattedWords(words))) return { ok: true, moved: input.move !== undefined };
    // Other words under the same key are no repetition: they are kept.
    const once = sent ? '' : input.once;
    const moving = input.move ? await moveHeld(tx, viewer, t, as, { ...input, words, move: input.move }) : undefined;
    if (moving && !moving.ok) return moving;
    return written(tx, viewer, t, { words, inside: input.inside, fromDesk, moving, once, via: 'screen' }, now());
  });
}

const onceFor = (t: Ticket, once: string): string => `${t.caseId} ${once.slice(0, 100)}`;

interface Moving {
  ok: true;
  to: string;
  filled: Answers;
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
  const { needs } = moveOf(t.kind.map, from, to)!;
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
  return held.ok ? { ok: true, to, filled: held.answers } : answersRefused(held.problems);
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

interface ToWrite {
  words: string;
  inside: boolean;
  fromDesk: boolean;
  moving?: Moving | undefined;
  once: string;
  via: 'screen' | 'mail' | 'chat';
  cameAs?: string;
}

/** Keeps a word with what it brings about: the first answers, a requester's may move the ticket, and who is concerned is told. */
export async function written(tx: Tx, viewer: Pick<Viewer, 'id' | 'name'>, t: Ticket, w: ToWrite, at: Date): Promise<Result<{ moved: boolean }>> {
  const content = formattedWords(w.words);
  const [word] =
    w.words === ''
      ? []
      : await tx
          .insert(ticketWord)
          .values({
            caseId: t.caseId,
            at,
            by: viewer.id,
            from: w.fromDesk ? 'desk' : 'requester',
            inside: w.inside,
            via: w.via,
            text: plainText(content),
            content: isFormatted(content) ? content : null,
            once: w.once === '' ? null : onceFor(t, w.once),
            cameAs: w.cameAs ?? null,
          })
          .onConflictDoNothing()
          .returning({ id: ticketWord.id });
  // The same by two ways is one word.
  if (w.words !== '' && !word) return { ok: true, moved: false };
  const events: TicketEvent[] = [];
  if (w.fromDesk && !w.inside && word && t.state.answeredAt === undefined) events.push({ type: 'answered' });
  if (w.moving) events.push({ type: 'moved', to: w.moving.to, cause: 'person' });
  const answered = w.fromDesk || w.moving ? undefined : statusOf(t.kind.map, t.state.status)?.answered;
  if (answered !== undefined) events.push({ type: 'moved', to: answered, cause: 'answer' });
  const after = await happen(tx, t, events, viewer.id, at);
  if (w.moving && Object.keys(w.moving.filled).length > 0)
    await tx
      .update(ticket)
      .set({ filled: { ...t.filled, ...w.moving.filled } as Answers })
      .where(eq(ticket.caseId, t.caseId));
  const said = after.entered.flatMap((id) => statusOf(t.kind.map, id)?.tells || []);
  const public_: RichText = [...(w.fromDesk && !w.inside && word ? content : []), ...said.map((line) => [{ text: line }])];
  // What the requester did themselves they need not be told; what comes of it they do.
  if (public_.length > 0 && (w.fromDesk || said.length > 0))
    await tellRequester(
      tx,
      after.ticket,
      { key: word ? `word:${word.id}` : `moved:${after.ticket.seq}`, words: w.fromDesk ? [...public_, [{ text: viewer.name }]] : public_ },
      at,
    );
  if (!w.fromDesk && word) {
    const back = answered !== undefined && reopens(t.kind.map, t.state.status, answered);
    await tellDesk(
      tx,
      after.ticket,
      { key: `word:${word.id}`, why: back ? 'Not done after all' : 'Answered', words: plainText(content), but: viewer.id },
      at,
    );
  }
  const moved = events.some((e) => e.type === 'moved');
  await record(tx, {
    actor: viewer.id,
    action: moved ? (word ? 'write-and-move' : 'move') : w.inside ? 'note' : 'write',
    object: 'ticket',
    objectId: t.caseId,
    detail: { number: t.number, ...(moved && { to: after.ticket.state.status }), ...(w.via !== 'screen' && { via: w.via }) },
  });
  return { ok: true, moved };
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
