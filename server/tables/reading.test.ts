import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import type { TableDefinition } from '../../core/tables/index.ts';
import type { WebSystem } from '../../core/systems/index.ts';
import type { Result } from '../refusal.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { world, type World } from '../testing/world.ts';
import { askTableRead, bringRowsBack, changeTable, createTable, saveRow, takeRowsOff } from './commands.ts';
import { changeCells } from './grid.ts';
import { tableHistory, takeChangeBack } from './history.ts';
import { listsOffered } from './lists.ts';
import { readingOf, rowsOf, tableOf } from './queries.ts';
import { readTable, readTables } from './reading.ts';
import { importSheet, readSheet } from './sheet.ts';

let w: World;
let server: Server;
let address = '';
/** What the system answers, by path; a number is a status. */
const says: Record<string, unknown> = {};
let asked: string[] = [];
beforeAll(async () => {
  w = await world();
  const app = express();
  app.use((req, res) => {
    asked.push(`${req.method} ${req.url} ${req.get('authorization') ?? ''}`);
    const answer = says[req.url];
    if (typeof answer === 'number') return void res.status(answer).end();
    res.json(answer ?? {});
  });
  server = await new Promise<Server>((up) => {
    const s = app.listen(0, '127.0.0.1', () => up(s));
  });
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise((done) => server.close(done));
  await w.close();
});
beforeEach(() => {
  asked = [];
});

const designer = () => w.viewer('dan', 'designer');
const administrator = () => w.viewer('boss', 'administrator');
const good = <T extends object>(r: Result<T>): T => {
  if (!r.ok) throw new Error(JSON.stringify(r));
  return r;
};
const berths = (name: string): WebSystem => ({
  name,
  address,
  ownNetwork: true,
  timeoutMs: 1000,
  actions: [],
  lists: [
    {
      id: 'berths',
      label: 'Berths there are',
      path: '/berths',
      rows: '/berths',
      next: '/next',
      columns: [
        { name: 'id', label: 'Berth', at: '/id' },
        { name: 'metres', label: 'Metres', at: '/metres' },
        { name: 'keeper', label: 'Keeper', at: '/keeper/mail' },
      ],
    },
  ],
});
const read = (system: string, name: string): TableDefinition => ({
  name,
  purpose: '',
  columns: [
    { id: 'berth', kind: 'text', label: 'Berth', required: true },
    { id: 'metres', kind: 'number', label: 'Metres', required: true, min: 1, max: 400, unit: 'm' },
    { id: 'warden', kind: 'person', label: 'Warden', required: false },
  ],
  key: ['berth'],
  from: {
    system,
    list: 'berths',
    columns: [
      { column: 'berth', of: 'id' },
      { column: 'metres', of: 'metres' },
      { column: 'warden', of: 'keeper' },
    ],
    every: 'PT10M',
  },
});
let n = 0;
/** A system with a list, and a table that is read from it; not read yet. */
async function connected() {
  const name = `Harbour ${++n}`;
  const { id: system } = good(await keepWebSystem(administrator(), { definition: berths(name), secret: 'let-me-in' }));
  const { id } = good(await createTable(designer(), { name: `${name}: berths` }));
  const definition = read(system, `${name}: berths`);
  good(await changeTable(designer(), { id, version: 1, definition }));
  return { system, name, id, definition };
}
const rows = async (id: string, off = false) => (await rowsOf(designer(), id, { words: '', off }))!.rows.map((r) => [r.key, r.cells['metres']]);
/** Does the jobs that wait to read tables. */
async function wanted() {
  const jobs = await w.query<{ id: string; table: string }>(
    `select id, payload ->> 'table' as table from graphile_worker._private_jobs where key like 'read-table:%' order by id`,
  );
  for (const j of jobs) await readTable(j.table);
  await w.query('select from graphile_worker.complete_jobs($1::bigint[])', [jobs.map((j) => j.id)]);
}
const stands = async (id: string) => (await readingOf(designer(), id))!;

it('a table is read from what a system lists, page after page, with its secret; who changed it is the system', async () => {
  const { id, name } = await connected();
  expect(await stands(id)).toMatchObject({ system: name, list: 'Berths there are', underWay: true });
  says['/berths'] = { berths: [{ id: 'North', metres: 40, keeper: { mail: 'tor@skerrin.example' } }], next: '/berths?after=North' };
  says['/berths?after=North'] = { berths: [{ id: 'South', metres: '12.5' }] };
  // Its job stands since it was made so.
  await wanted();
  expect(asked).toEqual(['GET /berths Bearer let-me-in', 'GET /berths?after=North Bearer let-me-in']);
  expect(await rows(id)).toEqual([
    ['North', 40],
    ['South', 12.5],
  ]);
  expect((await rowsOf(designer(), id, { words: '', off: false }))!.rows[0]!.cells['warden']).toEqual({ person: w.id('tor') });
  expect(await stands(id)).toMatchObject({ underWay: false, listed: 2, odd: 0, cause: null });
  // A berth is gone, another longer; both are told as what was done to the table.
  says['/berths'] = { berths: [{ id: 'South', metres: 14 }] };
  await readTable(id);
  expect(await rows(id)).toEqual([['South', 14]]);
  expect(await rows(id, true)).toEqual([['North', 40]]);
  expect((await tableHistory(designer(), id))!.acts.map((a) => [a.by, a.rows])).toEqual([
    [null, 2],
    [null, 2],
  ]);
  // It comes back with what it says then.
  says['/berths'] = {
    berths: [
      { id: 'South', metres: 14 },
      { id: 'North', metres: 41 },
    ],
  };
  await readTable(id);
  expect(await rows(id)).toEqual([
    ['North', 41],
    ['South', 14],
  ]);
  const logged = await w.query<{ detail: object }>(`select detail from change_log where action = 'read' and object_id = '${id}' order by id`);
  expect(logged.map((l) => l.detail)).toEqual([
    { added: 2, changed: 0, left: 0 },
    { added: 0, changed: 1, left: 1 },
    { added: 1, changed: 0, left: 0 },
  ]);
});

it('a row that cannot be taken is told and harms no other; nothing is taken off meanwhile', async () => {
  const { id } = await connected();
  says['/berths'] = {
    berths: [
      { id: 'North', metres: 40 },
      { id: 'South', metres: 20 },
    ],
  };
  await readTable(id);
  says['/berths'] = {
    berths: [
      { id: 'North', metres: 4000 },
      { id: 'West', metres: 9 },
      { id: {}, metres: 1 },
    ],
  };
  await readTable(id);
  expect(await rows(id)).toEqual([
    ['North', 40],
    ['South', 20],
    ['West', 9],
  ]);
  expect(await stands(id)).toMatchObject({
    listed: 3,
    odd: 2,
    problems: [expect.stringMatching(/^Row 1: Metres/) as string, 'A row has something at “/id” that cannot be a cell.'],
  });
});

it('a list that cannot be had leaves the table as it stood, says why, and is read again soon', async () => {
  const { id, name } = await connected();
  says['/berths'] = { berths: [{ id: 'North', metres: 40 }] };
  await readTable(id);
  for (const [answer, cause] of [
    [503, `${name} answered 503.`],
    [403, `${name} did not give its list (403).`],
    [{ berths: 'none' }, `${name}: The answer has no list at “/berths”.`],
    [{ berths: [], next: '/berths' }, `${name}: its list leads back to a page that was read already.`],
  ] as const) {
    says['/berths'] = answer;
    await readTable(id);
    expect(await stands(id)).toMatchObject({ cause });
    expect(await rows(id)).toEqual([['North', 40]]);
  }
  const due = await w.query<{ soon: boolean }>(`select next_at < now() + interval '6 minutes' as soon from table_reading where table_id = '${id}'`);
  expect(due).toEqual([{ soon: true }]);
});

it('is read when it is time, and when somebody asks; not before, and not twice at once', async () => {
  const { id } = await connected();
  says['/berths'] = { berths: [{ id: 'North', metres: 40 }] };
  await readTable(id);
  const jobs = async () => (await w.query<{ n: number }>(`select count(*)::int as n from graphile_worker.jobs where key = 'read-table:${id}'`))[0]!.n;
  await wanted();
  await readTables();
  expect(await jobs()).toBe(0);
  await w.query(`update table_reading set next_at = now() - interval '1 second' where table_id = '${id}'`);
  await Promise.all([readTables(), readTables()]);
  expect(await jobs()).toBe(1);
  good(await askTableRead(designer(), { table: id }));
  expect(await jobs()).toBe(1);
  expect(await askTableRead(w.viewer('tor'), { table: id })).toMatchObject({ ok: false, code: 'not-allowed' });
  // Two readings at once: the one that began last counts, and nothing is written twice.
  await Promise.all([readTable(id), readTable(id), readTable(id)]);
  expect(await rows(id)).toEqual([['North', 40]]);
  expect(await stands(id)).toMatchObject({ cause: null, listed: 1 });
});

it('nobody types into it, whichever way; by hand again, everybody may who could', async () => {
  const { id, definition } = await connected();
  says['/berths'] = { berths: [{ id: 'North', metres: 40 }] };
  await readTable(id);
  const change = (await tableHistory(designer(), id))!.acts[0]!.id;
  const sheet = { table: id, text: 'Berth,Metres\nNorth,41' };
  const ways = [
    saveRow(designer(), { table: id, cells: { berth: 'East', metres: 5 } }),
    saveRow(designer(), { table: id, row: { key: 'North', version: 1 }, cells: { berth: 'North', metres: 5 } }),
    takeRowsOff(designer(), { table: id, keys: ['North'] }),
    bringRowsBack(designer(), { table: id, keys: ['North'] }),
    readSheet(designer(), sheet),
    importSheet(designer(), sheet),
    changeCells(designer(), { table: id, take: 'rest', edits: [{ id: 'a', row: { key: 'North', version: 1 }, texts: { metres: '5' } }] }),
    takeChangeBack(designer(), { table: id, change }),
  ];
  for (const way of await Promise.all(ways))
    expect(way).toMatchObject({ ok: false, sentence: expect.stringContaining('read from a system') as string });
  expect(await rows(id)).toEqual([['North', 40]]);
  const { from: _, ...byHand } = definition;
  good(await changeTable(designer(), { id, version: 2, definition: byHand }));
  good(await saveRow(designer(), { table: id, row: { key: 'North', version: 1 }, cells: { berth: 'North', metres: 5 } }));
  await readTable(id);
  expect(await rows(id)).toEqual([['North', 5]]);
  expect(await readingOf(designer(), id)).toBeUndefined();
  expect(await askTableRead(designer(), { table: id })).toMatchObject({
    ok: false,
    sentence: 'This table is kept by hand: there is nothing to read.',
  });
});

it('what it is read from has to be there, and stays while it is read; other columns come with the next reading', async () => {
  const { id, system, name, definition } = await connected();
  says['/berths'] = { berths: [{ id: 'North', metres: 40 }] };
  await readTable(id);
  const { version } = (await tableOf(designer(), id))!;
  const elsewhere = { ...definition, from: { ...definition.from!, list: 'piers' } };
  expect(await changeTable(designer(), { id, version, definition: elsewhere })).toMatchObject({
    ok: false,
    sentence: 'Not saved: the list that it is to be read from is not there any more. Choose another.',
  });
  const lacking = {
    ...definition,
    from: { ...definition.from!, columns: definition.from!.columns.map((c) => ({ ...c, of: c.of === 'keeper' ? 'depth' : c.of })) },
  };
  expect(await changeTable(designer(), { id, version, definition: lacking })).toMatchObject({
    sentence: 'Not saved: “Berths there are” has no such column for “Warden” any more.',
  });
  const without = { ...berths(name), lists: [] };
  expect(await keepWebSystem(administrator(), { id: system, definition: without, secret: '' })).toMatchObject({
    ok: false,
    sentence: `Not saved. The table “${name}: berths” is read from it, and would not find the list any more. Have that table read from elsewhere first.`,
  });
  // A column that every row must have and none has yet.
  const more = berths(name);
  more.lists![0]!.columns.push({ name: 'depth', label: 'Depth', at: '/depth' });
  good(await keepWebSystem(administrator(), { id: system, definition: more, secret: '' }));
  const deeper: TableDefinition = {
    ...definition,
    columns: [...definition.columns, { id: 'depth', kind: 'number', label: 'Depth', required: true }],
    from: { ...definition.from!, columns: [...definition.from!.columns, { column: 'depth', of: 'depth' }] },
  };
  good(await changeTable(designer(), { id, version, definition: deeper }));
  says['/berths'] = { berths: [{ id: 'North', metres: 40, depth: 6 }] };
  await wanted();
  expect((await rowsOf(designer(), id, { words: '', off: false }))!.rows[0]!.cells).toMatchObject({ berth: 'North', depth: 6 });
  expect(await listsOffered(w.viewer('tor'))).toBeUndefined();
  expect((await listsOffered(designer()))!.find((s) => s.id === system)!.lists[0]!.columns).toHaveLength(4);
});
