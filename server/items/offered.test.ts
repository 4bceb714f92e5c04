import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Audience, AudienceLine, ItemDefinition } from '../../core/items/index.ts';
import { finders } from '../people/find.ts';
import { submitRequest } from '../requests/submit.ts';
import { isFor, isForViewer, offeredToOthers } from './audience.ts';
import { world, type World } from '../testing/world.ts';
import { publish, saveDraft } from './commands.ts';
import { askedBefore, browse, offeredItem } from './offered.ts';
import { draftOf } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
  const dan = w.viewer('dan', 'designer');
  for (const [name, more] of [
    ['Colleague starting', { summary: 'Papers and a desk for somebody new.', category: 'People', alsoCalled: 'onboarding, new starter' }],
    ['Processing machine', { summary: 'A machine for tide models.', category: 'Machines' }],
    ['Réserver une salle', { summary: 'A room with a wide table.', category: 'Rooms' }],
    ['100 % charts_now', { summary: 'Printed charts.', category: 'Charts' }],
  ] as [string, Partial<ItemDefinition>][]) {
    const { id } = await w.item(name);
    const draft = (await draftOf(dan, id))!;
    const saved = await saveDraft(dan, { id, version: draft.version, draft: { ...draft.draft, ...more } });
    if (!saved.ok) throw new Error(saved.sentence);
    const published = await publish(dan, { id, version: saved.version, note: '' });
    if (!published.ok) throw new Error(published.sentence);
  }
});
afterAll(() => w.close());

describe('what can be asked for', () => {
  const names = async (words: string) => (await browse(w.viewer('tor'), words)).map((i) => i.name);

  it('is found by a part of what it is called, is for, or stands under; every word of it', async () => {
    expect(await names('machine')).toEqual(['Processing machine']);
    expect(await names('room table')).toEqual(['Réserver une salle']);
    expect(await names('machine room')).toEqual([]);
    expect((await names('')).length).toBe(4);
  });

  it('is found misspelt, without its accents, and by words that designers added', async () => {
    expect(await names('colleage')).toEqual(['Colleague starting']);
    expect(await names('procesing machin')).toEqual(['Processing machine']);
    expect(await names('RESERVER')).toEqual(['Réserver une salle']);
    expect(await names('réserver')).toEqual(['Réserver une salle']);
    expect(await names('onboarding')).toEqual(['Colleague starting']);
    expect(await names('zzz')).toEqual([]);
  });

  it('takes signs for what they are', async () => {
    expect(await names('%')).toEqual(['100 % charts_now']);
    expect(await names('charts_now')).toEqual(['100 % charts_now']);
    for (const odd of ["it's", '\\', ':*', "'; drop table item; --", 'x'.repeat(100)]) expect(await names(odd)).toEqual([]);
  });
});

describe('who may ask', () => {
  const dan = () => w.viewer('dan', 'designer');
  let id = '';
  const offerTo = async (audience: Audience | undefined) => {
    id ||= (await w.item('Boat crane')).id;
    const draft = (await draftOf(dan(), id))!;
    const saved = await saveDraft(dan(), { id, version: draft.version, draft: { ...draft.draft, audience } });
    if (!saved.ok) throw new Error(saved.sentence);
    const published = await publish(dan(), { id, version: saved.version, note: '' });
    if (!published.ok) throw new Error(published.sentence);
  };
  const everybody = ['boss', 'ina', 'olav', 'runa', 'dan', 'tor'];

  it('is held to wherever items are found, read, or asked for; the others are told who may', async () => {
    await offerTo([{ group: { group: w.groupId('tide-models') } }]);
    const [ina, tor] = [w.viewer('ina'), w.viewer('tor')];
    expect((await browse(ina, 'boat crane')).map((i) => i.name)).toEqual(['Boat crane']);
    expect(await browse(tor, 'boat crane')).toEqual([]);
    expect(await offeredItem(ina, id)).toMatchObject({ id });
    expect(await offeredItem(tor, id)).toBeUndefined();
    expect(await offeredToOthers(tor, id)).toBe('“Boat crane” can be asked for by everybody in tide-models. Somebody of them can ask for you.');
    expect(await offeredToOthers(ina, id)).toBeUndefined();
    expect((await finders.item('boat', tor)).length).toBe(0);
    expect((await finders.item('boat', ina)).length).toBe(1);
    expect((await finders.item('boat', dan())).length).toBe(1);
    const { revision } = (await offeredItem(ina, id))!;
    const answers = { group: { group: w.groupId('tide-models') }, reason: 'A boat', kind: 'daily' };
    const ask = (viewer: typeof ina) => submitRequest(viewer, { itemId: id, revision, answers, idempotencyKey: crypto.randomUUID() });
    expect(await ask(tor)).toMatchObject({ ok: false, code: 'not-found' });
    expect(await ask(ina)).toMatchObject({ ok: true });
    expect(await askedBefore(ina)).toMatchObject({ lately: [{ name: 'Boat crane' }], most: [{ name: 'Boat crane' }] });
    expect(await askedBefore(tor)).toEqual({ lately: [], most: [] });
  });

  it('means what its lines say: on generated lines, the same people as looked at one by one', async () => {
    await w.query(`update person set department = case when user_name in ('ina', 'olav') then 'Charts' else 'Tides' end,
      job_role = case when user_name in ('ina', 'tor') then 'Hydrographer' end`);
    const [hall] = await w.query<{ id: string }>("insert into location (kind, name) values ('site', 'Far quay') returning id");
    const [room] = await w.query<{ id: string }>("insert into location (kind, name, parent_id) values ('building', 'Boat room', $1) returning id", [
      hall!.id,
    ]);
    await w.query('update person set location_id = $1 where user_name = $2', [room!.id, 'olav']);
    await w.query('update person set location_id = $1 where user_name = $2', [hall!.id, 'tor']);
    const owners = new Set(['ina', 'olav']);
    const lines = fc.array(
      fc.record(
        {
          department: fc.constantFrom('charts', 'Tides', 'Pay'),
          job: fc.constantFrom('hydrographer', 'purser'),
          location: fc.constantFrom({ location: hall!.id }, { location: room!.id }),
          group: fc.constantFrom({ group: w.groupId('tide-models') }, { group: w.groupId('orphan-files') }),
          person: fc.constantFrom(...everybody).map((u) => ({ person: w.id(u) })),
        },
        { requiredKeys: [] },
      ),
      { minLength: 1, maxLength: 3 },
    );
    const one = (user: string, l: AudienceLine): boolean =>
      Object.keys(l).length > 0 &&
      (l.department === undefined || l.department.toLowerCase() === (owners.has(user) ? 'charts' : 'tides')) &&
      (l.job === undefined || (l.job === 'hydrographer' && (user === 'ina' || user === 'tor'))) &&
      (l.location === undefined || user === 'olav' || (user === 'tor' && l.location.location === hall!.id)) &&
      (l.group === undefined || (l.group.group === w.groupId('tide-models') && owners.has(user))) &&
      (l.person === undefined || l.person.person === w.id(user));
    await fc.assert(
      fc.asyncProperty(lines, async (audience) => {
        const { rows } = await w
          .db()
          .execute<{ user_name: string }>(sql`select user_name from person where ${isFor(sql`${JSON.stringify(audience)}::jsonb`, sql`person.id`)}`);
        const expected = everybody.filter((u) => audience.some((l) => one(u, l)));
        // Whoever reads is asked in another way, and is one of the same.
        const reader = everybody[audience.length % everybody.length]!;
        const mine = await isForViewer(w.db(), w.viewer(reader));
        const said = await w.db().execute<{ may: boolean }>(sql`select ${mine(sql`${JSON.stringify(audience)}::jsonb`)} as may`);
        expect(said.rows[0]!.may).toBe(expected.includes(reader));
        expect(
          rows
            .map((r) => r.user_name)
            .filter((u) => everybody.includes(u))
            .sort(),
        ).toEqual(expected.sort());
      }),
      { numRuns: 60 },
    );
  });
});
