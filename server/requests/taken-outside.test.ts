import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Form } from '../../core/forms/index.ts';
import { tell } from '../../core/testing/samples.ts';
import { putInBasket, sendBasket } from '../baskets/commands.ts';
import { offeredItem } from '../items/offered.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { world, type World } from '../testing/world.ts';
import { foreseen } from './foreseen.ts';
import { submitRequest } from './submit.ts';

let w: World;
let server: Server;
/** What the system is asked, and how it answers. */
const asked: string[] = [];
let manner: 'well' | 'failing' | 'silent' = 'well';
const spaces = new Set(['torvay-sound']);

beforeAll(async () => {
  w = await world();
  const app = express();
  app.get('/spaces/:name', (req, res) => {
    asked.push(req.params.name);
    if (manner === 'failing') return void res.status(503).end();
    if (manner === 'silent') return;
    res.json({ there: spaces.has(req.params.name.toLowerCase()) });
  });
  server = await new Promise<Server>((up) => {
    const s = app.listen(0, '127.0.0.1', () => up(s));
  });
});
afterAll(async () => {
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await w.close();
});

let n = 0;
/** An item whose space must be one that the system does not know of. */
async function item(): Promise<string> {
  const kept = await keepWebSystem(w.viewer('dan', 'administrator'), {
    definition: {
      name: `Spaces ${++n}`,
      address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
      ownNetwork: true,
      timeoutMs: 1000,
      actions: [
        {
          id: 'exists',
          label: 'Whether there is a space',
          method: 'GET',
          path: '/spaces/{name}',
          inputs: [{ name: 'name', label: 'Name', type: 'text', required: true }],
          outputs: [{ name: 'there', label: 'There is one', type: 'boolean', at: '/there', always: true }],
        },
      ],
    },
    secret: '',
  });
  if (!kept.ok) throw new Error(kept.sentence);
  const form: Form = {
    fields: [{ id: 'space', kind: 'text', label: 'Name of the space', required: true, unique: { among: 'system', action: `web.${kept.id}.exists` } }],
  };
  return (await w.item(`Space ${n}`, { steps: [tell('end', 'Done')] }, form)).id;
}
const send = (itemId: string, space: string) =>
  submitRequest(w.viewer('tor'), { itemId, revision: 1, answers: { space }, idempotencyKey: crypto.randomUUID() });
const taken = [{ field: 'space', sentence: 'Name of the space is taken already. Choose another.' }];

describe('an answer of which a system says that it is taken', () => {
  it('is told while it is typed, and refused when it is sent, from the basket too', async () => {
    const id = await item();
    const tor = w.viewer('tor');
    const offer = (await offeredItem(tor, id))!;
    expect((await foreseen(tor, offer, { space: 'torvay-sound' })).taken).toEqual(taken);
    expect((await foreseen(tor, offer, { space: 'lunnick-bight' })).taken).toEqual([]);
    expect(await send(id, 'torvay-sound')).toMatchObject({ ok: false, code: 'invalid', problems: taken });
    expect((await send(id, 'lunnick-bight')).ok).toBe(true);
    expect(await putInBasket(tor, { itemId: id, revision: 1, answers: { space: 'torvay-sound' } })).toMatchObject({ ok: false, problems: taken });
    expect((await putInBasket(tor, { itemId: id, revision: 1, answers: { space: 'outer-reef' } })).ok).toBe(true);
    spaces.add('outer-reef');
    // What the system said a moment ago is not asked again at once, and is once it is old.
    const { useFakeTimers, useRealTimers } = (await import('vitest')).vi;
    useFakeTimers({ now: Date.now() + 60_000, toFake: ['Date'] });
    expect(await sendBasket(tor, { idempotencyKey: 'b1' })).toMatchObject({ ok: false, problems: [{ sentence: taken[0]!.sentence }] });
    useRealTimers();
    spaces.delete('outer-reef');
  });

  it('is asked for once while somebody types on elsewhere in the form', async () => {
    const id = await item();
    const offer = (await offeredItem(w.viewer('tor'), id))!;
    asked.length = 0;
    for (let i = 0; i < 5; i++) await foreseen(w.viewer('tor'), offer, { space: 'seal-skerry' });
    expect(asked).toEqual(['seal-skerry']);
  });

  it('holds nobody up while the system fails or says nothing', async () => {
    const id = await item();
    manner = 'failing';
    expect((await send(id, 'torvay-sound')).ok).toBe(true);
    manner = 'silent';
    expect((await send(id, 'torvay-sound')).ok).toBe(true);
    manner = 'well';
    expect((await send(id, 'torvay-sound')).ok).toBe(false);
  });
});
