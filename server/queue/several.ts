import { movesFor } from '../../core/tickets/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { notFound, refuse, type Result } from '../refusal.ts';
import { handOver, writeFromTask, takeTask } from '../tasks/commands.ts';
import { giveTicket, writeOnTicket } from '../tickets/commands.ts';
import { readTicket } from '../tickets/happen.ts';
import { actingOn } from '../tickets/whose.ts';
import { ticketNumber } from '../words.ts';

/** What is done with several entries of the queue at once. */
export interface SeveralActs {
  /** Tickets as T-1042, tasks by their ids. */
  entries: string[];
  act: 'take' | 'give' | 'write' | 'note' | 'end';
  team?: string | undefined;
  holder?: string | undefined;
  why?: string;
  words?: string;
  /** Made by the page that sends it. */
  once: string;
}

const most = 100;

/** Acts on several entries, each for itself: what cannot be done with one is said, and the rest is done. */
export async function actOnSeveral(viewer: Viewer, input: SeveralActs): Promise<{ done: number; refused: string[] }> {
  const refused: string[] = [];
  let done = 0;
  for (const entry of input.entries.slice(0, most)) {
    const number = Number(/^T-(\d{1,12})$/.exec(entry)?.[1] ?? 0);
    const result = number > 0 ? await onTicket(viewer, number, input) : await onTask(viewer, entry, input);
    if (result.ok) done++;
    else refused.push(number > 0 && input.act !== 'take' ? `${ticketNumber(number)}: ${result.sentence}` : result.sentence);
  }
  return { done, refused };
}

async function onTicket(viewer: Viewer, number: number, { act, team, holder, why, words = '', once }: SeveralActs): Promise<Result> {
  if (act === 'take') return giveTicket(viewer, { number, holder: viewer.id });
  if (act === 'give') return giveTicket(viewer, { number, team, holder, ...(why !== undefined && { why }) });
  const word = { number, words, inside: act === 'note', once };
  if (act !== 'end') return writeOnTicket(viewer, word);
  const t = await readTicket(db(), number);
  if (!t) return notFound('This ticket');
  if (t.state.endedAt !== undefined) return refuse('ended', 'It has ended already.');
  const moves = movesFor(t.kind, t.state.status, { ...(await actingOn(db(), viewer, t)), requester: false });
  const end = moves.find((m) => m.to.clock === 'ends');
  if (!end) return refuse('not-allowed', 'You cannot end it from where it is.');
  return writeOnTicket(viewer, { ...word, move: { from: t.state.status, to: end.to.id } });
}

async function onTask(viewer: Viewer, id: string, { act, team, holder, words = '', once }: SeveralActs): Promise<Result> {
  if (act === 'take') return takeTask(viewer, { id, give: false });
  if (act === 'give') return handOver(viewer, { id, team, person: holder });
  if (act === 'write' || act === 'note') return writeFromTask(viewer, { id, words, inside: act === 'note', once });
  return refuse('invalid', 'A task of a request is finished on its own page.');
}
