import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { gate, step } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';
import type { Changing } from './action.ts';
import { directoryClient, ownership } from './directory/client.ts';
import { action } from './index.ts';

/** Who owns a group, changed by the actions themselves and by a plan, over SCIM with the stand-in. */
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());
beforeEach(() => w.manner('directory', 'well'));

const change = async (
  id: 'addOwner' | 'removeOwner',
  who: string,
  key: string,
  changing: Changing = { begun: () => Promise.resolve(false), begin: () => Promise.resolve() },
) => (await action(w.db(), `directory.${id}`))!.run({ group: { group: w.groupId('tide-models') }, person: { person: w.id(who) } }, key, '', changing);
/** The owners by the directory, and by what is known here. */
async function owners(): Promise<{ there: string[]; here: string[] }> {
  const group = await w.scimGroup('tide-models');
  const here = await w.query<{ name: string }>(
    `select p.user_name as name from group_person g join person p on p.id = g.person_id where g.group_id = $1 and g."as" = 'owner' order by 1`,
    [w.groupId('tide-models')],
  );
  const names = new Map(['boss', 'ina', 'olav', 'runa', 'tor', 'dan'].map((u) => [w.scimUser(u), u]));
  return { there: (group[ownership]?.owners ?? []).map((o) => names.get(o.value) ?? o.value).sort(), here: here.map((h) => h.name) };
}

describe('the owners of a group', () => {
  it('are one more, and one less: in the directory and here at once, each change once, and nothing else of the group is touched', async () => {
    const before = await w.scimGroup('tide-models');
    const first = (await owners()).there;
    expect(first.length).toBeGreaterThan(0);
    expect(await change('addOwner', 'tor', 'k1')).toEqual({ is: 'done', outputs: { already: false } });
    expect(await owners()).toEqual({ there: [...first, 'tor'].sort(), here: [...first, 'tor'].sort() });
    expect(await change('addOwner', 'tor', 'k2')).toEqual({ is: 'done', outputs: { already: true } });
    // A call that was cut off after the directory had done it: what it finds is its own doing.
    expect(await change('addOwner', 'tor', 'k1', { begun: () => Promise.resolve(true), begin: () => Promise.resolve() })).toMatchObject({
      outputs: { already: false },
    });
    expect(await change('removeOwner', 'tor', 'k3')).toEqual({ is: 'done', outputs: { was: true } });
    expect(await change('removeOwner', 'tor', 'k4')).toEqual({ is: 'done', outputs: { was: false } });
    expect(await owners()).toEqual({ there: first, here: first });
    const { members, displayName, [ownership]: extension } = await w.scimGroup('tide-models');
    expect({ members, displayName, purpose: extension?.purpose }).toEqual({
      members: before.members,
      displayName: before.displayName,
      purpose: before[ownership]?.purpose,
    });
    expect((await w.journal()).filter((j) => ['k1', 'k2', 'k3', 'k4'].includes(j.key ?? '')).map((j) => j.key)).toEqual(['k1', 'k3']);
    // What is known here is what the directory says, also when it is read anew.
    await w.sync();
    expect((await owners()).here).toEqual(first);
  });

  it('are never none: of two who are taken off at once one stays', async () => {
    const [one] = (await owners()).there;
    await change('addOwner', 'tor', 'k5');
    for (const o of (await owners()).there.filter((x) => x !== one && x !== 'tor')) await change('removeOwner', o, `off-${o}`);
    const results = await Promise.allSettled([change('removeOwner', one!, 'k6'), change('removeOwner', 'tor', 'k7')]);
    expect(results.filter((r) => r.status === 'fulfilled')).toHaveLength(1);
    const { there, here } = await owners();
    expect(there).toHaveLength(1);
    expect(here).toEqual(there);
    await expect(change('removeOwner', there[0]!, 'k8')).rejects.toThrow('the last owner of this group');
  });

  it('change by a plan: who owns it agrees, and whoever is made an owner is asked from then on', async () => {
    const [one] = (await owners()).there;
    const stated = { literal: { group: w.groupId('tide-models') } };
    const of = { group: stated, person: { ref: 'request.requester' } };
    const run = await w.askPlan(
      {
        steps: [
          gate({ approvers: { from: 'ownersOf', group: stated }, rule: { rule: 'first' } }),
          step('provision', 'own', { action: 'directory.addOwner', inputs: of }),
          step('tell', 'told', { to: { ref: 'request.requester' }, subject: [[{ text: 'Done' }]], body: [{ text: [[{ text: 'You own it.' }]] }] }),
        ],
      },
      'runa',
    );
    expect(await w.decide(one!, run.id, 'approve')).toMatchObject({ ok: true });
    await w.work();
    expect((await w.request(run.id)).outcome).toBe('fulfilled');
    expect((await owners()).here).toContain('runa');
    expect(await directoryClient.group((await w.scimGroup('tide-models')).id)).toMatchObject({
      [ownership]: { owners: expect.any(Array) as unknown },
    });
  });
});
