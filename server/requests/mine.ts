import type { Viewer } from '../auth/viewer.ts';
import { myTickets } from '../tickets/queries.ts';
import { myRequests } from './queries.ts';

/** Everything of the viewer's, requests and tickets in one series, newest first, a page at a time by number. */
export async function myCases(viewer: Viewer, before?: number) {
  const [requests, tickets] = await Promise.all([myRequests(viewer, before), myTickets(viewer, before)]);
  // A page ends where the shorter of two that go on ends: beyond it something of the other kind may be missing.
  const ends = [requests, tickets].flatMap((p) => (p.next === undefined ? [] : [p.next]));
  const last = ends.length > 0 ? Math.max(...ends) : undefined;
  const rows = [...requests.rows, ...tickets.rows].filter((r) => last === undefined || r.number >= last).toSorted((a, b) => b.number - a.number);
  return { rows, next: last };
}
