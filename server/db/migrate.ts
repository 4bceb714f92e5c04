import { drizzle } from 'drizzle-orm/node-postgres';
import { migrate as run } from 'drizzle-orm/node-postgres/migrator';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';

/**
 * Brings a database to the present shape. `owner` may change tables; `application` is the role the processes use,
 * which owns only the job queue. They may be the same.
 */
export async function migrate(owner: string, application: string): Promise<void> {
  const client = new pg.Client({ connectionString: owner });
  await client.connect();
  try {
    await run(drizzle(client), { migrationsFolder: new URL('./migrations', import.meta.url).pathname });
  } finally {
    await client.end();
  }
  await runMigrations({ connectionString: application });
}

const [owner, application] = [process.env['OWNER_DATABASE_URL'] ?? process.env['DATABASE_URL'], process.env['DATABASE_URL']];
if (process.argv[1] === new URL(import.meta.url).pathname && owner && application) await migrate(owner, application);
