import { afterAll, beforeAll, expect, it } from 'vitest';
import { tell } from '../../core/testing/samples.ts';
import { shiftClock } from '../clock.ts';
import { submitRequest } from '../requests/submit.ts';
import { myRequest } from '../requests/queries.ts';
import { world, type World } from '../testing/world.ts';
import { changeTable, createTable, saveRow } from './commands.ts';
import { findRows } from './queries.ts';
import { firstRows, readRows, rowsWhere } from './read.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const days = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);

it('a row is offered and found from its first day to its last, both counted; what has picked it goes on showing it', async () => {
  const dan = w.viewer('dan', 'designer');
  const made = await createTable(dan, { name: 'Fares' });
  if (!made.ok) throw new Error(made.sentence);
  const columns = [
    { id: 'name', kind: 'text' as const, label: 'Name', required: true },
    { id: 'from', kind: 'date' as const, label: 'From', required: false },
    { id: 'until', kind: 'date' as const, label: 'Until', required: false },
  ];
  const definition = { name: 'Fares', purpose: '', columns, key: ['name'], validity: { from: 'from', until: 'until' } };
  expect(await changeTable(dan, { id: made.id, version: 1, definition })).toMatchObject({ ok: true });
  for (const [name, from, until] of [
    ['always', null, null],
    ['past', null, days(-1)],
    ['last day', days(-30), days(0)],
    ['first day', days(0), days(30)],
    ['to come', days(1), null],
  ])
    expect(await saveRow(dan, { table: made.id, cells: { name: name!, from: from!, until: until! } })).toMatchObject({ ok: true });
  expect(await saveRow(dan, { table: made.id, cells: { name: 'turned', from: days(2), until: days(1) } })).toMatchObject({
    ok: false,
    problems: [{ field: 'until', sentence: 'The last day is before the first.' }],
  });

  const today = ['always', 'first day', 'last day'];
  expect((await rowsWhere(w.db(), made.id, {})).map((r) => r.key)).toEqual(today);
  expect((await rowsWhere(w.db(), made.id, { name: 'past' })).map((r) => r.key)).toEqual([]);
  expect((await firstRows(w.db(), made.id, 9)).map((r) => r.value.key)).toEqual(today);
  expect((await findRows(dan, made.id, '')).map((r) => r.name).sort()).toEqual(today);

  const form = { fields: [{ id: 'fare', kind: 'row' as const, label: 'Fare', required: true, table: made.id }] };
  const item = await w.item('Ask for a fare', { steps: [tell('end', 'End')] }, form);
  const ask = (key: string) =>
    submitRequest(w.viewer('tor'), {
      itemId: item.id,
      revision: 1,
      answers: { fare: { table: made.id, key } },
      idempotencyKey: crypto.randomUUID(),
    });
  for (const key of ['past', 'to come']) expect(await ask(key)).toMatchObject({ ok: false, problems: [{ field: 'fare' }] });
  const asked = await ask('last day');
  if (!asked.ok) throw new Error(asked.sentence);
  shiftClock(86_400_000);
  try {
    expect((await rowsWhere(w.db(), made.id, {})).map((r) => r.key)).toEqual(['always', 'first day', 'to come']);
    expect(await ask('last day')).toMatchObject({ ok: false });
    expect((await myRequest(w.viewer('tor'), asked.number))!.answers).toMatchObject([{ label: 'Fare', words: 'last day' }]);
    expect((await readRows(w.db(), [{ table: made.id, key: 'last day' }]))[0]!.cells).toMatchObject({ name: 'last day' });
  } finally {
    shiftClock(0);
  }
});
