import { simpleParser, type ParsedMail } from 'mailparser';
import { eq } from 'drizzle-orm';
import { SMTPServer, type SMTPServerSession } from 'smtp-server';
import { heard, typed } from '../../core/boundary/index.ts';
import { isVouchedFor, readReply } from '../../core/formats/index.ts';
import { limits } from '../auth/limits.ts';
import { hashToken } from '../auth/token.ts';
import { decideByLink } from '../approvals/commands.ts';
import { config, repliesByMail } from '../config.ts';
import { db } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { approval, gate, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { replyFromAnother, replyNotVouchedFor, replyTaken, replyUnclear } from './reply-taken.ts';
import { sayAbout } from './write.ts';
import { causeWords, putAside } from '../set-aside/put-aside.ts';

const largest = 1_000_000;

/** The token in an address that replies go to. */
const tokenIn = (address: string): string | undefined => {
  const [local, domain] = address.split('@');
  return domain?.toLowerCase() === config().MAIL_DOMAIN ? /^decide\+([\w-]{20,64})$/i.exec(local ?? '')?.[1] : undefined;
};

/** Takes replies to approval mails over SMTP (RFC 5321); mail for any other address is refused. */
export function mailIn(): SMTPServer | undefined {
  const port = config().MAIL_IN_PORT;
  if (!port || !repliesByMail()) return undefined;
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    size: largest,
    onRcptTo({ address }, _session, done) {
      done(tokenIn(address) ? undefined : refusal(550, 'There is no such mailbox.'));
    },
    onData(stream, session, done) {
      // Only the plain words count: what an HTML part shows or hides is anybody's guess.
      simpleParser(stream, { skipHtmlToText: true, skipTextToHtml: true, skipImageLinks: true })
        .then(async (mail) => {
          if (stream.sizeExceeded) throw refusal(552, 'The reply is larger than a megabyte.');
          if (isAutomatic(mail, session)) return;
          const envelope = session.envelope.rcptTo.map(({ address }) => tokenIn(address)).filter((t) => t !== undefined);
          for (const token of new Set(envelope)) await takeOrPutAside(token, mail, session.remoteAddress);
        })
        .then(
          () => done(),
          (error: unknown) => {
            log.warn({ error: causeWords(error) }, 'a reply was not taken');
            done(error instanceof Error && 'responseCode' in error ? error : refusal(451, 'Try again later'));
          },
        );
    },
  });
  server.on('error', (error) => log.error({ error: error.message }, 'mail replies'));
  server.listen(port, '127.0.0.1');
  return server;
}

const refusal = (responseCode: number, words: string) => Object.assign(new Error(words), { responseCode });

/** RFC 3834: automatic answers decide nothing, and are not answered; nor does what came with no sender to send back to. */
function isAutomatic(mail: ParsedMail, session: SMTPServerSession): boolean {
  const header = (name: string) =>
    mail.headerLines
      .find((h) => h.key === name)
      ?.line.replace(/^[^:]*:/, '')
      .trim()
      .toLowerCase();
  const auto = header('auto-submitted');
  return (
    (auto !== undefined && auto !== 'no') ||
    /^(bulk|list|junk|auto_reply)/.test(header('precedence') ?? '') ||
    header('x-auto-response-suppress') !== undefined ||
    header('x-autoreply') !== undefined ||
    header('list-id') !== undefined ||
    !session.envelope.mailFrom ||
    session.envelope.mailFrom.address === ''
  );
}

/**
 * One reply harms only itself: what cannot be taken, for no fault of the database, is put aside, and its sender's mail server
 * is told, which tells them. With the database away that server is to bring it again.
 */
async function takeOrPutAside(token: string, mail: ParsedMail, remote: string): Promise<void> {
  try {
    await take(token, mail, remote);
  } catch (error) {
    if ((error instanceof Error && 'responseCode' in error) || isDatabaseTrouble(error)) throw error;
    await putAside(db(), {
      source: 'mail',
      key: mail.messageId ?? hashToken(token),
      what: 'A reply by mail',
      cause: error,
      payload: heard(mail.text ?? '', 5000),
    });
    throw refusal(554, 'Your reply could not be taken. Decide at the Desk, or by the link in the mail.');
  }
}

/** Decides as the reply says, and answers in the same thread what came of it. */
async function take(token: string, mail: ParsedMail, remote: string): Promise<void> {
  const [asked] = await db()
    .select({ runId: gate.runId, key: gate.key, gate: gate.name, personId: person.id, email: person.email, active: person.active })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(person, eq(person.id, approval.personId))
    .where(eq(approval.tokenHash, hashToken(token)));
  if (!asked?.active) {
    if ((await limits.link(remote)) > 0) throw refusal(450, 'Too many wrong addresses');
    throw refusal(550, 'This address takes no replies any more.');
  }
  const say = (words: string) => sayAbout(asked.runId, { key: asked.key, to: asked.personId, subject: `Re: ${asked.gate}`, words });
  const senders = mail.from?.value ?? [];
  const from = heard(senders[0]?.address?.toLowerCase() ?? '', 200);
  if (senders.length !== 1 || !from || from !== asked.email.toLowerCase()) return say(replyFromAnother(from, asked.email));
  const server = config().MAIL_VOUCHED_BY;
  const vouching = mail.headerLines.filter((h) => h.key === 'authentication-results').map((h) => h.line.replace(/^[^:]*:/, '').replace(/\s+/g, ' '));
  if (server && !isVouchedFor(vouching, server, from)) return say(replyNotVouchedFor);
  const reply = readReply(typed(mail.text ?? ''));
  if ('unclear' in reply) return say(replyUnclear('Your reply'));
  const result = await decideByLink({ token, ...reply }, 'mail reply');
  return say(replyTaken(reply.decision, result));
}
