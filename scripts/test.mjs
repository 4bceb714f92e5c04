import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build, checkNode, checkPorts, installPackages, needChromium } from './lib/machine.mjs';
import { portsFrom, processes, settings } from './lib/installation.mjs';
import { makeDatabase, needPostgres, startPostgres } from './lib/postgres.mjs';
import { run, start, stopAll } from './lib/run.mjs';
import { Problem, script, since, step } from './lib/say.mjs';

/**
 * The whole test suite on a database and ports of its own, so that it runs while a demo runs.
 * `npm test -- unit`, `npm test -- browser` or `npm test -- check` run a part; what follows goes to the runner.
 */
const folder = '.data/test';
const ports = portsFrom(Number(process.env['NESSMOOR_TEST_PORT'] ?? 4710));
const [part, ...rest] = process.argv.slice(2);
const wants = (/** @type {string} */ name) => part === undefined || part === name;
if (part !== undefined && !['check', 'unit', 'browser', 'soak'].includes(part)) {
  console.error('Say: npm test, npm test -- check, npm test -- unit [file], npm test -- browser [file], npm test -- soak');
  process.exit(1);
}

await script(async () => {
  checkNode();
  await checkPorts(ports, 'NESSMOOR_TEST_PORT');
  await checkPorts({ ...portsFrom(ports.web + 20) }, 'NESSMOOR_TEST_PORT');
  await step('Packages from the npm registry', installPackages);
  const failures = [];
  /** @type {string[]} Named once more at the very end, where a log that was cut still shows them. */
  const failed = [];
  const totals = { passed: 0, failed: 0 };
  const runner = async (
    /** @type {string} */ name,
    /** @type {string} */ command,
    /** @type {string[]} */ args,
    /** @type {NodeJS.ProcessEnv} */ env,
    /** @type {string | undefined} */ report,
  ) => {
    console.log(`\n${name}`);
    const fell = await run(command, args, { env, show: true, meaning: name }).then(
      () => false,
      () => true,
    );
    if (fell) failures.push(name);
    if (report) failed.push(...count(report, totals));
    else totals[fell ? 'failed' : 'passed']++;
  };

  if (wants('check')) await runner('Types, lint, boundaries, unused code, formatting', 'npm', ['run', '--silent', 'check'], {}, undefined);
  if (wants('unit') || wants('browser')) {
    await step('PostgreSQL from Debian', needPostgres);
    const server = await step('Starting a PostgreSQL for the tests', () => startPostgres({ folder, port: ports.postgres, fresh: true }));
    /** @type {import('node:child_process').ChildProcess[]} */
    const children = [];
    process.on(
      'SIGINT',
      () =>
        void stopAll(children)
          .then(() => server.stop())
          .then(() => process.exit(130)),
    );
    try {
      await step('Making the template database', async () => {
        await makeDatabase(server, 'nessmoor_template', folder, { anew: true });
        const env = settings(folder, ports, server.appUrl('nessmoor_template'));
        await run(process.execPath, ['--import', 'tsx', 'server/db/migrate.ts'], {
          env: { ...env, OWNER_DATABASE_URL: server.ownerUrl('nessmoor_template') },
          meaning: 'The migration',
        });
      });
      if (wants('unit')) {
        const report = join(folder, 'unit.json');
        await runner(
          'Unit tests',
          'npx',
          ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`, ...(part === 'unit' ? rest : [])],
          { TEST_DATABASE_URL: server.superUrl, TEST_APP_DATABASE_URL: server.appUrl('postgres') },
          report,
        );
      }
      if (wants('browser')) {
        await step('Chromium from Debian', needChromium);
        await step('Building the application', build);
        // Two houses side by side, each with a database, stand-ins and a demo of its own; a run of named files needs one.
        const houses = part === 'browser' && rest.length > 0 ? [0] : [1, 2];
        await Promise.all(
          houses.map(async (half) => {
            const place = half === 2 ? join(folder, 'second') : folder;
            const its = half === 2 ? { ...portsFrom(ports.web + 20), postgres: ports.postgres } : ports;
            const name = `nessmoor_browser_${half}`;
            rmSync(join(place, 'standins'), { recursive: true, force: true });
            await makeDatabase(server, name, folder, { anew: true, template: 'nessmoor_template' });
            const env = { ...settings(place, its, server.appUrl(name)), KIT: 'on' };
            const what = processes(place, env);
            for (const process of /** @type {const} */ (['standins', 'web'])) {
              const { child, up } = start(what[process]);
              children.push(child);
              await step(`Starting ${process}`, () => up);
            }
            await step('Loading the demo organisation', () =>
              run(process.execPath, ['--import', 'tsx', 'demo/load.ts'], { env, meaning: 'Loading the demo' }),
            );
            const report = join(place, 'browser.json');
            // The worker is started, killed and started again by the tests themselves.
            await runner(
              `Browser tests${half ? `, half ${half}` : ''}`,
              'npx',
              ['playwright', 'test', ...(half === 0 ? rest : [])],
              { ...env, NODE_ENV: 'test', TEST_FOLDER: place, TEST_HALF: String(half), PLAYWRIGHT_JSON_OUTPUT_NAME: report },
              report,
            );
          }),
        );
      }
    } finally {
      await stopAll(children);
      await server.stop();
    }
  }
  // A short form of npm run soak.
  if (wants('soak'))
    await runner('Soak', process.execPath, ['scripts/soak.mjs', ...(part === 'soak' && rest.length ? rest : ['60', '15'])], {}, undefined);
  console.log(`\n${failures.length ? `Failed: ${failures.join('; ')}.` : 'All went well.'} ${since()}`);
  console.log(`${totals.passed} passed, ${totals.failed} failed`);
  for (const what of failed) console.log(`  ${what}`);
  if (failures.length) throw new Problem('See above for what failed.');
  process.exit(0);
});

/**
 * Adds up what a runner's JSON report says, and gives what failed with the first lines of why.
 * @param {string} file @param {{ passed: number, failed: number }} totals @returns {string[]}
 */
function count(file, totals) {
  try {
    const report = JSON.parse(readFileSync(file, 'utf8'));
    totals.passed += report.numPassedTests ?? report.stats?.expected ?? 0;
    totals.failed += report.numFailedTests ?? report.stats?.unexpected ?? 0;
    return report.testResults ? ofVitest(report) : ofPlaywright(report);
  } catch {
    totals.failed++;
    return [`There is no report in ${file}.`];
  }
}

/** @param {string} text As the runner says it, with its colours. */
function firstLines(text) {
  return text
    .replace(/\u001b\[[0-9;]*m/g, '')
    .split('\n')
    .slice(0, 3)
    .join(' ')
    .slice(0, 300);
}

/** @param {{ testResults: { name: string, message: string, assertionResults: { status: string, fullName: string, failureMessages: string[] }[] }[] }} report */
function ofVitest(report) {
  return report.testResults.flatMap((file) => [
    ...(file.message ? [`${file.name}: ${firstLines(file.message)}`] : []),
    ...file.assertionResults.filter((t) => t.status === 'failed').map((t) => `${t.fullName}: ${firstLines(t.failureMessages[0] ?? '')}`),
  ]);
}

/** @typedef {{ specs?: { ok: boolean, title: string, file: string, tests: { results: { errors: { message?: string }[] }[] }[] }[], suites?: Suite[] }} Suite */
/** @param {Suite} report @returns {string[]} */
function ofPlaywright(report) {
  return [
    ...(report.specs ?? [])
      .filter((spec) => !spec.ok)
      .map((spec) => `${spec.file}: ${spec.title}: ${firstLines(spec.tests[0]?.results[0]?.errors[0]?.message ?? '')}`),
    ...(report.suites ?? []).flatMap(ofPlaywright),
  ];
}
