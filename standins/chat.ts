import express, { type Express } from 'express';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { escape, page } from './page.ts';

interface Event {
  event_id: string;
  type: string;
  sender: string;
  room: string;
  origin_server_ts: number;
  content: { body?: string; 'm.relates_to'?: { rel_type?: string; event_id?: string }; 'nessmoor.buttons'?: string[] };
}

/** The channels there are. */
const channels = ['ask-the-desk', 'lunnick'];

/**
 * A small homeserver: the part of the Matrix client-server API (v3) that sending, threads and reading need, and a
 * page on which anybody in the made-up organisation can read and answer. Rooms come to be when something is said in them.
 */
export function chat({ token, file }: { token: string; file?: string }): Express {
  const { data, save } = keep<{ events: Event[]; transactions: Record<string, string> }>(file, () => ({ events: [], transactions: {} }));
  const manner = mannered();
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '256kb' }));
  app.all('/_manner', mannerRoute(manner));

  const say = (room: string, sender: string, content: Event['content']): string => {
    const event_id = `$${data.events.length + 1}:skerrin.example`;
    data.events.push({ event_id, type: 'm.room.message', sender, room, origin_server_ts: Date.now(), content });
    save();
    return event_id;
  };

  app.use('/_matrix', async (req, res, next) => {
    if (req.headers.authorization !== `Bearer ${token}`) return void res.status(401).json({ errcode: 'M_UNKNOWN_TOKEN', error: 'Unknown token' });
    if (manner.now.manner === 'slow') await pause(manner.now.delayMs);
    if (manner.now.manner === 'failing') return void res.status(503).json({ errcode: 'M_UNKNOWN', error: 'Try again later' });
    if (manner.now.manner === 'refusing') return void res.status(403).json({ errcode: 'M_FORBIDDEN', error: 'Not allowed' });
    next();
  });
  app.put('/_matrix/client/v3/rooms/:room/send/m.room.message/:txn', (req, res) => {
    const content = req.body as Event['content'];
    if (typeof content?.body !== 'string') return void res.status(400).json({ errcode: 'M_BAD_JSON', error: 'A message has a body' });
    const once = `${req.params.room} ${req.params.txn}`;
    // The same transaction sent again is the same event.
    data.transactions[once] ??= say(req.params.room, '@nessmoor:skerrin.example', content);
    save();
    res.json({ event_id: data.transactions[once] });
  });
  app.get('/_matrix/client/v3/sync', (req, res) => {
    const since = Number(/^s(\d+)$/.exec(String(req.query['since'] ?? ''))?.[1] ?? 0);
    const join: Record<string, { timeline: { events: Omit<Event, 'room'>[] } }> = {};
    for (const { room, ...event } of data.events.slice(since)) (join[room] ??= { timeline: { events: [] } }).timeline.events.push(event);
    res.json({ next_batch: `s${data.events.length}`, rooms: { join } });
  });

  app.get('/_matrix/client/v3/directory/room/:alias', (req, res) => {
    const name = /^#([a-z0-9._-]+):skerrin\.example$/.exec(req.params.alias)?.[1] ?? '';
    if (!channels.includes(name)) return void res.status(404).json({ errcode: 'M_NOT_FOUND', error: 'No such channel' });
    res.json({ room_id: channelRoom(name), servers: ['skerrin.example'] });
  });

  // What people see.
  const roomOf = (user: string) => `!${user}:skerrin.example`;
  app.get('/_events', (req, res) => {
    const user = typeof req.query['user'] === 'string' ? req.query['user'] : undefined;
    const channel = typeof req.query['channel'] === 'string' ? req.query['channel'] : undefined;
    const room = user ? roomOf(user) : channel && channelRoom(channel);
    res.json(data.events.filter((e) => !room || e.room === room));
  });
  app.post('/channel', express.urlencoded({ extended: false }), (req, res) => {
    const { user, channel, thread, text } = req.body as Record<string, unknown>;
    if (typeof user !== 'string' || user === '' || typeof channel !== 'string' || !channels.includes(channel) || typeof text !== 'string' || !text)
      return void res.status(400).send(page('Chat', '<p>Say who you are, and something.</p>'));
    const room = channelRoom(channel);
    const isThread = typeof thread === 'string' && thread !== '';
    if (isThread && !data.events.some((e) => e.event_id === thread && e.room === room))
      return void res.status(400).send(page('Chat', '<p>There is no such thread.</p>'));
    say(room, `@${user}:skerrin.example`, { body: text, ...(isThread && { 'm.relates_to': { rel_type: 'm.thread', event_id: thread } }) });
    res.redirect(303, `/?channel=${channel}&user=${encodeURIComponent(user)}`);
  });
  app.post('/say', express.urlencoded({ extended: false }), (req, res) => {
    const { user, thread, text } = req.body as Record<string, unknown>;
    if (
      typeof user !== 'string' ||
      typeof thread !== 'string' ||
      typeof text !== 'string' ||
      !data.events.some((e) => e.event_id === thread && e.room === roomOf(user))
    )
      return void res.status(400).send(page('Chat', '<p>There is no such thread.</p>'));
    say(roomOf(user), `@${user}:skerrin.example`, { body: text, 'm.relates_to': { rel_type: 'm.thread', event_id: thread } });
    res.redirect(303, `/?user=${encodeURIComponent(user)}`);
  });
  app.get('/', (req, res) => {
    const user = typeof req.query['user'] === 'string' ? req.query['user'].toLowerCase() : '';
    const channel = channels.find((c) => c === req.query['channel']);
    const mine = data.events.filter((e) => e.room === (channel ? channelRoom(channel) : roomOf(user)));
    const roots = mine.filter((e) => !e.content['m.relates_to']?.event_id).reverse();
    const threads = roots.map((root) => {
      const all = [root, ...mine.filter((e) => e.content['m.relates_to']?.event_id === root.event_id)];
      const said = all.map((e) => `<p><b>${escape(e.sender)}</b></p><pre>${linked(e.content.body ?? '')}</pre>`).join('');
      const buttons = [...new Set(all.flatMap((e) => e.content['nessmoor.buttons'] ?? []))]
        .map((b) => form(user, channel, root.event_id, `<button name="text" value="${escape(b)}">${escape(b)}</button>`))
        .join(' ');
      return `<section>${said}${buttons}${form(user, channel, root.event_id, '<label>Answer in this thread <input name="text" size="50"></label> <button>Send</button>')}</section><hr>`;
    });
    const rooms = [undefined, ...channels].map((c) => {
      const words = c ? `#${c}` : 'What was said to me';
      return c === channel ? `<b>${words}</b>` : `<a href="/?user=${encodeURIComponent(user)}${c ? `&channel=${c}` : ''}">${words}</a>`;
    });
    const open = channel
      ? form(user, channel, '', '<label>Say something in the channel <input name="text" size="50"></label> <button>Say it</button>')
      : '';
    const body = user ? threads.join('') || '<p>Nothing has been said here yet.</p>' : '<p>Say who you are to see what was said to you.</p>';
    res.send(
      page(
        'Chat',
        `<form><label>I am <input name="user" value="${escape(user)}"></label> <button>Show</button></form>${user ? `<p>${rooms.join(' · ')}</p>${open}` : ''}${body}`,
      ),
    );
  });
  return app;
}

const channelRoom = (name: string) => `!channel-${name}:skerrin.example`;
const form = (user: string, channel: string | undefined, thread: string, inside: string) =>
  `<form method="post" action="${channel ? '/channel' : '/say'}" style="display:inline-block"><input type="hidden" name="user" value="${escape(user)}">${channel ? `<input type="hidden" name="channel" value="${channel}">` : ''}<input type="hidden" name="thread" value="${escape(thread)}">${inside}</form>`;
const linked = (text: string) => escape(text).replace(/https?:\/\/127\.0\.0\.1[^\s<]*/g, (url) => `<a href="${url}">${url}</a>`);
