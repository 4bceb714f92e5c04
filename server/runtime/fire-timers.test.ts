import { afterAll, beforeAll, expect, it } from 'vitest';
import { newState, replay, type RunEvent } from '../../core/engine/index.ts';
import type { Plan } from '../../core/plans/index.ts';
import { finish, step, tell } from '../../core/testing/samples.ts';
import { world, type World } from '../testing/world.ts';
import { fireTimer } from './fire-timers.ts';
import { askedOf } from '../../core/lists/index.ts';
import { stuckSteps } from '../runs/stuck.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

const hour = { until: { span: { length: 'PT1H', counted: 'always' } } } as const;
/** Two waits side by side; what follows is told once both are over. */
const waits: Plan = {
  steps: [
    step('together', 'both', {
      join: 'all',
      branches: ['a', 'b'].map((id) => ({ id, name: id, block: [step('pause', id, hour)] })),
    }),
    tell('end', 'End'),
  ],
};
interface Timer {
  runId: string;
  key: string;
  name: string;
}
const timersOf = (ids: string[]) =>
  w.query<Timer>('select run_id as "runId", key, name from timer where run_id = any($1) order by run_id, key', [ids]);
const due = (ids: string[]) => w.query("update timer set due_at = now() - interval '1 minute' where run_id = any($1) returning 1", [ids]);
const eventsOf = (id: string) =>
  w.query<{ event: RunEvent; at: Date; seq: number; ignored: string | null }>(
    'select event, at, seq, ignored from run_event where run_id = $1 order by id',
    [id],
  );
async function asked(count: number, plan = waits): Promise<string[]> {
  const item = await w.item(`Waits ${crypto.randomUUID().slice(0, 6)}`, plan);
  const ids: string[] = [];
  for (let i = 0; i < count; i++) ids.push((await w.ask(w.viewer('tor'), item.id)).id);
  return ids;
}

it('many runs at once: each goes on by its own timers, each timer once, and each replay gives its snapshot', async () => {
  const ids = await asked(12);
  await due(ids);
  const timers = await timersOf(ids);
  expect(timers).toHaveLength(24);
  // Every timer twice, as two workers would bring them.
  await Promise.all([...timers, ...timers].map(fireTimer));
  expect(await timersOf(ids)).toEqual([]);
  for (const id of ids) {
    const run = await w.request(id);
    expect(run.outcome).toBe('fulfilled');
    expect(run.endedAt).not.toBeNull();
    const events = await eventsOf(id);
    expect(events.map((e) => [e.event.type, e.ignored])).toEqual([
      ['begin', null],
      ['timer', null],
      ['timer', null],
    ]);
    expect(events.map((e) => e.seq)).toEqual([1, 2, 3]);
    const again = replay(
      waits,
      events.map((e) => ({ event: e.event, at: e.at.toISOString() })),
      newState(),
    );
    expect(again).toEqual(run.state);
    const steps = await w.query<{ key: string; end: string }>('select key, "end" from run_step where run_id = $1 order by "order"', [id]);
    expect(steps.map((s) => s.end)).toEqual(['done', 'done', 'done', 'done']);
    expect(await w.query("select 1 from message where run_id = $1 and subject = 'About your request'", [id])).toHaveLength(1);
  }
});

it('one that is not due yet waits again; the others of its batch go on', async () => {
  const [early, ready] = (await asked(2)) as [string, string];
  await due([ready]);
  await Promise.all((await timersOf([early, ready])).map(fireTimer));
  expect((await w.request(ready)).outcome).toBe('fulfilled');
  expect((await w.request(early)).outcome).toBeNull();
  expect(await timersOf([early])).toHaveLength(2);
  const jobs = await w.query<{ key: string }>("select key from graphile_worker.jobs where key like $1 and run_at > now() + interval '50 minutes'", [
    `timer:${early}:%`,
  ]);
  expect(jobs).toHaveLength(2);
});

it('a run that cannot go on holds nobody else up: only its own timer fails, and stays', async () => {
  const once: Plan = { steps: [step('pause', 'p', hour), finish('done', 'fulfilled')] };
  const [broken, ...well] = (await asked(5, once)) as [string, ...string[]];
  await due([broken, ...well]);
  const kept = (await w.request(broken)).state;
  await w.query('update run set state = $2 where id = $1', [broken, JSON.stringify({ status: 'open' })]);
  const timers = await timersOf([broken, ...well]);
  const ends = await Promise.allSettled(timers.map(fireTimer));
  expect(ends.map((e) => e.status)).toEqual(timers.map((t) => (t.runId === broken ? 'rejected' : 'fulfilled')));
  for (const id of well) expect((await w.request(id)).outcome).toBe('fulfilled');
  expect(await timersOf([broken, ...well])).toHaveLength(1);
  await w.query('update run set state = $2 where id = $1', [broken, JSON.stringify(kept)]);
  await Promise.all((await timersOf([broken])).map(fireTimer));
  expect((await w.request(broken)).outcome).toBe('fulfilled');
});

it('stuck steps that began in the same moment are each listed once, page by page', async () => {
  const ids = await asked(3, { steps: Array.from({ length: 30 }, (_, i) => step('mark', `m${i}`, { shows: 'status', words: 'x' })) });
  const all = await w.query(
    "update run_step set stuck_cause = 'For a test', began_at = '2026-03-02T09:00:00Z' where run_id = any($1) returning key",
    [ids],
  );
  expect(all).toHaveLength(90);
  const seen: string[] = [];
  let after = '';
  for (let pages = 0; pages < 10; pages++) {
    const page = (await stuckSteps(w.viewer('runa', 'teamMember'), askedOf('stuck', `after=${after}`)))!;
    seen.push(...page.rows.map((r) => `${r.number} ${r.key}`));
    if (!page.next) break;
    after = page.next;
  }
  expect(seen).toHaveLength(90);
  expect(new Set(seen).size).toBe(90);
});
