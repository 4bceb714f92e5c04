import { expect, request as api, test } from '@playwright/test';
import { matchPath } from 'react-router';
import { firstRequest } from '../demo/numbers.ts';
import { addresses, as, base, idIn, letGo, origin } from './support/plainly.ts';
import { cast, type Part } from './support/story.ts';

test.afterAll(letGo);

type Seen = 'page' | 'sign-in' | 'not here';
const everybody = [...Object.keys(cast), 'nobody'] as (Part | 'nobody')[];
const signedIn = everybody.filter((p) => p !== 'nobody');
const designers: Part[] = ['designer'];
/** The people of the group that keeps the table of the demo. */
const keepers: Part[] = ['designer', 'technician', 'administrator'];
const mends: Part[] = ['technician', 'access.lead', 'administrator'];
const reads: Part[] = ['designer', 'technician', 'access.lead', 'auditor', 'administrator'];

/** A file that somebody attached and has not sent with anything. */
async function fileOf(part: Part): Promise<string> {
  const answer = await (
    await as(part)
  ).post('/files', { multipart: { file: { name: 'note.txt', mimeType: 'text/plain', buffer: Buffer.from('Tides') } } });
  expect(answer.status()).toBe(201);
  return ((await answer.json()) as { file: { id: string } }).file.id;
}

test('every page, by every part: whoever may not see it is not told that it is there', async () => {
  const item = await idIn('designer', '/workshop/items', /\/workshop\/items\/([0-9a-f-]{36})\/plan/);
  const written = await idIn('designer', '/workshop/items?q=Colleague+starting', /\/workshop\/items\/([0-9a-f-]{36})\/plan/);
  const policy = await idIn('designer', '/workshop/policies', /\/workshop\/policies\/([0-9a-f-]{36})/);
  const table = await idIn('designer', '/workshop/tables?q=Machine+sizes', /\/workshop\/tables\/([0-9a-f-]{36})/);
  const hours = await idIn('designer', '/workshop/hours', /\/workshop\/hours\/([0-9a-f-]{36})/);
  const kind = await idIn('designer', '/workshop/kinds', /\/workshop\/kinds\/([0-9a-f-]{36})/);
  const routing = await idIn('designer', '/workshop/routing', /\/workshop\/routing\/([0-9a-f-]{36})/);
  const group = await idIn('approver', '/desk/groups', /\/desk\/groups\/([0-9a-f-]{36})/);
  const offered = await idIn('requester', '/counter', /\/counter\/ask\/([0-9a-f-]{36})/);
  const approval = await idIn('approver', '/desk/approvals', /\/desk\/approvals\/([0-9a-f-]{36})/);
  const task = await idIn('technician', '/desk/queue', /\/desk\/queue\/tasks\/([0-9a-f-]{36})/);
  const mine = await idIn('requester', '/counter/requests', /\/counter\/requests\/(\d+)/);
  const ticket = await idIn('technician', '/desk/queue?what=ticket&whose=mine', /\/desk\/queue\/tickets\/(\d+)/);
  const reported = await idIn('owner', '/counter/requests', /\/counter\/tickets\/(\d+)/);
  const holding = await idIn('auditor', '/ledger/holdings', /holding=([0-9a-f-]{36})/);
  const difference = await idIn('auditor', '/ledger/differences', /difference=([0-9a-f-]{36})/);
  const note = await idIn('requester', '/counter/things', /\/counter\/notes\/([0-9a-f-]{36})/);
  const meeting = await idIn('approver', '/counter/requests', /\/counter\/meetings\/([0-9a-f-]{36})/);
  const pages: [string, readonly string[]][] = [
    ['/counter', signedIn],
    [`/counter/ask/${offered}`, signedIn],
    ['/counter/requests', signedIn],
    ['/counter/basket', signedIn],
    ['/ledger/holdings', reads],
    [`/ledger/holdings?holding=${holding}`, reads],
    ['/ledger/differences', reads],
    [`/ledger/differences?difference=${difference}`, reads],
    ['/counter/things', signedIn],
    [`/counter/notes/${note}`, ['requester', 'administrator']],
    [`/counter/meetings/${meeting}`, ['approver']],
    ['/counter/things?whose=people', signedIn],
    ['/counter/things?whose=owned', signedIn],
    ['/counter/report', signedIn],
    ['/counter/likely?words=tablet', signedIn],
    [`/counter/tickets/${reported}`, ['owner']],
    ['/counter/orders/1', []],
    [`/counter/requests/${mine}`, ['requester']],
    [`/counter/foreseen/${offered}`, signedIn],
    ['/desk/approvals', signedIn],
    [`/desk/approvals/${approval}`, ['approver']],
    ['/desk/queue', signedIn],
    [`/desk/queue/tasks/${task}`, ['technician', 'administrator']],
    [`/desk/queue/tickets/${ticket}`, reads],
    ['/desk/stuck', mends],
    ['/desk/consents', signedIn],
    ['/desk/apart', ['designer', 'auditor', 'administrator', 'access.lead']],
    ['/desk/groups', ['approver', 'owner', 'designer', 'auditor', 'administrator']],
    [`/desk/groups/${group}`, ['approver', 'designer', 'auditor', 'administrator']],
    ['/ledger/decisions', ['auditor', 'administrator']],
    ['/ledger/decisions.pdf?q=R-1', ['auditor', 'administrator']],
    ['/desk/equipment', ['technician', 'administrator']],
    ['/desk/equipment/stock', ['technician', 'administrator']],
    ['/desk/equipment/pieces', ['technician', 'designer', 'auditor', 'administrator']],
    ['/workshop/equipment', ['designer', 'administrator']],
    ['/desk/set-aside', ['administrator']],
    ['/desk/tables', signedIn],
    [`/desk/tables/${table}`, keepers],
    [`/desk/tables/${table}/grid`, keepers],
    [`/desk/tables/${table}/sheet`, keepers],
    [`/desk/tables/${table}/sheet.csv`, keepers],
    [`/desk/tables/${table}/history`, keepers],
    ['/workshop/items', designers],
    ['/workshop/categories', ['designer']],
    ['/workshop/kinds', designers],
    [`/workshop/kinds/${kind}`, designers],
    ['/workshop/intake', designers],
    ['/workshop/routing', designers],
    [`/workshop/routing/${routing}`, designers],
    [`/workshop/routing/${routing}/table.dmn`, designers],
    ['/workshop/hours', designers],
    [`/workshop/hours/${hours}`, designers],
    ['/workshop/policies', designers],
    [`/workshop/policies/${policy}`, designers],
    ['/workshop/tables', designers],
    [`/workshop/tables/${table}`, keepers],
    [`/workshop/tables/${table}?row=Small`, keepers],
    [`/workshop/tables/${table}/columns`, designers],
    [`/workshop/tables/${table}/grid`, keepers],
    [`/workshop/tables/${table}/sheet`, keepers],
    [`/workshop/tables/${table}/sheet.csv`, keepers],
    [`/workshop/tables/${table}/history`, keepers],
    [`/workshop/tables/${table}/history?day=2026-11-20`, keepers],
    ['/workshop/staff', ['designer', 'administrator']],
    ['/workshop/staff/starts', designers],
    ['/workshop/systems', ['designer', 'administrator']],
    ['/workshop/systems/directory', ['designer', 'administrator']],
    ['/workshop/systems/new', ['administrator']],
    [`/workshop/items/name?name=x`, designers],
    [`/workshop/items/${item}/draft`, designers],
    [`/workshop/items/${item}/bpmn`, designers],
    [`/workshop/items/${offered}/revisions/1`, designers],
    [`/workshop/items/${item}/preview`, designers],
    [`/workshop/items/${written}/letters/welcome`, designers],
    [`/workshop/items/${item}/form.schema.json`, designers],
    [`/workshop/items/${item}/bundle.json`, designers],
    ['/workshop/bundle.schema.json', signedIn],
    ['/workshop/bring-in', designers],
    [`/workshop/items/${item}/ask`, designers],
    [`/workshop/items/${item}/plan`, designers],
    [`/workshop/items/${item}/publish`, designers],
    ['/ledger', reads],
    [`/ledger/${firstRequest}`, reads],
    ['/ledger/changes', ['auditor', 'administrator']],
    ['/ledger/changes?entry=1', ['auditor', 'administrator']],
    ['/account', signedIn],
    ['/export/ledger', reads],
    ['/export/items', designers],
    ['/export/parts', designers],
    ['/export/policies', designers],
    ['/export/tables', designers],
    ['/export/systems', ['designer', 'administrator']],
    ['/export/staff', ['designer', 'administrator']],
    ['/export/changes', ['auditor', 'administrator']],
    ['/export/stuck', mends],
    ['/export/queue', signedIn],
    ['/export/tickets', reads],
    ['/ledger/tickets', reads],
    ['/export/approvals', signedIn],
    ['/kit', signedIn],
    ['/find?q=join', signedIn],
    [`/files/${await fileOf('requester')}`, ['requester']],
  ];
  // Every address there is stands in the table above, but for those that everybody may open and those that only lead on to one of them.
  const forEverybody = ['/sign-in', '/sign-out', '/desk/decide/:token', '/public/:token', '/public/requests/:token'];
  // What only takes posts is tried below.
  const posts = ['/trouble', '/views', '/files', '/desk/here/:number'];
  const onward = ['/', '/desk', '/workshop', '/desk/tasks/:id?'];
  const wanted = addresses.map((a) => a.address).filter((a) => ![...forEverybody, ...onward, ...posts].includes(a));
  const tried = pages.map(([page]) => page.split('?')[0]!);
  for (const page of onward.filter((p) => !p.includes(':')))
    expect((await (await as('requester')).get(page)).headers()['location'], page).toMatch(/^\/(counter|desk|workshop)/);
  expect(wanted.filter((a) => !tried.some((page) => matchPath(a, page)))).toEqual([]);
  for (const [page, may] of pages)
    for (const part of everybody) {
      const answer = await (await as(part)).get(page);
      const seen: Seen | number =
        answer.status() === 200
          ? 'page'
          : answer.status() === 404
            ? 'not here'
            : answer.headers()['location']?.includes('/sign-in')
              ? 'sign-in'
              : 'not here';
      expect(answer.status(), `${page} as ${part}`).toBeLessThan(500);
      expect(seen, `${page} as ${part}`).toBe(part === 'nobody' ? 'sign-in' : may.includes(part) ? 'page' : 'not here');
      expect(answer.headers()['cache-control'], `${page} as ${part}`).toBe('no-store');
    }
});

test('every write, by nobody and from elsewhere: nothing is done', async () => {
  const nobody = await as('nobody');
  for (const path of [
    '/account',
    '/trouble',
    '/views',
    '/files',
    '/desk/consents',
    '/desk/apart',
    `/desk/groups/${firstRequest}`,
    '/ledger/decisions',
    '/desk/equipment',
    '/desk/equipment/stock',
    '/desk/equipment/pieces',
    '/workshop/equipment',
    '/desk/set-aside',
    '/workshop/items',
    '/workshop/policies',
    '/workshop/tables',
    '/workshop/systems/new',
    `/counter/requests/${firstRequest}`,
    `/ledger/${firstRequest}`,
  ]) {
    const answer = await nobody.post(path, { form: { act: 'withdraw', name: 'x' } });
    expect([302, 404, 405], path).toContain(answer.status());
    const foreign = await (await as('administrator')).post(path, { form: { x: '1' }, headers: { origin: 'http://elsewhere.example' } });
    expect(foreign.status(), path).toBe(403);
  }
});

test('a browser may say that a page failed, at most so often a minute', async () => {
  const technician = await as('technician');
  const say = () => technician.post('/trouble', { form: { visit: '0123abcd', where: '/counter', words: 'x' } });
  const statuses = (await Promise.all(Array.from({ length: 21 }, say))).map((r) => r.status());
  expect(statuses.filter((s) => s === 429)).toHaveLength(1);
  const large = await (await as('designer')).post('/trouble', { form: { words: 'x'.repeat(5000) } });
  expect(large.status()).toBe(413);
});

test('a post that does not say what it wants withdraws nothing', async () => {
  const requester = await as('requester');
  const mine = await idIn('requester', '/counter/requests', /\/counter\/requests\/(\d+)/);
  expect((await requester.post(`/counter/requests/${mine}`, { form: {} })).status()).toBe(400);
  expect(await (await requester.get(`/counter/requests/${mine}`)).text()).toContain('Withdraw');
});

test('bodies are counted while they stream; a decision link does not echo what it is sent', async () => {
  const nobody = await as('nobody');
  for (const [path, bytes] of [
    ['/sign-in', 10_000],
    ['/sign-in', 5_000_000],
    ['/desk/decide/made-up', 30_000],
    ['/desk/decide/made-up', 5_000_000],
  ] as const) {
    const answer = await nobody.post(path, {
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
      data: `comment=${'x'.repeat(bytes)}`,
    });
    expect(answer.status(), `${path} ${bytes}`).toBe(413);
    expect((await answer.text()).length).toBeLessThan(30_000);
  }
  // Without a length said beforehand it is counted all the same, and not read to its end.
  let sent = 0;
  const endless = new ReadableStream<Uint8Array>({
    pull(c) {
      sent += 65_536;
      if (sent > 200_000_000) c.close();
      else c.enqueue(new Uint8Array(65_536).fill(120));
    },
  });
  const answer = await fetch(`${base}/sign-in`, {
    method: 'POST',
    body: endless,
    duplex: 'half',
    headers: { origin, 'content-type': 'application/x-www-form-urlencoded' },
  } as RequestInit).then(
    (r) => r.status,
    () => 'cut off',
  );
  expect([413, 'cut off']).toContain(answer);
  expect(sent).toBeLessThan(50_000_000);
  expect((await nobody.post('/sign-in', { multipart: { name: 'x', password: 'y' } })).status()).toBe(415);
});

test('files: what they are called and hold is kept or refused with a sentence; they come back to be saved, never to be shown', async () => {
  const requester = await as('requester');
  const attach = (name: string, buffer: Buffer) => requester.post('/files', { multipart: { file: { name, mimeType: 'application/pdf', buffer } } });
  const hostile = '"><script>alert(1)</script>.txt';
  const kept = await attach(hostile, Buffer.from('<script>alert(1)</script>'));
  expect(kept.status()).toBe(201);
  const { file } = (await kept.json()) as { file: { id: string; name: string } };
  const saved = await requester.get(`/files/${file.id}`);
  expect([saved.status(), await saved.text()]).toEqual([200, '<script>alert(1)</script>']);
  expect(saved.headers()).toMatchObject({
    'content-type': 'text/plain; charset=utf-8',
    'x-content-type-options': 'nosniff',
    'cache-control': 'no-store',
  });
  expect(saved.headers()['content-disposition']).toMatch(/^attachment; filename="[^"]*"; filename\*=UTF-8''/);
  expect(saved.headers()['content-security-policy']).toContain("default-src 'none'; sandbox");
  for (const [name, bytes, sentence] of [
    ['tool.pdf', Buffer.concat([Buffer.from('MZ\x90\x00', 'latin1'), Buffer.alloc(500)]), 'cannot be attached'],
    ['huge.pdf', Buffer.alloc(26_000_000, '%PDF-1.7'), 'at most 25 MB can be attached'],
    ['empty.txt', Buffer.alloc(0), 'is empty'],
  ] as const) {
    const refused = await attach(name, bytes);
    expect([refused.status(), ((await refused.json()) as { sentence: string }).sentence]).toEqual([422, expect.stringContaining(sentence)]);
  }
  const odd = await requester.post('/files', { headers: { 'content-type': 'multipart/form-data' }, data: 'x' });
  expect([odd.status(), await odd.text()]).toEqual([400, expect.stringContaining('did not arrive whole')]);
  const half = await requester.post('/files', {
    headers: { 'content-type': 'multipart/form-data; boundary=b' },
    data: '--b\r\ncontent-disposition: form-data; name="file"; filename="a.pdf"\r\n\r\n%PDF-1.7',
  });
  expect([half.status(), await half.text()]).toEqual([400, expect.stringContaining('did not arrive whole')]);
  const field = await requester.post('/files', { multipart: { file: 'no file' } });
  expect(field.status()).toBe(400);
  expect((await requester.get(`/files/${'0'.repeat(8)}-0000-4000-8000-${'0'.repeat(12)}`)).status()).toBe(404);
});

test('after signing in one goes on to a page of ours, however the way there is written', async () => {
  for (const to of [
    '//elsewhere.example',
    '/\\elsewhere.example',
    '/\t/elsewhere.example',
    '/\n/elsewhere.example',
    'https://elsewhere.example',
    '/%09/elsewhere.example',
    '///elsewhere.example',
    'javascript:alert(1)',
    '/..//elsewhere.example',
  ]) {
    const client = await api.newContext({ baseURL: base, extraHTTPHeaders: { origin }, maxRedirects: 0 });
    // One who is signed in already is sent on at once: that costs no try.
    const state = await (await as('requester')).storageState();
    const there = await api.newContext({ baseURL: base, maxRedirects: 0, storageState: state });
    const answer = await there.get(`/sign-in?to=${encodeURIComponent(to)}`);
    const location = answer.headers()['location'] ?? '/';
    expect(new URL(location, base).origin, to).toBe(origin);
    expect(location.replace(/[\t\r\n]/g, '').startsWith('//'), to).toBe(false);
    await Promise.all([client.dispose(), there.dispose()]);
  }
});

test('X-Forwarded-For from anybody changes no count: the ninth wrong try is held back', async () => {
  const client = await as('nobody');
  const statuses: number[] = [];
  for (let i = 0; i < 10; i++)
    statuses.push(
      (
        await client.post('/sign-in', { form: { name: 'nobody.at.all', password: 'wrong one' }, headers: { 'x-forwarded-for': `203.0.113.${i}` } })
      ).status(),
    );
  expect(statuses.at(-1)).toBe(429);
});
