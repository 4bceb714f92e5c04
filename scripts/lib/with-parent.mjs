/**
 * Ends this process as if asked to when its parent is gone: a shell that npm started may die of a signal without passing it on,
 * and nothing should go on behind somebody's back. Loaded before anything else into what the scripts start, and into themselves.
 */
const parent = process.ppid;
setInterval(() => {
  if (process.ppid === parent) return;
  process.kill(process.pid, 'SIGTERM');
}, 500).unref();
