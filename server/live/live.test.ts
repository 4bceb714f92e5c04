import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { passages } from '../../core/plans/index.ts';
import { step } from '../../core/testing/samples.ts';
import { takeTask } from '../tasks/commands.ts';
import { ticketKit } from '../testing/tickets.ts';
import { writeOnTicket } from '../tickets/commands.ts';
import { joinTicket } from '../tickets/related.ts';
import { world, type World } from '../testing/world.ts';
import type { Wanted } from './concerned.ts';
import { watchMoves } from './listener.ts';

let w: World;
let item: { id: string };
beforeAll(async () => {
  w = await world();
  item = await w.item();
});
afterAll(() => w.close());

/** Somebody who watches, and how often they were told. */
function watching(personId: string, wanted: Wanted = { lists: true }, mends = false) {
  const told = { times: 0, stop: () => undefined as void };
  told.stop = watchMoves({ personId, wanted, mends, tell: () => void told.times++ });
  return told;
}
const listeners = async () =>
  (await w.query<{ pid: number }>("select pid from pg_stat_activity where datname = current_database() and query = 'listen moved'")).map(
    (r) => r.pid,
  );
const heard = (n: number) => vi.waitFor(async () => expect(await listeners()).toHaveLength(n), { timeout: 10_000 });
/** Long enough for what was gathered to have been told. */
const aMoment = () => new Promise((done) => setTimeout(done, 1200));

it('one listener tells those whom a case concerns: who asked, who is asked, whose team has the work, who mends; nobody else', async () => {
  const all = {
    tor: watching(w.id('tor')),
    ina: watching(w.id('ina')),
    runa: watching(w.id('runa')),
    boss: watching(w.id('boss')),
    mends: watching(w.id('boss'), { lists: true }, true),
  };
  await heard(1);
  const { number } = await w.ask(w.viewer('tor'), item.id);
  await vi.waitFor(() => expect([all.tor.times, all.ina.times, all.mends.times].every((n) => n > 0)).toBe(true), { timeout: 10_000 });
  await aMoment();
  expect([all.runa.times, all.boss.times]).toEqual([0, 0]);
  // A task of a team concerns its members, also when one of them takes it, which moves no run.
  const { id } = await w.askPlan({
    steps: [step('task', 't', { assignee: { team: 'desk' }, instructions: passages('Do'), checklist: [], fields: [] })],
  });
  await vi.waitFor(() => expect(all.runa.times).toBeGreaterThan(0), { timeout: 10_000 });
  await aMoment();
  const before = all.runa.times;
  const [task] = await w.query<{ id: string }>('select id from task where run_id = $1', [id]);
  await takeTask(w.viewer('dan', 'teamMember'), { id: task!.id, give: false });
  await vi.waitFor(() => expect(all.runa.times).toBeGreaterThan(before), { timeout: 10_000 });
  // One request alone: told of that, and of no other.
  const one = watching(w.id('tor'), { case: number });
  await w.ask(w.viewer('tor'), item.id);
  await aMoment();
  expect(one.times).toBe(0);
  const [run] = await w.query<{ id: string }>('select u.id from run u join service_case c on c.id = u.case_id where c.number = $1', [number]);
  await w.decide('ina', run!.id, 'approve');
  await vi.waitFor(() => expect(one.times).toBeGreaterThan(0), { timeout: 10_000 });
  for (const each of [...Object.values(all), one]) each.stop();
  await heard(0);
});

it('a line that is cut is taken up again, and what was not heard meanwhile is looked at', async () => {
  const tor = watching(w.id('tor'));
  await heard(1);
  const [pid] = await listeners();
  await w.asOwner(`select pg_terminate_backend(${pid})`);
  await vi.waitFor(() => expect(tor.times).toBeGreaterThan(0), { timeout: 10_000 });
  await heard(1);
  const before = tor.times;
  await w.ask(w.viewer('tor'), item.id);
  await vi.waitFor(() => expect(tor.times).toBeGreaterThan(before), { timeout: 10_000 });
  tor.stop();
  await heard(0);
});

it('many cases that move at once are told of, however many they are', async () => {
  const tor = watching(w.id('tor'));
  await heard(1);
  await w.query('update run set seq = seq where case_id in (select id from service_case)');
  await vi.waitFor(() => expect(tor.times).toBeGreaterThan(0), { timeout: 10_000 });
  await w.query(`select tell_moved(array(select gen_random_uuid() from generate_series(1, 5000)) || (select array_agg(id) from service_case))`);
  const before = tor.times;
  await vi.waitFor(() => expect(tor.times).toBeGreaterThan(before), { timeout: 10_000 });
  tor.stop();
  await heard(0);
});

it('who asked for a ticket that went into another is told when that one moves', async () => {
  const kit = await ticketKit(w);
  const [into, theirs] = [await kit.report('tor'), await kit.report('ina')];
  const dan = w.viewer('dan', 'teamMember');
  await joinTicket(dan, { number: theirs, other: `T-${into}` });
  const ina = watching(w.id('ina'), { case: theirs });
  await heard(1);
  await aMoment();
  const before = ina.times;
  await writeOnTicket(dan, { number: into, words: 'We look into it.', inside: false, once: 'live' });
  await vi.waitFor(() => expect(ina.times).toBeGreaterThan(before), { timeout: 10_000 });
  ina.stop();
});
