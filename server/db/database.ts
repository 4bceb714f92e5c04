import { createHash } from 'node:crypto';
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
    pool.on('connect', (client) => {
      client.on('error', () => undefined);
      named(client);
    });
  }
  return pool;
}

/** Statements that came a second time, with the name under which PostgreSQL keeps their plan; no more than so many of them. */
const names = new Map<string, string | undefined>();
const mostNamed = 400;
let count = 0;

/** A statement that comes again is planned once for a connection, under a name made of its text. */
function named(client: pg.PoolClient): void {
  const query = client.query.bind(client) as (...args: unknown[]) => unknown;
  client.query = ((given: unknown, ...rest: unknown[]) => {
    const answer = query(withName(given), ...rest);
    // A transaction that cannot begin, since its connection broke, gives that back to nobody (drizzle-orm): it is done here.
    if (begins(given) && answer instanceof Promise) answer.catch((error: Error) => client.release(error));
    return answer;
  }) as typeof client.query;
}
const begins = (given: unknown): boolean =>
  typeof given === 'object' && given !== null && 'text' in given && typeof given.text === 'string' && given.text.trimEnd() === 'begin';
function withName(given: unknown): unknown {
  if (typeof given !== 'object' || given === null || !('text' in given) || typeof given.text !== 'string') return given;
  if (('name' in given && given.name) || 'submit' in given || given.text.length > 5000) return given;
  if (!names.has(given.text)) {
    if (names.size < 4 * mostNamed) names.set(given.text, undefined);
    return given;
  }
  let name = names.get(given.text);
  if (name === undefined && count < mostNamed) {
    count++;
    name = createHash('sha1').update(given.text).digest('base64url');
    names.set(given.text, name);
  }
  return name === undefined ? given : { ...given, name };
}

export const db = (): Database => (database ??= drizzle(connections(), { schema }));

export async function disconnect(): Promise<void> {
  const closing = pool;
  pool = database = undefined;
  await closing?.end();
}
