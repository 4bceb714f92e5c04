import './lib/with-parent.mjs';
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { installPackages, build, checkNode, checkPorts } from './lib/machine.mjs';
import { portsFrom, processes, settings } from './lib/installation.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run, start, stopAll } from './lib/run.mjs';
import { Problem, script, since, step } from './lib/say.mjs';

/** Brings this machine to a running demo on loopback. */
const folder = '.data';
const first = Number(process.env['NESSMOOR_PORT'] ?? 4610);

await script(async () => {
  checkNode();
  if (!Number.isInteger(first) || first < 1024 || first > 65_400) throw new Problem('NESSMOOR_PORT must be a port from 1024 to 65400.');
  const ports = portsFrom(first);
  const given = process.env['DATABASE_URL'];
  console.log('Nessmoor');
  await checkPorts(given ? { ...ports, postgres: ports.mailbox } : ports);
  await step('Packages from the npm registry', installPackages);
  if (!given) await step('PostgreSQL from Debian', needPostgres);
  await step('Building the application', build);

  const server = given ? undefined : await step('Starting a private PostgreSQL', () => startPostgres({ folder, port: ports.postgres }));
  /** @type {import('node:child_process').ChildProcess[]} */
  const children = [];
  let stopping = false;
  const stop = async (code = 0) => {
    if (stopping) return;
    stopping = true;
    await stopAll(children);
    await server?.stop();
    process.exit(code);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop());

  try {
    const mark = join(folder, 'demo-loaded');
    const loaded = existsSync(mark);
    if (!loaded) rmSync(join(folder, 'standins'), { recursive: true, force: true });
    if (server) await makeDatabase(server, 'nessmoor', folder, { anew: !loaded });
    const env = settings(folder, ports, given ?? server?.appUrl('nessmoor') ?? '');
    const what = processes(folder, env);
    const begin = async (/** @type {'standins' | 'worker' | 'web'} */ name) => {
      const { child, up } = start(what[name]);
      children.push(child);
      await up;
      child.on('exit', (code, signal) => {
        children.splice(children.indexOf(child), 1);
        if (stopping) return;
        console.error(`${what[name].name} stopped (${signal ?? `exit code ${code}`}); starting it again. See ${what[name].log}.`);
        setTimeout(() => void begin(name).catch((e) => console.error(e.message)), 1000);
      });
    };
    await step(
      'Bringing the database to the present shape, starting the stand-ins for directory, mail, chat, machines, robots, guests, spaces and the yard',
      () =>
        Promise.all([
          run(process.execPath, ['--import', 'tsx', 'server/db/migrate.ts'], {
            env: { ...env, ...(server && { OWNER_DATABASE_URL: server.ownerUrl('nessmoor') }) },
            meaning: 'The migration',
          }),
          begin('standins'),
        ]),
    );
    if (!loaded) {
      const said = await step('Loading the demo organisation', () =>
        run(process.execPath, ['--import', 'tsx', 'demo/load.ts'], { env, meaning: 'Loading the demo' }),
      );
      writeFileSync(mark, said);
    }
    await step('Starting worker and web', () => Promise.all([begin('worker'), begin('web')]));
    console.log(
      `\nReady after ${since()}: ${env['PUBLIC_URL']}\nMailbox of the demo: http://127.0.0.1:${ports.mailbox}\nChat of the demo: http://127.0.0.1:${ports.chat}\n\n${signInsOf(readFileSync(mark, 'utf8'))}\nCtrl-C stops everything; the data stays. npm run reset begins anew.`,
    );
  } catch (error) {
    await stopAll(children);
    await server?.stop();
    throw error;
  }
});

/** The part of the demo's words that lists the sign-ins. @param {string} said */
function signInsOf(said) {
  return said.slice(Math.max(0, said.indexOf('Sign in as')));
}
