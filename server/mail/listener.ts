import type { Readable } from 'node:stream';
import { simpleParser, type ParsedMail, type SimpleParserOptions } from 'mailparser';
import { SMTPServer, type SMTPServerSession } from 'smtp-server';
import { heard } from '../../core/boundary/index.ts';
import { ourAddress } from '../../core/intake/index.ts';
import { hashToken } from '../auth/token.ts';
import { config, repliesByMail } from '../config.ts';
import { db } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { MailRefused, takeMail, type MailIn } from '../intake/mail.ts';
import { wayCalled, type Way } from '../intake/ways.ts';
import { log } from '../log.ts';
import { causeWords, putAside } from '../set-aside/put-aside.ts';
import { invitedTokenIn, takeInvitationReply } from '../meetings/answer.ts';
import { takeReply, tokenIn } from './approval-reply.ts';

/** Bytes of a mail with all that is attached, and of an answer to an approval or an invitation. */
const largest = 35_000_000;
const largestReply = 1_000_000;
/** Characters of formatted words that are made plain, which is done while everybody waits; of more nothing is. */
const mostHtml = 500_000;
/** How many are taken in at once; the next ones wait at their servers. */
const atOnce = 10;

/** To whom a mail came: an approval or an invitation that it answers, or a way in. */
type To = { token: string; of: 'approval' | 'invitation' } | { way: Way; number?: number | undefined };

/** Takes mail over SMTP (RFC 5321): answers to approvals and invitations, and what opens tickets or is about them; mail for any other address is refused. */
export function mailIn(): SMTPServer | undefined {
  const port = config().MAIL_IN_PORT;
  if (!port) return undefined;
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    size: largest,
    maxClients: atOnce,
    onRcptTo({ address }, _session, done) {
      recipient(address).then(
        (to) => done(to ? undefined : new MailRefused(550, 'There is no such mailbox.')),
        () => done(new MailRefused(451, 'Try again later')),
      );
    },
    onData(stream, session, done) {
      take(stream, session).then(
        () => done(),
        (error: unknown) => {
          log.warn({ error: causeWords(error) }, 'a mail was not taken');
          done(error instanceof MailRefused ? error : new MailRefused(451, 'Try again later'));
        },
      );
    },
  });
  server.on('error', (error) => log.error({ error: error.message }, 'mail in'));
  server.listen(port, '127.0.0.1');
  return server;
}

async function recipient(address: string): Promise<To | undefined> {
  const token = tokenIn(address);
  if (token !== undefined) return repliesByMail() ? { token, of: 'approval' } : undefined;
  const invited = invitedTokenIn(address);
  if (invited !== undefined) return repliesByMail() ? { token: invited, of: 'invitation' } : undefined;
  const ours = ourAddress(address, config().MAIL_DOMAIN);
  const way = ours && (await wayCalled(db(), 'mail', ours.name));
  return way && { way, number: ours.number };
}

async function take(stream: Readable & { sizeExceeded: boolean }, session: SMTPServerSession): Promise<void> {
  const raw = await whole(stream);
  if (raw === undefined) throw new MailRefused(552, 'This mail has more than 35 MB. Send less of it, or attach it at the Counter.');
  const to = await Promise.all(session.envelope.rcptTo.map(({ address }) => recipient(address)));
  const tokens = [...new Map(to.flatMap((t) => (t && 'token' in t ? [[t.token, t.of] as const] : [])))];
  const ways = to.flatMap((t) => (t && 'way' in t ? [t] : []));
  const from = session.envelope.mailFrom ? session.envelope.mailFrom.address : '';
  if (tokens.length > 0) {
    if (raw.length > largestReply) throw new MailRefused(552, 'The reply is larger than a megabyte.');
    // Only the plain words count: what an HTML part shows or hides is anybody's guess.
    const mail = await parsed(raw, { skipHtmlToText: true });
    const { header } = readMail(mail, from);
    for (const [token, of] of tokens) {
      const act = of === 'approval' ? takeReply : takeInvitationReply;
      await orPutAside('A reply by mail', mail, hashToken(token), () => act(token, mail, header, session.remoteAddress));
    }
  }
  if (ways.length > 0) {
    const mail = await parsed(raw, { maxHtmlLengthToParse: mostHtml });
    const read = readMail(mail, from);
    for (const { way, number } of ways)
      await orPutAside(`A mail from ${heard(read.from[0]?.address ?? '', 200)}`, mail, way.id, () => takeMail(way, number, read));
  }
}

/** What cannot be read today cannot be read tomorrow: its sender is told, and nobody brings it again. */
async function parsed(raw: Buffer, more: SimpleParserOptions): Promise<ParsedMail> {
  try {
    return await simpleParser(raw, { skipTextToHtml: true, skipImageLinks: true, ...more });
  } catch (error) {
    log.warn({ error: causeWords(error) }, 'a mail could not be read');
    throw new MailRefused(554, 'This mail could not be read. Send it in plain words, or use the Counter.');
  }
}

/** All of a mail; undefined: it is too large, and was read to its end without being kept. */
async function whole(stream: Readable & { sizeExceeded: boolean }): Promise<Buffer | undefined> {
  let kept: Buffer[] = [];
  let size = 0;
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size <= largest) kept.push(chunk);
    else kept = [];
  }
  return size > largest || stream.sizeExceeded ? undefined : Buffer.concat(kept);
}

function readMail(mail: ParsedMail, envelopeFrom: string): MailIn {
  const fields = mail.headerLines.map(
    ({ key, line }) => [key.toLowerCase(), heard(line.replace(/^[^:]*:/, '').replace(/\r?\n\s+/g, ' '), 20_000).trim()] as const,
  );
  const [text, html] = [(mail.text ?? '').trim(), mail.html || ''];
  return {
    header: { fields, envelopeFrom },
    from: (mail.from?.value ?? []).flatMap(({ address, name }) => (address ? [{ address, name }] : [])),
    subject: mail.subject ?? '',
    text: text || (html === '' ? '' : 'Its formatted words cannot be read as plain ones. They are attached as they came.'),
    isRead: text !== '' || html === '',
    attachments: [
      ...mail.attachments.map((a, i) => ({ name: heard(a.filename ?? `attached-${i + 1}`, 200), content: a.content })),
      ...(text === '' && html !== '' ? [{ name: 'formatted-words.txt', content: Buffer.from(html) }] : []),
    ],
  };
}

/**
 * One mail harms only itself: what cannot be taken, for no fault of the database, is put aside, and its sender's mail server
 * is told, which tells them. With the database away that server is to bring it again.
 */
async function orPutAside(what: string, mail: ParsedMail, key: string, act: () => Promise<void>): Promise<void> {
  try {
    await act();
  } catch (error) {
    if (error instanceof MailRefused || isDatabaseTrouble(error)) throw error;
    await putAside(db(), { source: 'mail', key: mail.messageId ?? key, what, cause: error, payload: heard(mail.text ?? '', 5000) });
    throw new MailRefused(554, 'Your mail could not be taken, and was put aside. Use the Counter or the Desk, or the link in the mail.');
  }
}
