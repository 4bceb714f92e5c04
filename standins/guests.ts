import { randomBytes, randomUUID } from 'node:crypto';
import express, { type Express } from 'express';
import { createTransport } from 'nodemailer';
import { z } from 'zod';
import { guestsApi } from './guests-api.ts';
import { guarded } from './guarded.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute } from './manner.ts';
import { onceOnly, problem, refused, type Answered } from './once.ts';
import { escape, page } from './page.ts';
import { paged } from './paged.ts';

/** What guests can be let into. */
const rooms = ['tide-exchange', 'chart-reviews', 'survey-photos'];

const Wanted = z.object({ mail: z.email().max(200), name: z.string().min(1).max(200), until: z.iso.date(), sponsor: z.string().max(200).optional() });
interface Guest extends z.infer<typeof Wanted> {
  id: string;
  invitedAt: string;
  acceptedAt?: string;
  removedAt?: string;
  rooms: string[];
  /** What the link in the invitation holds. */
  word: string;
}
interface Kept {
  guests: Record<string, Guest>;
  answered: Record<string, Answered>;
  journal: { at: string; change: string; id: string; key?: string; room?: string }[];
}

/**
 * A guest house: people from elsewhere who are invited by mail, accept or do not, and are let into rooms of theirs only then. JSON over
 * HTTP, as `openapi.json` describes it.
 */
export function guestHouse({ token, smtp, address, file }: { token: string; smtp: string; address: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ guests: {}, answered: {}, journal: [] }));
  const manner = mannered();
  const once = onceOnly(data.answered, save);
  const transport = createTransport(smtp);
  /** Whether guests accept as soon as they are invited, and which room lets nobody in. */
  const ways = { accept: 'later' as 'later' | 'at once', closed: '' };
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '100kb' }));
  app.all('/_manner', mannerRoute(manner));
  app.post('/_ways', (req, res) => {
    const wanted = z.object({ accept: z.enum(['later', 'at once']), closed: z.string().max(40) }).safeParse(req.body);
    if (!wanted.success) return void res.status(400).json({ error: 'Say {"accept": "later" | "at once", "closed": ""}.' });
    res.json(Object.assign(ways, wanted.data));
  });
  app.get('/_journal', (_req, res) => void res.json(data.journal));
  app.get('/_guests', (_req, res) => void res.json(Object.values(data.guests).map(({ word: _, ...g }) => g)));
  /** Somebody of the house sends a guest home past everybody. */
  app.post('/_lose/:id', (req, res) => {
    const found = data.guests[req.params.id];
    if (!found || found.removedAt) return void res.status(404).json({ error: 'There is no such guest.' });
    remove(found, undefined);
    res.status(204).end();
  });
  app.get('/openapi.json', (_req, res) => void res.json(guestsApi(rooms)));

  // What a guest sees: a page behind the link in their mail.
  app.get('/accept/:word', (req, res) => {
    const found = invitedBy(req.params.word);
    if (!found) return void res.status(404).send(page('Nothing here', '<p>This invitation is not open any more.</p>'));
    const asks = `<p>${escape(found.name)}, you are invited until ${found.until}.</p><form method="post"><button>Accept</button></form>`;
    res.send(page('You are invited', found.acceptedAt ? '<p>You have accepted.</p>' : asks));
  });
  app.post('/accept/:word', (req, res) => {
    const found = invitedBy(req.params.word);
    if (!found) return void res.status(404).send(page('Nothing here', '<p>This invitation is not open any more.</p>'));
    accept(found);
    res.send(page('You are invited', '<p>You have accepted.</p>'));
  });

  app.use(
    '/house',
    guarded(manner, token, {
      failing: 'The house is closed for the moment.',
      refusing: 'The house refuses this.',
      poison: '{"id":"\\u0000","state":{"x":[]},"accepted":"\\ud800"}',
    }),
  );
  app.post('/house/guests', (req, res) =>
    once(req, res, (key) => {
      const wanted = Wanted.safeParse(req.body);
      if (!wanted.success) return refused(422, wanted.error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('; '));
      const { mail } = wanted.data;
      if (Object.values(data.guests).some((g) => !g.removedAt && g.mail.toLowerCase() === mail.toLowerCase()))
        return refused(409, `${mail} is a guest already, or is invited.`);
      const guest: Guest = {
        ...wanted.data,
        id: `g-${randomUUID().slice(0, 8)}`,
        invitedAt: new Date().toISOString(),
        rooms: [],
        word: randomBytes(12).toString('hex'),
      };
      data.guests[guest.id] = guest;
      note('invited', guest, key);
      void invite(guest);
      if (ways.accept === 'at once') accept(guest);
      return { status: 201, body: shown(guest) };
    }),
  );
  /** A page of who is invited or has accepted; whoever was removed is no guest any more. */
  app.get('/house/guests', (req, res) => {
    const there = Object.values(data.guests).filter((g) => !g.removedAt);
    res.json(paged(req, 'guests', there, (g) => g.id, shown));
  });
  app.get('/house/guests/:id', (req, res) => {
    const found = data.guests[req.params.id];
    if (!found) return problem(res, 404, 'There is no such guest.');
    res.json(shown(found));
  });
  app.put('/house/guests/:id/rooms/:room', (req, res) =>
    once(req, res, (key) => {
      const { id, room } = req.params as { id: string; room: string };
      const found = data.guests[id];
      if (!found || found.removedAt) return refused(404, 'There is no such guest.');
      if (!rooms.includes(room)) return refused(404, `There is no room “${room}”.`);
      if (!found.acceptedAt) return refused(409, `${found.name} has not accepted yet.`);
      if (room === ways.closed) return refused(409, `“${room}” lets no guests in at present.`);
      if (!found.rooms.includes(room)) {
        found.rooms.push(room);
        note('let in', found, key, room);
      }
      return { status: 200, body: shown(found) };
    }),
  );
  app.delete('/house/guests/:id', (req, res) =>
    once(req, res, (key) => {
      const found = data.guests[String(req.params['id'])];
      if (!found) return refused(404, 'There is no such guest.');
      if (!found.removedAt) remove(found, key);
      return { status: 200, body: shown(found) };
    }),
  );

  const invitedBy = (word: string): Guest | undefined => Object.values(data.guests).find((g) => g.word === word && !g.removedAt);
  function accept(guest: Guest): void {
    if (guest.acceptedAt) return;
    guest.acceptedAt = new Date().toISOString();
    note('accepted', guest, undefined);
  }
  function remove(guest: Guest, key: string | undefined): void {
    guest.removedAt = new Date().toISOString();
    guest.rooms = [];
    note('removed', guest, key);
  }
  const shown = ({ id, mail, name, until, sponsor, rooms: in_, ...g }: Guest) => ({
    id,
    mail,
    name,
    until,
    ...(sponsor !== undefined && { sponsor }),
    rooms: in_,
    state: g.removedAt ? 'removed' : g.acceptedAt ? 'accepted' : 'invited',
    accepted: g.acceptedAt !== undefined,
  });
  async function invite(guest: Guest): Promise<void> {
    const link = `${address}/accept/${guest.word}`;
    const mail = { from: 'Guest house <guests@skerrin.example>', to: guest.mail, subject: 'You are invited' };
    const text = `${guest.name},\n\nSkerrin Hydrographic invites you as a guest until ${guest.until}. Accept here:\n\n${link}\n`;
    // A mailbox that does not take it: the guest is invited, and never hears of it.
    await transport.sendMail({ ...mail, text }).catch(() => undefined);
  }
  function note(change: string, guest: Guest, key: string | undefined, room?: string): void {
    data.journal.push({ at: new Date().toISOString(), change, id: guest.id, ...(key && { key }), ...(room && { room }) });
    save();
  }
  return app;
}
