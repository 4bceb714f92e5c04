import { createHash, createHmac, randomBytes } from 'node:crypto';
import { config } from '../config.ts';

export const newToken = (): string => randomBytes(32).toString('base64url');
export const hashToken = (token: string): string => createHash('sha256').update(token).digest('hex');

/** A token made from the key and what it is for, so that a mail sent again after a crash carries the same link, and nothing but its hash is kept. */
const tokenFor = (what: string): string => createHmac('sha256', Buffer.from(config().SECRET_KEY, 'hex')).update(what).digest('base64url');

/** The one-time token for an approval. */
export const approvalToken = (approvalId: string): string => tokenFor(`approval:${approvalId}`);
/** Of the link by which somebody from outside confirms what they asked for, and follows it. */
export const outsideToken = (publicRequestId: string): string => tokenFor(`outside:${publicRequestId}`);
