import { eq, sql } from 'drizzle-orm';
import { subjectOf } from '../../core/intake/index.ts';
import { sentence } from '../../core/values/index.ts';
import { limits, waitWords } from '../auth/limits.ts';
import { viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { config, ofSettings } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { person, ticket } from '../db/schema/index.ts';
import { kindOf } from '../kinds/queries.ts';
import { roomCalled, type ChatEvent } from '../systems/chat/client.ts';
import { openTicket } from '../tickets/report.ts';
import { ticketNumber } from '../words.ts';
import { waysBy, type Way } from './ways.ts';
import { takeWord } from './word.ts';

/** Which rooms are channels by which tickets come in; asked of chat once a minute. */
const asked = ofSettings(() => ({ at: 0, names: '', rooms: new Map<string, Way>() }));
const forSoLong = 60_000;

/** The channels by which tickets come in, by their rooms. */
export async function channels(): Promise<Map<string, Way>> {
  const ways = await waysBy(db(), 'chat');
  const names = JSON.stringify(ways);
  const before = asked();
  if (before.names === names && Date.now() - before.at < forSoLong) return before.rooms;
  const rooms = new Map<string, Way>();
  for (const way of ways) {
    const room = await roomCalled(way.definition.name);
    if (room !== undefined) rooms.set(room, way);
  }
  Object.assign(before, { at: Date.now(), names, rooms });
  return rooms;
}

/** Who says something in chat; undefined: nobody who works here. */
export const whoSays = async (tx: Tx, sender: string): Promise<Viewer | undefined> => {
  const [user, domain] = sender.replace(/^@/, '').split(':', 2);
  return domain === config().CHAT_DOMAIN ? viewerKnownBy(tx, sql`lower(${person.userName}) = ${user!.toLowerCase()}`) : undefined;
};

/** What is said in a channel: alone it opens a ticket; in the thread of one it is a word about it. Gives what is answered in the thread. */
export async function takeFromChannel(tx: Tx, way: Way, event: ChatEvent): Promise<string | undefined> {
  const thread = event.content['m.relates_to'];
  const inThread = thread?.rel_type === 'm.thread' ? thread.event_id : undefined;
  const body = (event.content.body ?? '').trim();
  if (body === '') return undefined;
  const viewer = await whoSays(tx, event.sender);
  const content = sentence(body);
  if (inThread !== undefined) {
    const [its] = await tx.select({ caseId: ticket.caseId }).from(ticket).where(eq(ticket.chatRoot, inThread));
    if (!its) return undefined;
    if (!viewer) return 'Nobody here is known by this name, so this was not passed on.';
    const much = await tooMuchSaid(viewer);
    if (much !== undefined) return much;
    const taken = await takeWord(tx, viewer, its.caseId, { content, via: 'chat', cameAs: event.event_id });
    // What the desk reads needs no answer here; it comes to it.
    return taken?.is === 'over'
      ? `${ticketNumber(taken.ticket.number)} is closed for good. Say it anew in the channel, and it is another ticket.`
      : undefined;
  }
  if (!viewer) return 'Nobody here is known by this name, so no ticket was opened.';
  const wait = await limits.report(viewer.id);
  if (wait > 0) return `That is a lot at once, so no ticket was opened. Say it again in ${waitWords(wait)}.`;
  const kind = await kindOf(tx, way.definition.kind);
  if (!kind) return undefined;
  const { category } = way.definition;
  const made = await openTicket(
    tx,
    kind,
    {
      requesterId: viewer.id,
      by: viewer.id,
      via: 'chat',
      subject: subjectOf('', body) || kind.definition.name,
      words: content,
      category: category !== null && kind.definition.categories.includes(category) ? category : undefined,
      answers: {},
      once: `chat ${event.event_id}`,
      cameAs: event.event_id,
      chat: { room: event.room ?? '', root: event.event_id },
      silent: true,
    },
    now(),
  );
  return made.ok
    ? `It has come in as ${ticketNumber(made.number)}. Write here what you want to add; what the desk writes comes to you alone.\n${config().PUBLIC_URL}/counter/tickets/${made.number}`
    : made.sentence;
}

/** What somebody is told who says too much at once; undefined: it is heard. */
async function tooMuchSaid({ id }: Viewer): Promise<string | undefined> {
  const wait = await limits.word(id);
  return wait > 0 ? `That is a lot at once, so this was not passed on. Say it again in ${waitWords(wait)}.` : undefined;
}

/** An answer of somebody to what was said to them alone about a ticket. Gives what is answered to them. */
export async function takeAnswer(tx: Tx, viewer: Viewer, caseId: string, event: ChatEvent): Promise<string | undefined> {
  const much = await tooMuchSaid(viewer);
  if (much !== undefined) return much;
  const taken = await takeWord(tx, viewer, caseId, { content: sentence((event.content.body ?? '').trim()), via: 'chat', cameAs: event.event_id });
  if (!taken) return undefined;
  const number = ticketNumber(taken.ticket.number);
  if (taken.is === 'over') return `${number} is closed for good, so this was not passed on. Report it anew if it comes again.`;
  if (taken.is === 'note') return `${number} is not with you any more. What you wrote stands there as a note for the desk.`;
  return taken.is === 'desk' ? `Sent to who asked, and stands with ${number}.` : `The desk reads it with ${number}.`;
}
