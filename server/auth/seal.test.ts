import { beforeAll, describe, expect, it } from 'vitest';

beforeAll(() => {
  Object.assign(process.env, {
    DATABASE_URL: 'postgres://x@127.0.0.1:1/x',
    PORT: '1',
    PUBLIC_URL: 'http://127.0.0.1:1',
    SECRET_KEY: 'cd'.repeat(32),
    DIRECTORY_URL: 'http://127.0.0.1:1',
    DIRECTORY_TOKEN: 'secret-token',
    SMTP_URL: 'smtp://127.0.0.1:1',
  });
});

describe('sealed secrets', () => {
  it('open again to what they were, look different each time, and do not open once they were changed', async () => {
    const { seal, unseal } = await import('./seal.ts');
    const [a, b] = [seal('tide and time'), seal('tide and time')];
    expect([unseal(a), unseal(b), a === b]).toEqual(['tide and time', 'tide and time', false]);
    const bytes = Buffer.from(a, 'base64');
    bytes[bytes.length - 1]! ^= 1;
    expect(() => unseal(bytes.toString('base64'))).toThrow();
  });
});
