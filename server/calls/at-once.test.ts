import { setTimeout } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { step } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import type { Operand } from '../../core/values/index.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { keepUserNames } from '../systems/directory/user-name-rule.ts';
import { ownActionSpecs } from '../systems/index.ts';
import { world, type World } from '../testing/world.ts';
import { tendCall } from './tend.ts';

/** One call that several workers tend at the same time, as happens where one was given up for dead and was not: the real directory. */
let w: World;
beforeAll(async () => {
  w = await world();
  const rule = { form: 'given.family' as const, most: 20, domain: 'skerrin.example' };
  expect(await keepUserNames(w.viewer('dan', 'administrator'), { version: 0, rule })).toEqual({ ok: true });
});
afterAll(() => w.close());

const literal = (value: unknown) => ({ literal: value }) as Operand;
const person = (who: string) => literal({ person: w.id(who) });
const inTides = (who: string) => ({ group: literal({ group: w.groupId('tide-models') }), person: person(who) });
/** Whoever adds an action of the directory that finds what was so already says here how it is asked for. */
const asked: Record<string, (who: string, round: string) => Record<string, Operand>> = {
  'directory.addMember': inTides,
  'directory.addOwner': inTides,
  'directory.addLicence': (who) => ({ person: person(who), licence: literal('Chart drawing') }),
  'directory.changeAccount': (who, round) => ({ person: person(who), department: literal(`Tides ${round}`) }),
  'directory.disableAccount': (who) => ({ person: person(who) }),
  'directory.enableAccount': (who) => ({ person: person(who) }),
  'directory.createAccount': (who, round) => ({ given: literal(who), family: literal(round) }),
};
/** What each is taken back by, so that the next round finds nothing done. */
const back = {
  'directory.addMember': 'directory.removeMember',
  'directory.addOwner': 'directory.removeOwner',
  'directory.addLicence': 'directory.removeLicence',
};
const people = ['runa', 'tor', 'dan'];
const form: Form = { fields: [{ id: 'group', kind: 'group', label: 'Group', required: true }] };
let items = 0;

it('knows of every action that finds what was so already', () => {
  expect(Object.keys(asked).toSorted()).toEqual(
    ownActionSpecs
      .filter((a) => a.unchangedWhen !== undefined)
      .map((a) => a.id)
      .toSorted(),
  );
});

/** Has something done for each of these people, each call by five workers at once, all at the same time. */
async function atOnce(action: string, inputs: (who: string) => Record<string, Operand>) {
  const runs = await Promise.all(
    people.map(async (who) => {
      const steps = [step('provision', 'give', { action, inputs: inputs(who), ...noted(action) })];
      const item = await w.item(`At once ${++items}`, { steps }, form);
      return w.ask(w.viewer('ina'), item.id);
    }),
  );
  const ids = runs.map((r) => r.id);
  // What was refused because another change came between is sent again, by all of them.
  for (let round = 0; round < 12; round++) {
    const open = await w.query<{ id: string }>('select id from call where run_id = any($1) and closed_at is null order by id', [ids]);
    if (open.length === 0) break;
    // One after the other by moments: what one has done another finds while the first is not yet back.
    await Promise.all(open.flatMap(({ id }) => [0, 3, 6, 9, 12].map((ms) => setTimeout(ms).then(() => tendCall(id)))));
  }
  return w.query<{ status: string; outputs: Record<string, unknown>; held: number }>(
    `select c.status, c.outputs, (select count(*)::int from holding h where h.run_id = c.run_id and h.ended_at is null) as held
      from call c where c.run_id = any($1) and c.action = $2`,
    [ids, action],
  );
}
const noted = (action: string) => (action === 'directory.createAccount' ? { note: { to: { ref: 'request.requester' }, openFor: 'P7D' } } : {});

for (const manner of ['well', 'forgetful'] as const)
  it.each(Object.keys(asked))(
    `%s, in a directory that ${manner === 'well' ? 'knows keys' : 'keeps no keys'}: done once, as what was not so before, and held`,
    async (action) => {
      await w.manner('directory', manner);
      const gives = ownActionSpecs.find((a) => a.id === action)!.gives !== undefined;
      const before = (await w.journal()).length;
      const done = await atOnce(action, (who) => asked[action]!(who, manner));
      expect(done.map((d) => ({ ...d, outputs: d.outputs['already'] }))).toEqual(
        people.map(() => ({ status: 'succeeded', outputs: false, held: gives ? 1 : 0 })),
      );
      expect((await w.journal()).slice(before)).toHaveLength(people.length);
      if (action === 'directory.createAccount')
        expect(
          (await directoryClient.users()).found
            .filter((u) => u.userName.endsWith(`.${manner}`))
            .map((u) => u.userName)
            .toSorted(),
        ).toEqual(people.map((who) => `${who}.${manner}`).toSorted());
      const undone = Object.entries(back).find(([of]) => of === action)?.[1];
      if (undone) expect((await atOnce(undone, inputsBack(action, manner))).map((d) => d.outputs['was'])).toEqual(people.map(() => true));
    },
  );
const inputsBack = (action: string, manner: string) => (who: string) => asked[action]!(who, manner);

it('many who come into one group at once are no failure of the directory: each is in at the first try', async () => {
  await w.manner('directory', 'well');
  const everybody = ['boss', 'ina', 'olav', 'runa', 'tor', 'dan'];
  const steps = (who: string) => [
    step('provision', 'give', { action: 'directory.addMember', inputs: inTides(who), retries: { times: 1, firstPauseSeconds: 1, factor: 1 } }),
  ];
  const runs = await Promise.all(
    everybody.map(async (who) => w.ask(w.viewer('ina'), (await w.item(`At once ${++items}`, { steps: steps(who) }, form)).id)),
  );
  const ids = runs.map((r) => r.id);
  const calls = await w.query<{ id: string }>('select id from call where run_id = any($1)', [ids]);
  await Promise.all(calls.map((c) => tendCall(c.id)));
  expect((await w.scimGroup('tide-models')).members).toHaveLength(everybody.length);
  expect(
    await w.query('select t.n, t.ok, count(*)::int from call_try t join call c on c.id = t.call_id where c.run_id = any($1) group by 1, 2', [ids]),
  ).toEqual([{ n: 1, ok: 'yes', count: everybody.length }]);
});
