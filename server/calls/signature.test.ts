import { createHmac } from 'node:crypto';
import { httpbis } from 'http-message-signatures';
import { describe, expect, it } from 'vitest';
import { digestOf } from './signature.ts';

describe('what a system signs', () => {
  it('is read by the published vectors: RFC 9421, appendix B.2.5 (hmac-sha256), and the digests of RFC 9530 (from memory)', async () => {
    const key = Buffer.from('uzvJfB4u3N0Jy4T7NZ75MDVcr8zSTInedJtkgcu46YW4XByzNJjxBdtjUkdJPBtbmHhIDi6pcl8jsasjlTMtDQ==', 'base64');
    let base = '';
    const verified = await httpbis.verifyMessage(
      {
        keyLookup: async () => ({
          algs: ['hmac-sha256'],
          verify: async (text, given) => {
            base = text.toString();
            return createHmac('sha256', key).update(text).digest().equals(given);
          },
        }),
      },
      {
        method: 'POST',
        url: 'https://example.com/foo?param=Value&Pet=dog',
        headers: {
          host: 'example.com',
          date: 'Tue, 20 Apr 2021 02:07:55 GMT',
          'content-type': 'application/json',
          'signature-input': 'sig-b25=("date" "@authority" "content-type");created=1618884473;keyid="test-shared-secret"',
          signature: 'sig-b25=:pxcQw6G3AjtMBQjwo8XzkZf/bws5LelbaMk5rGIGtE8=:',
        },
      },
    );
    expect(base).toContain('"@authority": example.com');
    expect(verified).toBe(true);
    // The empty body and the example of RFC 9530 and 3230, from memory.
    expect(digestOf(Buffer.from('{"hello": "world"}'))).toBe('sha-256=:X48E9qOokqqrvdts8nOJRJN3OWDUoyWxBf7kbu9DBPE=:');
    expect(digestOf(Buffer.from(''))).toBe('sha-256=:47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=:');
  });
});
