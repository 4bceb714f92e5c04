import { spawn } from 'node:child_process';
import { existsSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';

/** Where the house of these tests keeps its data and logs. */
export const folder = process.env['TEST_FOLDER'] ?? '.data/test';
const pidFile = `${folder}/worker.pid`;
const logFile = `${folder}/logs/worker.log`;

const pid = () => (existsSync(pidFile) ? Number(readFileSync(pidFile, 'utf8')) : 0);
const alive = (id: number) => {
  try {
    process.kill(id, 0);
    return id > 0;
  } catch {
    return false;
  }
};

/** The worker as its own process, so that a test can kill it the way a machine would. */
export const worker = {
  async start(): Promise<void> {
    if (alive(pid())) return;
    const log = openSync(logFile, 'a');
    const child = spawn(process.execPath, ['build/processes/worker.js'], {
      env: process.env,
      stdio: ['ignore', log, log],
      detached: true,
    });
    writeFileSync(pidFile, String(child.pid));
    child.unref();
  },
  /** Without warning: no signal handler runs, no transaction is finished, no lock is given back. */
  async kill(): Promise<void> {
    const id = pid();
    if (alive(id)) process.kill(id, 'SIGKILL');
    for (let i = 0; i < 100 && alive(id); i++) await new Promise((r) => setTimeout(r, 20));
    rmSync(pidFile, { force: true });
  },
};
