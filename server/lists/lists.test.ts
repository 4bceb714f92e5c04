import Papa from 'papaparse';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { blankItem } from '../../core/items/index.ts';
import { askedOf, lists, type ListAsked, type ListName } from '../../core/lists/index.ts';
import { passages } from '../../core/plans/index.ts';
import { gate, step, tell } from '../../core/testing/samples.ts';
import { approvalCount, approvalsFor } from '../approvals/list.ts';
import type { Viewer } from '../auth/viewer.ts';
import { createItem, publish, saveDraft } from '../items/commands.ts';
import { items } from '../items/list.ts';
import { ledger, ledgerCount } from '../runs/ledger.ts';
import { changeOf, changes, verifyLog } from '../changes/queries.ts';
import { policies } from '../policies/list.ts';
import { keepWebSystem } from '../systems/commands.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { systems } from '../systems/list.ts';
import { createTable } from '../tables/commands.ts';
import { tables } from '../tables/list.ts';
import { createPolicy } from '../policies/commands.ts';
import { stuckCount, stuckSteps } from '../runs/stuck.ts';
import { queueCount, queueFor } from '../queue/list.ts';
import { differenceList } from '../differences/list.ts';
import { decisionCount, decisionList } from '../evidence/list.ts';
import { evidenceFileName, fileNaming, nameFilesSo } from '../evidence/naming.ts';
import { pieceList } from '../equipment/list.ts';
import { holdingCount, holdingList } from '../holdings/list.ts';
import { ticketList, ticketListCount } from '../tickets/list.ts';
import { writeOnTicket } from '../tickets/commands.ts';
import { staffList } from '../staff/list.ts';
import { ticketKit } from '../testing/tickets.ts';
import { world, type World } from '../testing/world.ts';
import { exports } from './export.ts';
import { cursorOf } from './keyset.ts';
import { forgetView, keepView, keptViews, namesOfFilters } from './views.ts';

let w: World;
let item: { id: string };
let other: { id: string };
let reader: Viewer;
const numbers: number[] = [];
beforeAll(async () => {
  w = await world();
  item = await w.item('Join a group');
  other = await w.item('Another way in');
  for (const name of ['Machines', 'apparatus', 'Vessels', 'Berths']) {
    await createPolicy(w.viewer('dan', 'designer'), { name });
    await createTable(w.viewer('dan', 'designer'), { name });
    const definition = { name, address: 'https://outside.example', ownNetwork: false, timeoutMs: 1000, actions: [] };
    await keepWebSystem(w.viewer('dan', 'administrator'), { definition, secret: '' });
  }
  reader = w.viewer('dan', 'auditor', 'teamMember', 'designer');
  for (let i = 0; i < 14; i++) {
    const made = await w.ask(w.viewer(i % 2 ? 'tor' : 'runa'), (i % 3 ? item : other).id, 'tide-models', { reason: `Sounding ${i}, =1+1` });
    numbers.push(made.number);
    if (i % 4 === 0) await w.decide('ina', made.id, i % 8 ? 'approve' : 'decline', `Comment ${i} on lagoons`);
  }
  await w.query(
    `insert into holding (person_id, kind, what, run_id, key, since) select c.requester_id, 'group', jsonb_build_object('group', $1::text), u.id, 'given#1', c.opened_at
      from run u join service_case c on c.id = u.case_id where c.number = any($2::bigint[])`,
    [w.groupId('tide-models'), numbers.slice(0, 4)],
  );
  const kit = await ticketKit(w);
  for (let i = 0; i < 9; i++) {
    const reported = await kit.report(i % 2 ? 'tor' : 'ina', {
      subject: `Gauge ${i} is silent`,
      words: i === 4 ? 'The kelpfield cable' : 'Nothing comes',
    });
    if (i % 3 === 0) await writeOnTicket(w.viewer('dan', 'teamMember'), { number: reported, words: `Spliced ${i}`, inside: i === 3, once: `t${i}` });
    if (i === 6)
      await writeOnTicket(w.viewer('dan', 'teamMember'), {
        number: reported,
        words: 'Done',
        inside: false,
        once: 'end',
        move: { from: 'fresh', to: 'done' },
      });
  }
  await w.work();
  await w.query(
    `insert into staff_happening (number, kind, whose, staff_number, name, "from", standing, changed, at, state)
      select n, 'starts', 'p' || n, 'p' || n, 'Somebody ' || n, '2026-03-02', '{}', '[]', '2026-03-02T12:00:00Z'::timestamptz + (n / 2) * interval '1 hour', 'noRule'
      from generate_series(1, 5) n`,
  );
  await w.query(
    `insert into difference (system, action, kind, what, person_id, "is", outputs, found_at, seen_at)
      select 'directory', 'directory.addMember', 'group', to_jsonb('g' || n), $1, 'unknown', '{}', '2026-03-02T12:00:00Z'::timestamptz + (n / 2) * interval '1 hour', now()
      from generate_series(1, 7) n`,
    [w.id('tor')],
  );
  await w.query(
    `with kind as (insert into equipment_kind (name, marked, changed_at) values ('Tablet', true, now()) returning id),
      place as (insert into stock_place (location_id, team_id) select l.id, t.id from location l, team t limit 1 returning location_id)
    insert into piece (kind_id, mark, location_id, state, since)
      select kind.id, 'T-' || n, place.location_id, 'free', '2026-03-02T12:00:00Z'::timestamptz + (n / 2) * interval '1 hour' from kind, place, generate_series(1, 9) n`,
  );
  await w.query("update service_case set opened_at = '2026-03-02T12:00:00Z'::timestamptz + number * interval '1 hour'");
  await w.query("update approval set asked_at = '2026-03-02T12:00:00Z'");
});
afterAll(() => w.close());

/** All pages are read as of one instant: what is left of a promise changes while the desk is open. */
const readAt = new Date('2026-11-27T10:00:00Z');
type Page = { rows: object[]; next: string | undefined } | undefined;
const pages: Record<ListName, (asked: ListAsked, size: number) => Promise<Page>> = {
  ledger: (asked, size) => ledger(reader, asked, size),
  tickets: (asked, size) => ticketList(reader, asked, size),
  holdings: (asked, size) => holdingList(reader, asked, size),
  differences: (asked, size) => differenceList(reader, asked, size),
  decisions: (asked, size) => decisionList(reader, asked, size),
  pieces: (asked, size) => pieceList(reader, asked, size),
  queue: (asked, size) => queueFor(reader, asked, size, readAt),
  approvals: (asked, size) => approvalsFor(w.viewer('ina'), asked, size),
  stuck: (asked, size) => stuckSteps(reader, asked, size),
  items: (asked, size) => items(reader, 'item', asked, size),
  policies: (asked, size) => policies(reader, asked, size),
  tables: (asked, size) => tables(reader, asked, size),
  systems: (asked, size) => systems(reader, asked, size),
  staff: (asked, size) => staffList(reader, asked, size),
  changes: (asked, size) => changes(reader, asked, size),
  parts: (asked, size) => items(reader, 'part', asked, size),
};
async function all(list: ListName, query: string, size: number): Promise<object[]> {
  const found: object[] = [];
  for (let after: string | undefined = ''; after !== undefined;) {
    const page: Page = await pages[list](askedOf(list, `${query}&after=${after}`), size);
    found.push(...page!.rows);
    after = page!.next;
  }
  return found;
}

/** Each row once, page by page, in every order there is, and backwards the other way round. */
async function holdsInPages(list: ListName, atLeast: number): Promise<void> {
  for (const [sort, column] of Object.entries(lists[list].columns)) {
    if (!('sorts' in column)) continue;
    const whole = await all(list, `sort=${sort}`, 1000);
    expect(whole.length).toBeGreaterThanOrEqual(atLeast);
    expect([sort, await all(list, `sort=${sort}`, 3)]).toEqual([sort, whole]);
    expect([sort, await all(list, `sort=-${sort}`, 4)]).toEqual([sort, whole.toReversed()]);
  }
}

describe.each([
  'ledger',
  'tickets',
  'holdings',
  'differences',
  'decisions',
  'pieces',
  'approvals',
  'items',
  'policies',
  'tables',
  'systems',
  'staff',
  'changes',
] as const)('the list “%s”', (list) => {
  it('gives each row once', () =>
    holdsInPages(
      list,
      {
        ledger: 14,
        tickets: 9,
        holdings: 5,
        differences: 7,
        decisions: 4,
        pieces: 9,
        approvals: 10,
        items: 2,
        policies: 4,
        tables: 4,
        systems: 4,
        staff: 5,
        changes: 20,
      }[list],
    ));

  it('begins at its beginning where it is given no cursor of its own', async () => {
    const whole = await all(list, '', 1000);
    for (const after of ['x', cursorOf(['a']), cursorOf(['1', '2', '3', '4']), cursorOf(["'; drop table person", 'x']), '%00'])
      expect((await pages[list](askedOf(list, `after=${after}`), 1000))!.rows).toEqual(whole);
  });
});

describe('what tickets are narrowed by', () => {
  const found = async (query: string, upTo?: number) =>
    (await ticketList(reader, askedOf('tickets', query), 1000, upTo))!.rows.map((r) => r.subject.replace(/\D/g, '')).toSorted();
  it.each([
    ['q=kelpfield', ['4']],
    ['q=spliced', ['0', '3', '6']],
    ['q=gauge+ina', ['0', '2', '4', '6', '8']],
    ['state=ended', ['6']],
    ['state=ended&promise=kept', ['6']],
    ['state=ended&promise=broken', []],
    ['state=joined', []],
    ['state=open&q=spliced', ['0', '3']],
  ])('%s, whether its words are rare or not, and counted so', async (query, expected) => {
    expect(await found(query)).toEqual(expected);
    expect(await found(query, 0)).toEqual(expected);
    expect(await ticketListCount(reader, askedOf('tickets', query))).toBe(expected.length);
  });
  it('is nothing to those who do not read them all', async () => expect(await ticketList(w.viewer('tor'), askedOf('tickets', ''))).toBeUndefined());
});

describe('what the Ledger is narrowed by', () => {
  const found = async (query: string) => (await ledger(reader, askedOf('ledger', query), 1000))!.rows;

  it('state, item, requester and days, and counts as many', async () => {
    const rows = await found('');
    expect(rows).toHaveLength(14);
    for (const [query, keep] of [
      ['state=fulfilled', (r) => r.outcome === 'fulfilled'],
      ['state=fulfilled,declined', (r) => r.outcome === 'fulfilled' || r.outcome === 'declined'],
      ['state=open', (r) => r.outcome === null],
      ['state=open,declined', (r) => r.outcome === null || r.outcome === 'declined'],
      [`item=${other.id}`, (r) => r.item === 'Another way in'],
      [`requester=${w.id('tor')}`, (r) => r.requester === 'Tor Strand'],
      [`requester=${w.id('tor')}&item=${item.id}&state=open`, (r) => r.requester === 'Tor Strand' && r.item === 'Join a group' && r.outcome === null],
      ['opened=2026-04-13..2026-04-13', (r) => r.openedAt.toISOString().startsWith('2026-04-13')],
      ['ended=2000-01-01..', (r) => r.endedAt !== null],
      ['ended=..2000-01-01', () => false],
    ] satisfies [string, (r: (typeof rows)[number]) => boolean][]) {
      const kept = rows.filter(keep).map((r) => r.number);
      expect([query, (await found(query)).map((r) => r.number)]).toEqual([query, kept]);
      expect([query, await ledgerCount(reader, askedOf('ledger', query))]).toEqual([query, kept.length]);
    }
    expect(rows.some((r) => r.openedAt.toISOString().startsWith('2026-04-13'))).toBe(true);
  });

  it('days are those of the reader’s zone', async () => {
    const [first] = numbers;
    await w.query("update service_case set opened_at = '2027-05-01T22:30:00Z' where number = $1", [first]);
    const of = async (zone: string, query: string) => (await ledger({ ...reader, zone }, askedOf('ledger', query)))!.rows.length;
    expect(await of('UTC', 'opened=2027-05-01..2027-05-01')).toBe(1);
    expect(await of('Europe/Oslo', 'opened=2027-05-01..2027-05-01')).toBe(0);
    expect(await of('Europe/Oslo', 'opened=2027-05-02..2027-05-02')).toBe(1);
    await w.query("update service_case set opened_at = '2026-03-02T12:00:00Z'::timestamptz + number * interval '1 hour'");
  });

  it('words find by number, item, requester, what was asked, told and commented, by their beginnings and all together', async () => {
    const of = async (words: string) => {
      const asked = askedOf('ledger', `q=${encodeURIComponent(words)}`);
      const rows = (await ledger(reader, asked, 1000))!.rows.map((r) => r.number);
      // Looked up first, as a rare word is, or come upon from the newest on, as a common one: the same.
      expect([words, (await ledger(reader, asked, 1000, 0))!.rows.map((r) => r.number)]).toEqual([words, rows]);
      return rows.toSorted((a, b) => a - b);
    };
    expect(await of(`R-${numbers[3]}`)).toEqual([numbers[3]]);
    expect(await of('another way')).toEqual(numbers.filter((_, i) => i % 3 === 0));
    expect(await of('runa str')).toEqual(numbers.filter((_, i) => i % 2 === 0));
    expect(await of('sounding')).toEqual(numbers);
    expect(await of('Soundi tor')).toEqual(numbers.filter((_, i) => i % 2 === 1));
    expect(await of('lagoon')).toEqual(numbers.filter((_, i) => i % 4 === 0));
    // The name of a group that an answer holds by an id.
    expect(await of('tide-models')).toEqual(numbers);
    for (const odd of ["it's", '\\', ':*', '&', '!', "'", '<->', '()', '%', '_']) expect(await of(odd)).toEqual([]);
  });

  it('what is inside a confidential request is found by those alone who may see inside', async () => {
    const designer = w.viewer('dan', 'designer');
    const made = await createItem(designer, { name: 'A private matter' });
    if (!made.ok) throw new Error(made.sentence);
    const form = { fields: [{ id: 'why', kind: 'longText' as const, label: 'Why', required: true }] };
    const draft = {
      ...blankItem('A private matter'),
      form,
      plan: { steps: [tell('t', 'Told')] },
      confidential: { readers: [{ person: w.id('olav') }] },
    };
    const saved = await saveDraft(designer, { id: made.id, version: 1, draft });
    if (!saved.ok) throw new Error(saved.sentence);
    const published = await publish(designer, { id: made.id, version: saved.version, note: '' });
    if (!published.ok) throw new Error(published.sentence);
    const { number } = await w.ask(w.viewer('tor'), made.id, 'tide-models', { why: 'Of the archipelago' });
    const sees = async (who: Viewer, words: string) => {
      const rows = (await ledger(who, askedOf('ledger', `q=${words}`)))!.rows.map((r) => r.number);
      expect((await ledger(who, askedOf('ledger', `q=${words}`), 50, 0))!.rows.map((r) => r.number)).toEqual(rows);
      return rows;
    };
    expect(await sees(w.viewer('olav', 'auditor'), 'archipelago')).toEqual([number]);
    expect(await sees(w.viewer('dan', 'auditor'), 'archipelago')).toEqual([]);
    expect(await sees(w.viewer('dan', 'auditor'), 'private')).toEqual([number]);
    await w.query('delete from kept_view');
  });
});

describe('the Desk’s lists', () => {
  beforeAll(async () => {
    for (let i = 0; i < 9; i++) {
      const assignee = i % 2 ? { team: 'desk' } : { person: { person: w.id('dan') } };
      await w.askPlan({ steps: [step('task', 'do', { assignee, instructions: passages('Do'), checklist: [], fields: [] })] });
    }
    // Two are due in the same moment, three never.
    await w.query(`update task set due_at = case when n < 3 then null else '2026-06-01T10:00:00Z'::timestamptz + n / 2 * interval '1 day' end
      from (select id, row_number() over (order by id) as n from task) t where t.id = task.id`);
    await w.query("update run_step set stuck_cause = 'For a test', began_at = '2026-03-02T09:00:00Z' where kind = 'task'");
  });

  it('give each task and each stuck step once', async () => {
    await holdsInPages('queue', 9);
    await holdsInPages('stuck', 9);
  });

  it('narrow tasks to mine, to those nobody has taken, to days and teams', async () => {
    const tasks = await queueFor(reader, askedOf('queue', 'what=task'), 1000);
    const of = async (query: string) => (await queueFor(reader, askedOf('queue', `what=task&${query}`), 1000)).rows.map((r) => r.id);
    const kept = (keep: (r: (typeof tasks.rows)[number]) => boolean) => tasks.rows.filter(keep).map((r) => r.id);
    expect(await of('whose=mine')).toEqual(kept((r) => r.mine));
    expect(await of('whose=untaken')).toEqual(kept((r) => !r.mine));
    expect(await of(`team=${w.teamId}`)).toEqual(kept((r) => r.team !== null));
    expect(await of('due=..2026-06-02')).toEqual(kept((r) => r.dueAt !== null && r.dueAt < new Date('2026-06-03')));
    expect(await of('q=work+5')).toEqual(kept((r) => r.item === 'Work 5'));
    expect(kept((r) => r.mine)).toHaveLength(5);
    // Late by so many working minutes: Monday the first of June to now.
    expect(tasks.rows.every((r) => (r.dueAt === null) === (r.left === undefined) && (r.left ?? -1) < 0)).toBe(true);
  });

  it('count what they list', async () => {
    const ina = w.viewer('ina');
    for (const query of ['', 'state=over', 'state=over,waiting', `item=${other.id}`, 'q=tor'])
      expect([query, await approvalCount(ina, askedOf('approvals', query))]).toEqual([
        query,
        (await approvalsFor(ina, askedOf('approvals', query), 1000)).rows.length,
      ]);
    expect((await approvalsFor(ina, askedOf('approvals', 'state=over'), 1000)).rows.length).toBeGreaterThan(0);
    for (const query of ['', 'whose=mine', 'whose=untaken', 'q=tor'])
      expect(await queueCount(reader, askedOf('queue', query))).toBe((await queueFor(reader, askedOf('queue', query), 1000)).rows.length);
    expect(await stuckCount(reader, askedOf('stuck'))).toBe((await stuckSteps(reader, askedOf('stuck'), 1000))!.rows.length);
  });
});

describe('a list as CSV', () => {
  const csv = async (list: ListName, who: Viewer, query = '') => {
    const lines = await exports[list](who, askedOf(list, query));
    if (!lines) return undefined;
    let text = '';
    for await (const part of lines) text += part;
    return Papa.parse<string[]>(text.replace(/^\uFEFF/, '').trimEnd(), { delimiter: ',' }).data;
  };

  it('holds every row and the columns that are shown, and nothing that a spreadsheet would work out', async () => {
    await w.query("update service_case set reason = '=1+1' where number = $1", [numbers[0]]);
    const [head, ...rows] = (await csv('ledger', reader, 'columns=request,opened,reason&item=' + other.id))!;
    expect(head).toEqual(['Request', 'Opened', 'Reason']);
    const listed = (await ledger(reader, askedOf('ledger', `item=${other.id}`), 1000))!.rows;
    expect(rows.map((r) => r[0])).toEqual(listed.map((r) => `R-${r.number}`));
    expect(rows.map((r) => r[1])).toEqual(listed.map((r) => r.openedAt.toISOString().slice(0, 16).replace('T', ' ')));
    expect(rows.find((r) => r[0] === `R-${numbers[0]}`)![2]).toBe("'=1+1");
  });

  it.each(Object.keys(lists) as ListName[])('of “%s” has as many rows as the list', async (list) => {
    if (list !== 'parts') expect((await all(list, '', 1000)).length).toBeGreaterThan(1);
    const who = list === 'approvals' ? w.viewer('ina') : reader;
    expect((await csv(list, who))!.length - 1).toBe((await all(list, '', 1000)).length);
  });

  it('is not written for those who may not see the list', async () => {
    expect(await csv('ledger', w.viewer('tor'))).toBeUndefined();
    expect(await csv('items', w.viewer('tor'))).toBeUndefined();
    expect(await csv('stuck', w.viewer('tor'))).toBeUndefined();
    expect(await csv('policies', w.viewer('tor'))).toBeUndefined();
    expect(await csv('systems', w.viewer('tor'))).toBeUndefined();
    expect(await csv('changes', w.viewer('dan', 'designer', 'teamMember'))).toBeUndefined();
  });
});

describe('the log of changes as a list', () => {
  const found = async (asked: string) => (await changes(reader, askedOf('changes', asked), 1000))!.rows;

  it('is narrowed by what was changed, who did it and when, and found in by words and by what stands for an object', async () => {
    const whole = await found('');
    expect((await found('to=policy')).map((r) => r.object)).toEqual(whole.filter((r) => r.object === 'policy').map(() => 'policy'));
    const his = await found(`by=${w.id('tor')}`);
    expect(new Set(his.map((r) => r.who)).size).toBe(1);
    expect(his.map((r) => r.id)).toEqual(whole.filter((r) => r.who === his[0]!.who).map((r) => r.id));
    expect(await found('when=..2001-01-01')).toEqual([]);
    const begun = await found('q=berths');
    expect(new Set(begun.map((r) => r.object))).toEqual(new Set(['policy', 'table', 'web-system']));
    expect((await found(`q=${begun[0]!.objectId}`)).map((r) => r.id)).toEqual([begun[0]!.id]);
    expect(await found('q=%27%27%5C')).toEqual([]);
    expect(await found('q=berths+apparatus')).toEqual([]);
  });
});

describe('systems as a list', () => {
  it('holds the directory among them, and who answers for each', async () => {
    const names = async (asked: string) => (await systems(reader, askedOf('systems', asked)))!.rows.map((r) => r.name);
    expect(await names('')).toEqual(['apparatus', 'Berths', 'Directory', 'Equipment', 'Machines', 'Vessels']);
    expect(await names('q=outside+vess')).toEqual(['Vessels']);
    expect(await names('sort=changed')).toEqual(['Directory', 'Equipment', 'Machines', 'apparatus', 'Vessels', 'Berths']);
    await setSystemOwners(w.viewer('dan', 'administrator'), { system: 'directory', people: [w.id('ina')] });
    expect(await names('owners=some')).toEqual(['Directory']);
    expect(await names('owners=none')).toEqual(['apparatus', 'Berths', 'Equipment', 'Machines', 'Vessels']);
  });
});

describe('kept views', () => {
  it('are kept under their name, one’s own, as the list understands them; kept again they are replaced; forgotten they are gone', async () => {
    const [tor, ina] = [w.viewer('tor'), w.viewer('ina')];
    expect(await keepView(tor, { list: 'approvals', asked: `sort=-asked&item=${item.id}&nonsense=1`, name: '  Mine first ' })).toEqual({
      ok: true,
      name: 'Mine first',
    });
    expect(await keepView(ina, { list: 'approvals', asked: '', name: 'Hers' })).toMatchObject({ ok: true });
    expect(await keepView(tor, { list: 'approvals', asked: 'q=tide', name: 'mine FIRST' })).toMatchObject({ ok: true });
    const kept = await keptViews(tor, 'approvals');
    expect(kept.map(({ name, asked }) => ({ name, asked }))).toEqual([{ name: 'mine FIRST', asked: 'q=tide' }]);
    expect(await keepView(tor, { list: 'approvals', asked: '', name: ' ' })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await keepView(tor, { list: 'approvals', asked: '', name: 'x'.repeat(61) })).toMatchObject({ ok: false, code: 'invalid' });
    expect(await keepView(tor, { list: 'nothing', asked: '', name: 'x' })).toMatchObject({ ok: false, code: 'not-found' });
    expect(await forgetView(ina, kept[0]!.id)).toMatchObject({ ok: false, code: 'not-found' });
    expect(await forgetView(tor, kept[0]!.id)).toMatchObject({ ok: true, name: 'mine FIRST' });
    expect(await keptViews(tor, 'approvals')).toEqual([]);
    for (let i = 0; i < 30; i++) await keepView(tor, { list: 'queue', asked: '', name: `View ${i}` });
    expect(await keepView(tor, { list: 'queue', asked: '', name: 'One more' })).toMatchObject({ ok: false });
  });

  it('say the names of what they narrow by', async () => {
    const asked = askedOf('ledger', `item=${item.id}&requester=${w.id('tor')},${w.id('ina')}`);
    expect(await namesOfFilters('ledger', asked)).toEqual({ [item.id]: 'Join a group', [w.id('tor')]: 'Tor Strand', [w.id('ina')]: 'Ina Strand' });
  });
});

describe('what was decided', () => {
  const found = async (query: string) => (await decisionList(reader, askedOf('decisions', query), 1000))!.rows;
  it('stands with words, way and the entry of the log whose hash hangs in the chain; narrowed, it counts as many', async () => {
    await w.query('select chain_changes()');
    const all = await found('');
    expect(all.map((r) => [r.who, r.status, r.comment, r.via, r.gate])).toEqual(
      [12, 8, 4, 0].map((i) => ['Ina Strand', i % 8 ? 'approved' : 'declined', `Comment ${i} on lagoons`, 'portal', all[0]!.gate]),
    );
    expect(await verifyLog()).toMatchObject({ ok: true });
    for (const r of all) expect(await changeOf(reader, r.entry!)).toMatchObject({ objectId: r.id, link: r.link, hash: r.hash });
    for (const [query, n] of [
      ['state=declined', 2],
      ['way=portal', 4],
      ['way=mail-link', 0],
      [`who=${w.id('ina')}`, 4],
      [`who=${w.id('tor')}`, 0],
      ['q=lagoons+4', 1],
      [`q=${all[0]!.number}`, 1],
      ['decided=..2026-01-01', 0],
    ] as const)
      expect([query, (await found(query)).length, await decisionCount(reader, askedOf('decisions', query))]).toEqual([query, n, n]);
    const byItem = (await found(`item=${item.id}`)).length + (await found(`item=${other.id}`)).length;
    expect([byItem, (await found(`requester=${w.id('runa')}`)).length]).toEqual([4, 4]);
  });
  it('of a confidential request is read by those alone who may see inside it, and not found by its words', async () => {
    const quiet = await w.item(
      'Quietly agreed',
      { steps: [gate({ approvers: { from: 'people', people: [{ person: 'ada' }] } }), tell('end', 'End')] },
      undefined,
      { confidential: { readers: [{ person: w.id('olav') }] } },
    );
    const made = await w.ask(w.viewer('tor'), quiet.id);
    await w.decide('boss', made.id, 'approve', 'Only between us');
    const row = async (who: string, query = '') =>
      (await decisionList(w.viewer(who, 'auditor'), askedOf('decisions', query)))!.rows.find((r) => r.number === made.number);
    expect([await row('olav', 'q=between'), await row('dan')]).toMatchObject([{ comment: 'Only between us' }, { comment: 'confidential' }]);
    expect(await row('dan', 'q=between')).toBeUndefined();
  });
  it('its file is named as the auditor says', async () => {
    const asked = askedOf('decisions', `item=${item.id}&state=approved&decided=2026-01-01..2026-06-30`);
    expect(await evidenceFileName(asked, '2026-11-29')).toBe('decisions Join a group 2026-01-01 2026-06-30 taken 2026-11-29');
    expect(await nameFilesSo(w.viewer('tor', 'designer'), { pattern: 'x' })).toMatchObject({ code: 'not-allowed' });
    expect(await nameFilesSo(reader, { pattern: 'x {who}' })).toMatchObject({ problems: [{ field: 'pattern' }] });
    expect(await nameFilesSo(reader, { pattern: 'Audit {state}, {from} to {to}' })).toEqual({ ok: true });
    expect([await fileNaming(), await evidenceFileName(asked, '2026-11-29')]).toEqual([
      'Audit {state}, {from} to {to}',
      'Audit Approved, 2026-01-01 to 2026-06-30',
    ]);
  });
});

describe('what holdings are narrowed by', () => {
  const found = async (query: string) => (await holdingList(reader, askedOf('holdings', query), 1000))!.rows.map((r) => r.number);
  it('state, who has it, item, days and words, and counts as many; one that is confidential says so', async () => {
    const all = await found('');
    expect(all).toHaveLength(5);
    const [first] = all;
    await w.query(
      'update holding set ended_at = now() where run_id = (select u.id from run u join service_case c on c.id = u.case_id where c.number = $1)',
      [first],
    );
    expect(await found('state=over')).toEqual([first]);
    expect(await found('state=held')).toEqual(all.slice(1));
    expect((await found(`holder=${w.id('tor')}`)).length + (await found(`holder=${w.id('runa')}`)).length).toBe(5);
    expect([await found(`item=${item.id}`), await found('q=tor strand another')].map((some) => some.length < 5)).toEqual([true, true]);
    expect(await found('since=..2026-01-01')).toEqual([]);
    for (const query of ['', 'state=over', 'q=tor', `item=${item.id}`])
      expect(await holdingCount(reader, askedOf('holdings', query))).toBe((await found(query)).length);
    // A confidential request tells what it gave to those alone who may see inside it.
    const quiet = await w.item('Quietly', { steps: [tell('t', 'Told')] }, undefined, { confidential: { readers: [{ person: w.id('olav') }] } });
    const made = await w.ask(w.viewer('tor'), quiet.id);
    await w.query("insert into holding (person_id, kind, what, run_id, key, since) values ($1, 'group', $2, $3, 'given#1', now())", [
      w.id('tor'),
      JSON.stringify({ group: w.groupId('tide-models') }),
      made.id,
    ]);
    const row = async (who: string) => (await holdingList(w.viewer(who, 'auditor'), askedOf('holdings')))!.rows.find((r) => r.number === made.number);
    expect([await row('olav'), await row('dan')]).toMatchObject([{ what: 'tide-models' }, { what: 'confidential', agreed: [] }]);
    await w.query('delete from holding where run_id = $1', [made.id]);
    await w.query('update holding set ended_at = null');
  });
  it('is nothing to those who may not read the Ledger', async () => expect(await holdingList(w.viewer('tor'), askedOf('holdings'))).toBeUndefined());
});
