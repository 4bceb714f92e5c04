import { afterAll, beforeAll, expect, it } from 'vitest';
import { DateTime } from 'luxon';
import { world, type World } from '../testing/world.ts';
import { bringRowsBack, saveRow, takeRowsOff } from './commands.ts';
import { changeCells } from './grid.ts';
import { tableAt, tableHistory, takeChangeBack } from './history.ts';
import { rowOf } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const dan = () => w.viewer('dan', 'designer');
const cells = async (key: string) => {
  const row = await rowOf(dan(), w.machine.table, key);
  return row && { processors: row.cells['processors'], off: row.retiredAt !== null, version: row.version };
};
const lastAct = async () => (await tableHistory(dan(), w.machine.table))!.acts[0]!;

it('what was done to a table is told act by act, and taken back act by act; that is an act of its own', async () => {
  const { table } = w.machine;
  const before = await cells('Large');
  const edits = ['Large', 'Small'].map((key) => ({ id: key, row: { key, version: 0 }, texts: { processors: '5' } }));
  for (const e of edits) e.row.version = (await cells(e.id))!.version;
  expect(await changeCells(dan(), { table, edits, take: 'all' })).toMatchObject({ ok: true, refused: [] });
  const act = await lastAct();
  expect(act).toMatchObject({ by: expect.stringContaining('Dan'), rows: 2, changes: 2 });
  expect(act.first.map((c) => [c.key, c.column, c.was, c.now])).toEqual([
    ['Large', 'processors', before!.processors, 5],
    ['Small', 'processors', 1, 5],
  ]);
  // Who is neither a designer nor of those who keep it learns nothing, and takes nothing back.
  expect(await tableHistory(w.viewer('ina'), table)).toBeUndefined();
  expect(await takeChangeBack(w.viewer('ina'), { table, change: act.id })).toMatchObject({ ok: false, code: 'not-allowed' });
  expect(await takeChangeBack(dan(), { table, change: act.id })).toEqual({ ok: true, rows: 2 });
  expect((await cells('Large'))!.processors).toBe(before!.processors);
  expect((await lastAct()).first.map((c) => c.now)).toEqual([before!.processors, 1]);
  // The taking back is taken back in its turn; the first act now has been changed since.
  expect(await takeChangeBack(dan(), { table, change: (await lastAct()).id })).toEqual({ ok: true, rows: 2 });
  expect((await cells('Large'))!.processors).toBe(5);
  await saveRow(dan(), {
    table,
    row: { key: 'Small', version: (await cells('Small'))!.version },
    cells: { size: 'Small', processors: 3, keeper: { person: w.id('ina') } },
  });
  expect(await takeChangeBack(dan(), { table, change: act.id })).toMatchObject({
    ok: false,
    sentence: 'Not taken back. Row “Small” has been changed since. Nothing was changed.',
  });
  expect((await cells('Large'))!.processors).toBe(5);
  expect(await takeChangeBack(dan(), { table, change: 999_999_999 })).toMatchObject({ ok: false, code: 'not-found' });
});

it('rows that were put in go, rows that were taken off come back', async () => {
  const { table } = w.machine;
  const row = { size: 'Odd', processors: 2, keeper: { person: w.id('ina') } };
  expect(await saveRow(dan(), { table, cells: row })).toMatchObject({ ok: true });
  const putIn = await lastAct();
  expect([putIn.changes, putIn.first.map((c) => c.column)]).toEqual([1, [null]]);
  expect(await takeChangeBack(dan(), { table, change: putIn.id })).toEqual({ ok: true, rows: 1 });
  expect((await cells('Odd'))!.off).toBe(true);
  await bringRowsBack(dan(), { table, keys: ['Odd'] });
  await takeRowsOff(dan(), { table, keys: ['Odd', 'Large'] });
  expect(await takeChangeBack(dan(), { table, change: (await lastAct()).id })).toEqual({ ok: true, rows: 2 });
  expect([(await cells('Odd'))!.off, (await cells('Large'))!.off]).toEqual([false, false]);
});

it('the table as it was on a day: that day, the one before, and before there was any; in the zone of whoever reads', async () => {
  const { table } = w.machine;
  const today = DateTime.utc().toISODate();
  const rows = async (day: string, viewer = dan()) => (await tableAt(viewer, table, day))?.rows.map((r) => [r.key, r.cells['processors']]);
  const now = await rows(today);
  expect(now).toContainEqual(['Large', 5]);
  expect(await rows('2026-02-30')).toBeUndefined();
  expect(await tableAt(w.viewer('ina'), table, today)).toBeUndefined();
  // The owner of the tables moves what happened into the past; the application could not.
  await w.asOwner(
    `alter table reference_change disable trigger user; update reference_change set at = at - interval '3 days' where table_id = '${table}'`,
  );
  await saveRow(dan(), {
    table,
    row: { key: 'Large', version: (await cells('Large'))!.version },
    cells: { size: 'Large', processors: 64, keeper: { person: w.id('ina') } },
  });
  const ago = (days: number) => DateTime.utc().minus({ days }).toISODate();
  expect(await rows(ago(5))).toEqual([]);
  expect(await rows(ago(1))).toEqual(now);
  expect(await rows(today)).toContainEqual(['Large', 64]);
  // Where it is a day earlier still, the day that is over here is not over.
  const west = { ...dan(), zone: 'Etc/GMT+12' };
  const east = { ...dan(), zone: 'Etc/GMT-14' };
  expect(await rows(DateTime.utc().setZone(west.zone).toISODate()!, west)).toContainEqual(['Large', 64]);
  expect(await rows(DateTime.utc().setZone(east.zone).toISODate()!, east)).toContainEqual(['Large', 64]);
  expect(await rows(DateTime.utc().setZone(east.zone).minus({ days: 1 }).toISODate()!, east)).toEqual(now);
});
