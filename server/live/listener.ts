import pg from 'pg';
import { config } from '../config.ts';
import { log } from '../log.ts';
import { tellConcerned, type Watcher } from './concerned.ts';

/**
 * One listener a process: it hears from the database which cases moved, gathers them for a moment, and tells those who watch.
 * Whoever comes first begins it; when the last has gone it ends.
 */
const watchers = new Set<Watcher>();
const gathered = new Set<string>();
/** How long moves are gathered, in milliseconds, and how many at most are looked at in one go. */
const gathering = 400;
const atOnce = 2000;

let client: pg.Client | undefined;
let telling: ReturnType<typeof setTimeout> | undefined;

/** Watches until the given function is called. */
export function watchMoves(watcher: Watcher): () => void {
  watchers.add(watcher);
  if (!client) void listen();
  return () => {
    watchers.delete(watcher);
    if (watchers.size === 0) void stopListening();
  };
}

/** Gives whether it hears. */
async function listen(): Promise<boolean> {
  const mine = new pg.Client({ connectionString: config().DATABASE_URL });
  client = mine;
  const lost = () => {
    if (client !== mine) return;
    client = undefined;
    // What moved meanwhile was not heard: whoever watches looks again.
    setTimeout(() => {
      if (watchers.size > 0 && !client) void listen().then((heard) => heard && watchers.forEach((w) => w.tell()));
    }, 1000).unref();
  };
  mine.on('error', (error) => {
    log.warn({ error: error.message }, 'the connection that hears of moves was lost');
    lost();
  });
  mine.on('end', lost);
  mine.on('notification', ({ payload }) => {
    for (const id of payload?.split(' ') ?? []) gathered.add(id);
    telling ??= setTimeout(() => void tell(), gathering);
  });
  try {
    await mine.connect();
    await mine.query('listen moved');
    return true;
  } catch (error) {
    log.warn({ error: error instanceof Error ? error.message : String(error) }, 'cannot hear of moves');
    lost();
    return false;
  }
}

async function tell(): Promise<void> {
  const ids = [...gathered].slice(0, atOnce);
  for (const id of ids) gathered.delete(id);
  try {
    await tellConcerned(ids, watchers);
  } catch (error) {
    log.warn({ error: error instanceof Error ? error.message : String(error) }, 'could not tell of moves');
  }
  telling = gathered.size > 0 ? setTimeout(() => void tell(), gathering) : undefined;
}

async function stopListening(): Promise<void> {
  const mine = client;
  client = undefined;
  await mine?.end().catch(() => undefined);
}
