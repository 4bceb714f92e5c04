import { createHash, createHmac, randomBytes } from 'node:crypto';
import { config } from '../config.ts';

export const newToken = (): string => randomBytes(32).toString('base64url');
export const hashToken = (token: string): string => createHash('sha256').update(token).digest('hex');

/** A token made from the key and what it is for, so that a mail sent again after a crash carries the same link, and nothing but its hash is kept. */
const tokenFor = (what: string): string => hmac(what).digest('base64url');
/** One that stands in a mail address: 160 bits in hex, for programs write addresses in small letters, and a mailbox name has 64 characters (RFC 5321, 4.5.3.1.1). */
const inAddress = (what: string): string => hmac(what).digest('hex').slice(0, 40);
const hmac = (what: string) => createHmac('sha256', Buffer.from(config().SECRET_KEY, 'hex')).update(what);

/** The one-time token for an approval. */
export const approvalToken = (approvalId: string): string => inAddress(`approval:${approvalId}`);
/** Of the address that answers to an invitation go to. */
export const invitedToken = (invitedId: string): string => inAddress(`invited:${invitedId}`);
/** Of the link by which somebody from outside confirms what they asked for, and follows it. */
export const outsideToken = (publicRequestId: string): string => tokenFor(`outside:${publicRequestId}`);
