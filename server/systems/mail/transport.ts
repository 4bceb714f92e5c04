import type { Readable } from 'node:stream';
import { createTransport } from 'nodemailer';
import addressparser from 'nodemailer/lib/addressparser';
import { ofSettings } from '../../config.ts';
import { PermanentError, TransientError } from '../errors.ts';

/** Whom our mails come from. */
export const ourMailbox = ofSettings(({ MAIL_FROM }) => addressparser(MAIL_FROM, { flatten: true })[0] ?? { name: '', address: '' });

const transport = ofSettings((settings) => createTransport(settings.SMTP_URL, { from: settings.MAIL_FROM }));

export interface Outgoing {
  to: { name: string; address: string };
  subject: string;
  text: string;
  /** The same words formatted; goes out beside the plain ones (RFC 2046, multipart/alternative). */
  html?: string;
  /** Files that go with it. */
  files?: { name: string; type: string; content: Readable }[];
  messageId: string;
  /** An invitation, or that it is off: for calendar programs, beside the words (RFC 6047). */
  calendar?: { method: 'REQUEST' | 'CANCEL'; content: string };
  inReplyTo: string | null;
  replyTo?: string;
}

/** Hands a message to the mail server. A permanent refusal (RFC 5321, 5yz) is Refused, all else Trouble. */
export async function sendMail(m: Outgoing): Promise<void> {
  if (!m.to.address) throw new PermanentError('The directory has no mail address of theirs.');
  try {
    await transport().sendMail({
      to: m.to,
      subject: m.subject,
      text: m.text,
      ...(m.html && { html: m.html }),
      ...(m.files && { attachments: m.files.map((f) => ({ filename: f.name, contentType: f.type, content: f.content })) }),
      ...(m.calendar && { icalEvent: { method: m.calendar.method, content: m.calendar.content, filename: 'invitation.ics' } }),
      messageId: m.messageId,
      ...(m.replyTo && { replyTo: m.replyTo }),
      ...(m.inReplyTo && { inReplyTo: m.inReplyTo, references: [m.inReplyTo] }),
      // RFC 3834: nobody's automatic answer comes back to this.
      headers: { 'Auto-Submitted': 'auto-generated' },
    });
  } catch (error) {
    const code = (error as { responseCode?: number }).responseCode;
    const said = error instanceof Error ? error.message : String(error);
    if (code !== undefined && code >= 500) throw new PermanentError(`The mail server refused: ${said}`);
    throw new TransientError(`The mail server did not take it: ${said}`);
  }
}
