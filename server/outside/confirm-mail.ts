import { and, eq, sql } from 'drizzle-orm';
import { hashToken, outsideToken } from '../auth/token.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { item, person, publicRequest, revision } from '../db/schema/index.ts';
import { log } from '../log.ts';
import { askAtTheCounter, confirmRequest } from '../mail/confirm-request.ts';
import { PermanentError } from '../systems/errors.ts';
import { sendMail } from '../systems/mail/transport.ts';
import { hoursToConfirm } from './ask.ts';

/** Asks whoever is said to have asked for something from outside to confirm it; where the address is of somebody here, says where they ask. */
export async function askToConfirm(publicRequestId: string): Promise<void> {
  const [row] = await db()
    .select({ email: publicRequest.email, caseId: publicRequest.caseId, item: revision.name, itemId: item.id })
    .from(publicRequest)
    .innerJoin(item, eq(item.id, publicRequest.itemId))
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(eq(publicRequest.id, publicRequestId));
  if (!row || row.caseId) return;
  const worksHere = (await db().$count(person, and(eq(person.active, true), eq(sql`lower(${person.email})`, row.email.toLowerCase())))) > 0;
  const base = config().PUBLIC_URL;
  const words = worksHere
    ? askAtTheCounter(row.item, `${base}/counter/ask/${row.itemId}`)
    : confirmRequest(row.item, hoursToConfirm, `${base}/public/requests/${outsideToken(publicRequestId)}`);
  // The link is known from the moment on in which it may arrive; that of somebody who works here is sent to nobody.
  await db()
    .update(publicRequest)
    .set({ tokenHash: hashToken(worksHere ? crypto.randomUUID() : outsideToken(publicRequestId)) })
    .where(eq(publicRequest.id, publicRequestId));
  try {
    await sendMail({ to: { name: '', address: row.email }, ...words, messageId: `<${publicRequestId}@${config().MAIL_DOMAIN}>`, inReplyTo: null });
  } catch (error) {
    // An address that takes no mail confirms nothing; whoever typed it is told of on no other way.
    if (!(error instanceof PermanentError)) throw error;
    log.warn({ publicRequestId, said: error.message }, 'a mail to confirm a request was refused');
  }
}
