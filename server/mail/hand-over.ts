import { and, eq, gt, isNotNull, isNull, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { invitationText, type Invitation } from '../../core/formats/index.ts';
import { waysToDecide } from './approval-asked.ts';
import { htmlText } from '../../core/values/index.ts';
import { approvalToken, hashToken, invitedToken } from '../auth/token.ts';
import { now } from '../clock.ts';
import { config, repliesByMail } from '../config.ts';
import { db } from '../db/database.ts';
import { approval, message, person } from '../db/schema/index.ts';
import { answersTo } from '../intake/ways.ts';
import { attachedTo } from './attached.ts';
import { log } from '../log.ts';
import { roomOf, sendChat } from '../systems/chat/client.ts';
import { ourMailbox, sendMail } from '../systems/mail/transport.ts';
import { PermanentError } from '../systems/errors.ts';
import { addJobs } from '../runtime/jobs.ts';
import { causeWords } from '../set-aside/put-aside.ts';

/** How often delivery is tried; the pauses grow from 2 s to an hour, about half a day in all. */
const tries = 24;
/** For how long one message waits for an earlier one, in milliseconds. */
const longestWait = 60_000;
/** Days the one-time link of an approval mail works. */
const linkDays = 14;

/** Hands one message to the mail server, at least once; a repeat carries the same Message-ID. */
export async function deliverMail(id: string): Promise<void> {
  const [row] = await db()
    .select({ m: message, name: person.name, userName: person.userName, status: approval.status })
    .from(message)
    .innerJoin(person, eq(person.id, message.toId))
    .leftJoin(approval, eq(approval.id, message.approvalId))
    .where(eq(message.id, id));
  if (!row || row.m.sentAt || row.m.failedAt) return;
  if (row.m.approvalId && row.status !== 'waiting') {
    await db().update(message).set({ failedAt: new Date(), lastError: 'Not sent: answered before it could be.' }).where(eq(message.id, id));
    return;
  }
  if (row.m.via === 'chat' && (await waitsForEarlier(row.m))) {
    await addJobs(db(), 'mail', [{ payload: { messageId: id }, key: `mail:${id}`, runAt: new Date(Date.now() + 1000) }]);
    return;
  }
  const attached = await attachedTo(row.m);
  const links = row.m.approvalId ? await approvalLinks(row.m.approvalId, row.m.via) : '';
  const calendar = row.m.invitation && calendarOf(row.m.invitation, row.m.invitedId);
  const repliesTo = calendar
    ? calendar.answersTo
    : row.m.approvalId
      ? repliesByMail() && replyAddress(row.m.approvalId)
      : await answersTo(row.m.caseId);
  try {
    let chatEvent: string | null = null;
    if (row.m.via === 'chat') {
      chatEvent = await sendChat({
        room: roomOf(row.userName),
        text: `${row.m.subject}\n\n${row.m.text}${attached.words}${links}`,
        ...(row.m.content && { html: htmlText([[{ text: row.m.subject, bold: true }], ...row.m.content, ...attached.lines]) }),
        once: row.m.id,
        thread: await threadOf(row.m.caseId, row.m.toId),
        buttons: row.m.approvalId ? ['Approve', 'Decline'] : [],
      });
    } else
      await sendMail({
        ...(repliesTo && { replyTo: repliesTo }),
        to: { name: row.name, address: row.m.toAddress },
        subject: row.m.subject,
        text: row.m.text + attached.words + links,
        ...(calendar && { calendar: { method: calendar.method, content: calendar.content } }),
        ...(attached.files.length > 0 && { files: attached.files }),
        ...(row.m.content && { html: htmlText([...row.m.content, ...attached.lines]) }),
        messageId: row.m.messageId,
        inReplyTo: row.m.inReplyTo,
      });
    await db()
      .update(message)
      .set({ sentAt: now(), attempts: row.m.attempts + 1, lastError: null, invitation: null, ...(chatEvent && { chatEvent }) })
      .where(eq(message.id, id));
  } catch (error) {
    const said = heard(causeWords(error), 1000);
    const attempts = row.m.attempts + 1;
    const over = error instanceof PermanentError || attempts >= tries;
    log.warn({ messageId: id, attempts, said, over }, 'mail not delivered');
    await db().transaction(async (tx) => {
      await tx
        .update(message)
        .set({ attempts, lastError: said, ...(over && { failedAt: new Date(), invitation: null }) })
        .where(eq(message.id, id));
      if (over) return;
      const runAt = new Date(Date.now() + Math.min(3600, 2 * 2 ** (attempts - 1)) * 1000);
      await addJobs(tx, 'mail', [{ payload: { messageId: id }, key: `mail:${id}`, runAt }]);
    });
  }
}

/**
 * Whether something earlier to the same person about the same case is still to go out, and was not tried yet: a chat shows what is
 * said in the order in which it comes, and the first of them begins the thread. What was tried in vain, or waits for longer than
 * that, holds nothing up.
 */
async function waitsForEarlier(m: typeof message.$inferSelect): Promise<boolean> {
  const before = sql`(${message.createdAt}, ${message.id}) < (${m.createdAt.toISOString()}::timestamptz, ${m.id})`;
  const recent = gt(message.createdAt, new Date(now().getTime() - longestWait));
  const ready = and(isNull(message.sentAt), isNull(message.failedAt), eq(message.attempts, 0), recent, before);
  const earlier = await db()
    .select({ id: message.id })
    .from(message)
    .where(and(eq(message.caseId, m.caseId), eq(message.toId, m.toId), eq(message.via, 'chat'), ready))
    .limit(1);
  return earlier.length > 0;
}

/** The first chat message to this person about this case; later ones stand in its thread. */
async function threadOf(caseId: string, toId: string): Promise<string | undefined> {
  const [first] = await db()
    .select({ event: message.chatEvent })
    .from(message)
    .where(and(eq(message.caseId, caseId), eq(message.toId, toId), isNotNull(message.chatEvent)))
    .orderBy(message.createdAt, message.id)
    .limit(1);
  return first?.event ?? undefined;
}

/** What a calendar program reads of an invitation: answers go to an address that holds the token of whoever is invited, where any can come. */
function calendarOf(invitation: Invitation, invitedId: string | null) {
  const answersTo = invitedId !== null && repliesByMail() && `meeting+${invitedToken(invitedId)}@${config().MAIL_DOMAIN}`;
  const { name, address } = ourMailbox();
  const organizer = { name, email: answersTo || address };
  return { answersTo, method: invitation.method, content: invitationText(invitation, organizer, answersTo !== false) };
}

/** Replies go to an address that holds the one-time token, as the link does. */
export const replyAddress = (approvalId: string): string => `decide+${approvalToken(approvalId)}@${config().MAIL_DOMAIN}`;

/** The ways to answer; the one-time link is made anew and kept nowhere in the clear. */
async function approvalLinks(approvalId: string, via: 'mail' | 'chat'): Promise<string> {
  const token = approvalToken(approvalId);
  await db()
    .update(approval)
    .set({ tokenHash: hashToken(token), tokenExpiresAt: new Date(Date.now() + linkDays * 86_400_000) })
    .where(eq(approval.id, approvalId));
  const base = config().PUBLIC_URL;
  return waysToDecide({
    via,
    signedIn: `${base}/desk/approvals/${approvalId}`,
    link: `${base}/desk/decide/${token}`,
    linkDays,
    replies: repliesByMail(),
  });
}
