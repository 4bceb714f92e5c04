import { moveOf, movers, reopens, statusOf, type Mover, type Status } from '../statuses/index.ts';
import type { TicketKind } from './kind.ts';

/** As what somebody may act on a ticket. */
export interface Acting {
  team: boolean;
  holder: boolean;
  requester: boolean;
}

/** Why somebody may not move a ticket so; undefined where they may. */
export function whyNotMove(kind: TicketKind, from: string, to: string, as: Acting): string | undefined {
  const [here, there, move] = [statusOf(kind.map, from), statusOf(kind.map, to), moveOf(kind.map, from, to)];
  if (!there) return 'This status is not there any more. Look at the ticket again.';
  if (!move) return `A ticket does not go from “${here?.name ?? from}” to “${there.name}”.`;
  if (move.who.some((w) => as[w])) return undefined;
  const who = move.who.map((w) => whoWords[w]);
  return `Only ${who.length === 0 ? 'nobody' : who.join(' or ')} may move it from “${here!.name}” to “${there.name}”.`;
}
/** Who may move a ticket, in words. */
export const whoWords: Record<Mover, string> = { team: 'the team it is with', holder: 'whoever has it', requester: 'the requester' };

/** Where somebody may move a ticket, in the order of its map. */
export const movesFor = (
  kind: TicketKind,
  from: string,
  as: Acting,
): { to: Status; needs: string[]; reopens: boolean; /** Whether somebody has to agree first. */ gated: boolean }[] =>
  kind.map.statuses.flatMap((to) => {
    const move = moveOf(kind.map, from, to.id);
    return move && movers.some((w) => as[w] && move.who.includes(w))
      ? [{ to, needs: move.needs, reopens: reopens(kind.map, from, to.id), gated: move.gate !== undefined }]
      : [];
  });
