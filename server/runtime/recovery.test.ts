import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { world, type World } from '../testing/world.ts';
import { liveness } from './liveness.ts';
import { addJobs } from './jobs.ts';
import { sweep } from './sweep.ts';
import { decide } from '../approvals/commands.ts';

let w: World;
beforeAll(async () => {
  w = await world();
  // What reading the directory has asked for is not looked at here.
  await clear();
});
afterAll(() => w.close());

const jobs = () =>
  w.query<{ key: string; locked_by: string | null; run_at: Date }>('select key, locked_by, run_at from graphile_worker.jobs order by id');
const clear = () => w.query('select graphile_worker.complete_jobs(array_agg(id)) from graphile_worker.jobs');

describe('a worker that dies', () => {
  it('has its jobs freed at once by whoever finds its advisory lock free, and only then', async () => {
    const [dying, living] = [await liveness(() => undefined), await liveness(() => undefined)];
    await dying.add('pool-dying');
    await living.add('pool-living');
    await addJobs(
      w.db(),
      'mail',
      ['a', 'b'].map((x) => ({ payload: { messageId: x }, key: `mail:${x}` })),
    );
    await w.query(
      "update graphile_worker._private_jobs set locked_at = now(), locked_by = case when payload->>'messageId' = 'a' then 'pool-dying' else 'pool-living' end",
    );
    expect(await living.recover()).toBe(0);
    expect((await jobs()).map((j) => j.locked_by)).toEqual(['pool-dying', 'pool-living']);
    // The operating system closes a killed process's connection; here the server does.
    await w.query(
      "select pg_terminate_backend(l.pid) from pg_locks l join pg_stat_activity a using (pid) where l.locktype = 'advisory' and a.datname = current_database() and a.pid <> pg_backend_pid() order by l.pid limit 1",
    );
    const held = () =>
      w.query<{ n: number }>(
        "select count(*)::int as n from pg_locks l join pg_stat_activity a using (pid) where l.locktype = 'advisory' and a.datname = current_database()",
      );
    await expect.poll(async () => (await held())[0]!.n, { timeout: 30_000 }).toBe(1);
    const survivor = await liveness(() => undefined);
    expect(await survivor.recover()).toBe(1);
    expect((await jobs()).map((j) => j.locked_by).filter((l) => l === null)).toHaveLength(1);
    expect(await survivor.recover()).toBe(0);
    await Promise.all([dying.stop(), living.stop(), survivor.stop()]);
    expect(await w.query('select from worker_process')).toHaveLength(0);
    await clear();
  });

  it('that died before it could register is found by the age of its lock', async () => {
    const alive = await liveness(() => undefined);
    await addJobs(w.db(), 'mail', [{ payload: { messageId: 'x' }, key: 'mail:x' }]);
    await w.query("update graphile_worker._private_jobs set locked_at = now() - interval '10 seconds', locked_by = 'pool-unknown'");
    await alive.recover();
    expect((await jobs())[0]!.locked_by).toBe('pool-unknown');
    await w.query("update graphile_worker._private_jobs set locked_at = now() - interval '31 seconds'");
    await alive.recover();
    expect((await jobs())[0]!.locked_by).toBeNull();
    await alive.stop();
    await clear();
  });

  it('tells its process when its own connection is lost', async () => {
    let lost = false;
    const alive = await liveness(() => (lost = true));
    await w.query(
      "select pg_terminate_backend(l.pid) from pg_locks l join pg_stat_activity a using (pid) where l.locktype = 'advisory' and a.datname = current_database()",
    );
    await expect.poll(() => lost, { timeout: 30_000 }).toBe(true);
    await alive.stop();
    await w.query('delete from worker_process');
  });
});

describe('jobs', () => {
  it('exist exactly when the data of their transaction does', async () => {
    await expect(
      w.db().transaction(async (tx) => {
        await addJobs(tx, 'mail', [{ payload: { messageId: 'never' }, key: 'mail:never' }]);
        throw new Error('rolled back');
      }),
    ).rejects.toThrow('rolled back');
    expect(await jobs()).toEqual([]);
  });

  it('are one for each key; adding again moves the waiting one', async () => {
    const later = new Date(Date.now() + 60_000);
    await addJobs(w.db(), 'call', [{ payload: { callId: 'c' }, key: 'call:c' }]);
    await addJobs(w.db(), 'call', [{ payload: { callId: 'c' }, key: 'call:c', runAt: later }]);
    const all = await jobs();
    expect(all).toHaveLength(1);
    expect(Math.abs(all[0]!.run_at.getTime() - later.getTime())).toBeLessThan(5);
    await clear();
  });

  it('that were lost are added again by the sweep, for calls and messages that have waited too long', async () => {
    const item = await w.item();
    const { id } = await w.ask(w.viewer('tor'), item.id);
    const mine = (await w.approvals(id)).find((a) => a.personId === w.id('ina'))!;
    await decide(w.viewer('ina'), { approvalId: mine.id, decision: 'approve', comment: '' });
    await clear();
    expect(await jobs()).toEqual([]);
    await sweep();
    expect(await jobs(), 'nothing is late yet').toEqual([]);
    await w.query("update call set due_at = now() - interval '5 minutes'");
    await w.query("update message set created_at = now() - interval '5 minutes'");
    await sweep();
    const keys = (await jobs()).map((j) => j.key.split(':')[0]);
    expect(keys.filter((k) => k === 'call')).toHaveLength(1);
    expect(keys.filter((k) => k === 'mail').length).toBeGreaterThan(1);
    await sweep();
    expect(await jobs()).toHaveLength(keys.length);
    await w.work();
    expect((await w.request(id)).outcome).toBe('fulfilled');
  });

  it('that died with their process as often as they may be are put aside; one that was added again while it ran is not', async () => {
    await addJobs(
      w.db(),
      'mail',
      ['again', 'dies'].map((x) => ({ payload: { messageId: x }, key: `mail:${x}` })),
    );
    const lock = "update graphile_worker._private_jobs set locked_at = now(), locked_by = 'pool', attempts = attempts + 1";
    await w.query(lock);
    // What a failed delivery does: the message is to be tried later, while its job still runs.
    await addJobs(w.db(), 'mail', [{ payload: { messageId: 'again' }, key: 'mail:again', runAt: new Date(Date.now() + 60_000) }]);
    await w.query("update graphile_worker._private_jobs set attempts = max_attempts where payload->>'messageId' = 'dies'");
    await w.query("select graphile_worker.force_unlock_workers(array['pool'])");
    await sweep();
    const aside = await w.query<{ key: string; cause: string }>('select key, cause from set_aside');
    expect(aside).toEqual([{ key: 'mail:dies', cause: 'It was begun 8 times, and each time its process ended before it was done.' }]);
    const left = await w.query("select key from graphile_worker._private_jobs where payload->>'messageId' in ('again', 'dies')");
    expect(left, 'only what is to be tried later waits').toEqual([{ key: 'mail:again' }]);
    await clear();
  });
});
