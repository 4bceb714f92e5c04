import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { config } from '../config.ts';

/** The keys there are, by id: the present one first, then those it took the place of. */
function keys(): Map<string, Buffer> {
  const all = [config().SECRET_KEY, ...config().SECRET_KEYS_BEFORE.split(',').filter(Boolean)];
  return new Map(all.map((hex) => [keyId(hex), createHash('sha256').update(`seal:${hex}`).digest()]));
}
/** What names a key without telling it. */
const keyId = (hex: string): string => createHash('sha256').update(`id:${hex}`).digest('hex').slice(0, 8);

/** Encrypts a secret (AES-256-GCM) for keeping; the id of the key, nonce and tag stand before the text. */
export function seal(secret: string): string {
  const [[id, key]] = [...keys()] as [[string, Buffer]];
  const nonce = randomBytes(12);
  const cipher = createCipheriv('aes-256-gcm', key, nonce);
  const text = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return `${id}.${Buffer.concat([nonce, cipher.getAuthTag(), text]).toString('base64')}`;
}

/** Opens a sealed secret; throws when it was changed, or sealed with a key that is not there any more. */
export function unseal(sealed: string): string {
  const [id, body] = sealed.includes('.') ? (sealed.split('.') as [string, string]) : [undefined, sealed];
  // What was sealed before keys had ids was sealed with the first there was: the last of the list.
  const key = id === undefined ? [...keys().values()].at(-1) : keys().get(id);
  if (!key) throw new Error('The key that this secret was sealed with is not there any more.');
  const all = Buffer.from(body, 'base64');
  const decipher = createDecipheriv('aes-256-gcm', key, all.subarray(0, 12));
  decipher.setAuthTag(all.subarray(12, 28));
  return Buffer.concat([decipher.update(all.subarray(28)), decipher.final()]).toString('utf8');
}
