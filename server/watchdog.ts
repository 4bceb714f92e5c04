import { Worker } from 'node:worker_threads';
import { log } from './log.ts';

/** How long a process may be deaf before it is ended, in milliseconds. */
const timeoutMs = 10_000;

/**
 * Ends this process when it does not come round to its own work for ten seconds: nothing else can, since whoever would
 * stop it waits behind what hangs. Who started it starts it again. The watcher is a thread of its own, and counts its own
 * rounds, so that a machine that slept or was busy with others is no reason.
 */
export function watch(name: string): void {
  const beat = new Int32Array(new SharedArrayBuffer(4));
  const timer = setInterval(() => Atomics.add(beat, 0, 1), 500);
  timer.unref();
  const watcher = new Worker(
    `const { workerData: { beat, timeoutMs, pid, name } } = require('node:worker_threads');
     const { writeSync } = require('node:fs');
     let last = -1, deaf = 0;
     setInterval(() => {
       const now = Atomics.load(beat, 0);
       deaf = now === last ? deaf + 1 : 0;
       last = now;
       if (deaf * 1000 < timeoutMs) return;
       writeSync(2, JSON.stringify({ level: 60, msg: 'The ' + name + ' process did not answer for ' + timeoutMs / 1000 + ' s and is ended.' }) + '\\n');
       process.kill(pid, 'SIGKILL');
     }, 1000);`,
    { eval: true, workerData: { beat, timeoutMs, pid: process.pid, name }, execArgv: [] },
  );
  watcher.on('error', (error) => log.error({ error: error.message }, 'the watchdog ended'));
  watcher.unref();
}
