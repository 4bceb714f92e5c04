import { z } from 'zod';
import { heard, line } from '../../../core/boundary/index.ts';
import { config } from '../../config.ts';
import { callOutside, isTransient, jsonOf } from '../client.ts';
import { PermanentError, TransientError } from '../errors.ts';

const Sent = z.object({ event_id: line(255) });
const Event = z.object({
  event_id: line(255).min(1),
  type: line(255),
  sender: line(255),
  content: z.object({
    /** As somebody wrote it: what no text can keep is seen to have been there. */
    body: z
      .string()
      .transform((s) => heard(s, 10_000))
      .optional(),
    'm.relates_to': z.object({ rel_type: line(255).optional(), event_id: line(255).optional() }).optional(),
  }),
});
/** Something that was said, and in which room. */
export type ChatEvent = z.infer<typeof Event> & { room?: string | undefined };
const Sync = z.object({
  next_batch: line(1000),
  rooms: z
    .object({ join: z.record(z.string(), z.object({ timeline: z.object({ events: z.array(z.unknown()).max(100_000) }) })).default({}) })
    .default({ join: {} }),
});

/** One request to the registered homeserver (Matrix client-server API v3). */
async function send(method: string, path: string, body?: object): Promise<unknown> {
  const address = config().CHAT_URL;
  if (!address) throw new PermanentError('No chat is set up.');
  const chat = { name: 'Chat', address, ownNetwork: true, timeoutMs: 8000, mostBytes: 4_000_000 };
  const headers = { authorization: `Bearer ${config().CHAT_TOKEN}` };
  const answer = await callOutside(chat, { method, path: `/_matrix/client/v3${path}`, headers, body });
  if (isTransient(answer.status)) throw new TransientError(`Chat answered ${answer.status}.`);
  if (answer.status >= 400) throw new PermanentError(`Chat refused with ${answer.status}.`);
  return jsonOf(chat, answer);
}

/** The room in which the desk talks with one person. */
export const roomOf = (user: string): string => `!${user}:${config().CHAT_DOMAIN}`;

/**
 * Says something in a room, in the thread where there is one; gives the event's id. `once` is the transaction id:
 * a repeat after a crash is the same event.
 */
export async function sendChat(m: {
  room: string;
  text: string;
  html?: string;
  once: string;
  thread: string | undefined;
  buttons: string[];
}): Promise<string> {
  const answer = await send('PUT', `/rooms/${encodeURIComponent(m.room)}/send/m.room.message/${m.once}`, {
    msgtype: 'm.text',
    body: m.text,
    ...(m.html && { format: 'org.matrix.custom.html', formatted_body: m.html }),
    ...(m.thread && { 'm.relates_to': { rel_type: 'm.thread', event_id: m.thread } }),
    ...(m.buttons.length > 0 && { 'nessmoor.buttons': m.buttons }),
  });
  const sent = Sent.safeParse(answer);
  if (!sent.success) throw new TransientError('Chat answered something that makes no sense.');
  return sent.data.event_id;
}

const Alias = z.object({ room_id: line(255).min(1) });

/** The room that a channel is; undefined where there is none of that name. */
export async function roomCalled(channel: string): Promise<string | undefined> {
  try {
    const answer = Alias.safeParse(await send('GET', `/directory/room/${encodeURIComponent(`#${channel}:${config().CHAT_DOMAIN}`)}`));
    if (!answer.success) throw new TransientError('Chat answered something that makes no sense.');
    return answer.data.room_id;
  } catch (error) {
    if (error instanceof PermanentError) return undefined;
    throw error;
  }
}

/** Everything said since a token of an earlier reading; what does not look like an event is given apart. */
export async function readSince(since: string | undefined): Promise<{ next: string; events: ChatEvent[]; odd: unknown[] }> {
  const answer = Sync.safeParse(await send('GET', `/sync?timeout=0${since ? `&since=${encodeURIComponent(since)}` : ''}`));
  if (!answer.success) throw new TransientError('Chat answered something that makes no sense.');
  const events: ChatEvent[] = [];
  const odd: unknown[] = [];
  for (const [id, room] of Object.entries(answer.data.rooms.join))
    for (const e of room.timeline.events) {
      const event = Event.safeParse(e);
      if (event.success) events.push({ ...event.data, room: heard(id, 255) });
      else if (isMessage(e)) odd.push(e);
    }
  return { next: answer.data.next_batch, events, odd };
}
/** Only what people say is of interest; the rest of a room's life may look as it likes. */
const isMessage = (e: unknown): boolean => typeof e === 'object' && e !== null && 'type' in e && e.type === 'm.room.message';
