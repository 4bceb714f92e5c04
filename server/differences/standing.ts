import { sql } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';
import { readable } from './systems.ts';

/** What a system said of something that is held, when it was last read whole. */
export interface Standing {
  /** What the system is called. */
  system: string;
  at: Date;
  /** It differs from what is held, and stands on record as that; undefined: it was there, as it is held. */
  differs: { id: string; is: 'missing' | 'until' } | undefined;
}

/** What its system said of a holding; undefined where it says nothing of such things, or was not read since it was given. */
export async function standingOf(tx: Reader, holding: string): Promise<Standing | undefined> {
  const { rows } = await tx.execute<{
    action: string | null;
    at: string;
    system: string;
    difference: string | null;
    is: 'missing' | 'until' | null;
  }>(sql`
    select h.action, r.system, r.sound_at as at, d.id as difference, d."is"
    from holding h join system_reading r on r.sound_at > h.since
    left join lateral (select id, "is" from difference where holding_id = h.id and state in ('open', 'left') and "is" <> 'unknown'
      order by found_at desc limit 1) d on true
    where h.id = ${holding} and h.ended_at is null and h.ending_at is null`);
  if (rows.length === 0) return undefined;
  for (const { id, name, lists } of await readable(tx)) {
    const row = rows.find((r) => r.system === id && lists.some((l) => l.spec.id === r.action));
    if (row) return { system: name, at: new Date(row.at), differs: row.difference && row.is ? { id: row.difference, is: row.is } : undefined };
  }
  return undefined;
}
