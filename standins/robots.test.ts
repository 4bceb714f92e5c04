import { Validator } from '@seriousme/openapi-schema-validator';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { robotDesk } from './robots.ts';

let server: Server;
let base: string;
beforeAll(async () => {
  server = await new Promise<Server>((up) => {
    const s: Server = robotDesk({ token: 'key-for-tests', answerKey: 'a-key-that-signs-what-is-answered' }).listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});
beforeEach(() => send('POST', '/_work', { ms: 0, ends: 'well' }));

async function send(method: string, path: string, body?: object, headers: Record<string, string> = {}) {
  const answer = await fetch(`${base}${path}`, {
    method,
    headers: { authorization: 'Bearer key-for-tests', 'content-type': 'application/json', ...headers },
    ...(body && { body: JSON.stringify(body) }),
  });
  return {
    status: answer.status,
    body: (await answer.json()) as Record<string, never> & { id: string; state: string; result: { password: string } },
  };
}
const reset = (account = 'liv@skerrin.example', headers = {}) => send('POST', '/desk/robots/reset-password/jobs', { account }, headers);
const opens = async (account: string, password: string) => (await send('POST', '/_opens', { account, password })).body['opens'] as unknown;

it('describes itself in a document that OpenAPI 3.1 allows (held against its published schema)', async () => {
  expect(await new Validator().validate((await send('GET', '/openapi.json')).body)).toEqual({ valid: true });
});

it('sets a password once, however often the same call comes, and the one before opens nothing any more', async () => {
  const first = await reset('liv@skerrin.example', { 'idempotency-key': 'one' });
  expect([first.status, (await reset('liv@skerrin.example', { 'idempotency-key': 'one' })).body.id]).toEqual([202, first.body.id]);
  const done = await send('GET', `/desk/jobs/${first.body.id}`);
  expect(done).toMatchObject({ status: 200, body: { state: 'done' } });
  expect(await opens('liv@skerrin.example', done.body.result.password)).toBe(true);
  const second = await send('GET', `/desk/jobs/${(await reset()).body.id}`);
  expect(await opens('liv@skerrin.example', done.body.result.password)).toBe(false);
  expect(await opens('liv@skerrin.example', second.body.result.password)).toBe(true);
  // What was done before is not done again by being asked about.
  await send('GET', `/desk/jobs/${first.body.id}`);
  expect(await opens('liv@skerrin.example', second.body.result.password)).toBe(true);
});

it('takes its time, fails, refuses what it does not understand and whom it does not know', async () => {
  await send('POST', '/_work', { ms: 60_000, ends: 'well' });
  const slow = await reset();
  expect(await send('GET', `/desk/jobs/${slow.body.id}`)).toMatchObject({ status: 202, body: { state: 'running', progress: 'Signing in' } });
  await send('POST', '/_work', { ms: 0, ends: 'failed' });
  expect(await send('GET', `/desk/jobs/${(await reset()).body.id}`)).toMatchObject({
    status: 200,
    body: { state: 'failed', cause: 'The account is locked' },
  });
  expect((await reset('nobody')).status).toBe(422);
  expect((await send('POST', '/desk/robots/none/jobs', {})).status).toBe(404);
  expect((await send('GET', '/desk/jobs/none')).status).toBe(404);
  expect((await reset('a@b.example', { authorization: 'Bearer wrong' })).status).toBe(401);
});
