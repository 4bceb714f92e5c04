import { eq } from 'drizzle-orm';
import { approvalToken, hashToken } from '../auth/token.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { approval, message, person } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { sendMail } from '../systems/mail/transport.ts';
import { Refused } from '../systems/trouble.ts';
import { addJobs } from './jobs.ts';

/** How often delivery is tried; the pauses grow from 2 s to an hour, about half a day in all. */
const tries = 24;
/** Days the one-time link of an approval mail works. */
const linkDays = 14;

/** Hands one message to the mail server, at least once; a repeat carries the same Message-ID. */
export async function deliverMail(id: string): Promise<void> {
  const [row] = await db()
    .select({ m: message, name: person.name, status: approval.status })
    .from(message)
    .innerJoin(person, eq(person.id, message.toId))
    .leftJoin(approval, eq(approval.id, message.approvalId))
    .where(eq(message.id, id));
  if (!row || row.m.sentAt || row.m.failedAt) return;
  if (row.m.approvalId && row.status !== 'waiting') {
    await db().update(message).set({ failedAt: new Date(), lastError: 'Not sent: answered before it could be.' }).where(eq(message.id, id));
    return;
  }
  const links = row.m.approvalId ? await approvalLinks(row.m.approvalId) : '';
  try {
    await sendMail({
      to: { name: row.name, address: row.m.toAddress },
      subject: row.m.subject,
      text: row.m.text + links,
      messageId: row.m.messageId,
      inReplyTo: row.m.inReplyTo,
    });
    await db()
      .update(message)
      .set({ sentAt: now(), attempts: row.m.attempts + 1, lastError: null })
      .where(eq(message.id, id));
  } catch (error) {
    const said = error instanceof Error ? error.message : String(error);
    const attempts = row.m.attempts + 1;
    const over = error instanceof Refused || attempts >= tries;
    log.warn({ messageId: id, attempts, said, over }, 'mail not delivered');
    await db().transaction(async (tx) => {
      await tx
        .update(message)
        .set({ attempts, lastError: said, ...(over && { failedAt: new Date() }) })
        .where(eq(message.id, id));
      if (over) return;
      const runAt = new Date(Date.now() + Math.min(3600, 2 * 2 ** (attempts - 1)) * 1000);
      await addJobs(tx, 'mail', [{ payload: { messageId: id }, key: `mail:${id}`, runAt }]);
    });
  }
}

/** The two ways to answer: signed in, or once without signing in. Both only show; deciding is a click there. */
async function approvalLinks(approvalId: string): Promise<string> {
  const token = approvalToken(approvalId);
  await db()
    .update(approval)
    .set({ tokenHash: hashToken(token), tokenExpiresAt: new Date(Date.now() + linkDays * 86_400_000) })
    .where(eq(approval.id, approvalId));
  const base = config().PUBLIC_URL;
  return `\n\nApprove or decline, signed in:\n${base}/desk/approvals/${approvalId}\n\nApprove or decline without signing in (works once, for ${linkDays} days; do not pass it on):\n${base}/desk/decide/${token}\n`;
}
