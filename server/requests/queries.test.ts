import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { form as sampleForm, gate, joinGroup, tell } from '../../core/testing/samples.ts';
import { askedOf } from '../../core/lists/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { ApproverSource, GateRule, Plan } from '../../core/plans/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { world, type World } from '../testing/world.ts';
import { approvalsFor } from '../approvals/list.ts';
import { approvalFor } from '../approvals/queries.ts';
import { foreseen } from './foreseen.ts';
import { answersAgain, myRequest, myRequests } from './queries.ts';
import { submitRequest } from './submit.ts';
import { findPeople, finders, resolveName } from '../people/find.ts';
import { trace } from '../runs/queries.ts';
import { ledger } from '../runs/ledger.ts';
import { draftOf } from '../items/queries.ts';
import { items } from '../items/list.ts';
import { browse, offeredItem } from '../items/offered.ts';
import { findAnything } from '../lists/find-anything.ts';
import { createItem } from '../items/commands.ts';
import { setPersonFacts } from '../people/commands.ts';

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world();
  item = await w.item();
});
afterAll(() => w.close());

/** A trace that the viewer may read to its bottom. */
function openTrace(t: Awaited<ReturnType<typeof trace>>) {
  if (!t || t.sealed) throw new Error('This trace is closed to the viewer.');
  return t;
}

const decide: World['decide'] = (...how) => w.decide(...how);

/** What must be agreed for these answers, as sentences. */
const agreementSentences = async (...[viewer, definition, answers]: [Viewer, ItemDefinition, Answers]) =>
  (await foreseen(viewer, { id: item.id, definition }, answers)).agreed.map((a) => a.sentence);

describe('the Counter', () => {
  it('finds items by name, purpose and category, and takes % and _ as they are typed', async () => {
    expect((await browse(w.viewer('tor'), '')).map((i) => i.name)).toEqual(['Join a group']);
    expect(await browse(w.viewer('tor'), 'JOIN')).toHaveLength(1);
    expect(await browse(w.viewer('tor'), 'through a')).toHaveLength(1);
    expect(await browse(w.viewer('tor'), 'access')).toHaveLength(1);
    expect(await browse(w.viewer('tor'), '%')).toEqual([]);
    expect(await browse(w.viewer('tor'), '_')).toEqual([]);
    expect(await browse(w.viewer('tor'), "'; drop table item; --")).toEqual([]);
  });

  it('offers only what is published', async () => {
    const made = await createItem(w.viewer('dan', 'designer'), { name: 'Only a draft' });
    if (!made.ok) throw new Error(made.sentence);
    expect(await offeredItem(w.viewer('tor'), made.id)).toBeUndefined();
    expect((await browse(w.viewer('tor'), '')).map((i) => i.name)).not.toContain('Only a draft');
  });

  it('pages my requests by number, newest first, none twice and none lost', async () => {
    const asked: number[] = [];
    for (let i = 0; i < 33; i++) asked.push((await w.ask(w.viewer('runa'), item.id)).number);
    const first = await myRequests(w.viewer('runa'));
    // One that comes in meanwhile does not shift the next page.
    asked.push((await w.ask(w.viewer('runa'), item.id)).number);
    const second = await myRequests(w.viewer('runa'), first.next);
    expect(second.next).toBeUndefined();
    const seen = [...first.rows, ...second.rows].map((r) => r.number);
    expect(seen).toEqual(asked.slice(0, 33).toReversed());
    expect((await myRequests(w.viewer('tor'))).rows).toEqual([]);
  });

  it('says where a request stands, who has it and since when, at each point', async () => {
    const { id, number } = await w.ask(w.viewer('tor'), item.id);
    const at = async () => (await myRequest(w.viewer('tor'), number))!.standing;
    expect(await at()).toMatchObject({ step: 'Somebody is asked to agree', who: ['Ina Strand', 'Olav Strand'], stuck: false });
    await decide('ina', id, 'approve', 'Fine');
    expect(await at()).toMatchObject({ step: 'It is being set up', who: ['the directory'], stuck: false });
    await w.manner('directory', 'refusing');
    await w.work();
    await w.manner('directory', 'well');
    expect(await at()).toMatchObject({ step: 'It is being set up', stuck: true });
    const whole = (await myRequest(w.viewer('tor'), number))!;
    expect(whole.decisions).toMatchObject([{ name: 'Ina Strand', status: 'approved', comment: 'Fine' }]);
    expect(whole.answers).toEqual([
      { label: 'Group', words: 'tide-models' },
      { label: 'Why', words: 'Tide tables' },
      { label: 'Kind of work', words: 'Day to day' },
    ]);
  });

  it('has a sentence for every way of finding approvers', async () => {
    const sentences = async (plan: Plan, answers = {}) =>
      agreementSentences(
        w.viewer('tor'),
        {
          ...(await offeredItem(w.viewer('tor'), item.id))!.definition,
          plan: JSON.parse(JSON.stringify(plan).replaceAll('"ada"', `"${w.id('boss')}"`)) as Plan,
        },
        answers,
      );
    const group = { group: { group: w.groupId('tide-models') } };
    expect(await sentences(joinGroup)).toEqual(['An owner of the group you pick must agree: the first reply decides.']);
    expect(await sentences(joinGroup, group)).toEqual(['Ina Strand or Olav Strand (owner of tide-models) must agree: the first reply decides.']);
    expect(await sentences(joinGroup, { group: { group: w.groupId('orphan-files') } })).toEqual([
      'Since orphan-files has no owner, Boss Strand must agree.',
    ]);
    const by = (approvers: NonNullable<Parameters<typeof gate>[0]>['approvers']) =>
      sentences({ steps: [gate({ approvers, rule: { rule: 'all' } }), tell('t', 'T')] });
    expect(await by({ from: 'managerOf', person: { ref: 'request.requester' } })).toEqual(['Runa Strand (manager) must agree.']);
    expect(await by({ from: 'people', people: [{ person: w.id('ina') }, { person: w.id('dan') }] })).toEqual([
      'Ina Strand and Dan Strand must agree.',
    ]);
    expect(await by({ from: 'person', person: { ref: 'form.colleague' } })).toEqual(['The colleague you pick must agree.']);
    const both = (rule: GateRule, group: Extract<ApproverSource, { from: 'ownersOf' }>['group']) =>
      sentences({
        steps: [
          gate({
            approvers: {
              from: 'several',
              of: [
                { from: 'managerOf', person: { ref: 'request.requester' } },
                { from: 'ownersOf', group },
              ],
            },
            rule,
          }),
          tell('t', 'T'),
        ],
      });
    const tides = { literal: { group: w.groupId('tide-models') } };
    expect(await both({ rule: 'oneOfEach' }, tides)).toEqual([
      'Runa Strand (manager) and Ina Strand or Olav Strand (owner of tide-models) must agree.',
    ]);
    expect(await both({ rule: 'any' }, tides)).toEqual(['Runa Strand, Ina Strand or Olav Strand (manager, owner of tide-models) must agree.']);
    expect(await both({ rule: 'oneOfEach' }, { ref: 'form.group' })).toEqual(['Your manager and an owner of the group you pick must agree.']);
    expect(await sentences({ steps: [tell('t', 'T')] })).toEqual([]);
  });

  it('calls what depends on later steps by its name: it may be', async () => {
    const later: Plan = {
      steps: [
        joinGroup.steps[1]!,
        {
          id: 'c',
          kind: 'choose',
          name: 'C',
          expected: joinGroup.steps[1]!.expected,
          cases: [{ id: 'x', name: 'X', when: { compare: 'is', left: { ref: 'steps.add.already' }, right: { literal: true } }, block: [gate()] }],
        },
      ],
    };
    const definition = { ...(await offeredItem(w.viewer('tor'), item.id))!.definition, plan: later };
    expect(await agreementSentences(w.viewer('tor'), definition, {})).toEqual([
      'It may be that an owner of the group you pick must agree: the first reply decides.',
    ]);
  });
});

describe('the Desk', () => {
  it('lists what waits, longest waiting first, a page at a time', async () => {
    for (let i = 0; i < 20; i++) await w.ask(w.viewer('dan'), item.id);
    const first = await approvalsFor(w.viewer('ina'), askedOf('approvals'));
    expect(first.rows).toHaveLength(50);
    const second = await approvalsFor(w.viewer('ina'), askedOf('approvals', `after=${first.next}`));
    const all = [...first.rows, ...second.rows];
    expect(new Set(all.map((a) => a.id)).size).toBe(all.length);
    expect(all.map((a) => a.askedAt.getTime())).toEqual(all.map((a) => a.askedAt.getTime()).toSorted((a, b) => a - b));
    const [count] = await w.query<{ n: number }>(`select count(*)::int as n from approval where person_id = $1 and status = 'waiting'`, [
      w.id('ina'),
    ]);
    expect(all).toHaveLength(count!.n);
  });

  it('shows everything needed to decide, only to the one who was asked', async () => {
    const { id } = await w.ask(w.viewer('tor'), item.id);
    const mine = (await w.approvals(id)).find((a) => a.personId === w.id('ina'))!;
    const shown = (await approvalFor(w.viewer('ina'), mine.id))!;
    expect(shown).toMatchObject({
      requester: { name: 'Tor Strand', department: 'Charts', manager: 'Runa Strand' },
      rule: 'the first reply decides',
      group: { name: 'tide-models', purpose: 'Test' },
      others: [{ name: 'Olav Strand', status: 'waiting' }],
    });
    expect(await approvalFor(w.viewer('olav'), mine.id)).toBeUndefined();
    expect(await approvalFor(w.viewer('dan', 'administrator', 'auditor'), mine.id)).toBeUndefined();
  });

  it('somebody away is answered for by their delegate, who sees in whose place', async () => {
    await setPersonFacts('host', [{ id: w.id('ina'), awayUntil: '2199-01-01', delegateId: w.id('dan') }]);
    const { id } = await w.ask(w.viewer('tor'), item.id);
    const asked = await w.approvals(id);
    expect(asked.map((a) => a.personId).toSorted()).toEqual([w.id('dan'), w.id('olav')].toSorted());
    const delegate = asked.find((a) => a.personId === w.id('dan'))!;
    expect(await approvalFor(w.viewer('dan'), delegate.id)).toMatchObject({ insteadOf: 'Ina Strand' });
    await w.query('update person set away_until = null, delegate_id = null where id = $1', [w.id('ina')]);
  });
});

describe('the Ledger', () => {
  it('sorts requests by state and hides itself from those who hold no role', async () => {
    const declined = await w.ask(w.viewer('tor'), item.id);
    await decide('ina', declined.id, 'decline', 'No');
    const auditor = w.viewer('dan', 'auditor');
    expect((await ledger(auditor, askedOf('ledger', 'state=declined')))!.rows.map((r) => r.number)).toContain(declined.number);
    expect((await ledger(auditor, askedOf('ledger', 'state=stuck')))!.rows.every((r) => r.standing?.stuck)).toBe(true);
    expect((await ledger(auditor, askedOf('ledger', 'state=stuck')))!.rows.length).toBeGreaterThan(0);
    expect((await ledger(auditor, askedOf('ledger', 'state=open')))!.rows.every((r) => r.outcome === null)).toBe(true);
    const first = (await ledger(auditor, askedOf('ledger'), 5))!;
    const second = (await ledger(auditor, askedOf('ledger', `after=${first.next}`), 5))!;
    expect(first.rows.at(-1)!.number).toBeGreaterThan(second.rows[0]!.number);
    expect(await ledger(w.viewer('tor'), askedOf('ledger'))).toBeUndefined();
    expect(await trace(w.viewer('tor'), declined.number)).toBeUndefined();
  });

  it('tells the whole of a run: values, branch, messages, calls, and what was ignored', async () => {
    const { id, number } = await w.ask(w.viewer('tor'), item.id);
    await decide('olav', id, 'approve', 'Yes');
    await decide('ina', id, 'decline', 'Too late');
    await w.work();
    const t = openTrace(await trace(w.viewer('dan', 'auditor'), number));
    expect(t).toMatchObject({ number, item: 'Join a group', revision: 1, requester: 'Tor Strand', outcome: 'fulfilled' });
    expect(t.contentHash).toMatch(/^[0-9a-f]{64}$/);
    expect(t.steps.map((s) => [s.name, s.end])).toEqual([
      ['Owners agree', 'approved'],
      ['Add to the group', 'done'],
      ['Which words', 'done'],
      ['Tell they are in', 'done'],
    ]);
    expect(t.steps[0]).toMatchObject({ taken: 'When approved', notTaken: ['When declined'], inputs: [{ label: 'Group', words: 'tide-models' }] });
    expect(t.steps[0]!.outputs).toContainEqual({ label: 'Decided by', words: 'Olav Strand' });
    expect(t.steps[2]).toMatchObject({ taken: 'Otherwise', notTaken: ['Already in: Was already a member is yes'] });
    expect(t.steps[1]!.calls[0]).toMatchObject({ status: 'succeeded', idempotencyKey: `${id}/add#1/0`, tries: [{ n: 1, ok: 'yes' }] });
    expect(t.steps[3]!.messages).toMatchObject([{ to: 'Tor Strand', subject: 'About your request' }]);
    expect(t.ignored).toMatchObject([{ what: 'decided', who: 'Ina Strand', reason: 'not-open' }]);
  });
});

describe('find-anything', () => {
  it('ranks names that begin with the words first, and leaves out who has left', async () => {
    expect((await findPeople('o')).map((p) => p.name)[0]).toBe('Olav Strand');
    expect((await findPeople('strand')).length).toBe(6);
    await w.query('update person set active = false where user_name = $1', ['boss']);
    expect((await findPeople('boss')).length).toBe(0);
    await w.query('update person set active = true where user_name = $1', ['boss']);
    expect((await finders.group('TIDE', w.viewer('tor'))).map((g) => g.name)).toEqual(['tide-models']);
    expect(await finders.group('100%', w.viewer('tor'))).toEqual([]);
  });

  it('takes a name typed out in full, and none that is unclear', async () => {
    expect(await resolveName('person', ' tor strand ')).toBe(w.id('tor'));
    expect(await resolveName('person', 'tor@skerrin.example')).toBe(w.id('tor'));
    expect(await resolveName('person', 'tor')).toBeUndefined();
    await w.query('update person set name = $1 where user_name = $2', ['Tor Strand', 'dan']);
    expect(await resolveName('person', 'Tor Strand')).toBeUndefined();
    await w.query('update person set name = $1 where user_name = $2', ['Dan Strand', 'dan']);
  });

  it('opens a request by number to its requester and to readers of the Ledger, to nobody else', async () => {
    const { number } = await w.ask(w.viewer('tor'), item.id);
    const sections = async (viewer: Parameters<typeof findAnything>[0]) =>
      (await findAnything(viewer, `r-${number}`)).map((f) => `${f.section} ${f.to}`);
    expect(await sections(w.viewer('tor'))).toEqual([`My requests /counter/requests/${number}`]);
    expect(await sections(w.viewer('dan', 'auditor'))).toEqual([`Ledger /ledger/${number}`]);
    expect(await sections(w.viewer('runa'))).toEqual([]);
    const found = async (who: Parameters<typeof findAnything>[0], words: string, at?: string) => [
      ...new Set((await findAnything(who, words, at)).map((f) => f.section)),
    ];
    const designer = w.viewer('dan', 'designer');
    expect(await found(designer, 'join')).toEqual(['Ask for', 'Workshop', 'Within requests']);
    expect(await found(w.viewer('tor'), 'join')).toEqual(['Ask for']);
    // By what stands within requests, people, pages and acts, and on an open item the steps of its plan.
    expect(await found(designer, 'Strand')).toEqual(['What people asked for', 'Within requests']);
    expect(await found(w.viewer('tor'), 'Strand')).toEqual([]);
    expect(await findAnything(designer, 'begin it')).toEqual([
      { section: 'Acts', label: 'Begin an item', detail: 'blank', to: '/workshop/items?new' },
    ]);
    expect(await findAnything(w.viewer('tor'), 'begin it')).toEqual([]);
    expect((await findAnything(designer, 'publ', item.id)).map((f) => f.to)).toEqual([`/workshop/items/${item.id}/publish`]);
    expect((await findAnything(designer, 'owners agree', item.id)).filter((f) => f.section === 'Steps of this plan')).toMatchObject([
      { label: 'Owners agree', detail: 'Gate' },
    ]);
    expect(await found(w.viewer('tor'), 'owners agree', item.id)).toEqual([]);
    expect(await found(w.viewer('tor'), 'my req')).toEqual(['Pages']);
  });
});

describe('the Workshop', () => {
  it('counts the requests under way and shows the draft with its findings to designers only', async () => {
    const all = (await items(w.viewer('dan', 'designer'), 'item', askedOf('items')))!;
    const join = all.rows.find((i) => i.name === 'Join a group')!;
    const [open] = await w.query<{ n: number }>('select count(*)::int as n from service_case where outcome is null');
    expect(join).toMatchObject({ published: 1, open: open!.n, draftBy: 'Dan Strand' });
    expect(await items(w.viewer('tor'), 'item', askedOf('items'))).toBeUndefined();
    const draft = (await draftOf(w.viewer('dan', 'designer'), item.id))!;
    expect(draft).toMatchObject({ version: 2, published: 1, findings: [], revisions: [{ number: 1, by: 'Dan Strand' }] });
    expect(draft.catalogue.people[w.id('boss')]).toEqual({ name: 'Boss Strand', active: true });
  });
});

describe('asking', () => {
  it('what was asked before is filled in again, as far as the form asks the same; by nobody else', async () => {
    const { number } = await w.ask(w.viewer('tor'), item.id, 'tide-models', { reason: 'Soundings', colleague: { person: w.id('ina') } });
    const { form } = (await offeredItem(w.viewer('tor'), item.id))!.definition;
    const again = (await answersAgain(w.viewer('tor'), number, form))!;
    expect(again.answers).toEqual({
      group: { group: w.groupId('tide-models') },
      reason: 'Soundings',
      kind: 'daily',
      colleague: { person: w.id('ina') },
    });
    expect(Object.keys(again.names).sort()).toEqual([w.groupId('tide-models'), w.id('ina')].sort());
    expect(await answersAgain(w.viewer('runa'), number, form)).toBeUndefined();
    // What the form asks otherwise today, or not any more, is not filled in.
    const changed = {
      fields: [
        ...form.fields.filter((f) => f.id !== 'colleague' && f.id !== 'reason'),
        { id: 'reason', kind: 'number' as const, label: 'Why', required: true },
      ],
    };
    expect(Object.keys((await answersAgain(w.viewer('tor'), number, changed))!.answers).sort()).toEqual(['group', 'kind']);
  });

  it('a rule between fields is held by whoever takes the answers: nothing is asked, and its sentence stands at its field', async () => {
    const rule = {
      id: 'own',
      holds: { compare: 'isNot' as const, left: { ref: 'form.reason' }, right: { literal: 'Because' } },
      field: 'reason',
      sentence: 'Say more than that.',
    };
    const ruled = await w.item('Ruled', joinGroup, { ...sampleForm, rules: [rule] });
    const ask = (reason: string) =>
      submitRequest(w.viewer('tor'), {
        itemId: ruled.id,
        revision: 1,
        answers: { group: { group: w.groupId('tide-models') }, reason, kind: 'daily' },
        idempotencyKey: `ruled ${reason}`,
      });
    expect(await ask('Because')).toMatchObject({ ok: false, code: 'invalid', problems: [{ field: 'reason', sentence: 'Say more than that.' }] });
    expect(await ask('Soundings')).toMatchObject({ ok: true });
  });
});
