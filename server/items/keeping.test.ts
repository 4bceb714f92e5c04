import { afterAll, beforeAll, expect, it } from 'vitest';
import { askedOf } from '../../core/lists/index.ts';
import { world, type World } from '../testing/world.ts';
import { createItem, saveDraft } from './commands.ts';
import { archiveItem, deleteItem, undeleteItem } from './keeping.ts';
import { items } from './list.ts';
import { browse, offeredItem } from './offered.ts';
import { draftOf } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());
const designer = () => w.viewer('dan', 'designer');
const named = async (query = '') => (await items(designer(), 'item', askedOf('items', query)))!.rows.map((i) => i.name);

it('an archived item is not offered, nor asked for by whoever has its form open; requests under way go on; it is brought back', async () => {
  const item = await w.item('Put away');
  const { id } = await w.ask(w.viewer('tor'), item.id);
  expect(await archiveItem(w.viewer('tor'), { id: item.id, archived: true })).toMatchObject({ ok: false, code: 'not-allowed' });
  expect(await archiveItem(designer(), { id: item.id, archived: true })).toEqual({ ok: true, name: 'Put away' });
  expect((await browse(w.viewer('tor'), '')).map((i) => i.name)).not.toContain('Put away');
  expect(await offeredItem(w.viewer('tor'), item.id)).toBeUndefined();
  await expect(w.ask(w.viewer('tor'), item.id)).rejects.toThrow('does not exist');
  expect(await named()).not.toContain('Put away');
  expect(await named('state=archived')).toEqual(['Put away']);
  await w.decide('ina', id, 'approve');
  await w.work();
  expect((await w.request(id)).outcome).toBe('fulfilled');
  expect(await archiveItem(designer(), { id: item.id, archived: false })).toMatchObject({ ok: true });
  expect((await browse(w.viewer('tor'), '')).map((i) => i.name)).toContain('Put away');
});

it('a draft that was never published is deleted and had back as it was; what was published is not deleted', async () => {
  const made = await createItem(designer(), { name: 'Tried out' });
  if (!made.ok) throw new Error(made.sentence);
  const { draft } = (await draftOf(designer(), made.id))!;
  await saveDraft(designer(), { id: made.id, version: 1, draft: { ...draft, summary: 'For a while' } });
  expect(await deleteItem(w.viewer('tor'), made.id)).toMatchObject({ ok: false, code: 'not-allowed' });
  const gone = await deleteItem(designer(), made.id);
  expect(gone).toMatchObject({ ok: true, name: 'Tried out', kind: 'item', draft: { summary: 'For a while' } });
  expect(await named()).not.toContain('Tried out');
  expect(await draftOf(designer(), made.id)).toBeUndefined();
  expect(await deleteItem(designer(), made.id)).toMatchObject({ ok: false, code: 'not-found' });
  if (!gone.ok) return;
  const back = await undeleteItem(designer(), gone);
  expect(back).toMatchObject({ ok: true });
  expect((await draftOf(designer(), back.ok ? back.id : ''))!.draft).toEqual(gone.draft);
  expect(await undeleteItem(designer(), gone)).toMatchObject({ ok: false, code: 'taken' });
  const published = await w.item('Published once');
  expect(await deleteItem(designer(), published.id)).toMatchObject({ ok: false, code: 'invalid' });
});
