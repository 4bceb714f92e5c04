import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import Papa from 'papaparse';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { staffOffice } from './staff.ts';

let server: Server;
let base: string;
beforeAll(async () => {
  server = await new Promise<Server>((up) => {
    const s: Server = staffOffice({ token: 'key-for-tests' }).listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.closeAllConnections();
  server.close();
});
beforeEach(() => fetch(`${base}/_manner`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{"manner":"well"}' }));

const tell = (record: object | object[]) =>
  fetch(`${base}/_change`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(record) });
const read = (after: number, headers: Record<string, string> = {}) =>
  fetch(`${base}/staff/changes?after=${after}`, { headers: { authorization: 'Bearer key-for-tests', ...headers } });
const change = (given: string, more = {}) => ({
  from: '2026-11-26',
  record: { employment: 'E', staffNumber: '1', given, family: 'Ness', firstDay: '2026-11-26', ...more },
});

it('tells each change in order, a hundred on a page, as JSON and the same as CSV', async () => {
  await tell(Array.from({ length: 130 }, (_, i) => change(`Ina ${i}`)));
  const first = (await (await read(0)).json()) as { changes: { number: number; record: object }[] };
  expect([first.changes.length, first.changes.at(-1)!.number]).toEqual([100, 100]);
  expect(first.changes[0]!.record).toEqual({ employment: 'E', staffNumber: '1', given: 'Ina 0', family: 'Ness', firstDay: '2026-11-26' });
  const csv = await read(100, { accept: 'text/csv' });
  expect(csv.headers.get('content-type')).toBe('text/csv; charset=utf-8; header=present');
  const rows = Papa.parse<Record<string, string>>(await csv.text(), { header: true }).data;
  expect([rows.length, rows[0]!['number'], rows[0]!['given'], rows[0]!['lastDay']]).toEqual([30, '101', 'Ina 100', '']);
});

it('a page that has not changed is not told again (ETag, RFC 9110, section 13.1.2); what came since makes another', async () => {
  const tag = (await read(130)).headers.get('etag')!;
  expect((await read(130, { 'if-none-match': tag })).status).toBe(304);
  await tell(change('Oda'));
  expect((await read(130, { 'if-none-match': tag })).status).toBe(200);
});

it('lets nobody read without its token, fails, refuses and answers nonsense as it is told to', async () => {
  expect((await read(0, { authorization: 'Bearer other' })).status).toBe(401);
  for (const [manner, status] of [
    ['failing', 503],
    ['refusing', 403],
    ['poisonous', 200],
  ] as const) {
    await fetch(`${base}/_manner`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ manner }) });
    expect((await read(0)).status).toBe(status);
  }
  expect((await tell({ from: 1 })).status).toBe(400);
});

it('has a page where a clerk tells a change', async () => {
  const told = await fetch(base, {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams({ given: '<b>', family: 'Page', staffNumber: '77' }),
  });
  expect(told.status).toBe(303);
  expect(await (await fetch(base)).text()).toContain('<td>&#60;b&#62; Page</td>');
});
