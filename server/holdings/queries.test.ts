import { afterAll, beforeAll, expect, it } from 'vitest';
import { tell } from '../../core/testing/samples.ts';
import { decide } from '../approvals/commands.ts';
import { world, type World } from '../testing/world.ts';
import { hasPeople, otherGroups, ownsGroups, thingsHeld } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

/** Joins tide-models for somebody, agreed to by an owner of it. */
async function join(who: string): Promise<number> {
  const item = await w.item(`Join for ${who}`);
  const made = await w.ask(w.viewer(who), item.id);
  for (const [userName, comment] of [
    ['ina', 'For the spring models.'],
    ['olav', ''],
  ] as const) {
    const [asked] = await w.query<{ id: string }>(
      "select a.id from approval a join gate g on g.id = a.gate_id where g.run_id = $1 and a.person_id = $2 and a.status = 'waiting'",
      [made.id, w.id(userName)],
    );
    if (asked) expect(await decide(w.viewer(userName), { approvalId: asked.id, decision: 'approve', comment })).toMatchObject({ ok: true });
  }
  await w.work();
  return made.number;
}

it('what a request gave stands with whoever has it: since when, by which, and with which words it was agreed to', async () => {
  expect(await thingsHeld(w.viewer('tor'), 'mine')).toEqual({ rows: [], next: undefined });
  const number = await join('tor');
  const { rows } = await thingsHeld(w.viewer('tor'), 'mine');
  expect(rows).toMatchObject([{ what: 'tide-models', kind: 'group', number, isTheirs: true, who: 'Tor Strand' }]);
  expect(rows[0]!.agreed.map((a) => [a.name, a.comment])).toContainEqual(['Ina Strand', 'For the spring models.']);
  // Who owns the group sees who is in it by a request.
  expect([await ownsGroups(w.viewer('ina')), await ownsGroups(w.viewer('tor'))]).toEqual([true, false]);
  expect((await thingsHeld(w.viewer('ina'), 'owned')).rows).toMatchObject([{ who: 'Tor Strand', what: 'tide-models', number }]);
  expect((await thingsHeld(w.viewer('tor'), 'owned')).rows).toEqual([]);
  // Whose manager one is, one sees what they hold, not what was said of it; nobody else does.
  expect([await hasPeople(w.viewer('runa')), await hasPeople(w.viewer('tor'))]).toEqual([true, false]);
  const seen = await thingsHeld(w.viewer('runa'), 'people');
  expect(seen.rows).toMatchObject([{ who: 'Tor Strand', what: 'tide-models', isTheirs: false }]);
  expect(seen.rows[0]!.agreed.map((a) => a.comment).join('')).toBe('');
  expect((await thingsHeld(w.viewer('ina'), 'people')).rows).toEqual([]);
  expect((await thingsHeld(w.viewer('runa'), 'mine')).rows).toEqual([]);
});

it('a group that no request gave is told beside; what was given back stands no more, what is with who has left does with their manager', async () => {
  expect(await otherGroups(w.viewer('tor'))).not.toContain('tide-models');
  const [{ id }] = (await w.query<{ id: string }>('select id from holding where person_id = $1', [w.id('tor')])) as [{ id: string }];
  await w.query('update holding set ended_at = now() where id = $1', [id]);
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows).toEqual([]);
  // The directory has them in it still.
  expect(await otherGroups(w.viewer('tor'))).toContain('tide-models');
  await w.query('update holding set ended_at = null where id = $1', [id]);
  await w.query('update person set active = false where id = $1', [w.id('tor')]);
  expect((await thingsHeld(w.viewer('runa'), 'people')).rows).toMatchObject([{ id, hasLeft: true }]);
  await w.query('update person set active = true where id = $1', [w.id('tor')]);
});

it('of a confidential request a manager who has no part in it learns that something is held, and nothing else', async () => {
  const quiet = await w.item('Quietly', { steps: [tell('t', 'Told')] }, undefined, { confidential: { readers: [] } });
  const made = await w.ask(w.viewer('tor'), quiet.id);
  await w.query("insert into holding (person_id, kind, what, run_id, key, since) values ($1, 'group', $2, $3, 'given#1', now())", [
    w.id('tor'),
    JSON.stringify({ group: w.groupId('tide-models') }),
    made.id,
  ]);
  const of = async (who: string, whose: 'mine' | 'people') => (await thingsHeld(w.viewer(who), whose)).rows.find((r) => r.number === made.number);
  expect(await of('runa', 'people')).toMatchObject({ what: 'confidential', item: '', agreed: [] });
  expect(await of('tor', 'mine')).toMatchObject({ what: 'tide-models', item: 'Quietly' });
  await w.query('delete from holding where run_id = $1', [made.id]);
});

it('of many a page at a time, newest first, none twice and none lost, also of one moment', async () => {
  await w.query(`insert into holding (person_id, kind, what, run_id, key, since)
    select person_id, kind, what, run_id, 'more#' || n, '2026-03-01'::timestamptz + (n / 3) * interval '1 microsecond' from holding, generate_series(1, 120) n`);
  const seen: string[] = [];
  for (let after: string | undefined, pages = 0; pages < 5; pages++) {
    const page = await thingsHeld(w.viewer('tor'), 'mine', after);
    seen.push(...page.rows.map((r) => r.id));
    if (page.next === undefined) break;
    after = page.next;
  }
  const all = await w.query<{ id: string }>('select id from holding where person_id = $1 and ended_at is null order by since desc, id desc', [
    w.id('tor'),
  ]);
  expect(seen).toEqual(all.map((r) => r.id));
  expect(seen).toHaveLength(121);
  // What is no place in the list begins it.
  expect((await thingsHeld(w.viewer('tor'), 'mine', 'nonsense')).rows[0]!.id).toBe(seen[0]);
});
