import { eq } from 'drizzle-orm';
import type { Answers } from '../../core/forms/index.ts';
import { reopens, statusOf } from '../../core/statuses/index.ts';
import type { GatedMove, TicketEvent } from '../../core/tickets/index.ts';
import { plainText, type RichText } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { attachedWords, insertWord } from '../conversation/keep.ts';
import type { Tx } from '../db/database.ts';
import { ticket } from '../db/schema/index.ts';
import type { Result } from '../refusal.ts';
import { askToMove } from './asking.ts';
import { happen, type Ticket } from './happen.ts';
import { toldOnEntering } from './known.ts';
import { tellDesk, tellRequester } from './tell.ts';

/** A word as it is to be kept, and the move it goes with. */
export interface ToWrite {
  /** May be nothing where it only moves. */
  content: RichText;
  inside: boolean;
  fromDesk: boolean;
  /** `gate`: somebody has to agree first. */
  moving?: { to: string; filled: Answers; gate?: GatedMove } | undefined;
  once: string;
  via: 'screen' | 'mail' | 'chat';
  cameAs?: string | undefined;
  /** Files of who writes, which go with it. */
  files?: string[] | undefined;
}

/** Keeps a word with what it brings about: the first answers, a requester's may move the ticket, and who is concerned is told. */
export async function keepWord(
  tx: Tx,
  viewer: Pick<Viewer, 'id' | 'name'>,
  t: Ticket,
  w: ToWrite,
  at: Date,
): Promise<Result<{ moved: boolean; asked?: boolean }>> {
  const { content, files = [] } = w;
  const text = plainText(content);
  const says = text !== '' || files.length > 0;
  const word = says
    ? await insertWord(tx, {
        caseId: t.caseId,
        at,
        by: viewer.id,
        from: w.fromDesk ? 'desk' : 'requester',
        inside: w.inside,
        via: w.via,
        content,
        once: w.once,
        cameAs: w.cameAs,
        files,
      })
    : undefined;
  // The same by two ways is one word.
  if (says && !word) return { ok: true, moved: false };
  const events: TicketEvent[] = [];
  if (w.fromDesk && !w.inside && word && t.state.answeredAt === undefined) events.push({ type: 'answered' });
  if (w.moving && !w.moving.gate) events.push({ type: 'moved', to: w.moving.to, cause: 'person' });
  const answered = w.fromDesk || w.inside || w.moving ? undefined : statusOf(t.kind.map, t.state.status)?.answered;
  if (answered !== undefined) events.push({ type: 'moved', to: answered, cause: 'answer' });
  const happened = await happen(tx, t, events, viewer.id, at);
  const filled = w.moving ? { ...t.filled, ...w.moving.filled } : t.filled;
  if (w.moving && Object.keys(w.moving.filled).length > 0)
    await tx
      .update(ticket)
      .set({ filled: filled as Answers })
      .where(eq(ticket.caseId, t.caseId));
  const asking = w.moving?.gate;
  const after = asking
    ? { ...happened, ticket: await askToMove(tx, viewer, { ...happened.ticket, filled }, { move: asking, said: text }, at) }
    : happened;
  const said: RichText = [];
  for (const id of after.entered) said.push(...(await toldOnEntering(tx, { ...after.ticket, filled }, id, at)));
  const reads = w.fromDesk && !w.inside && word ? [...content, ...(files.length > 0 ? [[{ text: attachedWords(files.length) }]] : [])] : [];
  const public_: RichText = [...reads, ...said];
  // What the requester did themselves they need not be told; what comes of it they do.
  if (public_.length > 0 && (w.fromDesk || said.length > 0))
    await tellRequester(
      tx,
      after.ticket,
      { key: word ? `word:${word.id}` : `moved:${after.ticket.seq}`, words: w.fromDesk ? [...public_, [{ text: viewer.name }]] : public_ },
      at,
    );
  if (!w.fromDesk && !w.inside && word) {
    const back = answered !== undefined && reopens(t.kind.map, t.state.status, answered);
    await tellDesk(
      tx,
      after.ticket,
      { key: `word:${word.id}`, why: back ? 'Not done after all' : 'Answered', words: text || attachedWords(files.length), but: viewer.id },
      at,
    );
  }
  const moved = events.some((e) => e.type === 'moved');
  await record(tx, {
    actor: viewer.id,
    action: asking ? 'ask-to-move' : moved ? (word ? 'write-and-move' : 'move') : w.inside ? 'note' : 'write',
    object: 'ticket',
    objectId: t.caseId,
    detail: {
      number: t.number,
      ...(moved && { to: after.ticket.state.status }),
      ...(asking && { to: asking.to }),
      ...(w.via !== 'screen' && { via: w.via }),
    },
  });
  return { ok: true, moved: moved || after.ticket.state.status !== t.state.status, ...(after.ticket.state.asking && { asked: true }) };
}
