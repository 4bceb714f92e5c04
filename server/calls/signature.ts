import { createHash, createHmac, timingSafeEqual } from 'node:crypto';
import { httpbis } from 'http-message-signatures';

/** A message as it came over HTTP. */
export interface Signed {
  method: string;
  /** Where it was sent, whole. */
  url: string;
  headers: Record<string, string | string[]>;
  body: Buffer;
}

/** What a signature has to cover: where the message goes, and what it says. */
const covered = ['@method', '@target-uri', 'content-digest'];
/** How old a signature may be, and how far two clocks may be apart, in seconds. */
const oldest = 300;
const apart = 60;

/**
 * Whether a message was signed with this key (HTTP Message Signatures, RFC 9421, hmac-sha256), lately, over where it goes and what it
 * says (RFC 9530, sha-256). Gives the signature, by which the same message is known again, or the sentence why not.
 */
export async function signatureOf(message: Signed, key: string): Promise<{ ok: true; signature: string } | { ok: false; sentence: string }> {
  const digest = String(message.headers['content-digest'] ?? '');
  if (!digest.split(',').some((d) => d.trim() === digestOf(message.body)))
    return { ok: false, sentence: 'Its Content-Digest (sha-256) is not that of what it says.' };
  let signature = '';
  try {
    const verified = await httpbis.verifyMessage(
      {
        requiredFields: covered,
        requiredParams: ['created'],
        maxAge: oldest + apart,
        tolerance: apart,
        keyLookup: async () => ({
          algs: ['hmac-sha256'],
          verify: async (base, given) => {
            const ours = createHmac('sha256', key).update(base).digest();
            signature = given.toString('base64');
            return ours.length === given.length && timingSafeEqual(ours, given);
          },
        }),
      },
      message,
    );
    if (verified === true) return { ok: true, signature };
    return { ok: false, sentence: verified === null ? 'It is not signed.' : 'It was not signed with the key that is kept for this system.' };
  } catch (error) {
    return { ok: false, sentence: `Its signature cannot be taken: ${error instanceof Error ? error.message : String(error)}.` };
  }
}

/** The digest of a body as the header Content-Digest says it. */
export const digestOf = (body: Buffer): string => `sha-256=:${createHash('sha256').update(body).digest('base64')}:`;
