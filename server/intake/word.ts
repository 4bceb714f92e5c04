import { sql } from 'drizzle-orm';
import { isFinal } from '../../core/statuses/index.ts';
import type { RichText } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import type { Tx } from '../db/database.ts';
import { ticket } from '../db/schema/index.ts';
import { lockTickets, type Ticket } from '../tickets/happen.ts';
import { actingOn } from '../tickets/whose.ts';
import { keepWord } from '../tickets/write.ts';

/** A word about a ticket that came in by mail or chat. */
export interface WordIn {
  content: RichText;
  via: 'mail' | 'chat';
  /** The message it came in as. */
  cameAs: string | undefined;
  files?: string[];
  /** Nobody wrote it by hand: it is kept within the desk and moves nothing. */
  automatic?: boolean;
}

export type WordTaken =
  /** Kept: as the requester's, as the desk's to them, or as a note within the desk. */
  | { is: 'requester' | 'desk' | 'note'; ticket: Ticket }
  /** Its requester wrote, and it is closed for good. */
  | { is: 'over'; ticket: Ticket };

/**
 * Keeps a word of somebody about a ticket as what they are to it: who asked is heard, and it may move; whoever acts on it answers them; of
 * anybody else it is a note for the desk, which loses nothing and shows them nothing.
 */
export async function takeWord(tx: Tx, viewer: Viewer, caseId: string, w: WordIn): Promise<WordTaken | undefined> {
  // Both at once, in the order in which whoever joins and parts them locks them.
  const locked = await lockTickets(
    tx,
    sql`${ticket.caseId} = any(array(select ${caseId}::uuid union all select j.joined_id from ticket j where j.case_id = ${caseId}))`,
  );
  const asked = locked.find((l) => l.caseId === caseId);
  if (!asked) return undefined;
  const isRequester = asked.requesterId === viewer.id;
  // Where it went into another, it is dealt with there.
  const t = locked.find((l) => l.caseId === asked.state.joined) ?? asked;
  const keep = async (as: { fromDesk: boolean; inside: boolean }) => {
    await keepWord(tx, viewer, t, { content: w.content, ...as, once: '', via: w.via, cameAs: w.cameAs, files: w.files }, now());
    return t;
  };
  if (w.automatic) return { is: 'note', ticket: await keep({ fromDesk: !isRequester, inside: true }) };
  if (isRequester)
    return isFinal(t.kind.map, t.state.status)
      ? { is: 'over', ticket: t }
      : { is: 'requester', ticket: await keep({ fromDesk: false, inside: false }) };
  const as = await actingOn(tx, viewer, t);
  if (as.team || as.holder) return { is: 'desk', ticket: await keep({ fromDesk: true, inside: false }) };
  return { is: 'note', ticket: await keep({ fromDesk: true, inside: true }) };
}
