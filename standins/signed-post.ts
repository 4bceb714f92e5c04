import { createHash, createHmac, randomUUID } from 'node:crypto';
import { httpbis } from 'http-message-signatures';

/** What is posted to this address to say this, signed with this key. */
export async function signed(
  to: string,
  body: object,
  key: string,
  created = new Date(),
  keyId = 'stand-in',
): Promise<{ headers: Record<string, string>; body: string }> {
  const text = JSON.stringify(body);
  const message = await httpbis.signMessage(
    {
      key: { id: keyId, alg: 'hmac-sha256', sign: async (base) => createHmac('sha256', key).update(base).digest() },
      fields: ['@method', '@target-uri', 'content-digest'],
      params: ['created', 'keyid', 'alg', 'nonce'],
      paramValues: { created, nonce: randomUUID() },
    },
    {
      method: 'POST',
      url: to,
      headers: { 'content-type': 'application/json', 'content-digest': `sha-256=:${createHash('sha256').update(text).digest('base64')}:` },
    },
  );
  return { headers: message.headers as Record<string, string>, body: text };
}

/** Posts it; whether it was taken. What is refused for good is not sent again. */
export async function signedPost(to: string, body: object, key: string, keyId: string): Promise<boolean> {
  try {
    const answer = await fetch(to, { method: 'POST', ...(await signed(to, body, key, new Date(), keyId)) });
    return answer.ok || (answer.status >= 400 && answer.status < 500);
  } catch {
    return false;
  }
}
