import { z } from 'zod';
import { config } from '../../config.ts';
import { Refused, Trouble } from '../trouble.ts';

const Sent = z.object({ event_id: z.string() });
const Event = z.object({
  event_id: z.string(),
  type: z.string(),
  sender: z.string(),
  content: z.object({
    body: z.string().optional(),
    'm.relates_to': z.object({ rel_type: z.string().optional(), event_id: z.string().optional() }).optional(),
  }),
});
export type ChatEvent = z.infer<typeof Event>;
const Sync = z.object({
  next_batch: z.string(),
  rooms: z
    .object({ join: z.record(z.string(), z.object({ timeline: z.object({ events: z.array(z.unknown()) }) })).default({}) })
    .default({ join: {} }),
});

/** One request to the registered homeserver (Matrix client-server API v3). */
async function send(method: string, path: string, body?: object): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(`${config().CHAT_URL}/_matrix/client/v3${path}`, {
      method,
      redirect: 'error',
      signal: AbortSignal.timeout(8000),
      headers: { authorization: `Bearer ${config().CHAT_TOKEN}`, 'content-type': 'application/json' },
      ...(body && { body: JSON.stringify(body) }),
    });
  } catch (error) {
    throw new Trouble(error instanceof Error && error.name === 'TimeoutError' ? 'Chat did not answer within 8 s.' : 'Chat cannot be reached.');
  }
  if (response.status >= 500 || response.status === 429) throw new Trouble(`Chat answered ${response.status}.`);
  if (!response.ok) throw new Refused(`Chat refused with ${response.status}.`);
  return response.json().catch(() => {
    throw new Trouble('Chat answered something that is not JSON.');
  });
}

/** The room in which the desk talks with one person. */
export const roomOf = (user: string): string => `!${user}:${config().CHAT_DOMAIN}`;

/**
 * Says something to a person, in the thread where there is one; gives the event's id. `once` is the transaction id:
 * a repeat after a crash is the same event.
 */
export async function sendChat(m: {
  user: string;
  text: string;
  html?: string;
  once: string;
  thread: string | undefined;
  buttons: string[];
}): Promise<string> {
  if (!config().CHAT_URL) throw new Refused('No chat is set up.');
  const answer = await send('PUT', `/rooms/${encodeURIComponent(roomOf(m.user))}/send/m.room.message/${m.once}`, {
    msgtype: 'm.text',
    body: m.text,
    ...(m.html && { format: 'org.matrix.custom.html', formatted_body: m.html }),
    ...(m.thread && { 'm.relates_to': { rel_type: 'm.thread', event_id: m.thread } }),
    ...(m.buttons.length > 0 && { 'nessmoor.buttons': m.buttons }),
  });
  return Sent.parse(answer).event_id;
}

/** Everything said since a token of an earlier reading; what does not look like an event is left out. */
export async function readSince(since: string | undefined): Promise<{ next: string; events: ChatEvent[] }> {
  const answer = Sync.safeParse(await send('GET', `/sync?timeout=0${since ? `&since=${encodeURIComponent(since)}` : ''}`));
  if (!answer.success) throw new Trouble('Chat answered something that makes no sense.');
  const events = Object.values(answer.data.rooms.join).flatMap((r) =>
    r.timeline.events.flatMap((e) => {
      const event = Event.safeParse(e);
      return event.success ? [event.data] : [];
    }),
  );
  return { next: answer.data.next_batch, events };
}
