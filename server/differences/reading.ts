import { eq, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import type { Listed } from '../../core/systems/index.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { systemReading } from '../db/schema/index.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { isId } from '../ids.ts';
import { syncDirectory } from '../people/sync-directory.ts';
import { addJobs } from '../runtime/jobs.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { listWhole, type WholeList } from '../systems/web/listing.ts';
import { compare, type Theirs } from './compare.ts';
import { directoryLists } from './directory-lists.ts';
import { equipmentId } from '../systems/equipment/id.ts';
import { stockList } from './stock-list.ts';
import { readable, type Readable } from './systems.ts';

/** What a registered system listed; whom nobody knows here is nobody. */
const listed = (rows: Listed[]): Theirs => {
  const given = rows.map((r) => ({
    what: r.what,
    person: r.person !== undefined && isId(r.person) ? r.person : null,
    until: r.until ?? null,
    outputs: r.outputs,
    job: r.job ?? null,
  }));
  return sql`select r.what, p.id as person_id, r.until, r.outputs, r.job
    from jsonb_to_recordset(${JSON.stringify(given)}::jsonb) as r(what jsonb, person uuid, until date, outputs jsonb, job text) left join person p on p.id = r.person`;
};

/** Every system that says what it has is to be read: each by itself. */
export async function readAll(): Promise<void> {
  for (const { id } of await readable(db()))
    await db().transaction(async (tx) => {
      await wantReading(tx, id, null);
    });
}

/** A reading is wanted, and its job stands to be done; several that want one get one. */
export async function wantReading(tx: Tx, system: string, by: string | null): Promise<void> {
  const asked = { askedAt: now(), askedBy: by };
  await tx
    .insert(systemReading)
    .values({ system, ...asked })
    .onConflictDoUpdate({ target: systemReading.system, set: asked });
  await addJobs(tx, 'readSystem', [{ payload: { system }, key: `read:${system}` }]);
}

/**
 * Reads what a system has and compares it with what is held. Where that goes wrong nothing is judged, and the reading says why; with the
 * database away the job comes again.
 */
export async function readSystem(id: string): Promise<void> {
  const system = (await readable(db())).find((s) => s.id === id);
  const began = now();
  await set(id, { beganAt: began, endedAt: null, cause: null });
  if (!system) return set(id, { endedAt: now(), things: 0, odd: 0, whole: false, cause: 'It says no longer what it has.' });
  try {
    const read = system.web
      ? await readWeb(system, system.web, began)
      : system.id === equipmentId
        ? await readStock(system, began)
        : await readDirectory(system, began);
    if (read) await set(id, { endedAt: now(), ...read, ...(read.whole && { soundAt: began }) });
  } catch (error) {
    if (isDatabaseTrouble(error)) throw error;
    const known = error instanceof PermanentError || error instanceof TransientError;
    await set(id, { endedAt: now(), whole: false, cause: heard(known ? error.message : `Unexpected: ${causeWords(error)}`, 1000) });
  }
}

const set = async (id: string, change: Partial<typeof systemReading.$inferInsert>): Promise<void> =>
  void (await db().update(systemReading).set(change).where(eq(systemReading.system, id)));

/** Whether no other reading began since: what was read before it is not judged any more. Until the transaction ends none compares. */
async function isLast(tx: Tx, system: string, began: Date): Promise<boolean> {
  const [row] = await tx.select({ began: systemReading.beganAt }).from(systemReading).where(eq(systemReading.system, system)).for('update');
  return row?.began?.getTime() === began.getTime();
}

/** What is told of a reading that went well; nothing where another began meanwhile. */
interface Read {
  things: number;
  odd: number;
  whole: boolean;
  cause: string | null;
}

/** The stock is ours: what of it is handed out is read as it is now. */
const readStock = (system: Readable, began: Date): Promise<Read | undefined> =>
  db().transaction(async (tx): Promise<Read | undefined> => {
    if (!(await isLast(tx, system.id, began))) return undefined;
    const { spec, theirs } = stockList;
    await compare(tx, { system: system.id, spec, theirs, began, whole: true });
    return { things: await countOf(tx, theirs), odd: 0, whole: true, cause: null };
  });

const countOf = async (tx: Tx, theirs: Theirs): Promise<number> => {
  const { rows } = await tx.execute<{ n: number }>(sql`select count(*)::int as n from (${theirs}) m`);
  return rows[0]!.n;
};

async function readDirectory(system: Readable, began: Date): Promise<Read | undefined> {
  const { odd, kept, users } = await syncDirectory();
  const whole = odd === 0 && kept.groups === 0 && kept.people === 0;
  return db().transaction(async (tx): Promise<Read | undefined> => {
    if (!(await isLast(tx, system.id, began))) return undefined;
    let things = 0;
    for (const { spec, theirs } of directoryLists) {
      await compare(tx, { system: system.id, spec, theirs: theirs(users), began, whole });
      things += await countOf(tx, theirs(users));
    }
    return {
      things,
      odd,
      whole,
      cause: whole ? null : 'Not all that the directory gave made sense, so nothing of it counts as missing.',
    };
  });
}

async function readWeb(system: Readable, web: NonNullable<Readable['web']>, began: Date): Promise<Read | undefined> {
  const lists: { of: Readable['lists'][number]; list: WholeList }[] = [];
  for (const of of system.lists) if (of.web) lists.push({ of, list: await listWhole(web, of.web.action, of.web.listing) });
  const odd = lists.flatMap(({ list }) => list.odd);
  const compared = await db().transaction(async (tx) => {
    if (!(await isLast(tx, system.id, began))) return false;
    for (const { of, list } of lists)
      await compare(tx, { system: system.id, spec: of.spec, theirs: listed(list.rows), began, whole: list.odd.length === 0 });
    return true;
  });
  if (!compared) return undefined;
  const things = lists.reduce((n, { list }) => n + list.rows.length, 0);
  return { things, odd: odd.length, whole: odd.length === 0, cause: odd.length === 0 ? null : `${odd[0]} Nothing of it counts as missing.` };
}
