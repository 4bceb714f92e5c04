import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import { config } from '../config.ts';
import { log } from '../log.ts';
import * as schema from './schema/index.ts';

export type Database = NodePgDatabase<typeof schema>;
export type Tx = Parameters<Parameters<Database['transaction']>[0]>[0];
/** Either: a query works on the pool and inside a transaction. */
export type Reader = Database | Tx;

let pool: pg.Pool | undefined;
let database: Database | undefined;

/** The pool of this process. */
export function connections(): pg.Pool {
  if (!pool) {
    pool = new pg.Pool({ connectionString: config().DATABASE_URL, max: 10 });
    // A connection that breaks while idle is replaced by the next query; the process lives on.
    pool.on('error', (error) => log.warn({ error: error.message }, 'database connection lost'));
    // One that breaks while in use fails its query; without a listener it would take the whole process with it.
    pool.on('connect', (client) => void client.on('error', () => undefined));
  }
  return pool;
}

export const db = (): Database => (database ??= drizzle(connections(), { schema }));

export async function disconnect(): Promise<void> {
  const closing = pool;
  pool = database = undefined;
  await closing?.end();
}
