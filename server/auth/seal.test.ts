import { beforeAll, describe, expect, it } from 'vitest';
import { seal, unseal } from './seal.ts';
import { config } from '../config.ts';
import { testSettings } from '../testing/settings.ts';

beforeAll(() => void testSettings({}));

describe('sealed secrets', () => {
  it('open again to what they were, look different each time, and do not open once they were changed', async () => {
    const [a, b] = [seal('tide and time'), seal('tide and time')];
    expect([unseal(a), unseal(b), a === b]).toEqual(['tide and time', 'tide and time', false]);
    const [id, body] = a.split('.') as [string, string];
    const bytes = Buffer.from(body, 'base64');
    bytes[bytes.length - 1]! ^= 1;
    expect(() => unseal(`${id}.${bytes.toString('base64')}`)).toThrow();
    expect(() => unseal(`00000000.${body}`)).toThrow('not there any more');
  });

  it('carry the id of their key, so that a key can be replaced: what the old one sealed still opens, and is sealed anew', async () => {
    const [old, plain] = [seal('tide and time'), seal('older still').split('.')[1]!];
    const before = config().SECRET_KEY;
    config().SECRET_KEY = 'ef'.repeat(32);
    expect(() => unseal(old)).toThrow('not there any more');
    config().SECRET_KEYS_BEFORE = before;
    expect([unseal(old), unseal(plain)]).toEqual(['tide and time', 'older still']);
    expect(seal(unseal(old)).split('.')[0]).not.toBe(old.split('.')[0]);
    config().SECRET_KEY = before;
    config().SECRET_KEYS_BEFORE = '';
  });
});
