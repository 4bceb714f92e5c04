import { afterAll, beforeAll, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { saveRow, takeRowsOff } from '../tables/commands.ts';
import { world, type World } from '../testing/world.ts';
import { saveDraft } from './commands.ts';
import { draftOf } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

it('the check knows for which choices a table has a row now', async () => {
  const dan = w.viewer('dan', 'designer');
  const { id } = await w.item('By size');
  const { draft, version } = (await draftOf(dan, id))!;
  const options = ['Small', 'Large', 'Huge'].map((value) => ({ value, label: `${value} one` }));
  const next = {
    ...draft,
    form: { fields: [...draft.form.fields, { id: 'size', kind: 'choice' as const, label: 'Size', required: true, options }] },
    plan: { steps: [step('find', 'f', { lookup: { find: 'rows', table: w.machine.table, where: { size: { ref: 'form.size' } } } }), tell('t', 'T')] },
  };
  const saved = await saveDraft(dan, { id, version, draft: next });
  if (!saved.ok) throw new Error(saved.sentence);
  const said = async () => (await draftOf(dan, id))!.findings.filter((f) => f.code === 'no-row').map((f) => f.sentence);
  expect(await said()).toEqual([expect.stringMatching(/^“find f” finds no row of “.+” for “Huge one”\.$/)]);
  await saveRow(dan, { table: w.machine.table, cells: { size: 'Huge', processors: 64, keeper: { person: w.id('ina') } } });
  expect(await said()).toEqual([]);
  await takeRowsOff(dan, { table: w.machine.table, keys: ['Small', 'Huge'] });
  expect(await said()).toEqual([expect.stringMatching(/for “Small one”, “Huge one”\.$/)]);
});
