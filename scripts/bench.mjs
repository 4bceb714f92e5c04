import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { checkNode, checkPorts, installPackages } from './lib/machine.mjs';
import { portsFrom, processes, settings } from './lib/installation.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run, start, stopAll } from './lib/run.mjs';
import { script, step } from './lib/say.mjs';

/** npm run bench: figures on a database and stand-ins of its own. */
const folder = '.data/bench';
const ports = portsFrom(Number(process.env['NESSMOOR_BENCH_PORT'] ?? 4910));

await script(async () => {
  checkNode();
  await checkPorts(ports, 'NESSMOOR_BENCH_PORT');
  await step('Packages from the npm registry', installPackages);
  await step('PostgreSQL from Debian', needPostgres);
  const server = await step('Starting a PostgreSQL for the bench', () => startPostgres({ folder, port: ports.postgres, fresh: true }));
  rmSync(join(folder, 'standins'), { recursive: true, force: true });
  await makeDatabase(server, 'nessmoor_bench', folder, { anew: true });
  const env = { ...settings(folder, ports, server.ownerUrl('nessmoor_bench')), LOG_LEVEL: 'error' };
  await run(process.execPath, ['--import', 'tsx', 'server/db/migrate.ts'], { env, meaning: 'The migration' });
  const { child, up } = start(processes(folder, env).standins);
  try {
    await step('Starting the stand-ins', () => up);
    await run(process.execPath, ['--import', 'tsx', 'bench/bench.ts'], { env, show: true, meaning: 'The bench' });
  } finally {
    await stopAll([child]);
    await server.stop();
  }
  process.exit(0);
});
