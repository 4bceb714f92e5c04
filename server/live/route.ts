import type { RequestHandler } from 'express';
import { has, viewerOf, type Viewer } from '../auth/viewer.ts';
import { readSession } from '../http/cookie.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { isRequesterOf } from '../requests/queries.ts';
import { actsOnTicket } from '../tickets/queries.ts';
import { watchMoves } from './listener.ts';
import type { Wanted } from './concerned.ts';

const open = new Set<() => void>();
/** In milliseconds: a sign of life, and how long one answer lasts before it is asked for, and the session looked at, anew. */
const beat = 20_000;
const lasts = 10 * 60_000;
const mostOfOne = 30;
const counts = new Map<string, number>();

async function wantedBy(viewer: Viewer, number: unknown): Promise<Wanted | undefined> {
  if (number === undefined) return { lists: true };
  if (typeof number !== 'string' || !/^\d{1,12}$/.test(number)) return undefined;
  const of = Number(number);
  return mayReadLedger(viewer) || (await isRequesterOf(viewer, of)) || (await actsOnTicket(viewer, of)) ? { case: of } : undefined;
}

/**
 * Tells a page that waits when what it shows has moved (server-sent events, WHATWG HTML): `?case=1001` for one request or ticket,
 * nothing for the lists of the signed-in person. An event says that something moved, never what.
 */
export const live: RequestHandler = async (req, res) => {
  const viewer = await viewerOf(await readSession(req.headers.cookie));
  if (!viewer) return void res.status(401).end();
  const wanted = await wantedBy(viewer, req.query['case']);
  if (!wanted) return void res.status(404).end();
  const count = counts.get(viewer.id) ?? 0;
  if (count >= mostOfOne) return void res.status(429).end();
  counts.set(viewer.id, count + 1);
  res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store, no-transform', 'X-Accel-Buffering': 'no' });
  res.write('retry: 2000\n\n');
  const stop = watchMoves({
    personId: viewer.id,
    wanted,
    mends: has(viewer, 'teamMember', 'administrator'),
    tell: () => void res.write('event: moved\ndata: \n\n'),
  });
  const alive = setInterval(() => void res.write(': here\n\n'), beat);
  const end = () => void res.end();
  const over = setTimeout(end, lasts);
  open.add(end);
  res.on('close', () => {
    stop();
    clearInterval(alive);
    clearTimeout(over);
    open.delete(end);
    const left = (counts.get(viewer.id) ?? 1) - 1;
    if (left > 0) counts.set(viewer.id, left);
    else counts.delete(viewer.id);
  });
};

/** Ends what is open, so that the process can. */
export const endLive = (): void => open.forEach((end) => end());
