import { describe, expect, it } from 'vitest';
import { pointed, webOutputs, webRequest, WebSystem, type WebAction } from './index.ts';

const action: WebAction = {
  id: 'reserve',
  label: 'Reserve a berth',
  method: 'POST',
  path: '/berths/{berth}/bookings',
  inputs: [{ name: 'berth', label: 'Berth', type: 'text', required: true }],
  outputs: [
    { name: 'number', label: 'Number', type: 'number', at: '/booking/number', always: true },
    { name: 'note', label: 'Note', type: 'text', at: '/note', always: false },
  ],
};

describe('an HTTP system', () => {
  it('puts inputs into the path as segments and the rest into the body', () => {
    expect(webRequest(action, { berth: 'North/2', who: { person: 'p1' }, days: 3 })).toEqual({
      path: '/berths/North%2F2/bookings',
      body: { who: 'p1', days: 3 },
    });
  });
  it('reads outputs, and tells an answer that makes no sense', () => {
    expect(webOutputs(action, { booking: { number: 7 } })).toEqual({ ok: true, outputs: { number: 7, note: null } });
    expect(webOutputs(action, {})).toMatchObject({ ok: false, sentence: expect.stringContaining('nothing at “/booking/number”') });
    expect(webOutputs(action, { booking: { number: 'seven' } })).toMatchObject({ ok: false, sentence: expect.stringContaining('not a number') });
    expect(webOutputs(action, null)).toMatchObject({ ok: false });
  });
  it('refuses addresses that are not http', () => {
    const system = { name: 'Berths', ownNetwork: true, timeoutSeconds: 5, actions: [action] };
    expect(
      [`http://127.0.0.1:9`, 'ftp://x', 'file:///etc/passwd', 'nonsense'].map((address) => WebSystem.safeParse({ ...system, address }).success),
    ).toEqual([true, false, false, false]);
  });
  it.each([
    // RFC 6901, section 5.
    ['', { foo: ['bar', 'baz'], '': 0, 'a/b': 1, 'm~n': 8 }],
    ['/foo/0', 'bar'],
    ['/', 0],
    ['/a~1b', 1],
    ['/m~0n', 8],
    ['/nothing/here', undefined],
  ])('reads the pointer “%s” as RFC 6901 does', (pointer, value) => {
    expect(pointed({ foo: ['bar', 'baz'], '': 0, 'a/b': 1, 'm~n': 8 }, pointer)).toEqual(value);
  });
});
