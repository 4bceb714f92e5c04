import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { pack } from './pack.mjs';
import { run } from './run.mjs';
import { Problem } from './say.mjs';

export const isRoot = process.getuid?.() === 0;

export function checkNode() {
  const [major = 0] = process.versions.node.split('.').map(Number);
  if (major < 20) throw new Problem(`Nessmoor needs Node.js 20 or newer; this is ${process.versions.node}.`);
}

/** Each port must be free before anything is started; `setting` chooses others. @param {Record<string, number>} ports @param {string} [setting] */
export async function checkPorts(ports, setting = 'NESSMOOR_PORT') {
  for (const [name, port] of Object.entries(ports)) {
    const free = await new Promise((done) => {
      const probe = createServer();
      probe.once('error', () => done(false));
      probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)));
    });
    if (!free) {
      throw new Problem(
        `Port ${port} (${name}) is in use on 127.0.0.1. If Nessmoor runs already, stop it with Ctrl-C; otherwise choose other ports with ${setting}=5600 (the next ten are used too).`,
      );
    }
  }
}

/** Installs Debian packages, or says how. @param {string[]} packages @param {string} what */
export async function installDebian(packages, what) {
  if (!isRoot) throw new Problem(`${what} is not installed, and only root may install it. Run: sudo apt-get install ${packages.join(' ')}`);
  if (!existsSync('/usr/bin/apt-get'))
    throw new Problem(`${what} is not installed, and this is not a Debian machine. Install ${packages.join(', ')} by hand.`);
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  await run('apt-get', ['update'], { env, meaning: 'Reading the list of Debian packages' });
  await run('apt-get', ['install', '-y', '--no-install-recommends', ...packages], { env, meaning: `Installing ${what}` });
}

/** Installs what package-lock.json names, if it is not there yet; true when something was done. */
export async function installPackages() {
  const wanted = fingerprint(['package-lock.json', 'package.json']);
  const mark = 'node_modules/.nessmoor';
  if (existsSync(mark) && readFileSync(mark, 'utf8') === wanted) return false;
  await run('npm', ['ci', '--no-audit', '--no-fund'], { meaning: 'Installing packages from the npm registry' });
  writeFileSync(mark, wanted);
  return true;
}

/** Builds the application if its sources have changed since the last build. */
export async function build() {
  const wanted = fingerprint(['app', 'core', 'server', 'package-lock.json', 'vite.config.ts', 'vite.processes.config.ts', 'react-router.config.ts']);
  const mark = 'build/.nessmoor';
  if (existsSync(mark) && readFileSync(mark, 'utf8') === wanted) return false;
  const env = { NODE_ENV: 'production' };
  await run('npx', ['react-router', 'build'], { env, meaning: 'Building the application' });
  await run('npx', ['vite', 'build', '--config', 'vite.processes.config.ts'], { env, meaning: 'Building the processes beside it' });
  await pack('build/client');
  mkdirSync('build', { recursive: true });
  writeFileSync(mark, wanted);
  return true;
}

/** A hash over the contents of files and folders, tests left out. @param {string[]} paths */
export function fingerprint(paths) {
  const hash = createHash('sha256');
  const visit = (/** @type {string} */ path) => {
    if (!existsSync(path)) return;
    if (statSync(path).isDirectory())
      return readdirSync(path)
        .sort()
        .forEach((name) => visit(join(path, name)));
    if (/\.test\.tsx?$/.test(path)) return;
    hash.update(path).update(readFileSync(path));
  };
  paths.forEach(visit);
  return hash.digest('hex');
}

export async function needChromium() {
  if (existsSync('/usr/bin/chromium-headless-shell')) return false;
  await installDebian(['chromium-headless-shell'], 'Chromium');
  return true;
}
