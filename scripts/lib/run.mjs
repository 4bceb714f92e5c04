import { spawn } from 'node:child_process';
import process from 'node:process';
import { appendFileSync, mkdirSync, openSync } from 'node:fs';
import { dirname } from 'node:path';
import { Problem } from './say.mjs';

// What these scripts and their processes write is for their owner only.
process.umask(0o077);

/**
 * Runs a command to its end; gives what it printed. A failure is a Problem with the last lines.
 * @param {string} command @param {string[]} args @param {{ env?: NodeJS.ProcessEnv, show?: boolean, cwd?: string, meaning?: string }} [options]
 * @returns {Promise<string>}
 */
export function run(command, args, { env, show = false, cwd, meaning } = {}) {
  return new Promise((done, failed) => {
    const child = spawn(command, args, {
      env: { ...process.env, ...env },
      cwd,
      stdio: show ? ['ignore', 'inherit', 'inherit'] : ['ignore', 'pipe', 'pipe'],
    });
    let out = '';
    child.stdout?.on('data', (d) => (out += d));
    child.stderr?.on('data', (d) => (out += d));
    child.on('error', (e) => failed(new Problem(`${meaning ?? command} failed: ${e.message}`)));
    child.on('close', (code) =>
      code === 0
        ? done(out)
        : failed(new Problem(`${meaning ?? `${command} ${args.join(' ')}`} failed (exit code ${code}).\n${out.split('\n').slice(-15).join('\n')}`)),
    );
  });
}

/**
 * Starts a process that stays; resolves once it says it is ready. Its output goes to a log file.
 * @param {{ name: string, command: string, args: string[], env: NodeJS.ProcessEnv, log: string, ready: string, timeoutMs?: number }} what
 */
export function start({ name, command, args, env, log, ready, timeoutMs = 120_000 }) {
  mkdirSync(dirname(log), { recursive: true });
  openSync(log, 'a');
  const child = spawn(command, args, { env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
  let tail = '';
  const up = new Promise((done, failed) => {
    const late = setTimeout(() => failed(new Problem(`${name} was not ready within ${timeoutMs / 1000} s. See ${log}.`)), timeoutMs);
    const hear = (/** @type {Buffer} */ d) => {
      appendFileSync(log, d);
      tail = (tail + d).slice(-2000);
      if (tail.includes(ready)) {
        clearTimeout(late);
        done(undefined);
      }
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('error', (e) => failed(new Problem(`${name} cannot be started: ${e.message}`)));
    child.on('exit', (code) => {
      clearTimeout(late);
      failed(new Problem(`${name} stopped before it was ready (exit code ${code}).\n${tail.split('\n').slice(-8).join('\n')}`));
    });
  });
  return { child, up };
}

/** Stops children in order, each with time to finish its work. @param {import('node:child_process').ChildProcess[]} children */
export async function stopAll(children) {
  await Promise.all(
    children.map(
      (child) =>
        new Promise((done) => {
          if (child.exitCode !== null || child.signalCode !== null) return done(undefined);
          const hard = setTimeout(() => child.kill('SIGKILL'), 5000);
          child.once('exit', () => {
            clearTimeout(hard);
            done(undefined);
          });
          child.kill('SIGTERM');
        }),
    ),
  );
}
