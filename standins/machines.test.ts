import { Validator } from '@seriousme/openapi-schema-validator';
import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { machines } from './machines.ts';

const servers: Server[] = [];
const listen = async (app: express.Express): Promise<string> => {
  const server = await new Promise<Server>((up) => {
    const s: Server = app.listen(0, '127.0.0.1', () => up(s));
  });
  servers.push(server);
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
};
let base: string;
beforeAll(async () => {
  base = await listen(machines({ token: 'key-for-tests', answerKey: 'a-key-that-signs-what-is-answered' }));
});
beforeEach(() => send('POST', '/_build', { ms: 0, ends: 'well' }));
afterAll(async () => {
  for (const s of servers) {
    s.closeAllConnections();
    await new Promise((done) => s.close(done));
  }
});
interface Answer {
  status: number;
  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- the tests look into whatever comes back
  body: any;
}
async function send(method: string, path: string, body?: object, headers: Record<string, string> = {}): Promise<Answer> {
  const answer = await fetch(`${base}${path}`, {
    method,
    headers: { authorization: 'Bearer key-for-tests', 'content-type': 'application/json', ...headers },
    ...(body && { body: JSON.stringify(body) }),
  });
  return { status: answer.status, body: await answer.json() };
}
const wanted = { size: 'Small', region: 'hall', days: 14 };
const make = (more: object = {}, headers: Record<string, string> = {}) => send('POST', '/park/machines', { ...wanted, ...more }, headers);

describe('the machine park', () => {
  it('describes itself in a document that OpenAPI 3.1 allows (held against its published schema)', async () => {
    const { body } = await send('GET', '/openapi.json');
    const validator = new Validator();
    expect(await validator.validate(body)).toEqual({ valid: true });
    expect(validator.version).toBe('3.1');
  });

  it('takes its time, says what it does, and has an address once it is there; a repeat makes no second one', async () => {
    await send('POST', '/_build', { ms: 400, ends: 'well' });
    const made = await make({ owner: 'somebody' }, { 'idempotency-key': '"one"' });
    expect(made).toMatchObject({ status: 202, body: { state: 'building', progress: 'Finding room for it', owner: 'somebody' } });
    expect(await make({}, { 'idempotency-key': '"one"' })).toEqual(made);
    const { id } = made.body as { id: string };
    expect(await send('GET', `/park/machines/${id}`)).toMatchObject({ status: 202 });
    await expect
      .poll(async () => (await send('GET', `/park/machines/${id}`)).body)
      .toMatchObject({ state: 'running', address: `${id}.science.skerrin.example` });
    expect(await send('PATCH', `/park/machines/${id}`, { days: 30 })).toMatchObject({ status: 200, body: { days: 30 } });
    expect(await send('PATCH', `/park/machines/${id}`, { days: 999 })).toMatchObject({
      status: 422,
      body: { detail: 'A machine is lent for 1 to 180 days.' },
    });
    expect(await send('DELETE', `/park/machines/${id}`)).toMatchObject({ status: 202, body: { state: 'going' } });
    await expect.poll(async () => (await send('GET', `/park/machines/${id}`)).body.state).toBe('deleted');
    const { body } = await send('GET', '/_journal');
    expect(body.filter((j: { id: string }) => j.id === id).map((j: { change: string }) => j.change)).toEqual(['made', 'extended', 'taken down']);
  });

  it('refuses what it does not know, what is too much for a region, and who has no token', async () => {
    expect(await make({ size: 'Huge' })).toMatchObject({ status: 422 });
    expect(await make({ days: 0 })).toMatchObject({ status: 422 });
    expect(await make({ size: 'Very large', region: 'lunnick', days: 61 })).toMatchObject({
      status: 422,
      body: { detail: 'days: Very large is lent for 60 days at most.' },
    });
    let last = await make({ size: 'Very large', region: 'lunnick' });
    for (let i = 0; i < 12 && last.status === 202; i++) last = await make({ size: 'Very large', region: 'lunnick' });
    expect(last).toMatchObject({ status: 409, body: { detail: 'Lunnick Station has 0 of its 160 processors left, and 16 are wanted.' } });
    expect(await make({}, { authorization: 'Bearer wrong' })).toMatchObject({ status: 401 });
    expect(await send('GET', '/park/machines/none')).toMatchObject({ status: 404 });
    expect(await send('POST', '/_build', { ms: -1, ends: 'well' })).toMatchObject({ status: 400 });
  });

  it('fails half way, loses what it had, is down: each as it is told to', async () => {
    await send('POST', '/_build', { ms: 0, ends: 'halfway' });
    expect((await make()).body).toMatchObject({ state: 'failed', cause: 'The image could not be copied' });
    await send('POST', '/_build', { ms: 0, ends: 'well' });
    const { id } = (await make()).body as { id: string };
    await send('POST', `/_lose/${id}`);
    expect(await send('GET', `/park/machines/${id}`)).toMatchObject({ status: 404 });
    await send('POST', '/_manner', { manner: 'failing' });
    expect(await make()).toMatchObject({ status: 503 });
    await send('POST', '/_manner', { manner: 'well' });
  });

  it('posts that it is done where it was told to, signed, until somebody takes it', async () => {
    const came: { headers: Record<string, unknown>; body: { state: string } }[] = [];
    const ears = express();
    ears.use(express.json());
    ears.post('/told', (req, res) => {
      came.push({ headers: req.headers, body: req.body as { state: string } });
      // The first time nobody is at home.
      res.status(came.length === 1 ? 503 : 200).json({});
    });
    const to = `${await listen(ears)}/told`;
    await send('POST', '/_build', { ms: 100, ends: 'well' });
    await make({}, { 'nessmoor-answer-to': to });
    await expect.poll(() => came.length, { timeout: 5000 }).toBe(2);
    for (const { headers, body } of came) {
      expect(body.state).toBe('running');
      expect(headers['signature-input']).toMatch(/\("@method" "@target-uri" "content-digest"\);created=\d+;keyid="machine-park"/);
      expect(headers['content-digest']).toMatch(/^sha-256=:/);
    }
  });
});
