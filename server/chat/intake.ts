import { and, eq } from 'drizzle-orm';
import { readReply } from '../../core/formats/index.ts';
import { decideInChat } from '../approvals/commands.ts';
import { config } from '../config.ts';
import { replyTaken, replyUnclear } from '../mail/reply-taken.ts';
import { db, type Tx } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { approval, chatCursor, chatReply, gate, message, person, serviceCase, ticket } from '../db/schema/index.ts';
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
    // The channels are the same for all that was said meanwhile.
    const inChannels = events.length > 0 ? await channels() : new Map();
    for (const event of events) await takeOrPutAside(event, inChannels);
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

type Channels = Awaited<ReturnType<typeof channels>>;

const idOf = (e: unknown): string => {
  const id = typeof e === 'object' && e !== null && 'event_id' in e ? e.event_id : undefined;
  return typeof id === 'string' ? id : (JSON.stringify(e) ?? '').slice(0, 200);
};

/** One message harms only itself: what cannot be taken is put aside, and the next ones are read. */
async function takeOrPutAside(event: ChatEvent, inChannels: Channels): Promise<void> {
  try {
    await takeChat(event, inChannels);
  } catch (error) {
    // With the database away the cursor stands still, and the message is read again.
    if (isDatabaseTrouble(error)) throw error;
    await putAside(db(), { source: 'chat', key: event.event_id, what: `A chat message from ${event.sender}`, cause: error, payload: event });
  }
}

/** Takes one event, once: it is remembered in the transaction of its effect, and so is the answer to it. */
export async function takeChat(event: ChatEvent, inChannels?: Channels): Promise<void> {
  const thread = event.content['m.relates_to'];
  const { body } = event.content;
  if (event.type !== 'm.room.message' || event.sender.startsWith(me) || !body) return;
  const channel = event.room === undefined ? undefined : (inChannels ?? (await channels())).get(event.room);
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
    const reply = readReply(body);
    // Who is asked whether a ticket may go on may have read of it before, in the same thread: what reads as an answer to that is one.
    const runId = (asked.kind === 'ticket' && !('unclear' in reply) && (await asksOf(tx, asked.caseId, asked.personId))) || asked.runId;
    if (runId === null) {
      if (asked.kind !== 'ticket') return;
      const viewer = await whoSays(tx, event.sender);
      const text = viewer && (await takeAnswer(tx, viewer, asked.caseId, event));
      return text === undefined ? undefined : answer(text);
    }
    if ('unclear' in reply) return answer(replyUnclear('That'));
    return answer(replyTaken(reply.decision, await decideInChat(tx, { runId, personId: asked.personId, ...reply })));
  });
}

/** The run that asks somebody whether a ticket may go on; undefined where they are not asked, or have answered. */
async function asksOf(tx: Tx, caseId: string, personId: string): Promise<string | undefined> {
  const [row] = await tx
    .select({ runId: gate.runId })
    .from(ticket)
    .innerJoin(gate, eq(gate.runId, ticket.askingId))
    .innerJoin(approval, and(eq(approval.gateId, gate.id), eq(approval.personId, personId), eq(approval.status, 'waiting')))
    .where(eq(ticket.caseId, caseId));
  return row?.runId;
}

/** Says something in a thread of chat; a repeat is the same event. */
export const sayInChat = async (m: Jobs['sayInChat']): Promise<void> =>
  void (await sendChat({ text: m.text, once: m.once, thread: m.thread, room: 'room' in m ? m.room : roomOf(m.user), buttons: [] }));
