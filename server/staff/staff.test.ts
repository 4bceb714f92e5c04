import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { step } from '../../core/testing/samples.ts';
import type { Form } from '../../core/forms/index.ts';
import { askedOf } from '../../core/lists/index.ts';
import { proposedFacts } from '../../core/staff/index.ts';
import { staffOffice } from '../../standins/staff.ts';
import { config } from '../config.ts';
import { setPersonFacts } from '../people/commands.ts';
import { syncDirectory } from '../people/sync-directory.ts';
import { directoryClient, enterprise } from '../systems/directory/client.ts';
import { world, type World } from '../testing/world.ts';
import { dropStaffRule, followHappenings, keepStaffRule } from './commands.ts';
import { follow } from './follow.ts';
import { staffList } from './list.ts';
import { staffFeedFor, staffRuleFor } from './queries.ts';
import { readStaff } from './reading.ts';

/** The staff feed, read over HTTP from its stand-in. */
let w: World;
let office: Server;
let base: string;
const token = 'a-token-for-the-feed';
beforeAll(async () => {
  w = await world();
  office = await new Promise<Server>((up) => {
    const s: Server = staffOffice({ token }).listen(0, '127.0.0.1', () => up(s));
  });
  base = `http://127.0.0.1:${(office.address() as AddressInfo).port}`;
  Object.assign(config(), { STAFF_URL: `${base}/staff`, STAFF_TOKEN: token });
  // The manager and the two who work for her are known by their staff numbers.
  for (const [who, employeeNumber] of [
    ['runa', '100'],
    ['tor', '101'],
    ['ina', '102'],
  ] as const)
    await directoryClient.patchUser(
      w.scimUser(who),
      [{ op: 'replace', path: `${enterprise}:employeeNumber`, value: employeeNumber }],
      undefined,
      `number ${who}`,
    );
  await syncDirectory();
});
afterAll(async () => {
  office.closeAllConnections();
  office.close();
  await w.close();
});
beforeEach(() => manner('well'));

const post = (path: string, body: object) =>
  fetch(`${base}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const manner = (manner: string) => post('/_manner', { manner });
const day = (in_: number) => new Date(Date.now() + in_ * 86_400_000).toISOString().slice(0, 10);
const record = (staffNumber: string, family: string, more: object = {}) => ({
  employment: `E-${staffNumber}`,
  staffNumber,
  given: 'Ása',
  family,
  department: 'Tides',
  jobRole: 'tide analyst',
  manager: '100',
  contract: 'Permanent',
  firstDay: day(20),
  ...more,
});
const tell = (...records: object[]) =>
  post(
    '/_change',
    records.map((r) => ({ from: day(0), record: r })),
  );
/** Reads on, and lets follow what does. */
async function read(): Promise<void> {
  await readStaff();
  for (const { id } of await w.query<{ id: string }>("select id from staff_happening where state = 'open' order by at, id")) await follow(id);
}
const told = async (of: string) =>
  (
    await w.query<{ kind: string; state: string; why: string | null; request: string | null }>(
      'select kind, state, why, request from staff_happening where whose = $1 order by number, kind',
      [of],
    )
  ).map(({ request, ...h }) => ({ ...h, request: request === null ? null : Number(request) }));
const states = async (of: string) => (await told(of)).map((h) => `${h.kind} ${h.state}`);
const requests = (words: string) =>
  w.query<{ requester: string; answers: Record<string, unknown> }>(
    'select p.name as requester, c.answers from service_case c join person p on p.id = c.requester_id where c.answers::text like $1 order by c.number',
    [`%${words}%`],
  );

const starterForm: Form = {
  fields: [
    { id: 'given', kind: 'text', label: 'Given names', required: true },
    { id: 'family', kind: 'text', label: 'Family name', required: true },
    { id: 'day', kind: 'date', label: 'First day', required: true },
    {
      id: 'kind',
      kind: 'choice',
      label: 'Kind of contract',
      required: true,
      options: ['permanent', 'season'].map((label) => ({ value: label.charAt(0), label })),
    },
    { id: 'boss', kind: 'person', label: 'Manager', required: false },
  ],
};
const moverForm: Form = {
  fields: [
    { id: 'who', kind: 'person', label: 'Colleague', required: true },
    { id: 'to', kind: 'text', label: 'New department', required: true },
    { id: 'from', kind: 'date', label: 'From', required: true },
  ],
};
const items = { starter: '', mover: '' };
const designer = () => w.viewer('dan', 'designer');
const ruleOf = (item: string, form: Form, more: object = {}) => ({ item, asks: w.id('boss'), answers: proposedFacts(form.fields), ...more });

describe('rules', () => {
  it('are kept for an item that is published, with all that its form wants', async () => {
    const plan = { steps: [step('pause', 'wait', { until: { span: { length: 'P30D', counted: 'always' } } })] };
    items.starter = (await w.item('Starter', plan, starterForm)).id;
    items.mover = (await w.item('Mover', plan, moverForm)).id;
    const rule = ruleOf(items.starter, starterForm);
    for (const [field, wrong] of [
      ['item', { item: 'none' }],
      ['asks', { asks: 'nobody' }],
      ['answers.day', { answers: rule.answers.filter((a) => a.field !== 'day') }],
      ['answers.day', { answers: rule.answers.map((a) => (a.field === 'day' ? { ...a, from: 'given' } : a)) }],
      ['answers.kind', { answers: rule.answers.map((a) => (a.field === 'kind' ? { ...a, from: null, words: 'for ever' } : a)) }],
    ] as const)
      expect(await keepStaffRule(designer(), { kind: 'starts', version: 0, rule: { ...rule, ...wrong } })).toMatchObject({
        ok: false,
        problems: [{ field }],
      });
    expect(await keepStaffRule(designer(), { kind: 'starts', version: 0, rule })).toEqual({ ok: true });
    expect(await keepStaffRule(designer(), { kind: 'starts', version: 0, rule })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await keepStaffRule(designer(), { kind: 'moves', version: 0, rule: ruleOf(items.mover, moverForm) })).toEqual({ ok: true });
  });
});

describe('what the feed tells', () => {
  it('somebody starts: the item is asked for by their manager, once, however often it is read and whoever dies', async () => {
    await tell(record('200', 'Lunde'));
    await readStaff();
    const [{ id } = { id: '' }] = await w.query<{ id: string }>("select id from staff_happening where whose = '200'");
    // Two workers, and a third after them.
    await Promise.all([follow(id), follow(id)]);
    await w.query("update staff_happening set state = 'open', request = null where id = $1", [id]);
    await follow(id);
    await read();
    expect(await requests('Lunde')).toEqual([
      { requester: 'Runa Strand', answers: { given: 'Ása', family: 'Lunde', day: day(20), kind: 'p', boss: { person: w.id('runa') } } },
    ]);
    expect(await states('200')).toEqual(['starts asked']);
    // The log says that the feed had it asked for, whoever it was asked as.
    expect(await w.query("select actor_id from change_log where object = 'staff' and action = 'ask' and object_id = $1", [id])).toEqual([
      { actor_id: null },
      { actor_id: null },
    ]);
  });
  it('the same told again is nothing new; the same person twice is one; a namesake is another', async () => {
    await tell(record('200', 'Lunde'), record('200', 'Lunde', { employment: 'E-200b' }), record('201', 'Lunde'));
    await read();
    expect([await states('200'), await states('201')]).toEqual([['starts asked'], ['starts asked']]);
    expect(await requests('Lunde')).toHaveLength(2);
  });
  it('who works here already has not started; who has left is not begun with', async () => {
    await tell(record('101', 'Strand', { firstDay: day(-400) }), record('202', 'Gone', { firstDay: day(-40), lastDay: day(-3) }));
    await read();
    expect([await states('101'), await states('202')]).toEqual([[], ['starts over']]);
  });
  it('another department: what the rule for it names is asked for, of whom the feed means', async () => {
    await tell(record('101', 'Strand', { firstDay: day(-400), department: 'Charts' }));
    await read();
    expect(await states('101')).toEqual(['moves asked']);
    expect((await requests('Charts'))[0]!.answers).toEqual({ who: { person: w.id('tor') }, to: 'Charts', from: day(0) });
  });
  it('a last day goes to whoever it is about, once, and so does that there is none any more', async () => {
    const lastDay = async () =>
      (await w.query<{ last: string | null }>('select last_day::text as last from person where id = $1', [w.id('tor')]))[0]!.last;
    const tor = { firstDay: day(-400), department: 'Charts' };
    await tell(record('101', 'Strand', { ...tor, lastDay: day(40) }));
    await read();
    expect([await lastDay(), (await states('101')).at(-1)]).toEqual([day(40), 'leaves noRule']);
    await setPersonFacts('host', [{ id: w.id('tor'), lastDay: day(50) }]);
    await syncDirectory();
    expect(await lastDay()).toBe(day(50));
    await tell(record('101', 'Strand', tor));
    await read();
    expect([await lastDay(), (await states('101')).at(-1)]).toEqual([null, 'stays noRule']);
  });
  it('somebody comes back under another number; the old one says whose it is', async () => {
    await tell(record('203', 'Back', { firstDay: day(-90), lastDay: day(-30) }));
    await read();
    await tell(record('303', 'Back', { formerly: '203', firstDay: day(10) }), record('203', 'Back', { employment: 'E-203b', firstDay: day(15) }));
    await read();
    expect(await states('203')).toEqual(['starts over', 'returns noRule']);
    expect(await states('303')).toEqual([]);
  });
  it('two that are known as two are not made one, nor is an employment given to another: those lines are set aside, the rest goes on', async () => {
    await tell(
      record('200', 'Lunde', { formerly: '201' }),
      record('201', 'Lunde', { employment: 'E-200' }),
      { employment: 'x' },
      record('204', 'After'),
    );
    await read();
    expect((await w.query<{ cause: string }>("select cause from set_aside where source = 'staff' order by key")).map((r) => r.cause)).toEqual([
      '200 and 201 are known as two people; nobody can say that they are one.',
      'The employment E-200 is that of 200 already.',
      expect.stringMatching(/^“\w+”: /),
    ]);
    expect(await states('204')).toEqual(['starts asked']);
  });
  it('what cannot be asked for says why, and is asked for once that is mended; where the feed names no manager we know, somebody else asks', async () => {
    await tell(record('205', 'Odd', { contract: 'By the hour', manager: '999' }));
    await read();
    expect(await told('205')).toMatchObject([{ state: 'refused', why: 'Kind of contract: Choose “Kind of contract”. The feed says “By the hour”.' }]);
    const rule = ruleOf(items.starter, starterForm);
    const always = rule.answers.map((a) => (a.field === 'kind' ? { ...a, from: null, words: 'permanent' } : a));
    expect(await keepStaffRule(designer(), { kind: 'starts', version: 1, rule: { ...rule, answers: always } })).toEqual({ ok: true });
    const [row] = (await staffList(designer(), askedOf('staff', 'q=205')))!.rows;
    expect(await followHappenings(designer(), { ids: [row!.id] })).toEqual({ ok: true, go: 1 });
    expect(await followHappenings(designer(), { ids: [row!.id] })).toMatchObject({ ok: false, code: 'ended' });
    await read();
    expect(await requests('Odd')).toMatchObject([{ requester: 'Boss Strand', answers: { kind: 'p' } }]);
    expect(await states('205')).toEqual(['starts asked']);
  });
  it('very many at once wait for a word', async () => {
    await tell(...Array.from({ length: 21 }, (_, i) => record(`4${i}`, `Many${i}`)));
    await read();
    expect([(await requests('Many')).length, (await staffFeedFor(designer()))!.held]).toEqual([0, 21]);
    expect(await followHappenings(w.viewer('dan', 'administrator'), { ids: 'held' })).toEqual({ ok: true, go: 21 });
    await read();
    expect(await requests('Many')).toHaveLength(21);
  });
  it('a rule that is gone has nothing follow', async () => {
    expect(await dropStaffRule(designer(), { kind: 'moves', version: 7 })).toMatchObject({ ok: false, code: 'changed-meanwhile' });
    expect(await dropStaffRule(designer(), { kind: 'moves', version: 1 })).toEqual({ ok: true });
    await tell(record('102', 'Ines', { firstDay: day(-400) }), record('102', 'Ines', { firstDay: day(-400), place: 'Elsewhere' }));
    await read();
    expect(await states('102')).toEqual(['moves noRule']);
    // What it asked for is kept, and is asked for again once somebody says so.
    const kept = (await staffRuleFor(designer(), 'moves', undefined))!.rule!;
    expect(kept).toMatchObject({ off: true, version: 2, answers: [{ from: 'colleague' }, { from: 'department' }, { from: 'from' }] });
    expect(await keepStaffRule(designer(), { kind: 'moves', version: 2, rule: ruleOf(items.mover, moverForm) })).toEqual({ ok: true });
    expect([...(await staffFeedFor(designer()))!.rules]).toContainEqual(['moves', 'Mover']);
  });
});

describe('a feed that does not do as it should', () => {
  const cause = async () => (await staffFeedFor(designer()))!.feed!.cause;
  it.each([
    ['failing', 'The staff feed answered 503.'],
    ['refusing', 'The staff feed answered 403.'],
    ['poisonous', expect.stringMatching(/^The staff feed gave a page that cannot be read\. /) as string],
  ])('%s says why, and nothing is lost', async (how, why) => {
    await tell(record(`5${how}`, `While ${how}`));
    await manner(how);
    await readStaff();
    expect(await cause()).toEqual(why);
    await manner('well');
    await read();
    expect([await cause(), await states(`5${how}`)]).toEqual([null, ['starts asked']]);
  });
  it('read by several at once, page by page, each line is taken over once', async () => {
    await tell(...Array.from({ length: 250 }, (_, i) => record(`6${i}`, `Crowd${i}`, { firstDay: day(-300), lastDay: day(-1) })));
    await Promise.all([readStaff(), readStaff(), readStaff()]);
    await readStaff();
    const [n] = await w.query<{ people: number; told: number }>(
      "select (select count(*)::int from staff_person where id like '6%') as people, (select count(*)::int from staff_happening where whose like '6%') as told",
    );
    expect(n).toEqual({ people: 250, told: 250 });
  });
  it('a page that has not changed is not read again, and CSV is read like JSON', async () => {
    const seen: string[] = [];
    const { default: express } = await import('express');
    // Stands between: asks the office for CSV, whatever we take.
    const between = express().get('/changes', (req, res) => {
      const tag = req.get('if-none-match');
      void fetch(`${base}/staff${req.url}`, {
        headers: { authorization: req.get('authorization')!, accept: 'text/csv', ...(tag && { 'if-none-match': tag }) },
      }).then(async (answer) => {
        seen.push(String(answer.status));
        res.status(answer.status).set({ 'content-type': answer.headers.get('content-type') ?? '', etag: answer.headers.get('etag') ?? '' });
        res.end(Buffer.from(await answer.arrayBuffer()));
      });
    });
    const csv = await new Promise<Server>((up) => {
      const s: Server = between.listen(0, '127.0.0.1', () => up(s));
    });
    config().STAFF_URL = `http://127.0.0.1:${(csv.address() as AddressInfo).port}`;
    try {
      await tell(record('700', 'Of, "commas"'));
      await read();
      await read();
      await read();
      expect([seen, await cause(), await states('700')]).toEqual([['200', '200', '304', '304'], null, ['starts asked']]);
    } finally {
      config().STAFF_URL = `${base}/staff`;
      csv.closeAllConnections();
      csv.close();
    }
  });
});
