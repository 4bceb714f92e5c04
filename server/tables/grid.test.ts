import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { TableDefinition } from '../../core/tables/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { naughty } from '../testing/naughty.ts';
import { world, type World } from '../testing/world.ts';
import { changeTable, createTable, takeRowsOff, bringRowsBack, saveRow } from './commands.ts';
import { changeCells, gridOf } from './grid.ts';
import { myTables, rowOf, rowsOf, tableOf } from './queries.ts';
import { importSheet, writtenSheet } from './sheet.ts';

let w: World;
let dan: Viewer;
beforeAll(async () => {
  w = await world();
  dan = w.viewer('dan', 'designer');
});
afterAll(() => w.close());

let made = 0;
async function berths(owners?: TableDefinition['owners']): Promise<string> {
  const table = await createTable(dan, { name: `Berths ${++made}` });
  if (!table.ok) throw new Error(table.sentence);
  const definition: TableDefinition = {
    name: `Berths ${made}`,
    purpose: '',
    columns: [
      { id: 'name', kind: 'text', label: 'Name', required: true },
      { id: 'depth', kind: 'number', label: 'Depth', required: true, min: 1, max: 30 },
      { id: 'who', kind: 'person', label: 'Warden', required: false },
      { id: 'opens', kind: 'time', label: 'Opens', required: false },
    ],
    key: ['name'],
    ...(owners && { owners }),
  };
  const changed = await changeTable(dan, { id: table.id, version: 1, definition });
  if (!changed.ok) throw new Error(changed.sentence);
  await put(table.id, [
    { id: 'a', texts: { name: 'North', depth: '4' } },
    { id: 'b', texts: { name: 'South', depth: '9', who: 'Ina Strand', opens: '930' } },
  ]);
  return table.id;
}
type Edits = Parameters<typeof changeCells>[1]['edits'];
async function put(table: string, edits: Edits, take: 'rest' | 'all' = 'rest', who = dan) {
  const done = await changeCells(who, { table, edits, take });
  if (!done.ok) throw new Error(done.sentence);
  return done;
}
const rows = async (table: string) => (await gridOf(dan, table))!.rows.map((r) => r.texts.join('|'));
const at = async (table: string, key: string, texts: Record<string, string>) => {
  const row = (await gridOf(dan, table))!.rows.find((r) => r.key === key)!;
  return { id: key, row: { key, version: row.version }, texts };
};

describe('a grid', () => {
  it('reads what was typed: numbers, names, times; says how rows stand and what is refused', async () => {
    const table = await berths();
    expect(await rows(table)).toEqual(['North|4||', 'South|9|Ina Strand|09:30']);
    const done = await put(table, [await at(table, 'North', { depth: 'deep', who: 'olav@skerrin.example', opens: '7' })]);
    expect(done.rows).toEqual([{ id: 'North', key: 'North', version: 2, texts: ['North', '4', 'Olav Strand', '07:00'] }]);
    expect(done.refused).toEqual([{ id: 'North', problems: [{ column: 'depth', sentence: 'Depth: “deep” is not a number.' }] }]);
    const history = (await rowOf(dan, table, 'North'))!.changes.map((c) => [c.column, c.was, c.now]);
    expect(history.slice(0, 2)).toEqual([
      ['opens', null, '07:00'],
      ['who', null, { person: w.id('olav') }],
    ]);
  });

  it('takes all of it or nothing, where that is asked', async () => {
    const table = await berths();
    const edits = [await at(table, 'North', { depth: '5' }), await at(table, 'South', { depth: '99' })];
    expect(await put(table, edits, 'all')).toMatchObject({ rows: [], refused: [{ id: 'South' }] });
    expect(await rows(table)).toEqual(['North|4||', 'South|9|Ina Strand|09:30']);
    expect((await put(table, edits, 'rest')).rows).toHaveLength(1);
  });

  it('makes another row of one whose key is changed, also where two change places, and keeps the history of each', async () => {
    const table = await berths();
    await put(table, [await at(table, 'North', { name: 'South' }), await at(table, 'South', { name: 'North' })]);
    expect(await rows(table)).toEqual(['North|9|Ina Strand|09:30', 'South|4||']);
    await put(table, [await at(table, 'South', { name: 'West' })]);
    expect(await rows(table)).toEqual(['North|9|Ina Strand|09:30', 'West|4||']);
    expect((await rowOf(dan, table, 'South'))!.retiredAt).not.toBeNull();
    // Back again: the row that was taken off is had back.
    await put(table, [await at(table, 'West', { name: 'South' })]);
    expect((await rowOf(dan, table, 'South'))!.retiredAt).toBeNull();
    expect(await put(table, [await at(table, 'South', { name: 'North' })])).toMatchObject({ rows: [], refused: [{ id: 'South' }] });
  });

  it('overwrites nothing that somebody else has changed meanwhile; off and back are a version each', async () => {
    const table = await berths();
    const mine = await at(table, 'North', { depth: '5' });
    await put(table, [await at(table, 'North', { depth: '6' })]);
    expect(await put(table, [mine])).toMatchObject({ rows: [], refused: [{ id: 'North' }] });
    const before = (await gridOf(dan, table))!;
    await takeRowsOff(dan, { table, keys: ['North'] });
    await bringRowsBack(dan, { table, keys: ['North'] });
    const after = (await gridOf(dan, table))!;
    expect([after.rows[0]!.version - before.rows[0]!.version, after.stamp === before.stamp]).toEqual([2, false]);
    const [seven, eight] = [await at(table, 'South', { depth: '7' }), await at(table, 'South', { depth: '8' })];
    const both = await Promise.all([put(table, [seven]), put(table, [eight])]);
    expect(both.map((b) => b.rows.length).toSorted()).toEqual([0, 1]);
  });

  it('takes a paste of five hundred rows with three that are bad: the others go in', async () => {
    const table = await berths();
    const edits = Array.from({ length: 500 }, (_, i) => ({
      id: `n${i}`,
      texts: { name: `Pier ${i}`, depth: [7, 70, 499].includes(i) ? 'deep' : '3' },
    }));
    const done = await put(table, edits);
    expect([done.rows.length, done.refused.map((r) => r.id)]).toEqual([497, ['n7', 'n70', 'n499']]);
    expect(await changeCells(dan, { table, edits: Array.from({ length: 11 }, () => edits).flat(), take: 'rest' })).toMatchObject({
      ok: false,
      code: 'invalid',
    });
  });

  it('keeps every naughty string as it is, or says why not', async () => {
    const table = await berths();
    const kept = naughty.slice(0, 400).map((text, i) => ({ id: `n${i}`, texts: { name: `${i} ${text}`.slice(0, 200), depth: '3' } }));
    const done = await put(table, kept);
    expect(done.rows.length + done.refused.length).toBe(kept.length);
    expect(done.rows.length).toBeGreaterThan(300);
  });
});

describe('who keeps a table', () => {
  it('is the group that owns it: they see and change its rows, and not what the table is; others do neither', async () => {
    const table = await berths({ group: w.groupId('tide-models') });
    const ina = w.viewer('ina');
    const runa = w.viewer('runa');
    expect((await myTables(ina)).map((t) => [t.id, t.rows])).toEqual([[table, 2]]);
    expect(await myTables(runa)).toEqual([]);
    const seen = async (who: Viewer) => [
      (await gridOf(who, table)) !== undefined,
      (await tableOf(who, table)) !== undefined,
      (await rowsOf(who, table, { words: '', off: false })) !== undefined,
      (await rowOf(who, table, 'North')) !== undefined,
      (await writtenSheet(who, table)) !== undefined,
    ];
    expect([await seen(ina), await seen(runa)]).toEqual([Array(5).fill(true), Array(5).fill(false)]);
    expect((await put(table, [await at(table, 'North', { depth: '5' })], 'rest', ina)).rows).toHaveLength(1);
    expect(await saveRow(ina, { table, cells: { name: 'East', depth: 3 } })).toMatchObject({ ok: true });
    expect(await takeRowsOff(ina, { table, keys: ['East'] })).toMatchObject({ ok: true });
    expect(await importSheet(ina, { table, text: 'Name,Depth\nEast,4' })).toMatchObject({ ok: true, added: 1 });
    for (const refused of [
      await changeCells(runa, { table, edits: [], take: 'rest' }),
      await saveRow(runa, { table, cells: { name: 'West', depth: 3 } }),
      await takeRowsOff(runa, { table, keys: ['North'] }),
      await importSheet(runa, { table, text: 'Name,Depth\nWest,4' }),
      await changeTable(ina, { id: table, version: 2, definition: (await tableOf(ina, table))!.definition }),
    ])
      expect(refused).toMatchObject({ ok: false, code: 'not-allowed' });
  });
});
