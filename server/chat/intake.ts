import { eq } from 'drizzle-orm';
import { readReply } from '../../core/formats/index.ts';
import { decideInChat } from '../approvals/commands.ts';
import { config } from '../config.ts';
import { replyTaken, replyUnclear } from '../mail/reply-taken.ts';
import { db } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { chatCursor, chatReply, message, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { readSince, sendChat, type ChatEvent } from '../systems/chat/client.ts';
import { addJobs, type Jobs } from '../runtime/jobs.ts';
import { causeWords, putAside } from '../set-aside/put-aside.ts';

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
    const { next, events, odd } = await readSince(cursor?.since);
    for (const e of odd)
      await putAside(db(), { source: 'chat', key: idOf(e), what: 'A chat message', cause: 'It does not look like a message.', payload: e });
    for (const event of events) await takeOrPutAside(event);
    if (next !== cursor?.since)
      await db()
        .insert(chatCursor)
        .values({ id: 1, since: next })
        .onConflictDoUpdate({ target: chatCursor.id, set: { since: next } });
  } catch (error) {
    // Chat being away is no fault of this job; it is read again after the pause.
    log.warn({ error: causeWords(error) }, 'chat was not read');
  }
  await keepReadingChat(new Date(Date.now() + every));
}

const idOf = (e: unknown): string => {
  const id = typeof e === 'object' && e !== null && 'event_id' in e ? e.event_id : undefined;
  return typeof id === 'string' ? id : (JSON.stringify(e) ?? '').slice(0, 200);
};

/** One message harms only itself: what cannot be taken is put aside, and the next ones are read. */
async function takeOrPutAside(event: ChatEvent): Promise<void> {
  try {
    await takeChat(event);
  } catch (error) {
    // With the database away the cursor stands still, and the message is read again.
    if (isDatabaseTrouble(error)) throw error;
    await putAside(db(), { source: 'chat', key: event.event_id, what: `A chat message from ${event.sender}`, cause: error, payload: event });
  }
}

/** Takes one event, once: it is remembered in the transaction of its effect, and so is the answer to it. */
export async function takeChat(event: ChatEvent): Promise<void> {
  const thread = event.content['m.relates_to'];
  const { body } = event.content;
  if (event.type !== 'm.room.message' || event.sender.startsWith(me) || thread?.rel_type !== 'm.thread' || !thread.event_id || !body) return;
  const root = thread.event_id;
  await db().transaction(async (tx): Promise<void> => {
    const [fresh] = await tx
      .insert(chatReply)
      .values({ event: event.event_id, at: new Date() })
      .onConflictDoNothing()
      .returning({ event: chatReply.event });
    if (!fresh) return;
    const [asked] = await tx
      .select({ runId: message.runId, personId: person.id, user: person.userName })
      .from(message)
      .innerJoin(person, eq(person.id, message.toId))
      .where(eq(message.chatEvent, root));
    // Only the one whose room it is answers there.
    if (!asked?.runId || event.sender !== `@${asked.user}:${config().CHAT_DOMAIN}`) return;
    const reply = readReply(body);
    let words = replyUnclear('That');
    if (!('unclear' in reply)) {
      const result = await decideInChat(tx, { runId: asked.runId, personId: asked.personId, ...reply });
      words = replyTaken(reply.decision, result);
    }
    const once = `re-${event.event_id}`;
    await addJobs(tx, 'sayInChat', [{ payload: { user: asked.user, text: words, once, thread: root }, key: once }]);
  });
}

/** Says how a reply was taken, in its thread; a repeat is the same event. */
export const sayInChat = async (m: Jobs['sayInChat']): Promise<void> => void (await sendChat({ ...m, buttons: [] }));
