import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { chat } from './chat.ts';

let server: Server;
let base: string;
beforeAll(async () => {
  server = await new Promise<Server>((up) => {
    const s = chat({ token: 'secret-token' }).listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((done) => server.close(done)));

const call = async (method: string, path: string, body?: object, token = 'secret-token') => {
  const response = await fetch(`${base}/_matrix/client/v3${path}`, {
    method,
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
    ...(body && { body: JSON.stringify(body) }),
  });
  return { status: response.status, body: (await response.json()) as Record<string, never> };
};
const room = encodeURIComponent('!tor:skerrin.example');

// The Matrix client-server API, sections on sending, transaction identifiers, threads and syncing (from memory).
describe('the chat stand-in', () => {
  it('takes a message once for each transaction id, however often it is sent', async () => {
    const first = await call('PUT', `/rooms/${room}/send/m.room.message/t1`, { msgtype: 'm.text', body: 'Hello' });
    const again = await call('PUT', `/rooms/${room}/send/m.room.message/t1`, { msgtype: 'm.text', body: 'Hello' });
    expect(again).toEqual(first);
    expect(first.body['event_id']).toMatch(/^\$/);
    const events = (await (await fetch(`${base}/_events?user=tor`)).json()) as unknown[];
    expect(events).toHaveLength(1);
  });

  it('gives what was said since a token, and what is said in a thread by the one whose room it is', async () => {
    const before = (await call('GET', '/sync')).body['next_batch'] as unknown as string;
    const { body } = await call('PUT', `/rooms/${room}/send/m.room.message/t2`, { msgtype: 'm.text', body: 'Approve?' });
    const thread = body['event_id'] as unknown as string;
    const say = (user: string, text: string) =>
      fetch(`${base}/say`, { method: 'POST', redirect: 'manual', body: new URLSearchParams({ user, thread, text }) });
    expect((await say('tor', 'Approve')).status).toBe(303);
    expect((await say('ina', 'Approve')).status).toBe(400);
    const since = await call('GET', `/sync?since=${before}`);
    const { events } = (since.body as unknown as { rooms: { join: Record<string, { timeline: { events: { sender: string; content: object }[] } }> } })
      .rooms.join['!tor:skerrin.example']!.timeline;
    expect(events.map((e) => e.sender)).toEqual(['@nessmoor:skerrin.example', '@tor:skerrin.example']);
    expect(events[1]!.content).toEqual({ body: 'Approve', 'm.relates_to': { rel_type: 'm.thread', event_id: thread } });
  });

  it('refuses strangers and messages without words, and fails as it is told to', async () => {
    expect((await call('GET', '/sync', undefined, 'guess')).status).toBe(401);
    expect((await call('PUT', `/rooms/${room}/send/m.room.message/t3`, { msgtype: 'm.text' })).status).toBe(400);
    const manner = (m: string) =>
      fetch(`${base}/_manner`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ manner: m }) });
    await manner('failing');
    expect((await call('GET', '/sync')).status).toBe(503);
    await manner('refusing');
    expect((await call('GET', '/sync')).status).toBe(403);
    await manner('well');
    expect((await call('GET', '/sync')).status).toBe(200);
  });

  it('shows a person what was said to them, with nothing of it taken for markup', async () => {
    await call('PUT', `/rooms/${room}/send/m.room.message/t4`, { msgtype: 'm.text', body: '<script>x</script>', 'nessmoor.buttons': ['Approve'] });
    const html = await (await fetch(`${base}/?user=tor`)).text();
    expect(html).toContain('&#60;script&#62;');
    expect(html).toContain('value="Approve"');
    expect(await (await fetch(`${base}/?user=nobody`)).text()).toContain('Nothing has been said');
  });
});
