import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const told = tell('end', 'End');

describe('HTTP systems', () => {
  let server: Server;
  const seen: { path: string; key: string | undefined; auth: string | undefined; body: unknown }[] = [];
  let answer: (res: express.Response) => void = (res) => void res.json({ booking: { number: 7 } });
  beforeAll(async () => {
    const app = express();
    app.use(express.json());
    app.use((req, res) => {
      seen.push({ path: req.path, key: req.get('idempotency-key'), auth: req.get('authorization'), body: req.body });
      answer(res);
    });
    server = await new Promise<Server>((up) => {
      const s = app.listen(0, '127.0.0.1', () => up(s));
    });
  });
  afterAll(() => new Promise((done) => server.close(done)));

  const definition = (ownNetwork: boolean) => ({
    name: 'Berths',
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`,
    ownNetwork,
    timeoutSeconds: 1,
    actions: [
      {
        id: 'reserve',
        label: 'Reserve a berth',
        method: 'POST',
        path: '/berths/{berth}/bookings',
        inputs: [
          { name: 'berth', label: 'Berth', type: 'text', required: true },
          { name: 'person', label: 'For', type: 'person', required: true },
        ],
        outputs: [{ name: 'number', label: 'Number', type: 'number', at: '/booking/number', always: true }],
      },
    ],
  });
  const run = async (systemId: string) => {
    const p = step('provision', 'p', {
      action: `web.${systemId}.reserve`,
      inputs: { berth: { literal: 'North/2' }, person: { ref: 'request.requester' } },
      retries: { times: 1, firstPauseSeconds: 1, factor: 1 },
    });
    const made = await w.askPlan({ steps: [p, told] });
    await w.work();
    await w.work();
    const [s] = await w.query<{ stuck_cause: string | null; outputs: object }>(
      "select stuck_cause, outputs from run_step where request_id = $1 and key = 'p#1'",
      [made.id],
    );
    return { ...s!, id: made.id };
  };

  it('are called with an idempotency key and the sealed secret; answers that make no sense, redirects and silence leave the step stuck with a sentence', async () => {
    const { keepWebSystem } = await import('./web-systems.ts');
    expect(await keepWebSystem(w.viewer('dan', 'designer'), { definition: definition(true), secret: '' })).toMatchObject({
      ok: false,
      code: 'not-allowed',
    });
    const admin = w.viewer('dan', 'administrator');
    expect(await keepWebSystem(admin, { definition: { ...definition(true), address: 'ftp://x' }, secret: '' })).toMatchObject({
      ok: false,
      code: 'invalid',
    });
    const made = await keepWebSystem(admin, { definition: definition(true), secret: 'tide-and-time' });
    if (!made.ok) throw new Error(made.sentence);
    const [row] = await w.query<{ sealed_secret: string }>('select sealed_secret from web_system');
    expect(row!.sealed_secret).not.toContain('tide-and-time');
    const good = await run(made.id);
    expect(good).toMatchObject({ stuck_cause: null, outputs: { number: 7 } });
    expect(seen.at(-1)).toEqual({
      path: '/api/berths/North%2F2/bookings',
      key: `"${good.id}/p#1/0"`,
      auth: 'Bearer tide-and-time',
      body: { person: w.id('tor') },
    });
    const cases: [(res: express.Response) => void, RegExp][] = [
      [(res) => void res.send('<p>Hello</p>'), /not JSON/],
      [(res) => void res.json({ booking: { number: 'seven' } }), /not a number/],
      [(res) => void res.redirect('http://elsewhere.example/'), /redirect/],
      [(res) => void res.status(422).json({ title: 'Berth is taken' }), /refused with 422: Berth is taken/],
      [(res) => void res.status(500).json({}), /answered 500/],
      [() => undefined, /did not answer within 1 s/],
    ];
    for (const [how, cause] of cases) {
      answer = how;
      expect((await run(made.id)).stuck_cause).toMatch(cause);
    }
  }, 60_000);

  it('in the own network are refused unless registered for it', async () => {
    const { keepWebSystem } = await import('./web-systems.ts');
    const made = await keepWebSystem(w.viewer('dan', 'administrator'), { definition: { ...definition(false), name: 'Berths outside' }, secret: '' });
    if (!made.ok) throw new Error(made.sentence);
    answer = (res) => void res.json({ booking: { number: 7 } });
    expect((await run(made.id)).stuck_cause).toContain('own network');
    const { isOwnNetwork } = await import('../systems/web/call.ts');
    expect(['10.1.2.3', '127.0.0.1', '169.254.1.1', '192.168.0.9', '::1', 'fe80::1', '::ffff:10.0.0.1'].map(isOwnNetwork)).toEqual(
      Array(7).fill(true),
    );
    expect(['93.184.216.34', '2606:2800:220:1::1'].map(isOwnNetwork)).toEqual([false, false]);
  });
});
