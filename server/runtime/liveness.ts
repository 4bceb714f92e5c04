import { randomInt } from 'node:crypto';
import pg from 'pg';
import { config } from '../config.ts';
import { log } from '../log.ts';

/**
 * A worker that is killed leaves its jobs locked. Each worker process holds an advisory lock for as long as its
 * connection lives; whoever can take that lock knows that its holder is dead, and frees its jobs at once.
 */
export interface Liveness {
  /** Registers an id under which this process locks jobs. */
  add: (id: string) => Promise<void>;
  /** Frees the jobs of dead processes; gives how many processes were found dead. */
  recover: () => Promise<number>;
  stop: () => Promise<void>;
}

export async function liveness(onLost: () => void): Promise<Liveness> {
  const client = new pg.Client({ connectionString: config().DATABASE_URL });
  client.on('error', (error) => {
    log.error({ error: error.message }, 'the connection that shows this worker is alive was lost');
    onLost();
  });
  await client.connect();
  const key = randomInt(1, 2 ** 47);
  await client.query('select pg_advisory_lock($1)', [key]);
  await client.query("insert into worker_process (lock_key, worker_ids) values ($1, '[]')", [key]);

  // One statement at a time on this one connection.
  let last: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(act: () => Promise<T>): Promise<T> => {
    const next = last.then(act);
    last = next.catch(() => undefined);
    return next;
  };
  const free = (ids: string[]) => client.query('select graphile_worker.force_unlock_workers($1::text[])', [ids]);

  async function recover(): Promise<number> {
    const { rows } = await client.query<{ lock_key: string; worker_ids: string[] }>(
      'select lock_key, worker_ids from worker_process where lock_key <> $1',
      [key],
    );
    let dead = 0;
    for (const row of rows) {
      const { rows: taken } = await client.query<{ taken: boolean }>('select pg_try_advisory_lock($1) as taken', [row.lock_key]);
      if (!taken[0]?.taken) continue;
      dead++;
      await free(row.worker_ids);
      await client.query('delete from worker_process where lock_key = $1', [row.lock_key]);
      await client.query('select pg_advisory_unlock($1)', [row.lock_key]);
      log.warn({ ids: row.worker_ids }, 'freed the jobs of a worker that had died');
    }
    // A process that died in the instant between its first lock and its registration.
    const { rows: unknown } = await client.query<{ locked_by: string }>(`
      select distinct locked_by from graphile_worker.jobs
      where locked_at < now() - interval '30 seconds'
        and not exists (select from worker_process where worker_ids ? locked_by)`);
    if (unknown.length) await free(unknown.map((u) => u.locked_by));
    return dead;
  }

  return {
    add: (id) =>
      inTurn(
        async () =>
          void (await client.query('update worker_process set worker_ids = worker_ids || to_jsonb($2::text) where lock_key = $1', [key, id])),
      ),
    recover: () => inTurn(recover),
    stop: () =>
      inTurn(async () => {
        await client.query('delete from worker_process where lock_key = $1', [key]).catch(() => undefined);
        await client.end().catch(() => undefined);
      }),
  };
}
