import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { step, tell } from '../../core/testing/samples.ts';
import { dateWords } from '../../core/calendar/index.ts';
import { askedOf } from '../../core/lists/index.ts';
import { shiftClock } from '../clock.ts';
import { addLocation } from '../people/commands.ts';
import { directoryClient } from '../systems/directory/client.ts';
import { setSystemOwners } from '../consents/commands.ts';
import { skipStep } from '../runs/commands.ts';
import { finishTask } from '../tasks/commands.ts';
import { replays } from '../testing/replays.ts';
import { world, type World } from '../testing/world.ts';
import { giveBack } from './commands.ts';
import { endLeases } from './leases.ts';
import { endLeavers, tellLeavers } from './leavers.ts';
import { holdingList } from './list.ts';
import { tellMovers } from './movers.ts';
import { thingsHeld } from './queries.ts';

let w: World;
beforeAll(async () => {
  w = await world();
  await setSystemOwners('host', { system: 'directory', people: [w.id('boss')] });
});
afterAll(async () => {
  shiftClock(0);
  await w.close();
});
beforeEach(() => shiftClock(0));

/** Somebody is in a group by a request that is fulfilled; what undoes it is the system's own, or nothing. */
async function joined(who: string, undo?: 'none', group = 'tide-models') {
  const add = step('provision', 'add', {
    action: 'directory.addMember',
    inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
    ...(undo && { undo }),
  });
  const item = await w.item(`Join ${Math.random()}`, { steps: [add, tell('end', 'End')] });
  const made = await w.ask(w.viewer(who), item.id, group);
  await w.work();
  const [row] = await w.query<{ id: string }>('select id from holding where run_id = $1', [made.id]);
  return { ...made, holding: row!.id };
}
const isIn = async (who: string) => (await w.scimGroup('tide-models')).members.some((m) => m.value === w.scimUser(who));
const rowOf = async (id: string) =>
  (
    await w.query<{ ended_at: Date | null; ending_at: Date | null; ending_why: string; told_at: Date | null }>(
      'select * from holding where id = $1',
      [id],
    )
  )[0]!;
const mailsAbout = async (who: string, subject: RegExp) => (await w.mails(who)).filter((m) => subject.test(m.subject));

const held = async (query: string) => (await holdingList(w.viewer('dan', 'auditor'), askedOf('holdings', query)))!.rows.map((r) => r.number);

it('is given back by whoever has it: the system takes it back, once, and the log says who; nobody else may', async () => {
  const { id, holding } = await joined('tor');
  expect(await isIn('tor')).toBe(true);
  expect(await giveBack(w.viewer('dan'), { id: holding, why: 'x' })).toMatchObject({ code: 'not-found' });
  expect(await giveBack(w.viewer('dan', 'auditor', 'designer', 'teamMember'), { id: holding, why: 'x' })).toMatchObject({ code: 'not-found' });
  expect(await giveBack(w.viewer('tor'), { id: 'nonsense', why: '' })).toMatchObject({ code: 'not-found' });
  const both = await Promise.all([giveBack(w.viewer('tor'), { id: holding, why: '' }), giveBack(w.viewer('tor'), { id: holding, why: '' })]);
  expect(both.filter((r) => r.ok)).toHaveLength(1);
  expect(both.find((r) => !r.ok)).toMatchObject({ code: 'ended', sentence: 'It is being given back already. Nothing was changed.' });
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows).toMatchObject([{ id: holding, endingAt: expect.any(Date) }]);
  await w.work();
  expect(await isIn('tor')).toBe(false);
  expect(await rowOf(holding)).toMatchObject({ ended_at: expect.any(Date), ending_why: 'Given back by whoever had it.' });
  expect((await thingsHeld(w.viewer('tor'), 'mine')).rows).toEqual([]);
  expect(await giveBack(w.viewer('tor'), { id: holding, why: '' })).toMatchObject({ sentence: 'It was given back already. Nothing was changed.' });
  expect(await w.query("select action from change_log where object = 'holding' and object_id = $1", [holding])).toEqual([{ action: 'give-back' }]);
  await replays(w, id);
});

it('is taken back by a manager, by an owner of the group, by an administrator: with why, which whoever loses it is told', async () => {
  for (const [by, roles] of [
    ['runa', []],
    ['ina', []],
    ['dan', ['administrator']],
  ] as [string, ('administrator' | 'auditor')[]][]) {
    const { holding } = await joined('tor');
    const who = w.viewer(by, ...roles);
    expect(await giveBack(who, { id: holding, why: ' ' })).toMatchObject({ code: 'invalid', problems: [{ field: 'why' }] });
    expect(await giveBack(who, { id: holding, why: `Not needed, says ${by}` })).toEqual({ ok: true });
    await w.work();
    expect(await isIn('tor')).toBe(false);
    const told = await mailsAbout('tor', /^(Re: )?Something of yours is taken back/);
    expect(told.at(-1)!.text).toContain(`“Not needed, says ${by}”`);
    expect(told.at(-1)!.text).toContain('takes back tide-models');
  }
});

it('what no action takes back, or the system refuses to, is a task for whoever answers for the system', async () => {
  const { id, holding } = await joined('tor', 'none');
  expect(await giveBack(w.viewer('tor'), { id: holding, why: 'I move to Charts.' })).toEqual({ ok: true });
  await w.work();
  expect(await isIn('tor')).toBe(true);
  const [task] = await w.query<{ id: string; name: string; person_id: string; instructions: object }>('select * from task where run_id = $1', [id]);
  expect(task).toMatchObject({ name: 'Take back: provision add', person_id: w.id('boss') });
  expect(JSON.stringify(task!.instructions)).toMatch(/I move to Charts\..*Nothing takes back what “provision add” gave\./);
  expect(await mailsAbout('boss', /Take back: provision add/)).not.toHaveLength(0);
  expect(await finishTask(w.viewer('boss'), { id: task!.id, values: {}, checked: [] })).toMatchObject({ ok: true });
  expect(await rowOf(holding)).toMatchObject({ ended_at: expect.any(Date) });
  await replays(w, id);

  const other = await joined('ina');
  await giveBack(w.viewer('ina'), { id: other.holding, why: '' });
  await w.manner('directory', 'refusing');
  await w.work();
  await w.manner('directory', 'well');
  const [refused] = await w.query<{ name: string; instructions: object }>('select * from task where run_id = $1', [other.id]);
  expect(JSON.stringify(refused!.instructions)).toContain('The directory answered 403');
  expect((await rowOf(other.holding)).ended_at).toBeNull();
  await replays(w, other.id);
});

it('left with whoever has it, it is not on its way back any more, and can be given back again', async () => {
  const { id, number, holding } = await joined('boss');
  for (let i = 0; i < 2; i++) {
    // Nobody answers for the directory: what it refuses waits for an administrator.
    await setSystemOwners('host', { system: 'directory', people: [] });
    expect(await giveBack(w.viewer('boss'), { id: holding, why: '' })).toEqual({ ok: true });
    await w.manner('directory', 'refusing');
    await w.work();
    await w.manner('directory', 'well');
    await setSystemOwners('host', { system: 'directory', people: [w.id('boss')] });
    const [stuck] = await w.query<{ key: string }>('select key from run_step where run_id = $1 and stuck_cause is not null', [id]);
    expect(await skipStep(w.viewer('dan', 'administrator'), { number, key: stuck!.key, comment: 'Let them keep it' })).toEqual({ ok: true });
    expect(await rowOf(holding)).toMatchObject({ ending_at: null, ended_at: null });
  }
  expect(await giveBack(w.viewer('boss'), { id: holding, why: '' })).toEqual({ ok: true });
  await w.work();
  expect((await rowOf(holding)).ended_at).not.toBeNull();
  await replays(w, id);
});

it('what is lent: whoever has it is told once some days before, and it goes back after its last day', async () => {
  const { id, holding } = await joined('runa');
  const day = (ahead: number) => new Date(Date.now() + ahead * 86_400_000).toISOString().slice(0, 10);
  await w.query('update holding set until = $2 where id = $1', [holding, day(10)]);
  await endLeases();
  expect(await rowOf(holding)).toMatchObject({ told_at: null, ending_at: null });
  shiftClock(8 * 86_400_000);
  await endLeases();
  await endLeases();
  await w.work();
  expect(await mailsAbout('runa', /goes back soon/)).toHaveLength(1);
  shiftClock(10 * 86_400_000);
  await endLeases();
  expect((await rowOf(holding)).ending_at).toBeNull();
  shiftClock(11 * 86_400_000);
  await Promise.all([endLeases(), endLeases()]);
  await w.work();
  expect(await rowOf(holding)).toMatchObject({ ended_at: expect.any(Date), ending_why: `It was lent until ${dateWords(day(10))}.` });
  expect(await isIn('runa')).toBe(false);
  await replays(w, id);
});

it('days are those where whoever has it works: what is lent until a day goes back when that day is over there', async () => {
  const place = await addLocation('host', { name: 'Line Islands', kind: 'site', zone: 'Pacific/Kiritimati' });
  if (!place.ok) throw new Error(place.sentence);
  const { holding } = await joined('olav');
  const noon = Date.parse('2027-03-10T12:00:00Z');
  shiftClock(noon - Date.now());
  await w.query("update holding set until = '2027-03-10', told_at = now() where id = $1", [holding]);
  await endLeases();
  expect((await rowOf(holding)).ending_at).toBeNull();
  // Fourteen hours ahead the tenth is over at ten in the morning.
  await w.query('update person set location_id = $1 where id = $2', [place.id, w.id('olav')]);
  await endLeases();
  expect((await rowOf(holding)).ending_at).not.toBeNull();
  await w.work();
  await w.query('update person set location_id = null where id = $1', [w.id('olav')]);
});

it('whoever has left gives everything back: after their last day, access first; or once the directory has not had them for a day', async () => {
  const first = await joined('dan');
  const second = await joined('dan', undefined, 'orphan-files');
  await w.query("update holding set kind = 'machine' where id = $1", [second.holding]);
  const kept = await joined('runa');
  const last = new Date().toISOString().slice(0, 10);
  await w.query('update person set last_day = $2 where id = $1', [w.id('dan'), last]);
  await endLeavers();
  await Promise.all([tellLeavers(), tellLeavers()]);
  await w.work();
  const told = await mailsAbout('boss', /^Dan Strand leaves on /);
  expect(told).toHaveLength(1);
  expect(told[0]!.subject).toBe(`Dan Strand leaves on ${dateWords(last)}`);
  expect(told[0]!.text).toMatch(/is taken back:\n· orphan-files\n· tide-models\n\nhttp.*counter\/things\?whose=people/);
  await tellLeavers();
  await w.work();
  expect(await mailsAbout('boss', /^Dan Strand leaves on /)).toHaveLength(1);
  expect((await rowOf(first.holding)).ending_at).toBeNull();
  expect((await held('state=leaving')).toSorted()).toEqual([first.number, second.number].toSorted());
  expect(await held('state=left')).toEqual([]);
  shiftClock(86_400_000);
  await Promise.all([endLeavers(), endLeavers()]);
  const order = await w.query<{ id: string }>(`select h.id from holding h join run_event e on e.run_id = h.run_id and e.event ->> 'type' = 'givenBack'
    where h.person_id = '${w.id('dan')}' order by e.id`);
  expect(order.map((o) => o.id)).toEqual([first.holding, second.holding]);
  expect(await held('state=left')).toHaveLength(2);
  await w.work();
  expect(await rowOf(first.holding)).toMatchObject({ ended_at: expect.any(Date), ending_why: `Their last day was ${dateWords(last)}.` });
  expect(await held('state=left')).toEqual([]);
  expect((await rowOf(kept.holding)).ending_at).toBeNull();
  for (const { id } of [first, second]) await replays(w, id);

  const third = await joined('olav');
  await w.query('update person set active = false, inactive_since = now() where id = $1', [w.id('olav')]);
  shiftClock(23 * 3_600_000);
  await endLeavers();
  expect((await rowOf(third.holding)).ending_at).toBeNull();
  shiftClock(25 * 3_600_000);
  await endLeavers();
  expect(await rowOf(third.holding)).toMatchObject({ ending_why: 'They are not in the directory any more.' });
  await w.query('update person set active = true, inactive_since = null where id = $1', [w.id('olav')]);
});

it('from a job before: told to the manager once, an hour after the last of the move, and shown as such; nothing is taken back by itself', async () => {
  // What earlier tests left him in.
  const group = await w.scimGroup('tide-models');
  const out = { op: 'remove' as const, path: `members[value eq "${w.scimUser('tor')}"]` };
  if (await isIn('tor')) await directoryClient.patchGroup(group.id, [out], group.meta?.version, 'out');
  await w.query("update person set department = 'Charts', job_role = 'tide analyst' where id = $1", [w.id('tor')]);
  const add = step('provision', 'add', {
    action: 'directory.addMember',
    inputs: { group: { ref: 'form.group' }, person: { ref: 'request.requester' } },
    retries: { times: 0, firstPauseSeconds: 1, factor: 1 },
  });
  const forCharts = { audience: [{ department: 'charts' }] };
  const theirs = await w.item('For those of Charts', { steps: [add, tell('end', 'End')] }, undefined, forCharts);
  const given = await w.ask(w.viewer('tor'), theirs.id, 'orphan-files');
  await w.work();
  const everybodys = await joined('tor');
  const [holding] = await w.query<{ id: string }>('select id from holding where run_id = $1', [given.id]);
  const user = {
    schemas: ['urn:ietf:params:scim:schemas:core:2.0:User', 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User'],
    userName: 'tor',
    displayName: 'Tor Strand',
    emails: [{ value: 'tor@skerrin.example', primary: true }],
    active: true,
  };
  const moves = async (department: string, title: string) => {
    const manager = { value: w.scimUser('runa') };
    await directoryClient.replace('Users', w.scimUser('tor')!, {
      ...user,
      title,
      'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User': { department, manager },
    });
    await w.sync();
  };
  const told = () => mailsAbout('runa', /^Tor Strand has another job/);
  const tellAll = async () => {
    await Promise.all([tellMovers(), tellMovers()]);
    await w.work();
  };
  // The same again is no move, nor is what is not theirs to ask for because they never moved.
  await moves('Charts', 'tide analyst');
  shiftClock(2 * 3_600_000);
  await tellAll();
  expect(await told()).toEqual([]);
  expect(await held('state=outgrown')).toEqual([]);
  await moves('Fieldwork', 'field planner');
  await tellAll();
  expect(await told()).toEqual([]);
  expect(await held('state=outgrown')).toEqual([given.number]);
  expect((await thingsHeld(w.viewer('runa'), 'people')).rows.filter((r) => r.outgrown).map((r) => r.id)).toEqual([holding!.id]);
  shiftClock(4 * 3_600_000);
  await tellAll();
  await tellAll();
  expect(await told()).toHaveLength(1);
  expect((await told())[0]!.text).toMatch(/could not ask for these as they work now\..*\n· orphan-files\n\nhttp.*counter\/things\?whose=people/s);
  expect((await rowOf(holding!.id)).ending_at).toBeNull();
  // Back again it is theirs to ask for; a second move is told of again.
  await moves('Charts', 'tide analyst');
  expect(await held('state=outgrown')).toEqual([]);
  shiftClock(6 * 3_600_000);
  await tellAll();
  await moves('Stores', 'purser');
  shiftClock(8 * 3_600_000);
  await tellAll();
  expect(await told()).toHaveLength(2);
  for (const id of [holding!.id, everybodys.holding]) await giveBack(w.viewer('tor'), { id, why: '' });
  await w.work();
});

it('since when the directory has somebody not is kept, and forgotten when it has them again', async () => {
  const since = async () =>
    (await w.query<{ since: Date | null }>('select inactive_since as since from person where id = $1', [w.id('tor')]))[0]!.since;
  const user = { schemas: ['urn:ietf:params:scim:schemas:core:2.0:User'], userName: 'tor', displayName: 'Tor Strand' };
  const mail = { emails: [{ value: 'tor@skerrin.example', primary: true }] };
  await directoryClient.replace('Users', w.scimUser('tor')!, { ...user, ...mail, active: false });
  await w.sync();
  const began = await since();
  expect(began).not.toBeNull();
  shiftClock(3_600_000);
  await directoryClient.replace('Users', w.scimUser('tor')!, { ...user, ...mail, displayName: 'Tor Strand the elder', active: false });
  await w.sync();
  expect(await since()).toEqual(began);
  await directoryClient.replace('Users', w.scimUser('tor')!, { ...user, ...mail, active: true });
  await w.sync();
  expect(await since()).toBeNull();
});
