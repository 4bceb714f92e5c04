import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import type { Plan } from '../../core/plans/index.ts';
import { step, tell } from '../../core/testing/samples.ts';
import type { Operand } from '../../core/values/index.ts';
import { shiftClock } from '../clock.ts';
import { tendCall } from '../calls/tend.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { foreseen } from '../requests/foreseen.ts';
import { submitRequest } from '../requests/submit.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { retryStep } from '../runs/commands.ts';
import { finishTask } from '../tasks/commands.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { endApart, endException, exceptFrom, keepApart } from './commands.ts';
import { apartFor, seesApart } from './queries.ts';

/** Two groups that are not to meet in one person: refused while asking, stopped on the way, and let through by an exception. */
let w: World;
let pair: string;
const [tides, orphans] = ['tide-models', 'orphan-files'];
const why = 'Who models tides does not sign them off.';
const add = (id: string, group: Operand, person: Operand = { ref: 'request.requester' }) =>
  step('provision', id, { action: 'directory.addMember', inputs: { group, person }, retries: { times: 0, firstPauseSeconds: 1, factor: 1 } });
const joins: Plan = { steps: [add('add', { ref: 'form.group' }), tell('end', 'End')] };
let item: { id: string };
beforeAll(async () => {
  w = await world();
  await setSystemOwners('host', { system: 'directory', people: [w.id('boss')] });
  item = await w.item('Join', joins);
  const kept = await keepApart(w.viewer('dan', 'designer'), {
    one: w.groupId(tides),
    other: w.groupId(orphans),
    why,
    excepters: [w.id('runa'), w.id('tor')],
  });
  if (!kept.ok) throw new Error(kept.sentence);
  pair = kept.id;
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});
beforeEach(() => shiftClock(0));

const members = async (group: string) => (await w.scimGroup(group)).members.map((m) => m.value);
const isIn = async (who: string, group: string) => (await members(group)).includes(w.scimUser(who));
/** Out of both again, in the directory and in its mirror. */
async function out(who: string): Promise<void> {
  for (const group of [tides, orphans]) {
    const { id, meta } = await w.scimGroup(group);
    const path = `members[value eq "${w.scimUser(who)}"]`;
    if (await isIn(who, group)) await directoryClient.patchGroup(id, [{ op: 'remove', path }], meta?.version, randomBytes(4).toString('hex'));
  }
  await w.query(`delete from group_person where person_id = $1 and "as" = 'member'`, [w.id(who)]);
  await w.query('update holding set ended_at = now() where person_id = $1 and ended_at is null', [w.id(who)]);
}
const asks = (who: string, group: string, itemId = item.id, forWhom?: string) =>
  submitRequest(w.viewer(who), {
    itemId,
    revision: 1,
    answers: { group: { group: w.groupId(group) }, reason: 'Tide tables', kind: 'daily' },
    idempotencyKey: randomBytes(8).toString('hex'),
    ...(forWhom && { forWhom: w.id(forWhom) }),
  });
const said = async (r: ReturnType<typeof asks>) => {
  const result = await r;
  return result.ok ? 'sent' : (result.problems ?? []).map((p) => `${p.field}: ${p.sentence}`).join(' ');
};
const runOf = async (number: number) =>
  (await w.query<{ id: string }>('select r.id from run r join service_case c on c.id = r.case_id where c.number = $1', [number]))[0]!.id;
const stuckIn = async (runId: string) =>
  await w.query<{ key: string; cause: string }>(
    'select key, stuck_cause as cause from run_step where run_id = $1 and stuck_cause is not null order by key',
    [runId],
  );

it('is refused while it is asked for, at the field that names it, with why and who can make an exception', async () => {
  await out('ina');
  expect(await said(asks('ina', tides))).toBe('sent');
  await w.work();
  expect(await isIn('ina', tides)).toBe(true);
  const sentence =
    'Ina Strand has tide-models, and it is kept apart from orphan-files: Who models tides does not sign them off. Runa Strand or Tor Strand can make an exception.';
  expect(await said(asks('ina', orphans))).toBe(`group: ${sentence}`);
  const [row] = await w.query<{ definition: never }>('select definition from revision where item_id = $1', [item.id]);
  const told = async (who: string, group: string) =>
    (await foreseen(w.viewer(who), { id: item.id, definition: row!.definition }, { group: { group: w.groupId(group) }, reason: 'x', kind: 'daily' }))
      .taken;
  expect(await told('ina', orphans)).toEqual([{ field: 'group', sentence }]);
  expect(await told('ina', tides)).toEqual([]);
  expect(await told('olav', orphans)).toEqual([]);
});

it('what somebody else has is not told to whoever asks for them', async () => {
  const others = await w.item(
    'Join for others',
    { steps: [add('add', { ref: 'form.group' }, { ref: 'request.for' }), tell('end', 'End')] },
    undefined,
    {
      onBehalf: { managers: true, by: [{ person: { person: w.id('dan') } }] },
    },
  );
  expect(await said(asks('dan', orphans, others.id, 'ina'))).toBe(
    'group: Ina Strand has something that is kept apart from orphan-files: Who models tides does not sign them off. Runa Strand or Tor Strand can make an exception.',
  );
});

it('both in one request are refused too; what depends on what comes later is stopped before the directory is asked, and goes on with an exception', async () => {
  await out('olav');
  const both = await w.item('Both', {
    steps: [add('one', { literal: { group: w.groupId(tides) } }), add('two', { literal: { group: w.groupId(orphans) } }), tell('end', 'End')],
  });
  expect(await said(asks('olav', tides, both.id))).toMatch(/^group: Olav Strand has (tide-models|orphan-files), and it is kept apart from/);

  // Only once it is known what stands at the question.
  const ask = step('task', 'which', {
    assignee: { team: 'desk' },
    instructions: [{ text: [[{ text: 'Which?' }]] }],
    checklist: [],
    fields: [{ id: 'group', kind: 'group', label: 'Group', required: true }],
  });
  const later = await w.item('Later', { steps: [ask, add('add', { ref: 'steps.which.group' }), tell('end', 'End')] });
  expect(await said(asks('olav', tides))).toBe('sent');
  await w.work();
  const sent = await asks('olav', orphans, later.id);
  if (!sent.ok) throw new Error(JSON.stringify(sent));
  const run = await runOf(sent.number);
  const [task] = await w.query<{ id: string }>('select id from task where run_id = $1', [run]);
  expect(
    await finishTask(w.viewer('dan', 'teamMember'), { id: task!.id, values: { group: { group: w.groupId(orphans) } }, checked: [] }),
  ).toMatchObject({ ok: true });
  await w.work();
  expect(await stuckIn(run)).toEqual([
    {
      key: 'add#1',
      cause:
        'The directory was not asked. Olav Strand has tide-models, and it is kept apart from orphan-files: Who models tides does not sign them off. Runa Strand or Tor Strand can make an exception.',
    },
  ]);
  expect(await isIn('olav', orphans)).toBe(false);
  expect(await exceptFrom(w.viewer('runa'), { id: pair, person: w.id('olav'), until: '', why: 'Until somebody else signs' })).toEqual({ ok: true });
  expect(await retryStep(w.viewer('dan', 'administrator'), { number: sent.number, key: 'add#1' })).toEqual({ ok: true });
  await w.work();
  expect(await isIn('olav', orphans)).toBe(true);
  expect(await stuckIn(run)).toEqual([]);
  await replays(w, run);
});

it('two at once: one is given, the other is not; again and again', async () => {
  for (let i = 0; i < 5; i++) {
    await out('dan');
    const [a, b] = await Promise.all([asks('dan', tides), asks('dan', orphans)]);
    // Nothing was given yet when they were asked for.
    if (!a.ok || !b.ok) throw new Error('Both are sent.');
    const calls = await w.query<{ id: string }>('select id from call where closed_at is null');
    await Promise.all(calls.map((c) => tendCall(c.id)));
    await w.work();
    const both = [await isIn('dan', tides), await isIn('dan', orphans)];
    expect(both.filter(Boolean)).toHaveLength(1);
    const stuck = [...(await stuckIn(await runOf(a.number))), ...(await stuckIn(await runOf(b.number)))];
    expect(stuck.map((s) => s.cause)).toEqual([expect.stringMatching(/^The directory was not asked\. Dan Strand has/)]);
  }
});

it('an exception is made by who is named for it, not for themselves, until a day; nobody else sees the pair', async () => {
  await out('ina');
  await w.query('update apart_exception set ended_at = now() where ended_at is null');
  const day = (n: number) => new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);
  const except = (who: string, more: Partial<{ person: string; until: string; why: string }> = {}) =>
    exceptFrom(w.viewer(who), { id: pair, person: w.id('ina'), until: day(10), why: 'Over the summer', ...more });
  for (const who of ['ina', 'boss', 'dan']) expect(await except(who)).toMatchObject({ code: 'not-found' });
  expect(await except('tor', { person: w.id('tor') })).toMatchObject({ problems: [{ field: 'person' }] });
  expect(await except('tor', { person: 'unknown-1' })).toMatchObject({ problems: [{ field: 'person' }] });
  expect(await except('tor', { until: day(-1) })).toMatchObject({ problems: [{ field: 'until' }] });
  expect(await except('tor', { until: '2026-02-31' })).toMatchObject({ problems: [{ field: 'until' }] });
  expect(await except('tor', { why: ' ' })).toMatchObject({ problems: [{ field: 'why' }] });
  expect(await Promise.all([except('tor'), except('runa')])).toEqual([{ ok: true }, { ok: true }]);
  const [shown] = await apartFor(w.viewer('runa'));
  expect(shown).toMatchObject({ why, mayExcept: true, exceptions: [{ name: 'Ina Strand', until: day(10), holds: true }] });
  expect(await apartFor(w.viewer('boss'))).toEqual([]);
  expect([await seesApart(w.viewer('boss')), await seesApart(w.viewer('runa')), await seesApart(w.viewer('boss', 'auditor'))]).toEqual([
    false,
    true,
    true,
  ]);
  for (const group of [tides, orphans]) {
    expect(await said(asks('ina', group))).toBe('sent');
    await w.work();
  }
  expect([await isIn('ina', tides), await isIn('ina', orphans)]).toEqual([true, true]);
  expect((await apartFor(w.viewer('runa')))[0]!.both).not.toContain('Ina Strand');
  // After its last day it lets nobody in any more, and who has both is shown.
  shiftClock(12 * 86_400_000);
  expect((await apartFor(w.viewer('runa')))[0]).toMatchObject({ both: ['Ina Strand', 'Olav Strand'], exceptions: [{ holds: false }] });
  shiftClock(0);
  const exception = shown!.exceptions[0]!.id;
  expect(await endException(w.viewer('boss'), { id: exception })).toMatchObject({ code: 'not-found' });
  expect(await endException(w.viewer('tor'), { id: exception })).toEqual({ ok: true });
  expect(await endException(w.viewer('tor'), { id: exception })).toMatchObject({ code: 'ended' });
});

it('is said and ended by designers and administrators; the same two are one pair, whichever is named first', async () => {
  const designer = w.viewer('dan', 'designer');
  const keep = (viewer = designer, more: object = {}) =>
    keepApart(viewer, { one: w.groupId(orphans), other: w.groupId(tides), why: 'For another reason', excepters: [w.id('runa')], ...more });
  expect(await keep(w.viewer('runa'))).toMatchObject({ code: 'not-allowed' });
  expect(await keep(designer, { one: w.groupId(tides) })).toMatchObject({
    problems: [{ field: 'other', sentence: 'Pick another group than the first.' }],
  });
  expect(await keep(designer, { one: '', other: '' })).toMatchObject({ problems: [{ field: 'one' }, { field: 'other' }] });
  expect(await keep(designer, { other: 'unknown-1' })).toMatchObject({ problems: [{ field: 'other' }] });
  expect(await keep(designer, { why: '' })).toMatchObject({ problems: [{ field: 'why' }] });
  expect(await keep(designer, { excepters: [crypto.randomUUID()] })).toMatchObject({ code: 'invalid' });
  expect(await keep()).toEqual({ ok: true, id: pair });
  expect(await apartFor(designer)).toMatchObject([{ id: pair, why: 'For another reason', excepters: [{ name: 'Runa Strand' }] }]);
  expect(await endApart(w.viewer('runa'), { id: pair, again: false })).toMatchObject({ code: 'not-allowed' });
  expect(await endApart(designer, { id: pair, again: false })).toEqual({ ok: true });
  expect(await endApart(designer, { id: pair, again: false })).toMatchObject({ code: 'ended' });
  expect(await seesApart(w.viewer('runa'))).toBe(false);
  await out('ina');
  for (const group of [tides, orphans]) {
    expect(await said(asks('ina', group))).toBe('sent');
    await w.work();
  }
  expect([await isIn('ina', tides), await isIn('ina', orphans)]).toEqual([true, true]);
  expect(await endApart(designer, { id: pair, again: true })).toEqual({ ok: true });
  expect((await apartFor(w.viewer('runa')))[0]!.both).toContain('Ina Strand');
  expect(await w.query("select action from change_log where object = 'apart' and object_id = $1 order by id desc limit 2", [pair])).toEqual([
    { action: 'keep' },
    { action: 'end' },
  ]);
});
