import { writeFileSync } from 'node:fs';
import pg from 'pg';
import { verifyLog } from '../changes/queries.ts';
import { useSettings } from '../config.ts';
import { disconnect } from './database.ts';
import { emptyOldRequests, erasePerson, exportPerson } from './personal-data.ts';
import { resealAll } from '../auth/reseal.ts';

/** The work of whoever keeps an installation, called by the scripts: `verify-log`, `person`, `erase`, `retention`, `reseal`. */
useSettings(process.env);
const [what, ...given] = process.argv.slice(2);

async function asOwner<T>(act: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: process.env['OWNER_DATABASE_URL'] ?? process.env['DATABASE_URL'] });
  await client.connect();
  try {
    return await act(client);
  } finally {
    await client.end();
  }
}
const fail = (sentence: string): never => {
  console.error(sentence);
  process.exit(1);
};

const acts: Record<string, () => Promise<void>> = {
  'verify-log': async () => {
    const v = await verifyLog();
    if (!v.ok) fail(`The log of changes was rewritten. ${v.sentence} (link ${v.at}; ${v.entries} entries before it are as they were written)`);
    else console.log(`All ${v.entries} entries are as they were written. The chain ends with ${v.head}`);
  },
  person: async () => {
    const [userName = '', file = ''] = given;
    const all = await asOwner((client) => exportPerson(client, userName));
    if (!all) return fail(`Nobody has the user name “${userName}”.`);
    writeFileSync(file, JSON.stringify(all, undefined, 2), { mode: 0o600 });
    console.log(`Everything kept of ${userName} stands in ${file}.`);
  },
  erase: async () => {
    const [userName = ''] = given;
    const done = await asOwner((client) => erasePerson(client, userName));
    if (!done.ok) return fail(done.sentence);
    console.log(
      `${userName} is taken out, with what they typed in ${done.requests} requests. Take them out of the directory too, or they come back.`,
    );
  },
  retention: async () => {
    const months = Number(given[0]);
    if (!Number.isInteger(months) || months < 1 || months > 1200) return fail('Say after how many months: npm run retention -- 24');
    console.log(`${await asOwner((client) => emptyOldRequests(client, months))} requests that ended more than ${months} months ago were emptied.`);
  },
  reseal: async () => console.log(`${await resealAll()} secrets are sealed with the new key.`),
};

const act = what !== undefined && Object.hasOwn(acts, what) ? acts[what] : undefined;
if (!act) fail(`Say one of: ${Object.keys(acts).join(', ')}`);
await act?.();
await disconnect();
