import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { keepWebSystem } from './commands.ts';
import { trace } from '../runs/queries.ts';
import { isPrivateNetwork } from './client.ts';

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
    timeoutMs: 1000,
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
    await setSystemOwners('host', { system: systemId, people: [w.id('boss')] });
    const p = step('provision', 'p', {
      action: `web.${systemId}.reserve`,
      inputs: { berth: { literal: 'North/2' }, person: { ref: 'request.requester' } },
      retries: { times: 1, firstPauseSeconds: 1, factor: 1 },
    });
    const made = await w.askPlan({ steps: [p, told] });
    await w.work();
    await w.work();
    const [s] = await w.query<{ stuck_cause: string | null; outputs: object }>(
      "select stuck_cause, outputs from run_step where run_id = $1 and key = 'p#1'",
      [made.id],
    );
    return { ...s!, id: made.id };
  };

  it('are called with an idempotency key and the sealed secret; answers that make no sense, redirects and silence leave the step stuck with a sentence', async () => {
    expect(await keepWebSystem(w.viewer('dan', 'designer'), { definition: definition(true), secret: '' })).toMatchObject({
      ok: false,
      code: 'not-allowed',
    });
    const admin = w.viewer('dan', 'administrator');
    expect(await keepWebSystem(admin, { definition: { ...definition(true), address: 'ftp://x' }, secret: '' })).toMatchObject({
      ok: false,
      code: 'invalid',
    });
    for (const secret of ['two\nlines', 'with blank', 'ünïcode', 'x\u0000'])
      expect(await keepWebSystem(admin, { definition: definition(true), secret })).toMatchObject({
        code: 'invalid',
        problems: [{ field: 'secret' }],
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
      // What could not even be kept: every one of these once left the call waiting, or the worker in a crash loop.
      [(res) => void res.status(400).type('json').send('{"detail":"bad \\u0000 \\ud800"}'), /refused with 400: bad \ufffd \ufffd/],
      [(res) => void res.type('json').send('{"booking":{"number":"\\ud800"}}'), /cannot be kept/],
      [(res) => void res.type('json').send('['.repeat(100_000) + ']'.repeat(100_000)), /not JSON/],
      [(res) => void res.type('json').send(`{"booking":{"number":${'9'.repeat(400)}}}`), /cannot be kept/],
      [(res) => void res.type('json').send('{"booking":{"number":null}}'), /nothing at/],
      [(res) => void res.type('json').send(`"${'x'.repeat(2_000_000)}"`), /more than a megabyte/],
      [(res) => void res.status(403).json({ detail: `You sent ${res.req.headers.authorization}` }), /You sent Bearer \(secret\)/],
    ];
    for (const [how, cause] of cases) {
      answer = how;
      const failed = await run(made.id);
      expect(failed.stuck_cause).toMatch(cause);
      // The trace can be read, whatever was answered, and our own token stands nowhere in it.
      const shown = JSON.stringify(await trace(admin, (await w.request(failed.id)).number));
      expect(shown).not.toContain('tide-and-time');
    }
    const { rows } = { rows: await w.query<{ n: number }>("select count(*)::int as n from call where status = 'waiting'") };
    expect(rows[0]!.n).toBe(0);
  }, 60_000);

  it('what is gone is done where the action says so: 404 and 410, and nothing else', async () => {
    const admin = w.viewer('dan', 'administrator');
    const away = (goneIsDone: boolean, always: boolean) => {
      const of = definition(true);
      const [only] = of.actions;
      return {
        ...of,
        name: `Away ${goneIsDone}`,
        actions: [{ ...only!, method: 'DELETE', goneIsDone, outputs: only!.outputs.map((o) => ({ ...o, always })) }],
      };
    };
    expect(await keepWebSystem(admin, { definition: away(true, true), secret: '' })).toMatchObject({
      ok: false,
      sentence: 'It answers something always, and of what is gone nothing is answered.',
    });
    const [is, not] = await Promise.all([away(true, false), away(false, false)].map((d) => keepWebSystem(admin, { definition: d, secret: '' })));
    if (!is?.ok || !not?.ok) throw new Error('not kept');
    for (const [system, status, cause] of [
      [is.id, 404, null],
      [is.id, 410, null],
      [is.id, 409, /refused with 409/],
      [not.id, 404, /refused with 404/],
    ] as const) {
      answer = (res) => void res.status(status).end();
      const { stuck_cause } = await run(system);
      if (cause === null) expect(stuck_cause).toBeNull();
      else expect(stuck_cause).toMatch(cause);
    }
    answer = (res) => void res.json({ booking: { number: 7 } });
  });

  it('in the own network are refused unless registered for it', async () => {
    const made = await keepWebSystem(w.viewer('dan', 'administrator'), { definition: { ...definition(false), name: 'Berths outside' }, secret: '' });
    if (!made.ok) throw new Error(made.sentence);
    answer = (res) => void res.json({ booking: { number: 7 } });
    expect((await run(made.id)).stuck_cause).toContain('own network');
    expect(['10.1.2.3', '127.0.0.1', '169.254.1.1', '192.168.0.9', '::1', 'fe80::1', '::ffff:10.0.0.1'].map(isPrivateNetwork)).toEqual(
      Array(7).fill(true),
    );
    expect(['93.184.216.34', '2606:2800:220:1::1'].map(isPrivateNetwork)).toEqual([false, false]);
  });
});

describe('what a system answers as a person', () => {
  it('has to be somebody who is known; else the step is stuck with the sentence, and its trace can be read', async () => {
    const app = express();
    let who: unknown = '';
    app.use((_req, res) => void res.json({ owner: who }));
    const server = await new Promise<Server>((up) => {
      const s = app.listen(0, '127.0.0.1', () => up(s));
    });
    const admin = w.viewer('dan', 'administrator');
    const definition = {
      name: 'Registry',
      address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
      ownNetwork: true,
      timeoutMs: 2000,
      actions: [
        {
          id: 'owner',
          label: 'Look up an owner',
          method: 'GET',
          path: '/owner',
          inputs: [],
          outputs: [{ name: 'owner', label: 'Owner', type: 'person', at: '/owner', always: true }],
        },
      ],
    };
    const made = await keepWebSystem(admin, { definition, secret: '' });
    if (!made.ok) throw new Error(made.sentence);
    await setSystemOwners('host', { system: made.id, people: [w.id('boss')] });
    const asked = step('provision', 'p', { action: `web.${made.id}.owner`, inputs: {} });
    for (const [answered, cause] of [
      [w.id('ina'), null],
      ['nobody', /person as “Owner” that is not known/],
      [crypto.randomUUID(), /person as “Owner” that is not known/],
      ["x' or 1=1", /cannot be kept|not a person/],
      [{ person: 'x' }, /person as “Owner” that is not known/],
      [7, /not a person/],
    ] as [unknown, RegExp | null][]) {
      who = answered;
      const { id, number } = await w.askPlan({ steps: [asked, told] });
      await w.work();
      const [s] = await w.query<{ stuck_cause: string | null }>("select stuck_cause from run_step where run_id = $1 and key = 'p#1'", [id]);
      if (cause === null) expect(s!.stuck_cause).toBeNull();
      else expect(s!.stuck_cause).toMatch(cause);
      expect(await trace(admin, number)).toMatchObject({ number });
    }
    await new Promise((done) => server.close(done));
  });
});
