import { sql } from 'drizzle-orm';
import { db, type Tx } from '../server/db/database.ts';
import { makeAnew, openNote } from '../server/notes/commands.ts';
import { signIns } from './park.ts';
import type { Secret } from '../server/notes/secrets.ts';
import { viewerFor } from '../server/testing/parties.ts';

/** Sealed notes are opened by two hands at once, lost and made anew, while workers are killed. */

let [opened, anew, held] = [0, 0, 0];

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
    await holdAgainst(some, (one.secrets as Secret[])[0]!.value);
  } else if (one) anew++;
}

/** What a note says opens the machine it belongs to, unless that is gone or its sign-in is being made anew. */
async function holdAgainst({ run, key }: { run: string; key: string }, value: string): Promise<void> {
  const there = await signIns();
  const { rows } = await db().execute<{ what: string }>(sql`
    select what #>> '{}' as what from holding where run_id = ${run} and key = ${key} and not exists (select from call c where c.run_id = ${run}
      and starts_with(c.key, ${`anew:${key}~`}) and (c.closed_at is null or c.created_at > now() - interval '1 minute'))`);
  const [machine] = rows;
  const opens = machine && there.get(machine.what);
  if (opens === undefined) return;
  held++;
  if (opens !== value) throw new Error(`What the note says does not open ${machine!.what}.`);
}

/** Holds the notes against the calls that brought them; gives what is wrong, in sentences. */
export async function lookAtNotes(tx: Tx): Promise<string[]> {
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
  console.log(`  ${opened} notes opened, ${held} of them held against the machine they open; ${anew} made anew`);
  return wrong;
}
