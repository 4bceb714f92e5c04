import { eq } from 'drizzle-orm';
import { readReply } from '../../core/formats/index.ts';
import { decideInChat } from '../commands/approvals.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { chatCursor, chatReply, message, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { readSince, sendChat, type ChatEvent } from '../systems/chat/client.ts';
import { addJobs } from './jobs.ts';

/** How often chat is read, in milliseconds. */
const every = 2000;
const me = '@nessmoor:';

/** One job reads chat, however many workers there are: its key keeps it one. */
export async function keepReadingChat(runAt = new Date()): Promise<void> {
  if (config().CHAT_URL) await addJobs(db(), 'readChat', [{ payload: {}, key: 'read-chat', runAt }]);
}

/** Reads what was said since the last time; replies in the thread of an approval decide it. */
export async function readChat(): Promise<void> {
  try {
    const [cursor] = await db().select({ since: chatCursor.since }).from(chatCursor).where(eq(chatCursor.id, 1));
    const { next, events } = await readSince(cursor?.since);
    for (const event of events) await take(event);
    if (next !== cursor?.since)
      await db()
        .insert(chatCursor)
        .values({ id: 1, since: next })
        .onConflictDoUpdate({ target: chatCursor.id, set: { since: next } });
  } catch (error) {
    // Chat being away is no fault of this job; it is read again after the pause.
    log.warn({ error: error instanceof Error ? error.message : String(error) }, 'chat was not read');
  }
  await keepReadingChat(new Date(Date.now() + every));
}

/** Takes one event, once: it is remembered in the transaction of its effect. */
async function take(event: ChatEvent): Promise<void> {
  const thread = event.content['m.relates_to'];
  const { body } = event.content;
  if (event.type !== 'm.room.message' || event.sender.startsWith(me) || thread?.rel_type !== 'm.thread' || !thread.event_id || !body) return;
  const root = thread.event_id;
  const answer = await db().transaction(async (tx): Promise<{ user: string; words: string } | undefined> => {
    const [fresh] = await tx
      .insert(chatReply)
      .values({ event: event.event_id, at: new Date() })
      .onConflictDoNothing()
      .returning({ event: chatReply.event });
    if (!fresh) return undefined;
    const [asked] = await tx
      .select({ requestId: message.requestId, personId: person.id, user: person.userName })
      .from(message)
      .innerJoin(person, eq(person.id, message.toId))
      .where(eq(message.chatEvent, root));
    // Only the one whose room it is answers there.
    if (!asked || event.sender !== `@${asked.user}:${config().CHAT_DOMAIN}`) return undefined;
    const reply = readReply(body);
    if ('unclear' in reply)
      return { user: asked.user, words: 'That was not understood, and nothing was decided. Begin with Approve or Decline, then your comment.' };
    const result = await decideInChat(tx, { requestId: asked.requestId, personId: asked.personId, ...reply });
    return {
      user: asked.user,
      words: result.ok ? `Your answer was taken: ${reply.decision === 'approve' ? 'approved' : 'declined'}.` : result.sentence,
    };
  });
  if (answer) await sendChat({ user: answer.user, text: answer.words, once: `re-${event.event_id}`, thread: root, buttons: [] });
}
