import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { build, checkNode, checkPorts, installPackages } from './lib/machine.mjs';
import { portsFrom, processes, settings } from './lib/installation.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run, start, stopAll } from './lib/run.mjs';
import { Problem, script, since, step } from './lib/say.mjs';

/**
 * npm run soak [-- runs seconds seed]: thousands of runs of generated plans while workers are killed without
 * warning, the web process and PostgreSQL are restarted, and the stand-ins are slow, failing and refusing.
 */
const [runs = 2000, seconds = 300, seed = 2026] = process.argv.slice(2).map(Number);
const folder = '.data/soak';
const ports = portsFrom(Number(process.env['NESSMOOR_SOAK_PORT'] ?? 4810));
const wait = (/** @type {number} */ ms) => new Promise((r) => setTimeout(r, ms));

await script(async () => {
  checkNode();
  await checkPorts(ports, 'NESSMOOR_SOAK_PORT');
  await step('Packages from the npm registry', installPackages);
  await step('PostgreSQL from Debian', needPostgres);
  await step('Building the application', build);
  const server = await step('Starting a PostgreSQL for the soak', () => startPostgres({ folder, port: ports.postgres, fresh: true }));
  rmSync(join(folder, 'standins'), { recursive: true, force: true });
  await makeDatabase(server, 'nessmoor_soak', folder, { anew: true });
  const env = { ...settings(folder, ports, server.appUrl('nessmoor_soak')), LOG_LEVEL: 'error' };
  await step('Making the database', () =>
    run(process.execPath, ['--import', 'tsx', 'server/db/migrate.ts'], {
      env: { ...env, OWNER_DATABASE_URL: server.ownerUrl('nessmoor_soak') },
      meaning: 'The migration',
    }),
  );
  const what = processes(folder, env);
  /** @type {Map<string, import('node:child_process').ChildProcess>} */
  const children = new Map();
  let stopping = false;
  const begin = async (/** @type {string} */ id, /** @type {'standins' | 'worker' | 'web'} */ name) => {
    const { child, up } = start(what[name]);
    children.set(id, child);
    child.on('exit', () => {
      if (!stopping && children.get(id) === child) setTimeout(() => void begin(id, name).catch(() => undefined), 200);
    });
    await up;
  };
  const counts = { workers: 0, web: 0, postgres: 0, moods: 0, poison: 0 };
  try {
    await step('Starting stand-ins, two workers, web', () =>
      Promise.all([begin('standins', 'standins'), begin('worker 1', 'worker'), begin('worker 2', 'worker'), begin('web', 'web')]),
    );
    const driver = spawn(process.execPath, ['--import', 'tsx', 'bench/soak.ts', String(runs), String(seconds), String(seed)], {
      env: { ...process.env, ...env },
      stdio: ['pipe', 'pipe', 'inherit'],
    });
    const ended = new Promise((done) => driver.on('exit', (code) => done(code)));
    /** @type {(phase: string) => void} */
    let reached = () => undefined;
    const phases = { prepared: new Promise((r) => (reached = (p) => p === 'prepared' && r(undefined))), calm: Promise.resolve() };
    let calm = false;
    const calmed = new Promise((r) =>
      driver.stdout.on('data', (d) => {
        const text = String(d);
        if (text.includes('prepared')) reached('prepared');
        process.stdout.write(text.replace('prepared\n', ''));
        if (/^calm/m.test(text)) {
          calm = true;
          r(undefined);
        }
      }),
    );
    await Promise.race([phases.prepared, ended]);
    const mood = async (
      /** @type {'directory' | 'mailbox' | 'machines' | 'staff' | 'calendars' | 'yard' | 'guests' | 'robots' | 'spaces'} */ who,
      /** @type {string} */ manner,
      delayMs = 0,
    ) => {
      counts.moods++;
      await fetch(`http://127.0.0.1:${ports[who]}/_manner`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ manner, delayMs }),
      }).catch(() => undefined);
    };
    /** How machines are built from now on: how long it takes, and how it ends. */
    const builds = () =>
      fetch(`http://127.0.0.1:${ports.machines}/_build`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ ms: Math.floor(Math.random() * 2500), ends: one(['well', 'well', 'never', 'halfway', 'twice']) }),
      }).catch(() => undefined);
    /** How the yard takes what is written to it from now on. */
    const hears = (/** @type {string} */ how) =>
      fetch(`http://127.0.0.1:${ports.yard}/_ways`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ hears: how }),
      }).catch(() => undefined);
    const one = (/** @type {string[]} */ of) => /** @type {string} */ (of[Math.floor(Math.random() * of.length)]);
    let lastPostgres = Date.now();
    const nul = String.fromCharCode(0);
    /** What nobody can keep, by every way in; none of it may stop anything, and none of it is an unexpected error. */
    const poison = async () => {
      counts.poison++;
      const web = `http://127.0.0.1:${ports.web}`;
      const form = { 'content-type': 'application/x-www-form-urlencoded', origin: web };
      const answers = await Promise.all([
        fetch(`${web}/sign-in`, { method: 'POST', headers: form, body: `name=a%00b&password=%ED%A0%80x` }),
        fetch(`${web}/sign-in`, { method: 'POST', headers: form, body: 'name='.padEnd(400_000, 'x') }),
        fetch(`${web}/counter?q=%00`),
        fetch(`${web}/desk/decide/${'x'.repeat(2000)}`),
      ]).catch(() => []);
      for (const a of answers) if (a.status >= 500 && a.status !== 503) throw new Problem(`A poisoned request was answered with ${a.status}.`);
      const events = /** @type {{ event_id: string, room: string }[]} */ (
        await fetch(`http://127.0.0.1:${ports.chat}/_events`).then(
          (r) => r.json(),
          () => [],
        )
      );
      const last = events.at(-1);
      if (last)
        await fetch(`http://127.0.0.1:${ports.chat}/say`, {
          method: 'POST',
          redirect: 'manual',
          body: new URLSearchParams({
            user: /^!([^:]+)/.exec(last.room)?.[1] ?? '',
            thread: last.event_id,
            text: `Approve${nul}\n${'x'.repeat(50_000)}`,
          }),
        }).catch(() => undefined);
    };
    /** Each trouble at least once, also in the short form. */
    const sure = ['web', 'poison', 'poisonous'];
    while (!calm && driver.exitCode === null) {
      await Promise.race([wait(400 + Math.random() * 1600), calmed, ended]);
      if (calm || driver.exitCode !== null) break;
      const first = sure.shift();
      const roll = first === undefined ? Math.random() : ({ web: 0.45, poison: 0.99, poisonous: 0.9 }[first] ?? 0);
      if (roll > 0.93) await poison();
      else if (roll < 0.4) {
        counts.workers++;
        children.get(one(['worker 1', 'worker 2']))?.kill('SIGKILL');
      } else if (roll < 0.5) {
        counts.web++;
        children.get('web')?.kill('SIGTERM');
      } else if (roll < 0.6 && Date.now() - lastPostgres > 12_000) {
        counts.postgres++;
        await server.restart();
        lastPostgres = Date.now();
      } else {
        await mood('directory', first === 'poisonous' ? first : one(['well', 'well', 'slow', 'failing', 'refusing', 'poisonous']), 700);
        await mood('mailbox', one(['well', 'well', 'slow', 'failing']), 300);
        await mood('machines', one(['well', 'well', 'well', 'slow', 'failing', 'refusing']), 700);
        await mood('staff', one(['well', 'well', 'slow', 'failing', 'refusing', 'poisonous']), 700);
        await mood('calendars', one(['well', 'well', 'slow', 'failing', 'refusing', 'poisonous']), 700);
        await mood('yard', one(['well', 'well', 'slow', 'failing', 'refusing', 'poisonous']), 700);
        for (const house of /** @type {const} */ (['guests', 'robots', 'spaces']))
          await mood(house, one(['well', 'well', 'well', 'slow', 'failing', 'refusing', 'poisonous']), 700);
        await hears(one(['well', 'well', 'unheard', 'forgetful']));
        await builds();
      }
    }
    await mood('directory', 'well');
    await mood('mailbox', 'well');
    await mood('machines', 'well');
    await mood('staff', 'well');
    await mood('calendars', 'well');
    await mood('yard', 'well');
    for (const house of /** @type {const} */ (['guests', 'robots', 'spaces'])) await mood(house, 'well');
    await hears('well');
    await wait(3000);
    let answers = 0;
    for (let n = 0; n < 60 && answers !== 200; n++) {
      answers = await fetch(`http://127.0.0.1:${ports.web}/sign-in`).then(
        (r) => r.status,
        () => 0,
      );
      if (answers !== 200) await wait(500);
    }
    if (answers !== 200) throw new Problem('The web process did not come back after its restarts.');
    driver.stdin.write('go on\n');
    const code = await ended;
    console.log(
      `  workers killed ${counts.workers} times, web restarted ${counts.web} times, PostgreSQL restarted ${counts.postgres} times, moods changed ${counts.moods} times, poisoned ${counts.poison} times`,
    );
    if (code !== 0) throw new Problem('The soak found something wrong; see above.');
    console.log(`Nothing lost, nothing done twice. ${since()}`);
  } finally {
    stopping = true;
    await stopAll([...children.values()]);
    await server.stop();
  }
  process.exit(0);
});
