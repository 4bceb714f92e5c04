import type { ParsedMail } from 'mailparser';
import { eq } from 'drizzle-orm';
import { typed } from '../../core/boundary/index.ts';
import { readReply } from '../../core/formats/index.ts';
import { automaticOf, type MailHeader } from '../../core/intake/index.ts';
import { limits } from '../auth/limits.ts';
import { hashToken } from '../auth/token.ts';
import { decideByLink } from '../approvals/commands.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { approval, gate, person } from '../db/schema/index.ts';
import { MailRefused } from '../intake/mail.ts';
import { notFrom } from './from-whom.ts';
import { replyTaken, replyUnclear } from './reply-taken.ts';
import { sayAbout } from './write.ts';

/** The token in an address that replies go to. */
export const tokenIn = (address: string): string | undefined => {
  const [local, domain] = address.split('@');
  const token = domain?.toLowerCase() === config().MAIL_DOMAIN.toLowerCase() ? /^decide\+([\w-]{20,64})$/i.exec(local ?? '')?.[1] : undefined;
  // Programs write addresses in other letters. In mails that are out from before, small and large ones differ.
  return token && /^[0-9a-f]{40}$/i.test(token) ? token.toLowerCase() : token;
};

/** Decides as a reply to an approval says, and answers in the same thread what came of it; automatic answers decide nothing, and are not answered. */
export async function takeReply(token: string, mail: ParsedMail, header: MailHeader, remote: string): Promise<void> {
  if (automaticOf(header) !== undefined) return;
  const [asked] = await db()
    .select({ runId: gate.runId, key: gate.key, gate: gate.name, personId: person.id, email: person.email, active: person.active })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(person, eq(person.id, approval.personId))
    .where(eq(approval.tokenHash, hashToken(token)));
  if (!asked?.active) {
    if ((await limits.link(remote)) > 0) throw new MailRefused(450, 'Too many wrong addresses');
    throw new MailRefused(550, 'This address takes no replies any more.');
  }
  const say = (words: string) => sayAbout(asked.runId, { key: asked.key, to: asked.personId, subject: `Re: ${asked.gate}`, words });
  const another = notFrom(asked.email, mail, header);
  if (another !== undefined) return say(another);
  const reply = readReply(typed(mail.text ?? ''));
  if ('unclear' in reply) return say(replyUnclear('Your reply'));
  const result = await decideByLink({ token, ...reply }, 'mail reply');
  return say(replyTaken(reply.decision, result));
}
