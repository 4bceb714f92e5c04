import type { ParsedMail } from 'mailparser';
import { heard } from '../../core/boundary/index.ts';
import { isVouchedFor } from '../../core/formats/index.ts';
import type { MailHeader } from '../../core/intake/index.ts';
import { config } from '../config.ts';
import { replyFromAnother, replyNotVouchedFor } from './reply-taken.ts';

/** Whether the organisation's mail server vouches for a sender (RFC 8601); where none is named, nobody has to. */
export function isVouched(header: MailHeader, address: string): boolean {
  const server = config().MAIL_VOUCHED_BY;
  const vouching = header.fields.flatMap(([name, value]) => (name === 'authentication-results' ? [value.replace(/\s+/g, ' ')] : []));
  return !server || isVouchedFor(vouching, server, address);
}

/** Why a reply is not taken as that of somebody with this address, as they are told; undefined: it is theirs. */
export function notFrom(email: string, mail: ParsedMail, header: MailHeader): string | undefined {
  const senders = mail.from?.value ?? [];
  const from = heard(senders[0]?.address?.toLowerCase() ?? '', 200);
  if (senders.length !== 1 || !from || from !== email.toLowerCase()) return replyFromAnother(from, email);
  return isVouched(header, from) ? undefined : replyNotVouchedFor;
}
