import express, { type Express } from 'express';
import { simpleParser, type ParsedMail } from 'mailparser';
import { createTransport } from 'nodemailer';
import { SMTPServer } from 'smtp-server';
import { answerTo, partstats } from './invitation-answer.ts';
import { keep } from './keep.ts';
import { mannered, mannerRoute, pause } from './manner.ts';
import { escape, page } from './page.ts';

/** A message as it arrived over SMTP. */
export interface Received {
  n: number;
  at: string;
  to: string[];
  from: string;
  subject: string;
  text: string;
  /** The formatted form, when there is one beside the plain one. */
  html?: string;
  messageId: string;
  inReplyTo?: string;
  references: string[];
  replyTo?: string;
  /** What came with it, in base 64. */
  files?: { name: string; type: string; base64: string }[];
  /** What a calendar program reads of it. */
  calendar?: string;
  /** How often the same Message-ID was delivered; more than one means a repeat after a crash. */
  deliveries: number;
}

/** A mailbox that takes SMTP (RFC 5321) for anybody, shows what it received, and sends replies over SMTP to `replies`. */
export function mailbox({ file, replies }: { file?: string; replies?: string }): { smtp: SMTPServer; web: Express } {
  const { data, save } = keep<{ messages: Received[] }>(file, () => ({ messages: [] }));
  const byId = new Map(data.messages.map((m) => [m.messageId, m]));
  const manner = mannered();

  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    async onRcptTo(address, _session, done) {
      if (manner.now.manner === 'slow') await pause(manner.now.delayMs);
      if (manner.now.manner === 'failing') return done(Object.assign(new Error('Try again later'), { responseCode: 451 }));
      if (manner.now.manner === 'refusing') return done(Object.assign(new Error(`No mailbox for ${address.address}`), { responseCode: 550 }));
      done();
    },
    onData(stream, session, done) {
      simpleParser(stream)
        .then((mail) => {
          const messageId = mail.messageId ?? `<none-${data.messages.length}@mailbox>`;
          const to = session.envelope.rcptTo.map((r) => r.address);
          const earlier = byId.get(messageId);
          if (earlier) earlier.deliveries++;
          else {
            const message: Received = {
              n: data.messages.length + 1,
              at: new Date().toISOString(),
              to,
              from: mail.from?.text ?? '',
              subject: mail.subject ?? '',
              text: mail.text ?? '',
              ...(mail.html && { html: mail.html }),
              messageId,
              ...(mail.inReplyTo && { inReplyTo: mail.inReplyTo }),
              ...(mail.replyTo?.value[0]?.address && { replyTo: mail.replyTo.value[0].address }),
              references: mail.references ? [mail.references].flat() : [],
              ...(filesIn(mail).length > 0 && {
                files: filesIn(mail).map((a) => ({ name: a.filename ?? 'unnamed', type: a.contentType, base64: a.content.toString('base64') })),
              }),
              ...calendarIn(mail),
              deliveries: 1,
            };
            data.messages.push(message);
            byId.set(messageId, message);
          }
          save();
          done();
        })
        .catch((error: unknown) => done(error instanceof Error ? error : new Error(String(error))));
    },
  });

  const web = express();
  web.disable('x-powered-by');
  web.use(express.json());
  web.all('/_manner', mannerRoute(manner));
  web.get('/_messages', (req, res) => {
    const to = typeof req.query['to'] === 'string' ? req.query['to'].toLowerCase() : undefined;
    res.json(data.messages.filter((m) => !to || m.to.some((t) => t.toLowerCase() === to)));
  });
  web.get('/', (req, res) => {
    const to = typeof req.query['to'] === 'string' ? req.query['to'].toLowerCase() : '';
    const shown = data.messages
      .filter((m) => !to || m.to.some((t) => t.toLowerCase().includes(to)))
      .slice(-200)
      .reverse();
    const rows = shown.map(
      (m) =>
        `<tr><td>${m.n}</td><td>${escape(m.at.slice(0, 19).replace('T', ' '))}</td><td>${escape(m.to.join(', '))}</td><td><a href="/message/${m.n}">${escape(m.subject)}</a></td></tr>`,
    );
    const body = shown.length
      ? `<table><thead><tr><th>No.</th><th>Received (UTC)</th><th>To</th><th>Subject</th></tr></thead><tbody>${rows.join('')}</tbody></table>`
      : '<p>Nothing has arrived yet.</p>';
    res.send(
      page(
        'Mailbox',
        `<form><label>Received by <input name="to" value="${escape(to)}"></label> <button>Show</button></form>${replies ? '<p><a href="/write">Write a mail</a></p>' : ''}${body}`,
      ),
    );
  });
  web.get('/message/:n/files/:at', (req, res) => {
    const f = data.messages.find((x) => x.n === Number(req.params.n))?.files?.[Number(req.params.at)];
    if (!f) return void res.status(404).send(page('Mailbox', '<p>There is no such file.</p>'));
    res.type(f.type).attachment(f.name).send(Buffer.from(f.base64, 'base64'));
  });
  web.get('/message/:n', (req, res) => {
    const m = data.messages.find((x) => x.n === Number(req.params.n));
    if (!m) return void res.status(404).send(page('Mailbox', '<p>There is no such message.</p>'));
    const text = escape(m.text).replace(/https?:\/\/127\.0\.0\.1[^\s<]*/g, (url) => `<a href="${url}">${url}</a>`);
    res.send(
      page(
        m.subject,
        `<p><a href="/">All messages</a></p><dl><dt>From</dt><dd>${escape(m.from)}</dd><dt>To</dt><dd>${escape(m.to.join(', '))}</dd><dt>Message-ID</dt><dd>${escape(m.messageId)}</dd></dl>${m.html ? `<iframe sandbox title="Formatted" srcdoc="${escape(m.html)}" style="border:1px solid #ccc;width:100%;height:16rem"></iframe>` : ''}<pre>${text}</pre>${filesOf(m)}${m.calendar && replies ? answering(m) : ''}${m.replyTo && replies ? `<form method="post" action="/message/${m.n}/reply"><label>Reply<br><textarea name="text" rows="4" cols="60"></textarea></label><br><button>Send reply</button></form>` : ''}`,
      ),
    );
  });
  // Anybody in the made-up organisation writes to the desk.
  web.get('/write', (_req, res) => {
    res.send(
      page(
        'Mailbox',
        `<p><a href="/">All messages</a></p><form method="post"><p><label>From <input name="from" size="40"></label></p><p><label>To <input name="to" size="40"></label></p><p><label>Subject <input name="subject" size="60"></label></p><p><label>Words<br><textarea name="text" rows="8" cols="70"></textarea></label></p><button>Send mail</button></form>`,
      ),
    );
  });
  web.post('/write', express.urlencoded({ extended: false }), async (req, res) => {
    const { from, to, subject, text } = req.body as Record<string, unknown>;
    if (!replies || [from, to, subject, text].some((s) => typeof s !== 'string') || !from || !to)
      return void res.status(400).send(page('Mailbox', '<p>Say from whom and to whom.</p>'));
    try {
      await createTransport(replies).sendMail({ from: String(from), to: String(to), subject: String(subject), text: String(text) });
      res.send(page('Mailbox', '<p>The mail was handed over.</p><p><a href="/">All messages</a></p>'));
    } catch (error) {
      res.status(502).send(page('Mailbox', `<p>The mail was not taken: ${escape(error instanceof Error ? error.message : String(error))}</p>`));
    }
  });
  // As a calendar program answers to an invitation (RFC 6047).
  web.post('/message/:n/answer', express.json(), express.urlencoded({ extended: false }), async (req, res) => {
    const m = data.messages.find((x) => x.n === Number(req.params.n));
    const { says, comment } = req.body as { says?: unknown; comment?: unknown };
    const from = m?.to[0];
    const answer =
      from && m.calendar && typeof says === 'string' && says in partstats
        ? answerTo(m.calendar, from, says as keyof typeof partstats, typeof comment === 'string' ? comment : '')
        : undefined;
    if (!answer || !replies) return void res.status(400).send(page('Mailbox', '<p>This message takes no answer of a calendar.</p>'));
    try {
      await createTransport(replies).sendMail({
        from,
        to: answer.to,
        subject: `${partstats[says as keyof typeof partstats].toLowerCase()}: ${answer.summary}`,
        text: '',
        icalEvent: { method: 'REPLY', content: answer.text },
      });
      res.send(page('Mailbox', '<p>The answer was handed over.</p><p><a href="/">All messages</a></p>'));
    } catch (error) {
      res.status(502).send(page('Mailbox', `<p>The answer was not taken: ${escape(error instanceof Error ? error.message : String(error))}</p>`));
    }
  });
  web.post('/message/:n/reply', express.urlencoded({ extended: false }), async (req, res) => {
    const m = data.messages.find((x) => x.n === Number(req.params.n));
    const words = (req.body as { text?: unknown }).text;
    if (!m?.replyTo || !replies || typeof words !== 'string')
      return void res.status(400).send(page('Mailbox', '<p>This message takes no reply.</p>'));
    const transport = createTransport(replies);
    try {
      await transport.sendMail({
        from: m.to[0],
        to: m.replyTo,
        subject: `Re: ${m.subject}`,
        inReplyTo: m.messageId,
        references: [...m.references, m.messageId],
        text: `${words}\n\nOn ${m.at}, Nessmoor wrote:\n${m.text.replace(/^/gm, '> ')}`,
      });
      res.send(page('Mailbox', '<p>The reply was handed over.</p><p><a href="/">All messages</a></p>'));
    } catch (error) {
      res.status(502).send(page('Mailbox', `<p>The reply was not taken: ${escape(error instanceof Error ? error.message : String(error))}</p>`));
    }
  });
  return { smtp, web };
}

/** What came with it to be kept; what calendar programs read is none of that. */
const filesIn = (mail: ParsedMail) => mail.attachments.filter((a) => a.contentType !== 'text/calendar');

/** The part of a message that is for calendar programs. */
function calendarIn(mail: ParsedMail): { calendar?: string } {
  const part = mail.attachments.find((a) => a.contentType === 'text/calendar');
  return part ? { calendar: part.content.toString('utf8') } : {};
}

/** The buttons a calendar program shows below an invitation. */
const answering = (m: Received): string =>
  /^METHOD:REQUEST\r?$/m.test(m.calendar ?? '')
    ? `<form method="post" action="/message/${m.n}/answer"><p>An invitation: ${Object.entries({
        yes: 'I will come',
        maybe: 'Perhaps',
        no: 'I cannot come',
      })
        .map(([says, words]) => `<button name="says" value="${says}">${words}</button>`)
        .join(' ')}</p></form>`
    : '';

/** What came with a message, to be had. */
const filesOf = (m: Received): string =>
  m.files ? `<p>With it: ${m.files.map((f, at) => `<a href="/message/${m.n}/files/${at}">${escape(f.name)}</a>`).join(', ')}</p>` : '';
