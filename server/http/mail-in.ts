import { simpleParser } from 'mailparser';
import { eq } from 'drizzle-orm';
import { SMTPServer } from 'smtp-server';
import { readReply } from '../../core/formats/index.ts';
import { limits } from '../auth/limits.ts';
import { hashToken } from '../auth/token.ts';
import { decideByLink } from '../commands/approvals.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { approval, gate, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { sayAbout } from '../runtime/messages.ts';

const largest = 1_000_000;

/** The token in an address that replies go to. */
const tokenIn = (address: string): string | undefined => {
  const [local, domain] = address.split('@');
  return domain?.toLowerCase() === config().MAIL_IN_DOMAIN ? /^decide\+([\w-]{20,64})$/i.exec(local ?? '')?.[1] : undefined;
};

/** Takes replies to approval mails over SMTP (RFC 5321); mail for any other address is refused. */
export function mailIn(): SMTPServer | undefined {
  const port = config().MAIL_IN_PORT;
  if (!port) return undefined;
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    size: largest,
    onRcptTo({ address }, _session, done) {
      done(tokenIn(address) ? undefined : Object.assign(new Error(`No mailbox for ${address}`), { responseCode: 550 }));
    },
    onData(stream, session, done) {
      simpleParser(stream)
        .then(async (mail) => {
          if (stream.sizeExceeded) throw Object.assign(new Error('The reply is larger than a megabyte.'), { responseCode: 552 });
          // RFC 3834: automatic answers decide nothing.
          const auto = mail.headers.get('auto-submitted');
          if (typeof auto === 'string' && auto.toLowerCase() !== 'no') return;
          const from = mail.from?.value[0]?.address?.toLowerCase() ?? '';
          for (const { address } of session.envelope.rcptTo) await take(tokenIn(address)!, from, mail.text ?? '', session.remoteAddress);
        })
        .then(
          () => done(),
          (error: unknown) => {
            log.warn({ error: error instanceof Error ? error.message : String(error) }, 'a reply was not taken');
            done(error instanceof Error && 'responseCode' in error ? error : Object.assign(new Error('Try again later'), { responseCode: 451 }));
          },
        );
    },
  });
  server.on('error', (error) => log.error({ error: error.message }, 'mail replies'));
  server.listen(port, '127.0.0.1');
  return server;
}

/** Decides as the reply says, and answers in the same thread what came of it. */
async function take(token: string, from: string, text: string, remote: string): Promise<void> {
  const [asked] = await db()
    .select({ requestId: gate.requestId, key: gate.key, gate: gate.name, personId: person.id, email: person.email })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(person, eq(person.id, approval.personId))
    .where(eq(approval.tokenHash, hashToken(token)));
  if (!asked) {
    if ((await limits.link(remote)) > 0) throw Object.assign(new Error('Too many wrong addresses'), { responseCode: 450 });
    throw Object.assign(new Error('This address takes no replies any more.'), { responseCode: 550 });
  }
  const say = (words: string) => sayAbout(asked.requestId, { key: asked.key, to: asked.personId, subject: `Re: ${asked.gate}`, words });
  if (from !== asked.email.toLowerCase())
    return say(
      `A reply came from ${from || 'an unknown address'} and was not taken: only you can answer. If that was you, reply from ${asked.email}.`,
    );
  const reply = readReply(text);
  if ('unclear' in reply) return say('Your reply was not understood, and nothing was decided. Begin it with Approve or Decline, then your comment.');
  const result = await decideByLink({ token, ...reply }, 'mail reply');
  return say(result.ok ? `Your answer was taken: ${reply.decision === 'approve' ? 'approved' : 'declined'}.` : result.sentence);
}
