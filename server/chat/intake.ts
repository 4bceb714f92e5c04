import { eq } from 'drizzle-orm';
import { readReply } from '../../core/formats/index.ts';
import { decideInChat } from '../approvals/commands.ts';
import { config } from '../config.ts';
import { replyTaken, replyUnclear } from '../mail/reply-taken.ts';
import { db } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { chatCursor, chatReply, message, person, serviceCase } from '../db/schema/index.ts';
import { channels, takeAnswer, takeFromChannel, whoSays } from '../intake/chat.ts';
import { log } from '../log.ts';
import { readSince, roomOf, sendChat, type ChatEvent } from '../systems/chat/client.ts';
import { addJobs, type Jobs } from '../runtime/jobs.ts';
import { causeWords, putAside } from '../set-aside/put-aside.ts';

/** How often chat is read, in milliseconds. */
const every = 2000;
const me = '@nessmoor:';

/** One job reads chat, however many workers there are: its key keeps it one. */
export async function keepReadingChat(runAt = new Date()): Promise<void> {
  if (config().CHAT_URL) await addJobs(db(), 'readChat', [{ payload: {}, key: 'read-chat', runAt }]);
}

/** Reads what was said since the last time: answers to what was asked, and what is said in the channels by which tickets come in. */
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
  if (event.type !== 'm.room.message' || event.sender.startsWith(me) || !body) return;
  const channel = event.room === undefined ? undefined : (await channels()).get(event.room);
  const root = thread?.rel_type === 'm.thread' ? thread.event_id : undefined;
  if (!channel && root === undefined) return;
  await db().transaction(async (tx): Promise<void> => {
    const [fresh] = await tx
      .insert(chatReply)
      .values({ event: event.event_id, at: new Date() })
      .onConflictDoNothing()
      .returning({ event: chatReply.event });
    if (!fresh) return;
    const once = `re-${event.event_id}`;
    if (channel) {
      const text = await takeFromChannel(tx, channel, event);
      if (text !== undefined)
        await addJobs(tx, 'sayInChat', [{ payload: { room: event.room!, text, once, thread: root ?? event.event_id }, key: once }]);
      return;
    }
    const [asked] = await tx
      .select({ runId: message.runId, caseId: message.caseId, kind: serviceCase.kind, personId: person.id, user: person.userName })
      .from(message)
      .innerJoin(serviceCase, eq(serviceCase.id, message.caseId))
      .innerJoin(person, eq(person.id, message.toId))
      .where(eq(message.chatEvent, root!));
    // Only the one whose room it is answers there.
    if (!asked || event.sender !== `@${asked.user}:${config().CHAT_DOMAIN}`) return;
    const answer = (text: string) => addJobs(tx, 'sayInChat', [{ payload: { user: asked.user, text, once, thread: root! }, key: once }]);
    if (asked.kind === 'ticket') {
      const viewer = await whoSays(tx, event.sender);
      const text = viewer && (await takeAnswer(tx, viewer, asked.caseId, event));
      return text === undefined ? undefined : answer(text);
    }
    if (!asked.runId) return;
    const reply = readReply(body);
    if ('unclear' in reply) return answer(replyUnclear('That'));
    return answer(replyTaken(reply.decision, await decideInChat(tx, { runId: asked.runId, personId: asked.personId, ...reply })));
  });
}

/** Says something in a thread of chat; a repeat is the same event. */
export const sayInChat = async (m: Jobs['sayInChat']): Promise<void> =>
  void (await sendChat({ text: m.text, once: m.once, thread: m.thread, room: 'room' in m ? m.room : roomOf(m.user), buttons: [] }));
