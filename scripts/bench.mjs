import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { build, checkNode, checkPorts, installPackages } from './lib/machine.mjs';
import { portsFrom, processes, settings } from './lib/installation.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run, start, stopAll } from './lib/run.mjs';
import { script, step } from './lib/say.mjs';

/** npm run bench [-- runs | lists | pages | tables | designs | keys | tickets | holdings | letters]: figures on databases and stand-ins of its own. */
const folder = '.data/bench';
const [part] = process.argv.slice(2);
const wants = (/** @type {string} */ name) => part === undefined || part === name;
const ports = portsFrom(Number(process.env['NESSMOOR_BENCH_PORT'] ?? 4910));

await script(async () => {
  checkNode();
  await checkPorts(ports, 'NESSMOOR_BENCH_PORT');
  await step('Packages from the npm registry', installPackages);
  await step('PostgreSQL from Debian', needPostgres);
  await step('Building the application', build);
  const server = await step('Starting a PostgreSQL for the bench', () => startPostgres({ folder, port: ports.postgres, fresh: true }));
  rmSync(join(folder, 'standins'), { recursive: true, force: true });
  const fresh = async (/** @type {string} */ name) => {
    await makeDatabase(server, name, folder, { anew: true });
    const env = { ...settings(folder, ports, server.ownerUrl(name)), LOG_LEVEL: 'error' };
    await run(process.execPath, ['--import', 'tsx', 'server/db/migrate.ts'], { env, meaning: 'The migration' });
    return env;
  };
  const env = await fresh('nessmoor_bench');
  const { child, up } = start(processes(folder, env).standins);
  try {
    await step('Starting the stand-ins', () => up);
    if (wants('letters')) await run(process.execPath, ['--import', 'tsx', 'bench/letters.ts'], { env, show: true, meaning: 'The bench of letters' });
    if (wants('runs')) await run(process.execPath, ['--import', 'tsx', 'bench/bench.ts'], { env, show: true, meaning: 'The bench of runs' });
    if (wants('pages'))
      await run(process.execPath, ['--import', 'tsx', 'bench/pages.ts'], {
        env: await fresh('nessmoor_pages'),
        show: true,
        meaning: 'The bench of pages',
      });
    if (wants('tables'))
      await run(process.execPath, ['--import', 'tsx', 'bench/tables.ts'], {
        env: await fresh('nessmoor_tables'),
        show: true,
        meaning: 'The bench of tables',
      });
    if (wants('designs'))
      await run(process.execPath, ['--import', 'tsx', 'bench/designs.ts'], {
        env: await fresh('nessmoor_designs'),
        show: true,
        meaning: 'The bench of designs',
      });
    if (wants('keys'))
      await run(process.execPath, ['--import', 'tsx', 'bench/keys.ts'], {
        env: await fresh('nessmoor_keys'),
        show: true,
        meaning: 'The bench of keys',
      });
    if (wants('tickets'))
      await run(process.execPath, ['--import', 'tsx', 'bench/tickets.ts'], {
        env: await fresh('nessmoor_tickets'),
        show: true,
        meaning: 'The bench of tickets',
      });
    if (wants('holdings'))
      await run(process.execPath, ['--import', 'tsx', 'bench/holdings.ts'], {
        env: await fresh('nessmoor_holdings'),
        show: true,
        meaning: 'The bench of holdings',
      });
    if (wants('lists'))
      await run(process.execPath, ['--import', 'tsx', 'bench/lists.ts'], {
        env: await fresh('nessmoor_lists'),
        show: true,
        meaning: 'The bench of lists',
      });
  } finally {
    await stopAll([child]);
    await server.stop();
  }
  process.exit(0);
});
