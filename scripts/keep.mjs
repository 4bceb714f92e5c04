import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { backup, replaceDatabase, restore } from './lib/backup.mjs';
import { portsFrom, settings } from './lib/installation.mjs';
import { keepKeys, keysOf, rotated } from './lib/keys.mjs';
import { checkNode, checkPorts, installPackages } from './lib/machine.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run } from './lib/run.mjs';
import { Problem, script, step } from './lib/say.mjs';

/**
 * The work of whoever keeps an installation: npm run backup, restore, verify-log, person, erase, retention, rotate-key.
 * PostgreSQL is started for it where it does not run.
 */
const [what = '', ...given] = process.argv.slice(2);
const folder = '.data';
const stopped = ['restore', 'rotate-key'];

await script(async () => {
  checkNode();
  const ports = portsFrom(Number(process.env['NESSMOOR_PORT'] ?? 4610));
  const theirs = process.env['DATABASE_URL'];
  // These change what the processes hold in memory, so none may run.
  if (stopped.includes(what)) await checkPorts({ web: ports.web });
  await step('Packages from the npm registry', installPackages);
  if (!theirs) await step('PostgreSQL from Debian', needPostgres);
  const server = theirs ? undefined : await step('PostgreSQL', () => startPostgres({ folder, port: ports.postgres }));
  const owner = theirs ?? /** @type {NonNullable<typeof server>} */ (server).ownerUrl('nessmoor');
  const env = () => ({ ...settings(folder, ports, theirs ?? server?.appUrl('nessmoor') ?? ''), OWNER_DATABASE_URL: owner });
  const keep = (/** @type {string[]} */ ...args) =>
    run(process.execPath, ['--import', 'tsx', 'server/db/keep.ts', ...args], { env: { ...env(), LOG_LEVEL: 'error' }, meaning: what }).then((said) =>
      process.stdout.write(said),
    );
  try {
    switch (what) {
      case 'backup': {
        const file = resolve(given[0] ?? `nessmoor-${new Date().toISOString().slice(0, 19).replace(/[:T]/g, '-')}.dump`);
        await step('Writing everything as of now', () => backup(owner, file));
        console.log(`${file}\nThe keys are not in it: keep a copy of .keys/ in another place, or what is sealed can never be opened again.`);
        break;
      }
      case 'restore': {
        const [file] = given;
        if (!file || !existsSync(file)) throw new Problem('Say which backup: npm run restore -- FILE');
        if (!server) throw new Problem('With a server of your own, restore with pg_restore into an empty database.');
        // Read beside the present one, which is touched only once everything is there.
        await makeDatabase(server, 'nessmoor_restored', folder, { anew: true });
        await step('Reading the backup into an empty database', () => restore(resolve(file), server.ownerUrl('nessmoor_restored')));
        await replaceDatabase(server, 'nessmoor', 'nessmoor_restored');
        console.log('It is as it was. What was there before is kept as the database nessmoor_before. Start it with: npm start');
        break;
      }
      case 'rotate-key': {
        const keys = keysOf(folder);
        keepKeys(folder, rotated(keys));
        await keep('reseal');
        const { secretKeysBefore: _, ...now } = keysOf(folder);
        keepKeys(folder, now);
        console.log('The key before is gone from .keys/. Links in mails sent before still work once, until they are reminded of.');
        break;
      }
      default:
        await keep(what, ...given);
    }
  } finally {
    // One that ran before goes on.
    if (server?.begun) await server.stop();
  }
  process.exit(0);
});
