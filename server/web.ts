import cluster, { type Worker } from 'node:cluster';
import { availableParallelism } from 'node:os';
import { useSettings } from './config.ts';
import { log } from './log.ts';

/**
 * Starts as many web processes as there are to be behind one address, and starts each anew that ends by itself. It only hands
 * connections on (node:cluster); what the application does, each of them does alone, and none keeps state.
 */
const many = useSettings(process.env).WEB_PROCESSES ?? availableParallelism();
cluster.setupPrimary({ exec: 'build/server/index.js' });
const ready = new Set<Worker>();
let stopping = false;

cluster.on('listening', (worker, address) => {
  // Replies to mails are listened for too, on another port.
  if (address.port !== Number(process.env['PORT'])) return;
  const before = ready.size;
  ready.add(worker);
  if (before < many && ready.size === many) console.log('web ready');
});
cluster.on('exit', (worker, code, signal) => {
  if (stopping) {
    if (Object.keys(cluster.workers ?? {}).length === 0) process.exit(0);
    return;
  }
  // One that never came to listen would not the next time either.
  if (!ready.delete(worker)) process.exit(code || 1);
  log.warn({ code, signal }, 'a web process ended and is started anew');
  setTimeout(() => !stopping && cluster.fork(), 1000);
});
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    stopping = true;
    for (const worker of Object.values(cluster.workers ?? {})) worker?.kill(signal);
    // The only one may have ended just now, and not be started anew yet.
    if (Object.keys(cluster.workers ?? {}).length === 0) process.exit(0);
  });
for (let i = 0; i < many; i++) cluster.fork();
