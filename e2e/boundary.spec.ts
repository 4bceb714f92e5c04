import { naughty } from '../server/testing/naughty.ts';
import { expect, request as api, test, type APIRequestContext } from '@playwright/test';
import { matchPath } from 'react-router';
import routes from '../app/routes.ts';
import { cast, type Part } from './support/story.ts';

// Over HTTP, as somebody with a tool of their own would come: no page, no script, only what the server lets in and gives out.

const base = process.env['PUBLIC_URL'] ?? '';
const origin = new URL(base).origin;
const kept = new Map<string, APIRequestContext>();

/** A browserless client, signed in as one of the demo's people; `nobody` is not. */
async function as(part: Part | 'nobody'): Promise<APIRequestContext> {
  const known = kept.get(part);
  if (known) return known;
  const client = await api.newContext({ baseURL: base, extraHTTPHeaders: { origin }, maxRedirects: 0 });
  if (part !== 'nobody') {
    const answer = await client.post('/sign-in', { form: { name: part, password: 'lantern over quay' } });
    expect(answer.status(), `signing in as ${part}`).toBe(302);
  }
  kept.set(part, client);
  return client;
}
test.afterAll(async () => {
  await Promise.all([...kept.values()].map((c) => c.dispose()));
});

/** Ids of the demo that exist, found as their people find them. */
async function idIn(part: Part, list: string, link: RegExp): Promise<string> {
  const html = await (await (await as(part)).get(list)).text();
  const found = link.exec(html)?.[1];
  expect(found, `${link} in ${list}`).toBeDefined();
  return found!;
}

type Seen = 'page' | 'sign-in' | 'not here';
const everybody = [...Object.keys(cast), 'nobody'] as (Part | 'nobody')[];
const signedIn = everybody.filter((p) => p !== 'nobody');
const designers: Part[] = ['designer'];
/** The people of the group that keeps the table of the demo. */
const keepers: Part[] = ['designer', 'technician', 'administrator'];
const mends: Part[] = ['technician', 'access.lead', 'administrator'];
const reads: Part[] = ['designer', 'technician', 'access.lead', 'auditor', 'administrator'];

type Route = (typeof routes)[number];
/** The addresses of routes, those within others included; a layout has none of its own. */
const patterns = (from: readonly Route[], above = ''): string[] =>
  from.flatMap((r) => {
    const own = r.path === undefined ? above : `${above}/${r.path}`;
    const within = r.children ? patterns(r.children as Route[], own) : [];
    return r.path === undefined && r.index !== true ? within : [own || '/', ...within];
  });

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
  const policy = await idIn('designer', '/workshop/policies', /\/workshop\/policies\/([0-9a-f-]{36})/);
  const table = await idIn('designer', '/workshop/tables', /\/workshop\/tables\/([0-9a-f-]{36})/);
  const hours = await idIn('designer', '/workshop/hours', /\/workshop\/hours\/([0-9a-f-]{36})/);
  const offered = await idIn('requester', '/counter', /\/counter\/ask\/([0-9a-f-]{36})/);
  const approval = await idIn('approver', '/desk/approvals', /\/desk\/approvals\/([0-9a-f-]{36})/);
  const task = await idIn('technician', '/desk/queue', /\/desk\/queue\/tasks\/([0-9a-f-]{36})/);
  const mine = await idIn('requester', '/counter/requests', /\/counter\/requests\/(\d+)/);
  const ticket = await idIn('technician', '/desk/queue?what=ticket&whose=mine', /\/desk\/queue\/tickets\/(\d+)/);
  const reported = await idIn('owner', '/counter/requests', /\/counter\/tickets\/(\d+)/);
  const pages: [string, readonly string[]][] = [
    ['/counter', signedIn],
    [`/counter/ask/${offered}`, signedIn],
    ['/counter/requests', signedIn],
    ['/counter/basket', signedIn],
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
    ['/desk/set-aside', ['administrator']],
    ['/desk/tables', signedIn],
    [`/desk/tables/${table}`, keepers],
    [`/desk/tables/${table}/grid`, keepers],
    [`/desk/tables/${table}/sheet`, keepers],
    [`/desk/tables/${table}/sheet.csv`, keepers],
    [`/desk/tables/${table}/history`, keepers],
    ['/workshop/items', designers],
    ['/workshop/categories', ['designer']],
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
    ['/workshop/systems', ['designer', 'administrator']],
    ['/workshop/systems/directory', ['designer', 'administrator']],
    ['/workshop/systems/new', ['administrator']],
    [`/workshop/items/name?name=x`, designers],
    [`/workshop/items/${item}/draft`, designers],
    [`/workshop/items/${item}/bpmn`, designers],
    [`/workshop/items/${offered}/revisions/1`, designers],
    [`/workshop/items/${item}/preview`, designers],
    [`/workshop/items/${item}/form.schema.json`, designers],
    [`/workshop/items/${item}/bundle.json`, designers],
    ['/workshop/bundle.schema.json', signedIn],
    ['/workshop/bring-in', designers],
    [`/workshop/items/${item}/ask`, designers],
    [`/workshop/items/${item}/plan`, designers],
    [`/workshop/items/${item}/publish`, designers],
    ['/ledger', reads],
    ['/ledger/1001', reads],
    ['/ledger/changes', ['auditor', 'administrator']],
    ['/ledger/changes?entry=1', ['auditor', 'administrator']],
    ['/account', signedIn],
    ['/export/ledger', reads],
    ['/export/items', designers],
    ['/export/parts', designers],
    ['/export/policies', designers],
    ['/export/tables', designers],
    ['/export/systems', ['designer', 'administrator']],
    ['/export/changes', ['auditor', 'administrator']],
    ['/export/stuck', mends],
    ['/export/queue', signedIn],
    ['/export/approvals', signedIn],
    ['/kit', signedIn],
    ['/find?q=join', signedIn],
    [`/files/${await fileOf('requester')}`, ['requester']],
  ];
  // Every address there is stands in the table above, but for those that everybody may open and those that only lead on to one of them.
  const forEverybody = ['/sign-in', '/sign-out', '/desk/decide/:token', '/public/:token', '/public/requests/:token'];
  // What only takes posts is tried below.
  const posts = ['/trouble', '/views', '/files'];
  const onward = ['/', '/desk', '/workshop', '/desk/tasks/:id?'];
  const addresses = patterns(routes).filter((a) => ![...forEverybody, ...onward, ...posts].includes(a));
  const tried = pages.map(([page]) => page.split('?')[0]!);
  for (const page of onward.filter((p) => !p.includes(':')))
    expect((await (await as('requester')).get(page)).headers()['location'], page).toMatch(/^\/(counter|desk|workshop)/);
  expect(addresses.filter((a) => !tried.some((page) => matchPath(a, page)))).toEqual([]);
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
    '/desk/set-aside',
    '/workshop/items',
    '/workshop/policies',
    '/workshop/tables',
    '/workshop/systems/new',
    '/counter/requests/1001',
    '/ledger/1001',
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

test('addresses and forms that hold what no text can: refused or cleaned, never an unexpected error', async () => {
  const table = await idIn('designer', '/workshop/tables', /\/workshop\/tables\/([0-9a-f-]{36})/);
  const item = await idIn('designer', '/workshop/items', /\/workshop\/items\/([0-9a-f-]{36})\/plan/);
  const offered = await idIn('requester', '/counter', /\/counter\/ask\/([0-9a-f-]{36})/);
  const mine = await idIn('requester', '/counter/requests', /\/counter\/requests\/(\d+)/);
  const task = await idIn('technician', '/desk/queue', /\/desk\/queue\/tasks\/([0-9a-f-]{36})/);
  const bad = ['%00', 'a%00b', '%ff', '%ED%A0%80', '%1b%5b2J', '%'];
  const designer = await as('designer');
  for (const b of bad)
    for (const path of [
      `/counter?q=${b}`,
      `/counter?in=${b}`,
      `/find?q=${b}`,
      `/find?kind=person&q=${b}`,
      `/find?kind=group&q=${b}`,
      `/ledger?state=${b}&opened=${b}&item=${b}&sort=${b}&columns=${b}`,
      `/ledger?q=${b}`,
      `/ledger?after=${b}`,
      `/export/ledger?q=${b}`,
      `/export/${b}`,
      `/ledger/${b}`,
      `/desk/approvals?after=${b}`,
      `/desk/queue?after=${b}_${b}`,
      `/desk/stuck?after=${b}`,
      `/desk/queue?place=${b}&what=${b}`,
      `/desk/queue/tickets/${b}`,
      `/desk/tasks/${b}`,
      `/counter/tickets/${b}`,
      `/counter/report?kind=${b}`,
      `/counter/likely?words=${b}`,
      `/desk/decide/${b}`,
      `/public/${b}`,
      `/public/requests/${b}`,
      `/workshop/items?q=${b}`,
      `/workshop/tables?q=${b}`,
      `/workshop/tables/${table}?q=${b}`,
      `/workshop/tables/${table}?row=${b}`,
      `/workshop/tables/${table}?after=${b}`,
      `/workshop/tables/${b}/sheet.csv`,
      `/workshop/tables/${table}/history?day=${b}&before=${b}&back=${b}`,
      `/find?kind=row&table=${b}&q=${b}`,
      `/find?kind=row&table=${table}&q=${b}`,
      `/workshop/items/${b}/plan`,
      `/workshop/hours/${b}`,
      `/workshop/items/${b}/bundle.json`,
      `/workshop/items/${item}/publish?behind=${b}`,
      `/workshop/bring-in?in=${b}&item=${b}&back=${b}`,
      `/workshop/items/name?name=${b}`,
      `/counter/foreseen/${offered}?answers=${b}`,
      `/counter/foreseen/${offered}?whom=${b}`,
      `/counter/ask/${offered}?basket=${b}`,
      `/counter/orders/${b}`,
      `/sign-in?to=${b}`,
    ]) {
      const answer = await designer.get(path);
      expect(answer.status(), path).toBeLessThan(500);
    }
  const hours = await idIn('designer', '/workshop/hours', /\/workshop\/hours\/([0-9a-f-]{36})/);
  const ticket = await idIn('technician', '/desk/queue?what=ticket&whose=mine', /\/desk\/queue\/tickets\/(\d+)/);
  const reported = await idIn('owner', '/counter/requests', /\/counter\/tickets\/(\d+)/);
  const hostile = [
    'a\u0000b',
    '\u001b[2J',
    '\u007f',
    'x\u0085y',
    '\u202eabc',
    '😀'.repeat(300),
    '<script>alert(1)</script>',
    "'; drop table item; --",
  ];
  const correction = await idIn('requester', '/counter?q=Chart+correction', /\/counter\/ask\/([0-9a-f-]{36})/);
  const open = await idIn('designer', `/workshop/items/${correction}/publish`, /\/public\/([\w-]{43})/);
  const forms: [Part | 'nobody', string, (h: string) => Record<string, string>][] = [
    ['nobody', '/sign-in', (h) => ({ name: h, password: h })],
    ['nobody', '/desk/decide/made-up', (h) => ({ decision: 'approve', comment: h })],
    [
      'nobody',
      `/public/${open}`,
      (h) => ({ 'f.you.name': h, 'f.you.mail': `${h}@sail.example`, 'f.chart': h, 'f.about': h, 'f.seen': h, company: h }),
    ],
    ['designer', `/workshop/items/${item}/publish`, (h) => ({ link: h })],
    ['requester', `/counter/ask/${offered}`, (h) => ({ revision: h, idempotencyKey: h, 'f.group.name': h, 'f.reason': h, 'f.kind': h })],
    ['requester', `/counter/requests/${mine}`, (h) => ({ question: h, act: h })],
    [
      'requester',
      '/counter/report',
      (h) => ({ subject: h, words: h, kind: h, category: h, impact: h, urgency: h, 'place.name': h, idempotencyKey: h, 'f.picture': h }),
    ],
    ['owner', `/counter/tickets/${reported}`, (h) => ({ act: h, words: h, from: h, closes: h, once: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'note', words: h, move: h, from: h, once: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'give', team: h, to: h, why: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'judge', impact: h, urgency: h, why: h })],
    ['technician', '/desk/queue', (h) => ({ entry: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'put-back', gone: h, line: h, name: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'take-out', line: h, name: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'send', line: h, idempotencyKey: h })],
    ['requester', `/counter/ask/${offered}`, (h) => ({ act: 'basket', revision: '1', line: h, whom: h, 'whom.for': h, 'whom.name': h })],
    ['designer', '/workshop/items', (h) => ({ name: h.slice(0, 2).repeat(60), copyOf: h, kind: h })],
    ['designer', '/workshop/categories', (h) => ({ path: h, picture: h })],
    ['designer', '/workshop/hours', (h) => ({ name: h.slice(0, 2).repeat(60) })],
    ['designer', `/workshop/hours/${hours}`, (h) => ({ version: h, definition: h })],
    ['designer', `/workshop/hours/${hours}`, (h) => ({ act: 'give', team: h, place: h, everywhere: h })],
    ['designer', '/workshop/policies', (h) => ({ name: h.slice(0, 2).repeat(60) })],
    ['designer', '/workshop/tables', (h) => ({ name: h.slice(0, 2).repeat(60) })],
    ['designer', `/workshop/tables/${table}`, (h) => ({ act: h, key: h, version: h, 'f.size': h, 'f.processors': h, 'f.daily': h, 'f.stands': h })],
    ['designer', `/workshop/tables/${table}/columns`, (h) => ({ version: h, definition: h })],
    ['designer', `/workshop/tables/${table}/history`, (h) => ({ change: h })],
    ['designer', `/workshop/tables/${table}/sheet`, (h) => ({ act: h, sheet: `Size,Processors\n${h},${h}` })],
    ['designer', `/workshop/items/${item}/publish`, (h) => ({ version: h, note: h, when: 'later', day: h, time: h })],
    ['designer', `/workshop/items/${item}/publish`, (h) => ({ release: h, act: h })],
    ['designer', '/workshop/bring-in', (h) => ({ act: 'put', file: h, [`meant.${h}`]: h })],
    ['designer', '/workshop/bring-in', (h) => ({ act: 'back', import: h })],
    ['administrator', '/workshop/systems/new', (h) => ({ definition: h, secret: h })],
    ['administrator', '/workshop/systems/directory', (h) => ({ act: 'owners', owner: h })],
    ['administrator', '/desk/set-aside', (h) => ({ id: h, how: 'again' })],
    ['access.lead', '/desk/consents', (h) => ({ id: h, decision: 'approve', comment: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'correct', 'f.name': h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'note', note: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'hand-over', to: h, team: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'add', kind: h, name: h, instructions: h, team: h, person: h, to: h })],
    ['requester', '/views', (h) => ({ list: 'queue', asked: h, name: h })],
    ['requester', '/views', (h) => ({ act: 'forget', id: h })],
    ['technician', '/ledger/1001', (h) => ({ act: 'skip', key: h, comment: h, [`o.${h}`]: h })],
    ['requester', '/account', (h) => ({ now: h, next: h })],
    ['requester', '/account', (h) => ({ session: h })],
  ];
  for (const h of hostile)
    for (const [part, path, form] of forms) {
      const answer = await (await as(part)).post(path, { form: form(h) });
      expect(answer.status(), `${path} with ${JSON.stringify(h)}`).toBeLessThan(500);
    }
  for (const draft of [
    { version: 1, draft: { name: 'x\u0000' } },
    { version: 1, draft: { name: '\ud800' } },
    { version: 'many', draft: {} },
    { version: 1 },
    [],
    null,
  ])
    expect((await designer.post(`/workshop/items/${item}/draft`, { data: draft })).status(), JSON.stringify(draft)).toBeLessThan(500);
  const deep = `{"version":1,"draft":${'['.repeat(20_000)}${']'.repeat(20_000)}}`;
  const began = Date.now();
  const answer = await designer.post(`/workshop/items/${item}/draft`, { headers: { 'content-type': 'application/json' }, data: deep });
  expect([answer.status(), (await answer.text()).includes('64 levels')]).toEqual([400, true]);
  expect((await (await as('nobody')).get('/healthz')).status()).toBe(200);
  expect(Date.now() - began).toBeLessThan(20_000);
});

test('the list of naughty strings through what a requester types: kept as typed, shown as text, or refused at the field', async () => {
  const requester = await as('requester');
  const offered = await idIn('requester', '/counter?q=Join+a+group', /\/counter\/ask\/([0-9a-f-]{36})/);
  const strings = naughty.filter((s) => s.length <= 4000);
  expect(strings.length).toBeGreaterThan(400);
  const groups = (await (await requester.get('/find?kind=group&q=tide')).json()) as { choices: { id: string; name: string }[] };
  // Many in one answer: each on a line of its own, so that one request tries a hundred.
  const batches: string[][] = [[]];
  for (const s of strings) {
    if (batches.at(-1)!.join('\n').length + s.length > 3500) batches.push([]);
    batches.at(-1)!.push(s);
  }
  const group = groups.choices[0]!;
  for (const [i, batch] of batches.entries()) {
    const reason = batch.join('\n');
    const answer = await requester.post(`/counter/ask/${offered}`, {
      form: {
        revision: '1',
        idempotencyKey: `naughty-${Date.now()}-${i}`,
        'f.group': group.id,
        'f.group.name': group.name,
        'f.group.for': group.name,
        'f.reason': reason,
        'f.purpose': 'daily',
        'f.kind': 'daily',
      },
    });
    expect([302, 422], JSON.stringify(batch).slice(0, 300)).toContain(answer.status());
    if (answer.status() !== 302) continue;
    const page = await (await requester.get(answer.headers()['location']!)).text();
    for (const tag of ['<script>alert', '<img src=x', '<svg/onload', 'javascript:alert(1)">']) expect(page.includes(tag), tag).toBe(false);
    await requester.post(answer.headers()['location']!.replace(/\?.*/, ''), { form: { act: 'withdraw' } });
  }
  expect((await requester.get('/counter/requests')).status()).toBe(200);
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
  expect(saved.headers()['content-disposition']).toMatch(/^attachment; filename\*=UTF-8''/);
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
