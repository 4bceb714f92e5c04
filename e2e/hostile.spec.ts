import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { matchPath } from 'react-router';
import { firstRequest } from '../demo/numbers.ts';
import { naughty } from '../server/testing/naughty.ts';
import { addresses, as, idIn, letGo } from './support/plainly.ts';
import type { Part } from './support/story.ts';

test.afterAll(letGo);

test('addresses and forms that hold what no text can: refused or cleaned, never an unexpected error', async () => {
  const table = await idIn('designer', '/workshop/tables?q=Machine+sizes', /\/workshop\/tables\/([0-9a-f-]{36})/);
  const item = await idIn('designer', '/workshop/items', /\/workshop\/items\/([0-9a-f-]{36})\/plan/);
  const offered = await idIn('requester', '/counter', /\/counter\/ask\/([0-9a-f-]{36})/);
  const mine = await idIn('requester', '/counter/requests', /\/counter\/requests\/(\d+)/);
  const note = await idIn('requester', '/counter/things', /\/counter\/notes\/([0-9a-f-]{36})/);
  const meeting = await idIn('approver', '/counter/requests', /\/counter\/meetings\/([0-9a-f-]{36})/);
  const task = await idIn('technician', '/desk/queue', /\/desk\/queue\/tasks\/([0-9a-f-]{36})/);
  const group = await idIn('approver', '/desk/groups', /\/desk\/groups\/([0-9a-f-]{36})/);
  const hours = await idIn('designer', '/workshop/hours', /\/workshop\/hours\/([0-9a-f-]{36})/);
  const kind = await idIn('designer', '/workshop/kinds', /\/workshop\/kinds\/([0-9a-f-]{36})/);
  const routing = await idIn('designer', '/workshop/routing', /\/workshop\/routing\/([0-9a-f-]{36})/);
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
      `/counter/notes/${b}`,
      `/counter/meetings/${b}`,
      `/counter/report?kind=${b}`,
      `/counter/likely?words=${b}`,
      `/desk/decide/${b}`,
      `/desk/groups/${b}`,
      `/desk/groups/${group}?members=${b}`,
      `/desk/groups/${group}?members=%5B%7B%22job%22%3A%22${b}%22%7D%5D`,
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
      `/workshop/kinds/${b}?part=${b}`,
      `/workshop/routing/${b}`,
      `/workshop/hours/${hours}?as=${b}&day=${b}`,
      `/workshop/kinds/${kind}?as=${b}&day=${b}`,
      `/workshop/routing/${routing}?as=${b}&day=${b}`,
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
    ['requester', `/counter/requests/${mine}`, (h) => ({ act: 'write', words: h, file: h, once: h })],
    [
      'requester',
      '/counter/report',
      (h) => ({ subject: h, words: h, kind: h, about: h, category: h, impact: h, urgency: h, 'place.name': h, idempotencyKey: h, 'f.picture': h }),
    ],
    ['owner', `/counter/tickets/${reported}`, (h) => ({ act: h, words: h, from: h, closes: h, once: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'note', words: h, move: h, from: h, once: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'give', team: h, to: h, why: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'judge', impact: h, urgency: h, why: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'join', other: h, join: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'part', other: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'link', other: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'split', subject: h, words: h, word: h, once: h })],
    ['technician', `/desk/queue/tickets/${ticket}`, (h) => ({ act: 'send', words: h, file: h, once: h })],
    ['technician', `/desk/here/${ticket}`, (h) => ({ now: h })],
    ['technician', '/desk/queue', (h) => ({ entry: h })],
    ['technician', '/desk/queue', (h) => ({ act: 'give', entry: `T-${ticket}`, team: h, to: h, why: h, once: h })],
    ['technician', '/desk/queue', (h) => ({ act: 'note', entry: `T-${ticket}`, words: h, once: h })],
    ['designer', '/workshop/intake', (h) => ({ act: h, via: 'mail', name: h, kind: h, category: h, unknown: h, automatic: h })],
    ['designer', '/workshop/intake', (h) => ({ act: 'change', id: h, version: h, via: h, name: h, kind: kind })],
    ['designer', '/workshop/intake', (h) => ({ act: 'close', id: h })],
    ['requester', '/counter/things', (h) => ({ id: h, why: h })],
    ['approver', `/counter/meetings/${meeting}`, (h) => ({ says: h, words: h, sequence: h })],
    ['requester', `/counter/notes/${note}`, (h) => ({ act: 'anew', id: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'put-back', gone: h, line: h, name: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'take-out', line: h, name: h })],
    ['requester', '/counter/basket', (h) => ({ act: 'send', line: h, idempotencyKey: h })],
    ['requester', `/counter/ask/${offered}`, (h) => ({ act: 'basket', revision: '1', line: h, whom: h, 'whom.for': h, 'whom.name': h })],
    ['designer', '/workshop/items', (h) => ({ name: h.slice(0, 2).repeat(60), copyOf: h, kind: h })],
    ['designer', '/workshop/categories', (h) => ({ path: h, picture: h })],
    ['designer', '/workshop/kinds', (h) => ({ name: h.slice(0, 2).repeat(60), like: h })],
    ['designer', `/workshop/kinds/${kind}`, (h) => ({ version: h, definition: h, goes: h })],
    ['designer', '/workshop/routing', (h) => ({ name: h.slice(0, 2).repeat(60), team: h })],
    ['designer', `/workshop/routing/${routing}`, (h) => ({ act: 'would', definition: h })],
    ['designer', `/workshop/routing/${routing}`, (h) => ({ version: h, definition: h })],
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
    ['designer', '/workshop/staff', (h) => ({ act: 'follow', id: h })],
    ['designer', '/workshop/staff/moves', (h) => ({ act: 'keep', item: h, version: h, asks: h, 'asks.name': h })],
    ['designer', '/workshop/staff/moves', (h) => ({ act: 'drop', version: h })],
    ['administrator', '/workshop/systems/new', (h) => ({ definition: h, secret: h, answerKey: h })],
    ['administrator', '/workshop/systems/directory', (h) => ({ act: 'owners', owner: h })],
    ['administrator', '/workshop/systems/directory', (h) => ({ act: 'userNames', version: h, form: h, most: h, domain: h })],
    ['administrator', '/ledger/holdings', (h) => ({ id: h, why: h })],
    ['administrator', '/ledger/differences', (h) => ({ act: 'settle', id: h, how: h, why: h, person: h, 'person.for': h, 'person.name': h })],
    ['administrator', '/ledger/differences', (h) => ({ act: 'leaveAll', system: h, why: h, foundBy: h })],
    ['administrator', '/ledger/differences', (h) => ({ act: 'read', system: h })],
    ['auditor', '/ledger/decisions', (h) => ({ pattern: h })],
    ['technician', '/desk/equipment', (h) => ({ act: 'hand', issue: h, mark: h })],
    ['technician', '/desk/equipment', (h) => ({ act: 'takeIn', issue: h, place: h, how: h, note: h })],
    ['technician', '/desk/equipment', (h) => ({ act: 'order', order: h, reference: h, expected: h })],
    ['technician', '/desk/equipment/stock', (h) => ({ act: 'arrive', kind: h, place: h, marks: h, number: h })],
    ['technician', '/desk/equipment/stock', (h) => ({ act: 'count', kind: h, place: h, marks: h, number: h })],
    ['technician', '/desk/equipment/pieces', (h) => ({ act: 'change', piece: h, state: h, note: h })],
    ['designer', '/workshop/equipment', (h) => ({ act: 'kind', name: h, marked: h })],
    ['designer', '/workshop/equipment', (h) => ({ act: 'place', place: h, 'place.name': h, 'place.for': h, team: h })],
    ['designer', '/workshop/equipment', (h) => ({ act: 'level', kind: h, at: h, least: h, upTo: h })],
    ['requester', '/counter/things', (h) => ({ act: 'notReceived', issue: h, why: h })],
    ['administrator', '/desk/set-aside', (h) => ({ id: h, how: 'again' })],
    ['access.lead', '/desk/consents', (h) => ({ id: h, decision: 'approve', comment: h })],
    ['designer', '/desk/apart', (h) => ({ act: 'keep', one: h, 'one.name': h, 'one.for': h, why: h, excepter: h })],
    ['access.lead', '/desk/apart', (h) => ({ act: 'except', id: h, person: h, 'person.name': h, until: h, why: h })],
    ['access.lead', '/desk/apart', (h) => ({ act: 'endException', exception: h })],
    ['approver', `/desk/groups/${group}`, (h) => ({ act: 'keep', version: h, members: h, why: h })],
    ['approver', `/desk/groups/${group}`, (h) => ({ act: 'keep', version: '0', members: JSON.stringify([{ job: h, department: h }]), why: h })],
    ['approver', `/desk/groups/${group}`, (h) => ({ act: 'letIn', person: h })],
    ['approver', `/desk/groups/${group}`, (h) => ({ act: 'endOut', version: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'correct', 'f.name': h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'note', words: h, file: h, once: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'write', words: h, once: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'hand-over', to: h, team: h })],
    ['technician', `/desk/queue/tasks/${task}`, (h) => ({ act: 'add', kind: h, name: h, instructions: h, team: h, person: h, to: h })],
    ['requester', '/views', (h) => ({ list: 'queue', asked: h, name: h })],
    ['requester', '/views', (h) => ({ act: 'forget', id: h })],
    ['technician', `/ledger/${firstRequest}`, (h) => ({ act: 'skip', key: h, comment: h, [`o.${h}`]: h })],
    ['requester', '/account', (h) => ({ now: h, next: h })],
    ['requester', '/account', (h) => ({ session: h })],
  ];
  // Whatever takes a post is tried here, but for what takes a file or a document of its own (below, and in other tests).
  const others = [
    '/sign-out',
    '/trouble',
    '/files',
    '/ledger/changes',
    '/public/requests/:token',
    '/desk/approvals/:id',
    '/workshop/policies/:id',
    '/workshop/items/:id/draft',
    '/workshop/tables/:id/grid',
  ];
  const takes = addresses.filter(({ file }) => /export (async )?(function|const) action\b/.test(readFileSync(`app/${file}`, 'utf8')));
  const untried = takes.filter(({ address }) => !forms.some(([, path]) => matchPath(address, path.split('?')[0]!)) && !others.includes(address));
  expect(untried.map((u) => u.address).filter((a) => !a.startsWith('/desk/tables'))).toEqual([]);
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
  const answer = await designer.post(`/workshop/items/${item}/draft`, { headers: { 'content-type': 'application/json' }, data: deep });
  expect([answer.status(), (await answer.text()).includes('64 levels')]).toEqual([400, true]);
  expect((await (await as('nobody')).get('/healthz')).status()).toBe(200);
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
