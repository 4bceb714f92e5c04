import express, { type Express } from 'express';
import ICAL from 'ical.js';
import { z } from 'zod';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { escape, page } from './page.ts';

/** When somebody is taken, and by what; the address in small letters. */
const Taken = z.object({
  address: z.string().toLowerCase().max(200),
  from: z.iso.datetime(),
  to: z.iso.datetime(),
  what: z.string().max(200).default('Taken'),
  /** They may be: it counts all the same. */
  perhaps: z.boolean().default(false),
});
type Taken = z.infer<typeof Taken>;
interface Kept {
  /** Everybody who has a calendar here. */
  people: string[];
  taken: Taken[];
}

/**
 * The calendars of an organisation: a scheduling outbox that says who is free (CalDAV scheduling, RFC 6638, section 5), and nothing of
 * what takes them. Whoever has no calendar here is not known (request status 3.7, RFC 5545).
 */
export function calendars({ token, file }: { token: string; file?: string }): Express {
  const { data, save } = keep<Kept>(file, () => ({ people: [], taken: [] }));
  const manner = mannered();
  const app = express();
  app.disable('x-powered-by');
  app.use(express.json({ limit: '5mb' }), express.urlencoded({ extended: false }));
  app.all('/_manner', mannerRoute(manner));
  app.post('/_taken', (req, res) => {
    const read = z.array(Taken).safeParse(req.body);
    if (!read.success)
      return void res.status(400).json({ error: 'Say [{"address": "…", "from": "2026-11-26T09:00:00Z", "to": "…", "what": "…"}, …].' });
    data.taken.push(...read.data);
    data.people = [...new Set([...data.people, ...read.data.map((t) => t.address)])];
    save();
    res.json({ taken: data.taken.length });
  });
  app.get('/', (req, res) => {
    const of = typeof req.query['of'] === 'string' ? req.query['of'].toLowerCase() : '';
    const shown = data.taken.filter((t) => of && t.address.includes(of)).toSorted((a, b) => (a.from < b.from ? -1 : 1));
    const rows = shown
      .slice(0, 200)
      .map(
        (t) =>
          `<tr><td>${escape(t.address)}</td><td>${escape(t.from.slice(0, 16).replace('T', ' '))}</td><td>${escape(t.to.slice(0, 16).replace('T', ' '))}</td><td>${escape(t.what)}</td></tr>`,
      );
    const table = `<table><thead><tr><th>Whose</th><th>From (UTC)</th><th>To (UTC)</th><th>What</th></tr></thead><tbody>${rows.join('')}</tbody></table>`;
    const found = of ? (rows.length > 0 ? table : '<p>Nothing takes them.</p>') : `<p>${data.people.length} people have a calendar here.</p>`;
    res.send(
      page('Calendars', `<form><label>Calendar of <input name="of" value="${escape(of)}" size="40"></label> <button>Show</button></form>${found}`),
    );
  });
  app.post('/outbox', express.text({ type: 'text/calendar', limit: '1mb' }), async (req, res) => {
    if (manner.now.manner === 'slow') await pause(manner.now.delayMs);
    if (manner.now.manner === 'failing') return void res.status(503).send('The calendars are closed.');
    if (manner.now.manner === 'refusing') return void res.status(403).send('This token may not ask who is free.');
    if (manner.now.manner === 'poisonous') return void res.type('application/xml').send('<!DOCTYPE a [<!ENTITY b "b">]><a>&b;&b;</a>');
    if (req.headers.authorization !== `Bearer ${token}`) return void res.status(401).send('The bearer token is missing or wrong.');
    const asked = typeof req.body === 'string' ? question(req.body) : undefined;
    if (!asked) return void res.status(400).send('This is no question who is free (RFC 5546, 3.3.2).');
    const answers = asked.people.map((address) =>
      response(address, data.people.includes(address.toLowerCase()) ? periods(data.taken, address, asked) : undefined),
    );
    res
      .type('application/xml')
      .send(
        `<?xml version="1.0" encoding="utf-8"?>\n<C:schedule-response xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">${answers.join('')}</C:schedule-response>`,
      );
  });
  return app;
}

interface Asked {
  from: number;
  to: number;
  people: string[];
}

function question(text: string): Asked | undefined {
  try {
    const root = new ICAL.Component(ICAL.parse(text) as unknown[]);
    const busy = root.getFirstSubcomponent('vfreebusy');
    if (root.getFirstPropertyValue('method') !== 'REQUEST' || !busy) return undefined;
    const time = (name: string) => (busy.getFirstPropertyValue(name) as ICAL.Time).toJSDate().getTime();
    const people = busy.getAllProperties('attendee').map((a) => String(a.getFirstValue()).replace(/^mailto:/i, ''));
    return { from: time('dtstart'), to: time('dtend'), people };
  } catch {
    return undefined;
  }
}

const stamp = (at: number): string => `${new Date(at).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`;
/** The lines of a VFREEBUSY: tentative ones by themselves, as the standard has it. */
function periods(taken: Taken[], address: string, { from, to }: Asked): string[] {
  const theirs = taken.filter((t) => t.address === address.toLowerCase() && Date.parse(t.from) < to && Date.parse(t.to) > from);
  return theirs.map(
    (t) =>
      `FREEBUSY;FBTYPE=${t.perhaps ? 'BUSY-TENTATIVE' : 'BUSY'}:${stamp(Math.max(from, Date.parse(t.from)))}/${stamp(Math.min(to, Date.parse(t.to)))}`,
  );
}

function response(address: string, lines: string[] | undefined): string {
  const data = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Skerrin//Calendars//EN',
    'METHOD:REPLY',
    'BEGIN:VFREEBUSY',
    `ATTENDEE:mailto:${address}`,
  ];
  const told = lines && `<C:calendar-data>${escape([...data, ...lines, 'END:VFREEBUSY', 'END:VCALENDAR', ''].join('\r\n'))}</C:calendar-data>`;
  return `<C:response><C:recipient><D:href>mailto:${escape(address)}</D:href></C:recipient><C:request-status>${lines ? '2.0;Success' : '3.7;Invalid calendar user'}</C:request-status>${told ?? ''}</C:response>`;
}
