import { sql } from 'drizzle-orm';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { mayReadLedger } from '../runs/queries.ts';
import { readable } from './systems.ts';

/** The systems that say what they have: when each was read last, and what came of it. */
export async function readings(viewer: Viewer) {
  if (!mayReadLedger(viewer)) return [];
  const systems = await readable(db());
  const { rows } = await db().execute<{
    system: string;
    askedAt: string;
    beganAt: string | null;
    endedAt: string | null;
    things: number;
    cause: string | null;
    open: number;
    unknown: number;
  }>(sql`
    select r.system, r.asked_at as "askedAt", r.began_at as "beganAt", r.ended_at as "endedAt", r.things, r.cause,
      (select count(*)::int from difference d where d.system = r.system and d.state = 'open') as open,
      (select count(*)::int from difference d where d.system = r.system and d.state = 'open' and d."is" = 'unknown') as unknown
    from system_reading r`);
  const at = (text: string | null) => (text === null ? null : new Date(text));
  return systems.map(({ id, name }) => {
    const r = rows.find((row) => row.system === id);
    const [asked, began, ended] = [at(r?.askedAt ?? null), at(r?.beganAt ?? null), at(r?.endedAt ?? null)];
    return {
      id,
      name,
      readAt: ended,
      things: r?.things ?? 0,
      cause: r?.cause ?? null,
      open: r?.open ?? 0,
      unknown: r?.unknown ?? 0,
      /** It was asked for and has not ended. */
      underWay: asked !== null && (began === null || ended === null || began < asked),
    };
  });
}
