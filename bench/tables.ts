import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import pg from 'pg';
import { disconnect, db } from '../server/db/database.ts';
import { useSettings } from '../server/config.ts';
import { changeTable, createTable } from '../server/tables/commands.ts';
import { findRows, rowsOf } from '../server/tables/queries.ts';
import { readRows } from '../server/tables/read.ts';
import { changeCells, gridOf } from '../server/tables/grid.ts';
import { tableAt, tableHistory } from '../server/tables/history.ts';
import { importSheet, readSheet } from '../server/tables/sheet.ts';
import { keepWebSystem } from '../server/systems/commands.ts';
import { readTable } from '../server/tables/reading.ts';
import { makeOrganisation } from '../server/testing/organisation.ts';
import { viewerFor } from '../server/testing/parties.ts';
import { good } from './generated.ts';
import { besideRaw, line, timed } from './measure.ts';

/** A reference table of ten thousand rows, in numbers: putting it in, reading a row by its key, finding rows by words; each beside the raw SQL of it. */
useSettings(process.env);
const many = Number(process.env['BENCH_ROWS'] ?? 10_000);
const client = new pg.Client({ connectionString: process.env['DATABASE_URL'] });
await client.connect();
const beside = besideRaw(client);
const org = await makeOrganisation();
const designer = viewerFor(org.people['dan']!, 'designer');
const { id } = good(await createTable(designer, { name: 'Instruments' }));
const columns = [
  { id: 'serial', kind: 'text' as const, label: 'Serial', required: true },
  { id: 'what', kind: 'text' as const, label: 'Instrument', required: true },
  { id: 'price', kind: 'money' as const, label: 'Price', required: false, unit: 'EUR' },
  { id: 'keeper', kind: 'person' as const, label: 'Keeper', required: false },
];
good(await changeTable(designer, { id, version: 1, definition: { name: 'Instruments', purpose: '', columns, key: ['serial'] } }));
const kinds = ['Echo sounder', 'Tide gauge', 'Salinity probe', 'Current meter', 'Drifter'];
const text = (price: number) =>
  ['Serial,Instrument,Price,Keeper', ...Array.from({ length: many }, (_, i) => `SN-${i},${kinds[i % 5]},${price + (i % 90)}.50,Ina Strand`)].join(
    '\n',
  );
const once = async (what: string, act: () => Promise<unknown>) => line(what, `${Math.round(await timed(act, 1))} ms`);

await once(`${many.toLocaleString('en-GB')} lines of a sheet: what they would do`, async () =>
  good(await readSheet(designer, { table: id, text: text(10) })),
);
await once('the same put in, with a line of history a cell', async () => good(await importSheet(designer, { table: id, text: text(10) })));
await once('a sheet that changes a cell in every row', async () => good(await importSheet(designer, { table: id, text: text(500) })));
await client.query('vacuum analyze reference_row, reference_change');
const raw = 'select key, cells from reference_row where table_id = $1';
await beside('one row by its key', () => readRows(db(), [{ table: id, key: 'SN-7777' }]), `${raw} and key = 'SN-7777'`, [id]);
await beside('rows, first page', () => rowsOf(designer, id, { words: '', off: false }), `${raw} and retired_at is null order by key limit 101`, [id]);
const found = `${raw} and retired_at is null and words like '%sn-77%' order by key limit 101`;
await beside('rows, found by a word', () => rowsOf(designer, id, { words: 'SN-77', off: false }), found, [id]);
await beside('a row, found by who picks it', () => findRows(designer, id, 'SN-77'), `${found.replace('101', '20')}`, [id]);
await beside('every row, for the grid', () => gridOf(designer, id), `${raw} and retired_at is null order by key`, [id]);
await beside(
  'what was changed, the latest acts',
  () => tableHistory(designer, id),
  'select * from reference_change where table_id = $1 order by id desc limit 25',
  [id],
);
const today = new Date().toISOString().slice(0, 10);
await beside(
  'every row as it stood on a day',
  () => tableAt(designer, id, today),
  'select distinct on (key, column_id) key, column_id, now from reference_change where table_id = $1 order by key, column_id, id desc',
  [id],
);
let price = 0;
const edit = async (keys: string[]) => {
  const rows = new Map((await gridOf(designer, id))!.rows.map((r) => [r.key, r.version]));
  const edits = keys.map((key) => ({ id: key, row: { key, version: rows.get(key)! }, texts: { price: `${++price}.25` } }));
  const began = performance.now();
  good(await changeCells(designer, { table: id, edits, take: 'rest' }));
  return performance.now() - began;
};
const each: number[] = [];
for (let i = 0; i < 15; i++) each.push(await edit(['SN-77']));
line('one cell typed into the grid', `${each.toSorted((a, b) => a - b)[7]!.toFixed(1)} ms`);
const five: number[] = [];
for (let i = 0; i < 5; i++) five.push(await edit(Array.from({ length: 500 }, (_, n) => `SN-${n}`)));
line('500 rows pasted into the grid', `${Math.round(five.toSorted((a, b) => a - b)[2]!)} ms`);

// The same table read from what a system lists, a thousand on a page; beside the list fetched and parsed alone.
let factor = 1;
const app = express();
app.get('/list', (req, res) => {
  const from = Number(req.query['from'] ?? 0);
  const rows = Array.from({ length: Math.min(1000, many - from) }, (_, i) => ({
    serial: `SN-${from + i}`,
    what: kinds[(from + i) % 5],
    price: `${factor + ((from + i) % 90)}.50`,
    keeper: 'Ina Strand',
  }));
  res.json({ rows, ...(from + 1000 < many && { next: `/list?from=${from + 1000}` }) });
});
const server = await new Promise<Server>((up) => {
  const s = app.listen(0, '127.0.0.1', () => up(s));
});
const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
const listed = columns.map(({ id: name, label }) => ({ name, label, at: `/${name}` }));
const { id: system } = good(
  await keepWebSystem(viewerFor(org.people['dan']!, 'administrator'), {
    definition: {
      name: 'Instruments',
      address,
      ownNetwork: true,
      timeoutMs: 10_000,
      actions: [],
      lists: [{ id: 'list', label: 'What there is', path: '/list', rows: '/rows', next: '/next', columns: listed }],
    },
    secret: '',
  }),
);
const from = { system, list: 'list', columns: columns.map((c) => ({ column: c.id, of: c.id })), every: 'P1D' };
good(await changeTable(designer, { id, version: 2, definition: { name: 'Instruments', purpose: '', columns, key: ['serial'], from } }));
async function fetched(): Promise<void> {
  for (let path: string | undefined = '/list'; path !== undefined;)
    path = ((await (await fetch(`${address}${path}`)).json()) as { next?: string }).next;
}
const alone = await timed(fetched, 5);
await timed(() => readTable(id), 1);
const same = await timed(() => readTable(id), 5);
line(
  `a list of ${many.toLocaleString('en-GB')} rows read, nothing changed`,
  `${Math.round(same)} ms; fetched and parsed alone ${Math.round(alone)} (${(same / alone).toFixed(1)})`,
);
const changed = await timed(async () => {
  factor += 100;
  await readTable(id);
}, 3);
line('the same, with a cell changed in every row', `${Math.round(changed)} ms (${(changed / alone).toFixed(1)})`);
const [reading] = (await client.query<{ odd: number; cause: string | null }>('select odd, cause from table_reading where table_id = $1', [id])).rows;
if (reading?.odd !== 0 || reading.cause !== null) throw new Error(`The list was not read: ${JSON.stringify(reading)}`);
server.close();
await client.end();
await disconnect();
