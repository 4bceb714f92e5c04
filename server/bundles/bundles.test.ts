import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { gate, tell } from '../../core/testing/samples.ts';
import { changePolicy, createPolicy } from '../policies/commands.ts';
import { publish, saveDraft } from '../items/commands.ts';
import { draftOf } from '../items/queries.ts';
import { world, type World } from '../testing/world.ts';
import { importBundle, readImport, takeImportBack } from './commands.ts';
import { importsLately, writtenBundle } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const dan = () => w.viewer('dan', 'designer');
const good = <T extends { ok: boolean }>(r: T) => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r as Extract<T, { ok: true }>;
};
const counts = async () =>
  (
    await w.query<{ items: number; policies: number; tables: number; rows: number }>(
      'select (select count(*)::int from item) as items, (select count(*)::int from policy) as policies, (select count(*)::int from reference_table) as tables, (select count(*)::int from reference_row) as rows',
    )
  )[0]!;

/** An item with a part of its own, a policy, a table; as a file. */
async function made(name: string) {
  const policy = good(await createPolicy(dan(), { name: `${name}: spending` }));
  const lines = [{ id: 'boss', approvers: { from: 'people', people: [{ person: w.id('boss') }] }, rule: { rule: 'any' } }];
  good(await changePolicy(dan(), { id: policy.id, version: 1, definition: { name: `${name}: spending`, purpose: '', inputs: [], lines }, note: '' }));
  const plan: Plan = {
    steps: [
      gate({ approvers: { from: 'policy', policy: policy.id, inputs: {} }, nobody: { then: 'fail' } }),
      gate({
        id: 'both',
        name: 'Both sides agree',
        approvers: {
          from: 'several',
          of: [
            { from: 'ownersOf', group: { literal: { group: w.groupId('tide-models') } } },
            { from: 'team', team: w.teamId },
          ],
        },
        rule: { rule: 'oneOfEach' },
        nobody: { then: 'fail' },
      }),
      tell('t', 'Tell the end'),
    ],
  };
  const { id } = await w.item(name, { steps: [tell('t', 'Tell the end')] });
  const draft = (await draftOf(dan(), id))!;
  const form = {
    fields: [...draft.draft.form.fields, { id: 'size', kind: 'row' as const, label: 'Size', required: false, table: w.machine.table }],
  };
  good(await saveDraft(dan(), { id, version: draft.version, draft: { ...draft.draft, form, plan: { ...draft.draft.plan, steps: plan.steps } } }));
  return { id, policy: policy.id };
}

it('an item comes back as it was elsewhere: its table and policy made, its people found, all of it taken back in one act', async () => {
  const { id, policy } = await made('Machine abroad');
  const { file, name } = (await writtenBundle(dan(), id, true))!;
  expect(name).toBe('Machine abroad');
  const text = JSON.stringify(file);
  expect(text).not.toMatch(/secret|password/i);
  // The same file where all is there: nothing changes.
  const before = await counts();
  expect(good(await readImport(dan(), { text, chosen: {} })).entries.map((e) => [e.what, e.is])).toEqual([
    ['item', 'same'],
    ['policy', 'same'],
    ['table', 'same'],
  ]);
  expect(good(await importBundle(dan(), { text, chosen: {} }))).toMatchObject({ id: undefined, item: id });
  expect(await counts()).toEqual(before);
  // Elsewhere: under other names nothing of it is there.
  const table = (file as { tables: { definition: { name: string } }[] }).tables[0]!.definition.name;
  const abroad = text.replaceAll('Machine abroad', 'Machine at home').replaceAll(`"${table}"`, '"Sizes at home"');
  const read = good(await readImport(dan(), { text: abroad, chosen: {} }));
  expect(read.entries.map((e) => [e.what, e.is, e.words])).toEqual([
    ['item', 'added', []],
    ['policy', 'added', []],
    ['table', 'added', ['with 2 rows']],
  ]);
  expect(read.unmatched).toEqual([]);
  const done = good(await importBundle(dan(), { text: abroad, chosen: {} }));
  expect(await counts()).toEqual({ items: before.items + 1, policies: before.policies + 1, tables: before.tables + 1, rows: before.rows + 2 });
  const draft = (await draftOf(dan(), done.item))!;
  expect(draft.draft).toMatchObject({ name: 'Machine at home' });
  expect(JSON.stringify(draft.draft)).not.toContain(policy);
  expect(JSON.stringify(draft.draft)).not.toContain(w.machine.table);
  expect(JSON.stringify(draft.draft)).toContain(w.groupId('tide-models'));
  expect(draft.findings.filter((f) => f.severity === 'stops')).toEqual([]);
  // Twice is once.
  expect(good(await importBundle(dan(), { text: abroad, chosen: {} })).id).toBeUndefined();
  expect((await importsLately(dan()))!.map((l) => [l.name, l.takenBackAt])).toEqual([['Machine at home', null]]);
  expect(await takeImportBack(dan(), done.id!)).toEqual({ ok: true, name: 'Machine at home', stays: ['Machine at home: spending'] });
  expect(await counts()).toEqual({ ...before, policies: before.policies + 1 });
  expect(await takeImportBack(dan(), done.id!)).toMatchObject({ ok: false, code: 'ended' });
});

it('a changed item becomes the draft, said in words; what is otherwise here and live stays; taken back the draft is as it was', async () => {
  const { id, policy } = await made('Boat share');
  const text = JSON.stringify((await writtenBundle(dan(), id, false))!.file);
  good(
    await changePolicy(dan(), {
      id: policy,
      version: 2,
      definition: { name: 'Boat share: spending', purpose: 'Otherwise now', inputs: [], lines: [] },
      note: '',
    }),
  );
  const now = (await draftOf(dan(), id))!;
  const changed = { ...now.draft, summary: 'Changed here' };
  const { version } = good(await saveDraft(dan(), { id, version: now.version, draft: changed }));
  const read = good(await readImport(dan(), { text, chosen: {} }));
  expect(read.entries.map((e) => [e.what, e.is])).toEqual([
    ['item', 'changed'],
    ['policy', 'kept'],
    ['table', 'same'],
  ]);
  expect(read.entries[0]!.words[0]).toMatch(/^The purpose: “Changed here” became/);
  const done = good(await importBundle(dan(), { text, chosen: {} }));
  expect((await draftOf(dan(), id))!.draft.summary).toBe(now.draft.summary);
  expect(good(await takeImportBack(dan(), done.id!)).stays).toEqual([]);
  expect(await draftOf(dan(), id)).toMatchObject({ draft: { summary: 'Changed here' }, version: version + 2 });
  // Once something was changed on top of it, it is not taken back, and nothing is.
  const again = good(await importBundle(dan(), { text, chosen: {} }));
  const later = (await draftOf(dan(), id))!;
  good(await saveDraft(dan(), { id, version: later.version, draft: { ...later.draft, summary: 'On top' } }));
  expect(await takeImportBack(dan(), again.id!)).toMatchObject({ ok: false, sentence: expect.stringContaining('has been changed since') });
  expect((await draftOf(dan(), id))!.draft.summary).toBe('On top');
});

it('who is not found has to be named; a row that does not fit, a part that is an item here: nothing is taken in', async () => {
  const { id } = await made('Chart press');
  const text = JSON.stringify((await writtenBundle(dan(), id, true))!.file).replaceAll('Chart press', 'Press at home');
  const strange = text.replaceAll('tide-models', 'tides-elsewhere').replaceAll('"boss@skerrin.example"', '"boss@elsewhere.example"');
  const read = good(await readImport(dan(), { text: strange, chosen: {} }));
  expect(read.unmatched.map((u) => [u.kind, u.name])).toEqual([
    ['group', 'tides-elsewhere'],
    ['person', 'Boss Strand'],
  ]);
  const before = await counts();
  expect(await importBundle(dan(), { text: strange, chosen: {} })).toMatchObject({
    ok: false,
    sentence: 'Say first who or what is meant by “tides-elsewhere”. Nothing was taken in.',
  });
  const [group, boss] = read.unmatched;
  // Somebody who is none, and one id for another kind, are not who is meant.
  for (const wrong of [
    { [group!.id]: w.id('ina'), [boss!.id]: w.id('ina') },
    { [group!.id]: 'x', [boss!.id]: crypto.randomUUID() },
  ])
    expect((await importBundle(dan(), { text: strange, chosen: wrong })).ok).toBe(false);
  const broken = text.replace('"processors":8', '"processors":"many"').replaceAll('"Machines"', '"Machines at home"');
  const there = (JSON.parse(broken) as { tables: { definition: { name: string } }[] }).tables[0]!.definition.name;
  expect(await importBundle(dan(), { text: broken.replaceAll(`"${there}"`, '"Sizes broken"'), chosen: {} })).toMatchObject({
    ok: false,
    sentence: expect.stringMatching(/^Row \d of “Sizes broken” does not fit: .+ Nothing was taken in\.$/),
  });
  expect(await importBundle(dan(), { text: text.replace('"kind":"item"', '"kind":"part"'), chosen: {} })).toMatchObject({
    ok: false,
    sentence: 'This file does not fit: the item it was made for is not in it.',
  });
  expect(await counts()).toEqual(before);
  const done = good(await importBundle(dan(), { text: strange, chosen: { [group!.id]: w.groupId('orphan-files'), [boss!.id]: w.id('runa') } }));
  expect(JSON.stringify((await draftOf(dan(), done.item))!.draft)).toContain(w.groupId('orphan-files'));
  // Published since, it stays.
  const draft = (await draftOf(dan(), done.item))!;
  expect(await publish(dan(), { id: done.item, version: draft.version, note: '' })).toMatchObject({ ok: true });
  expect(await takeImportBack(dan(), done.id!)).toMatchObject({ ok: false, sentence: expect.stringContaining('has been published since') });
});
