import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Wanted } from '../../core/engine/index.ts';
import type { Policy } from '../../core/policies/index.ts';
import { world, type World } from '../testing/world.ts';
import { lookUp } from './approvers.ts';
import { createPolicy, changePolicy } from '../policies/commands.ts';

/** The organisation: boss above ina, olav, runa and dan; runa above tor; ina and olav own tide-models. */
let w: World;
let look: (wanted: Wanted, requester?: string) => Promise<{ people: string[]; [more: string]: unknown }>;
let name: (id: string) => string;

beforeAll(async () => {
  w = await world();
  const names = new Map((await w.query<{ id: string; user_name: string }>('select id, user_name from person')).map((p) => [p.id, p.user_name]));
  name = (id) => names.get(id)!;
  look = async (wanted, requester = 'tor') => {
    const found = await w.db().transaction((tx) => lookUp(tx, wanted, w.id(requester)));
    return { ...found, people: found.people.map((p) => name(p.person)) };
  };
});
beforeEach(() => w.query('update person set active = true, away_until = null, delegate_id = null'));
afterAll(() => w.close());

const reportsTo = (who: string, manager: string | null) =>
  w.query('update person set manager_id = $2 where id = $1', [w.id(who), manager && w.id(manager)]);

describe('who is found', () => {
  it('the manager, two levels up, the chain; nobody above the top', async () => {
    expect((await look({ from: 'managerOf', person: w.id('tor'), levels: 1 })).people).toEqual(['runa']);
    expect((await look({ from: 'managerOf', person: w.id('tor'), levels: 2 })).people).toEqual(['boss']);
    expect((await look({ from: 'managerOf', person: w.id('tor'), levels: 3 })).people).toEqual([]);
    expect((await look({ from: 'managerOf', person: w.id('boss'), levels: 1 })).people).toEqual([]);
    expect((await look({ from: 'chain', person: w.id('tor'), levels: 5 })).people).toEqual(['runa', 'boss']);
    expect((await look({ from: 'chain', person: w.id('tor'), levels: 1 })).people).toEqual(['runa']);
  });

  it('of several sources everybody once, by which of them; one without anybody keeps its place, one that is gone is told', async () => {
    const of = (...of: (Wanted | null)[]): Wanted => ({ from: 'several', of });
    const several = of(
      { from: 'ownersOf', group: w.groupId('tide-models') },
      null,
      { from: 'team', team: w.teamId },
      { from: 'managerOf', person: w.id('tor'), levels: 1 },
      { from: 'ownersOf', group: w.groupId('orphan-files') },
    );
    const found = await w.db().transaction((tx) => lookUp(tx, several, w.id('tor')));
    expect(found.people.map((p) => [name(p.person), p.sources])).toEqual([
      ['ina', [0]],
      ['olav', [0]],
      ['dan', [2]],
      ['runa', [2, 3]],
    ]);
    expect((await look(of(null, { from: 'people', people: [] }))).people).toEqual([]);
    expect(await look(of({ from: 'team', team: crypto.randomUUID() }, { from: 'team', team: w.teamId }))).toEqual({
      people: [],
      problem: 'The team does not exist any more.',
    });
  });

  it('a circle of managers ends where it began', async () => {
    await reportsTo('boss', 'tor');
    try {
      expect((await look({ from: 'chain', person: w.id('tor'), levels: 9 })).people).toEqual(['runa', 'boss']);
      expect((await look({ from: 'managerOf', person: w.id('tor'), levels: 4 })).people).toEqual([]);
    } finally {
      await reportsTo('boss', null);
    }
  });

  it('owners and reports by name, team members; of what does not exist nobody, with the reason', async () => {
    expect((await look({ from: 'ownersOf', group: w.groupId('tide-models') })).people).toEqual(['ina', 'olav']);
    expect((await look({ from: 'ownersOf', group: w.groupId('orphan-files') })).people).toEqual([]);
    expect((await look({ from: 'reportsOf', person: w.id('boss') })).people).toEqual(['dan', 'ina', 'olav', 'runa']);
    expect((await look({ from: 'team', team: w.teamId })).people).toEqual(['dan', 'runa']);
    expect(await look({ from: 'team', team: crypto.randomUUID() })).toEqual({ people: [], problem: 'The team does not exist any more.' });
    expect(await look({ from: 'team', team: 'no id at all' })).toMatchObject({ people: [], problem: expect.any(String) });
  });

  it('named people in the order given, each only while they work here', async () => {
    const people = ['olav', 'ina', 'dan'].map((u) => w.id(u));
    expect((await look({ from: 'people', people })).people).toEqual(['olav', 'ina', 'dan']);
    await w.query('update person set active = false where id = $1', [w.id('ina')]);
    expect((await look({ from: 'people', people: [...people, 'nobody', crypto.randomUUID()] })).people).toEqual(['olav', 'dan']);
  });
});

describe('what is known of them', () => {
  const found = async (user: string) => {
    return (await w.db().transaction((tx) => lookUp(tx, { from: 'people', people: [w.id(user)] }, w.id('tor')))).people[0];
  };

  it('the delegate while they are away, and only then', async () => {
    const away = (until: string) => w.query(`update person set away_until = ${until}, delegate_id = $2 where id = $1`, [w.id('ina'), w.id('olav')]);
    await away('current_date + 3');
    expect(await found('ina')).toEqual({ person: w.id('ina'), delegate: w.id('olav'), manager: w.id('boss') });
    await away('current_date');
    expect((await found('ina'))?.delegate).toBe(w.id('olav'));
    await away('current_date - 1');
    expect(await found('ina')).toEqual({ person: w.id('ina'), manager: w.id('boss') });
  });

  it('no delegate and no manager who has left', async () => {
    await w.query('update person set away_until = current_date + 3, delegate_id = $2 where id = $1', [w.id('ina'), w.id('olav')]);
    await w.query('update person set active = false where id = any($1)', [[w.id('olav'), w.id('boss')]]);
    expect(await found('ina')).toEqual({ person: w.id('ina'), absent: true });
  });
});

describe('an approval policy', () => {
  const policy = (lines: Policy['lines']): Policy => ({
    name: 'Spending',
    purpose: '',
    inputs: [{ name: 'amount', label: 'Amount', type: 'number' }],
    lines,
  });
  const over = (amount: number) => ({ compare: 'more', left: { ref: 'input.amount' }, right: { literal: amount } }) as const;

  it('is read as it is now: the line, its people, its rule; what no line covers asks nobody', async () => {
    const designer = w.viewer('dan', 'designer');
    const made = await createPolicy(designer, { name: 'Spending' });
    if (!made.ok) throw new Error(made.sentence);
    const change = async (version: number, lines: Policy['lines']) =>
      expect(await changePolicy(designer, { id: made.id, version, definition: policy(lines), note: '' })).toMatchObject({ ok: true });
    const at = (amount: number | null) => look({ from: 'policy', policy: made.id, values: { amount } });
    await change(1, [
      { id: 'chain', when: over(1000), approvers: { from: 'chain', levels: 2 }, rule: { rule: 'all' } },
      { id: 'team', when: over(100), approvers: { from: 'team', team: w.teamId }, rule: { rule: 'atLeast', count: 2 } },
      { id: 'free', when: over(0), approvers: { from: 'nobody' }, rule: { rule: 'any' } },
    ]);
    expect(await at(5000)).toMatchObject({ people: ['runa', 'boss'], rule: { rule: 'all' } });
    expect(await at(500)).toMatchObject({ people: ['dan', 'runa'], rule: { rule: 'atLeast', count: 2 } });
    expect(await at(5)).toEqual({ people: [], passes: 'The policy “Spending” asks nobody here.' });
    expect(await at(0)).toEqual({ people: [] });
    expect(await at(null)).toEqual({ people: [] });
    await change(2, [{ id: 'boss', approvers: { from: 'people', people: [{ person: w.id('boss') }] }, rule: { rule: 'any' } }]);
    expect((await at(0)).people).toEqual(['boss']);
    expect(await look({ from: 'policy', policy: crypto.randomUUID(), values: {} })).toEqual({
      people: [],
      problem: 'The approval policy does not exist any more.',
    });
  });
});
