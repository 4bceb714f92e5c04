import { sql } from 'drizzle-orm';
import type { PoolClient } from 'pg';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { world, type World } from '../testing/world.ts';
import { connections, db } from './database.ts';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(() => w.close());

it('connections that break before a transaction begins are not used up: more of them than there are, and the next is served', async () => {
  const pool = connections();
  for (let i = 0; i < 15; i++) {
    pool.once('acquire', (client: PoolClient) => {
      (client as unknown as { connection: { stream: { destroy: () => void } } }).connection.stream.destroy();
    });
    await expect(db().transaction((tx) => tx.execute(sql`select 1`))).rejects.toThrow();
  }
  const { rows } = await db().transaction((tx) => tx.execute<{ one: number }>(sql`select 1 as one`));
  expect(rows).toEqual([{ one: 1 }]);
  expect([pool.totalCount - pool.idleCount, pool.waitingCount]).toEqual([0, 0]);
});
