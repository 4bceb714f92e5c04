import { rmSync } from 'node:fs';
import { startPostgres } from './lib/postgres.mjs';
import { portsFrom } from './lib/installation.mjs';
import { checkPorts } from './lib/machine.mjs';
import { script, step } from './lib/say.mjs';

/** Removes the demo's data; the next start makes it anew. */
await script(async () => {
  const ports = portsFrom(Number(process.env['NESSMOOR_PORT'] ?? 4610));
  await checkPorts(ports);
  await step('Removing the data', async () => {
    rmSync('.data/demo-loaded', { force: true });
    rmSync('.data/standins', { recursive: true, force: true });
    const server = await startPostgres({ folder: '.data', port: ports.postgres, fresh: true });
    await server.stop();
  });
});
