import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { config } from '../config.ts';

const key = () => createHash('sha256').update(`seal:${config().SECRET_KEY}`).digest();

/** Encrypts a secret (AES-256-GCM) for keeping; the nonce and tag stand before the text. */
export function seal(secret: string): string {
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', key(), nonce);
  const text = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), text]).toString('base64');
}

/** Opens a sealed secret; throws when it was changed or sealed with another key. */
export function unseal(sealed: string): string {
  const all = Buffer.from(sealed, 'base64');
  const decipher = createDecipheriv('aes-256-gcm', key(), all.subarray(0, 12));
  decipher.setAuthTag(all.subarray(12, 28));
  return Buffer.concat([decipher.update(all.subarray(28)), decipher.final()]).toString('utf8');
}
