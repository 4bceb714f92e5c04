import { sql } from 'drizzle-orm';
import { db, type Tx } from '../server/db/database.ts';
import { makeAnew, openNote } from '../server/notes/commands.ts';
import type { Secret } from '../server/notes/secrets.ts';
import { viewerFor } from '../server/testing/parties.ts';

/** Sealed notes are opened by two hands at once, lost and made anew, while workers are killed. */

/** What was read last, by the run and what it gave. */
const read = new Map<string, { value: string; note: string }>();
let [opened, anew] = [0, 0];

/** Somebody opens a note, or has one made anew that they have read: twice at once, and it happens once. */
export async function handleANote(chance: (n: number) => number): Promise<void> {
  const { rows } = await db().execute<{ id: string; who: string; run: string; key: string; waits: boolean }>(sql`
    select id, person_id as who, run_id as run, key, sealed is not null as waits from sealed_note where replaced_at is null order by made_at desc limit 20`);
  const some = rows[chance(Math.max(1, rows.length))];
  if (!some) return;
  const who = viewerFor(some.who);
  const open = () => openNote(who, { id: some.id });
  const make = () => makeAnew(who, { id: some.id });
  const both = some.waits ? await Promise.all([open(), open()]) : await Promise.all([make(), make()]);
  const went = both.flatMap((r) => (r.ok ? [r] : []));
  if (went.length > 1) throw new Error(some.waits ? 'A note was opened twice.' : 'A note was made anew twice at once.');
  for (const r of both) if (!r.ok && r.code !== 'ended') throw new Error(`${r.code}: ${r.sentence}`);
  const [one] = went;
  if (one && 'secrets' in one) {
    opened++;
    read.set(`${some.run} ${some.key}`, { value: (one.secrets as Secret[])[0]!.value, note: some.id });
  } else if (one) anew++;
}

/** Holds the notes against the calls that brought them and, by address, against what the park has; gives what is wrong, in sentences. */
export async function lookAtNotes(tx: Tx, signIns: Map<string, string>): Promise<string[]> {
  const wrong: string[] = [];
  const count = async (words: string, which: ReturnType<typeof sql>) => {
    const { rows } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from ${which}`);
    if (rows[0]!.n > 0) wrong.push(`${rows[0]!.n} ${words}.`);
  };
  await count(
    'calls brought a secret that went into no note',
    sql`call c where c.note_to is not null and c.action like 'web.%' and c.outputs is not null and c.status <> 'cancelled' and not exists (select from sealed_note n where n.call_id = c.id)`,
  );
  await count(
    'notes hold the secret of what was not needed any more',
    sql`sealed_note n join call c on c.id = n.call_id where c.status = 'cancelled' and n.sealed is not null`,
  );
  await count(
    'notes were opened or replaced and hold something still',
    sql`sealed_note where sealed is not null and (opened_at is not null or replaced_at is not null)`,
  );
  await count(
    'things have two notes that open',
    sql`(select from sealed_note where sealed is not null group by run_id, key having count(*) > 1) twice`,
  );
  const { rows: held } = await tx.execute<{ what: string; run: string; key: string; note: string; busy: boolean }>(sql`
    select h.what #>> '{}' as what, h.run_id as run, h.key, (select n.id from sealed_note n where n.run_id = h.run_id and n.key = h.key order by n.made_at desc limit 1) as note,
      exists (select from call c where c.run_id = h.run_id and starts_with(c.key, 'anew:' || h.key || '~') and c.closed_at is null) as busy
    from holding h where h.kind = 'machine'`);
  let compared = 0;
  for (const h of held) {
    const last = read.get(`${h.run} ${h.key}`);
    if (!last || last.note !== h.note || h.busy || !signIns.has(h.what)) continue;
    compared++;
    if (signIns.get(h.what) !== last.value) wrong.push(`What the note said last does not open ${h.what}.`);
  }
  console.log(`  ${opened} notes opened, ${anew} made anew; ${compared} of those read last held against the machine they open`);
  return wrong;
}
