import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Audience, AudienceLine, ItemDefinition } from '../../core/items/index.ts';
import { finders } from '../people/find.ts';
import { submitRequest } from '../requests/submit.ts';
import { asksOf, isFor, whyNotAsk } from './audience.ts';
import { world, type World } from '../testing/world.ts';
import { publish, saveDraft } from './commands.ts';
import { pictureCategory } from '../categories/commands.ts';
import { categoriesOf, pictured } from '../categories/queries.ts';
import { askedBefore, browse, offeredCategories, offeredItem } from './offered.ts';
import { draftOf } from './queries.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { askedOf } from '../../core/lists/index.ts';
import { withdrawRequest } from '../requests/commands.ts';
import { ledger } from '../runs/ledger.ts';
import { myRequest, myRequests } from '../requests/queries.ts';

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

describe('categories', () => {
  it('hold what stands under them and within them, however that is written; their pictures come with them', async () => {
    const dan = w.viewer('dan', 'designer');
    for (const [name, category] of [
      ['Quay light', 'Harbour/ Lights'],
      ['Quay crane', 'harbour / Cranes'],
      ['Quay pass', 'Harbour'],
      ['Harbourless', 'Harbour master'],
    ]) {
      const { id } = await w.item(name);
      const draft = (await draftOf(dan, id))!;
      const saved = await saveDraft(dan, { id, version: draft.version, draft: { ...draft.draft, category: category! } });
      if (saved.ok) await publish(dan, { id, version: saved.version, note: '' });
    }
    const names = async (within: string, words = '') => (await browse(w.viewer('tor'), words, 500, within)).map((i) => i.name).sort();
    expect(await names('Harbour')).toEqual(['Quay crane', 'Quay light', 'Quay pass']);
    expect(await names('harbour/lights')).toEqual(['Quay light']);
    expect(await names('Harbour', 'crane')).toEqual(['Quay crane']);
    expect(await names('Nowhere')).toEqual([]);
    expect(await pictureCategory(dan, { path: 'HARBOUR', picture: 'anchor' })).toEqual({ ok: true });
    expect(await pictureCategory(dan, { path: 'harbour / lights', picture: 'gauge' })).toEqual({ ok: true });
    expect(await pictureCategory(dan, { path: 'Harbour/Lights', picture: '' })).toEqual({ ok: true });
    for (const wrong of [
      { path: ' / ', picture: 'key' },
      { path: 'Harbour', picture: 'toString' },
    ])
      expect(await pictureCategory(dan, wrong)).toMatchObject({ ok: false, code: 'invalid' });
    const tree = await pictured(await offeredCategories(w.viewer('tor')));
    expect(tree.filter((c) => c.path.toLowerCase().startsWith('harbour')).map((c) => [c.depth, c.name, c.count, c.picture])).toEqual([
      [0, 'Harbour', 3, 'anchor'],
      [1, 'Cranes', 1, undefined],
      [1, 'Lights', 1, undefined],
      [0, 'Harbour master', 1, undefined],
    ]);
    expect((await categoriesOf(dan))!.find((c) => c.name === 'Harbour')).toMatchObject({ count: 3, picture: 'anchor' });
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
    expect(await whyNotAsk(w.db(), tor, id)).toBe('“Boat crane” can be asked for by everybody in tide-models. Somebody of them can ask for you.');
    expect(await whyNotAsk(w.db(), ina, id)).toBeUndefined();
    expect((await finders.item('boat', tor)).length).toBe(0);
    expect((await finders.item('boat', ina)).length).toBe(1);
    expect((await finders.item('boat', dan())).length).toBe(1);
    const { revision } = (await offeredItem(ina, id))!;
    const answers = { group: { group: w.groupId('tide-models') }, reason: 'A boat', kind: 'daily' };
    const ask = (viewer: typeof ina) => submitRequest(viewer, { itemId: id, revision, answers, idempotencyKey: crypto.randomUUID() });
    expect(await ask(tor)).toMatchObject({ ok: false, code: 'not-allowed', sentence: expect.stringContaining('Somebody of them can ask for you.') });
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
        const { forSelf: mine } = await asksOf(w.db(), w.viewer(reader));
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

describe('asking on behalf of others', () => {
  const dan = () => w.viewer('dan', 'designer');
  const answers = () => ({ group: { group: w.groupId('tide-models') }, reason: 'A boat', kind: 'daily' });
  let n = 0;
  const offer = async (more: Partial<ItemDefinition>) => {
    const { id } = await w.item(`Boat ${++n}`, { steps: [gate({ approvers: { from: 'people', people: [{ person: 'ada' }] } }), tell('end', 'End')] });
    const draft = (await draftOf(dan(), id))!;
    const saved = await saveDraft(dan(), { id, version: draft.version, draft: { ...draft.draft, ...more } });
    if (!saved.ok) throw new Error(saved.sentence);
    const published = await publish(dan(), { id, version: saved.version, note: '' });
    return { id, published };
  };
  const ask = (who: string, id: string, whom?: string) =>
    submitRequest(w.viewer(who), {
      itemId: id,
      revision: 2,
      answers: answers(),
      idempotencyKey: crypto.randomUUID(),
      forWhom: whom && (everyId.get(whom) ?? whom),
    });
  const everyId = new Map<string, string>();
  beforeAll(async () => {
    for (const u of ['boss', 'ina', 'olav', 'runa', 'dan', 'tor']) everyId.set(u, w.id(u));
    // Boss leads Runa, Runa leads Tor; the others have nobody above them.
    await w.query('update person set manager_id = null');
    await w.query('update person set manager_id = $1 where id = $2', [w.id('boss'), w.id('runa')]);
    await w.query('update person set manager_id = $1 where id = $2', [w.id('runa'), w.id('tor')]);
  });

  it('is for those who lead them, however far up, and for those who are named; refused to others with the reason, at its field', async () => {
    const { id } = await offer({ onBehalf: { managers: true, by: [{ person: { person: w.id('ina') } }] } });
    expect(await ask('boss', id, 'tor')).toMatchObject({ ok: true });
    expect(await ask('runa', id, 'tor')).toMatchObject({ ok: true });
    expect(await ask('ina', id, 'olav')).toMatchObject({ ok: true });
    const sentence = expect.stringMatching(
      /^You may not ask for .+: “Boat \d+” can be asked for on behalf of others by managers for the people they lead, and Ina Strand for anybody\.$/,
    );
    for (const [who, whom] of [
      ['tor', 'runa'],
      ['olav', 'tor'],
    ])
      expect(await ask(who!, id, whom)).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'for-whom', sentence }] });
    for (const wrong of ['nobody', crypto.randomUUID()])
      expect(await ask('boss', id, wrong)).toMatchObject({
        ok: false,
        problems: [{ field: 'for-whom', sentence: 'Choose somebody who works here.' }],
      });
    // Oneself is nobody else.
    expect(await ask('tor', id, 'tor')).toMatchObject({ ok: true });
    const plain = await offer({});
    expect(await ask('boss', plain.id, 'tor')).toMatchObject({
      ok: false,
      problems: [{ sentence: expect.stringContaining('by each for themselves') }],
    });
  });

  it('is for one of those who may ask; whoever may only ask for others finds it, and cannot ask for themselves', async () => {
    const { id } = await offer({ audience: [{ person: { person: w.id('tor') } }], onBehalf: { managers: true, by: [] } });
    expect(await offeredItem(w.viewer('boss'), id)).toMatchObject({ forSelf: false, forOthers: true });
    expect(await offeredItem(w.viewer('tor'), id)).toMatchObject({ forSelf: true, forOthers: false });
    expect(await offeredItem(w.viewer('olav'), id)).toBeUndefined();
    expect((await browse(w.viewer('boss'), `boat ${n}`)).map((i) => i.id)).toContain(id);
    expect(await ask('boss', id)).toMatchObject({ ok: false, code: 'not-allowed' });
    expect(await ask('boss', id, 'runa')).toMatchObject({
      ok: false,
      problems: [{ sentence: expect.stringMatching(/can be asked for by Tor .+; Runa Strand is none of them/) }],
    });
    expect(await ask('boss', id, 'tor')).toMatchObject({ ok: true });
  });

  it('is followed by both, withdrawn by whoever asked only, and agreed to by neither', async () => {
    const { id } = await offer({
      onBehalf: { managers: true, by: [] },
      plan: {
        steps: [
          gate({
            approvers: { from: 'people', people: ['boss', 'tor', 'olav'].map((u) => ({ person: w.id(u) })) },
            rule: { rule: 'all' },
            nobody: { then: 'fail' },
          }),
          step('tell', 'end', {
            to: { ref: 'request.for' },
            subject: [[{ text: 'It is yours' }]],
            body: [{ text: [[{ text: 'Asked by ' }, { ref: 'request.requester' }]] }],
          }),
        ],
      },
    });
    const asked = await ask('boss', id, 'tor');
    if (!asked.ok) throw new Error(asked.sentence);
    const { number } = asked;
    expect((await myRequests(w.viewer('tor'))).rows.find((r) => r.number === number)?.beside).toMatch(/^asked for you by /);
    expect((await myRequests(w.viewer('boss'))).rows.find((r) => r.number === number)?.beside).toMatch(/^for Tor /);
    expect(await myRequest(w.viewer('tor'), number)).toMatchObject({ askedBy: expect.any(String), mayWithdraw: false });
    expect(await myRequest(w.viewer('boss'), number)).toMatchObject({ forWhom: expect.any(String), mayWithdraw: true });
    expect(await withdrawRequest(w.viewer('tor'), { number })).toMatchObject({ ok: false, code: 'not-found' });
    const found = await ledger(w.viewer('dan', 'auditor'), { ...askedOf('ledger'), words: 'Tor Strand' });
    expect(found!.rows.map((r) => r.number)).toContain(number);
    const [run] = await w.query<{ id: string }>('select u.id from run u join service_case k on k.id = u.case_id where k.number = $1', [number]);
    expect((await w.approvals(run!.id)).map((a) => a.personId)).toEqual([w.id('olav')]);
    expect(await w.decide('olav', run!.id, 'approve')).toEqual({ ok: true });
    await w.work();
    expect((await w.mails('tor')).at(-1)).toMatchObject({ subject: expect.stringContaining('It is yours') });
  });

  it('wants somebody who may do it', async () => {
    const { published } = await offer({ onBehalf: { managers: false, by: [] } });
    expect(published).toMatchObject({ ok: false, sentence: 'Not published: one finding stops it.' });
    expect((await offer({ onBehalf: { managers: false, by: [{}] } })).published).toMatchObject({ ok: false });
  });
});
