import express from 'express';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { askedOf } from '../../core/lists/index.ts';
import { anyValue } from '../../core/testing/any-value.ts';
import { plainOf, type Single, type SingleType } from '../../core/values/index.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { loopback } from '../testing/loopback.ts';
import { world, type World } from '../testing/world.ts';
import { settleDifference } from './commands.ts';
import { differenceList } from './list.ts';

/** What a system has, told by an input of its action: of every type that one can have. */
let w: World;
const on = loopback();
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await on.close();
  await w.close();
});
const administrator = () => w.viewer('dan', 'administrator');
const open = async () => (await differenceList(administrator(), askedOf('differences', 'state=open')))!.rows;

/** What a system can be asked about, and say in a list. */
const spoken = (Object.keys(anyValue) as SingleType[]).filter((t) => !['row', 'file', 'entry', 'holding'].includes(t));
it.each(spoken)('what is known by a %s that its action is told is found, taken over and taken back by the same', async (type) => {
  const real: Partial<Record<SingleType, Single>> = {
    person: { person: w.id('olav') },
    group: { group: w.groupId('tide-models') },
    team: { team: w.teamId },
    location: { location: (await w.query<{ id: string }>('select id from location limit 1'))[0]!.id },
  };
  const what = real[type] ?? fc.sample(anyValue[type], { numRuns: 1, seed: 7 })[0]!;
  const taken: unknown[] = [];
  const app = express();
  app.get('/things', (_req, res) => void res.json({ things: taken.length > 0 ? [] : [{ is: plainOf(what), who: w.id('ina') }] }));
  app.post('/take', express.json(), (req, res) => {
    taken.push((req.body as { thing: unknown }).thing);
    res.json({});
  });
  const slots = [
    { name: 'thing', label: 'Thing', type, required: true },
    { name: 'who', label: 'Whose', type: 'person', required: true },
  ];
  const lent = await keepWebSystem(administrator(), {
    definition: {
      name: `Keeper of a ${type}`,
      address: await on.listen(app),
      ownNetwork: true,
      timeoutMs: 5000,
      actions: [
        {
          ...{ id: 'give', label: 'Give', method: 'POST', path: '/give', inputs: slots, outputs: [], undoneBy: 'take' },
          gives: { kind: 'thing', person: 'who', what: 'thing' },
          listing: { path: '/things', rows: '/things', who: '/who', what: '/is' },
        },
        { id: 'take', label: 'Take', method: 'POST', path: '/take', inputs: slots, outputs: [] },
      ],
    },
    secret: '',
  });
  if (!lent.ok) throw new Error(JSON.stringify(lent));
  await setSystemOwners('host', { system: lent.id, people: [w.id('boss')] });
  await w.read(lent.id);
  const [row] = await open();
  expect(row).toMatchObject({ is: 'unknown', kind: 'thing', who: 'Ina Strand' });
  expect(await settleDifference(administrator(), { id: row!.id, how: 'takeBack', person: w.id('ina'), why: 'Not hers.' })).toMatchObject({
    ok: true,
  });
  await w.work();
  expect(taken).toEqual([plainOf(what)]);
  await w.read(lent.id);
  expect(await open()).toEqual([]);
});
