import { createHash, createHmac, randomBytes } from 'node:crypto';
import { config } from '../config.ts';

export const newToken = (): string => randomBytes(32).toString('base64url');
export const hashToken = (token: string): string => createHash('sha256').update(token).digest('hex');

/**
 * The one-time token for an approval. Made from the key and the approval, so that a mail sent again after a crash
 * carries the same link, and nothing but its hash is kept.
 */
export const approvalToken = (approvalId: string): string =>
  createHmac('sha256', Buffer.from(config().SECRET_KEY, 'hex')).update(`approval:${approvalId}`).digest('base64url');
