import { and, eq, isNull, sql } from 'drizzle-orm';
import { readBundle, type Bundle } from '../../core/bundle/index.ts';
import { readRow } from '../../core/tables/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db, type Tx } from '../db/database.ts';
import { bundleImport, consent, item, policy, policyVersion, referenceRow, referenceTable, revision, type TakenIn } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { notAllowed, notFound, refuse, type Result } from '../refusal.ts';
import { write } from '../tables/commands.ts';
import { stampOf } from '../tables/stamp.ts';
import { usesOf } from '../tables/uses.ts';
import { plannedImport, type Entry, type ImportPlan } from './planned.ts';

interface Given {
  text: string;
  /** Who or what is meant by those that are not found here, by their ids in the file. */
  chosen: Record<string, string>;
}
/** What taking in a file would do. */
export type Foreseen = Pick<ImportPlan, 'entries' | 'unmatched' | 'problem'> & { name: string; made: string };

const said = (b: Bundle, p: ImportPlan): Foreseen => ({
  name: b.items.find((i) => i.id === b.item)!.definition.name,
  made: b.made,
  entries: p.entries,
  unmatched: p.unmatched,
  problem: p.problem,
});

/** What taking in a file of an item would do here; nothing is changed. */
export async function readImport(viewer: Viewer, input: Given): Promise<Result<Foreseen>> {
  if (!has(viewer, 'designer')) return notAllowed('take in files of items');
  const read = readBundle(input.text);
  if (!read.ok) return refuse('invalid', read.sentence);
  return { ok: true, ...said(read.bundle, await plannedImport(db(), read.bundle, input.chosen)) };
}

/**
 * Takes in a file of an item: all of it or nothing. Items and parts become drafts, to be looked at and published; policies and tables
 * that are not here are made, those that are stay as they are. The same file twice changes nothing.
 */
export async function importBundle(viewer: Viewer, input: Given): Promise<Result<{ id: string | undefined; item: string; entries: Entry[] }>> {
  if (!has(viewer, 'designer')) return notAllowed('take in files of items');
  const read = readBundle(input.text);
  if (!read.ok) return refuse('invalid', read.sentence);
  const { bundle } = read;
  return db()
    .transaction(async (tx): Promise<Result<{ id: string | undefined; item: string; entries: Entry[] }>> => {
      // Two who take in at once do so one after the other: names are looked up before they are given.
      await tx.execute(sql`select pg_advisory_xact_lock(hashtext('bundle-import'))`);
      const plan = await plannedImport(tx, bundle, input.chosen);
      if (plan.problem !== undefined) return refuse('invalid', `${plan.problem} Nothing was taken in.`);
      const [first] = plan.open;
      if (first) return refuse('invalid', `Say first who or what is meant by “${first.name}”. Nothing was taken in.`);
      const { items, policies, tables } = plan.write;
      if (items.length + policies.length + tables.length === 0) return { ok: true, id: undefined, item: plan.item, entries: plan.entries };
      const did: TakenIn = { items: [], policies: [], tables: [] };
      for (const p of policies) {
        await tx.insert(policy).values({ id: p.id, name: p.definition.name, definition: p.definition, changedBy: viewer.id });
        await tx.insert(policyVersion).values({ policyId: p.id, version: 1, definition: p.definition, by: viewer.id, note: 'Taken in from a file' });
        did.policies.push({ id: p.id });
      }
      for (const t of tables) {
        await tx.insert(referenceTable).values({ id: t.id, name: t.definition.name, definition: t.definition, changedBy: viewer.id });
        const rows = t.rows.map((cells) => {
          const row = readRow(t.definition, cells, () => true);
          if (!row.ok) throw new Error('A row that was looked at a moment ago does not fit.');
          return { key: row.key, cells: row.cells };
        });
        for (let i = 0; i < rows.length; i += 1000) await write(tx, viewer.id, t.id, t.definition, rows.slice(i, i + 1000));
        did.tables.push({ id: t.id, stamp: await stampOf(tx, t.id) });
      }
      for (const i of items) {
        const version = (i.before?.version ?? 0) + 1;
        const values = { name: i.draft.name, draft: i.draft, draftVersion: version, draftBy: viewer.id, draftAt: new Date() };
        if (i.before) {
          const kept = await tx
            .update(item)
            .set(values)
            .where(and(eq(item.id, i.id), eq(item.draftVersion, i.before.version)))
            .returning({ id: item.id });
          // Somebody saved it between the looking and the writing.
          if (kept.length === 0) throw new ChangedMeanwhile(i.draft.name);
        } else await tx.insert(item).values({ id: i.id, kind: i.kind, ...values });
        did.items.push({ id: i.id, version, ...(i.before && { before: i.before.draft }) });
      }
      const { name } = said(bundle, plan);
      const [made] = await tx.insert(bundleImport).values({ name, itemId: plan.item, by: viewer.id, did }).returning({ id: bundleImport.id });
      await record(tx, {
        actor: viewer.id,
        action: 'take-in',
        object: 'item',
        objectId: plan.item,
        detail: { name, entries: plan.entries.map((e) => `${e.what} ${e.name}: ${e.is}`) },
      });
      return { ok: true, id: made!.id, item: plan.item, entries: plan.entries };
    })
    .catch((e: unknown) => {
      if (e instanceof ChangedMeanwhile)
        return refuse('changed-meanwhile', `The draft of “${e.message}” was changed meanwhile. Nothing was taken in; look at it again.`);
      throw e;
    });
}

class ChangedMeanwhile extends Error {}

/**
 * Takes a taking in back, in one act: drafts are as they were before, what was made by it is gone. Refused where any of it has been
 * changed, published or used since. An approval policy stays, unused: what policies said is never deleted.
 */
export async function takeImportBack(viewer: Viewer, id: string): Promise<Result<{ name: string; stays: string[] }>> {
  if (!has(viewer, 'designer')) return notAllowed('take in files of items');
  if (!isId(id)) return notFound('This file');
  return db()
    .transaction(async (tx): Promise<Result<{ name: string; stays: string[] }>> => {
      await tx.execute(sql`select pg_advisory_xact_lock(hashtext('bundle-import'))`);
      const [row] = await tx
        .select()
        .from(bundleImport)
        .where(and(eq(bundleImport.id, id), isNull(bundleImport.takenBackAt)))
        .for('no key update');
      if (!row) return refuse('ended', 'It was taken back already.');
      const { did } = row;
      for (const i of did.items) {
        const why = await takeItemBack(tx, viewer, i);
        if (why !== undefined) throw new Held(why);
      }
      for (const t of did.tables) {
        const why = await takeTableBack(tx, t);
        if (why !== undefined) throw new Held(why);
      }
      const stays: string[] = [];
      for (const p of did.policies) {
        const [there] = await tx.select({ name: policy.name }).from(policy).where(eq(policy.id, p.id));
        if (there) stays.push(there.name);
      }
      await tx.update(bundleImport).set({ takenBackAt: new Date() }).where(eq(bundleImport.id, id));
      await record(tx, { actor: viewer.id, action: 'take-back', object: 'item', objectId: row.itemId, detail: { name: row.name } });
      return { ok: true, name: row.name, stays };
    })
    .catch((e: unknown) => {
      if (e instanceof Held) return refuse('changed-meanwhile', `Not taken back: ${e.message} Nothing was changed.`);
      throw e;
    });
}

/** Why a taking in cannot be taken back any more; undoes what was done of it already. */
class Held extends Error {}

async function takeItemBack(tx: Tx, viewer: Viewer, i: TakenIn['items'][number]): Promise<string | undefined> {
  const [now] = await tx.select({ name: item.name, version: item.draftVersion }).from(item).where(eq(item.id, i.id)).for('update');
  if (!now) return undefined;
  if (now.version !== i.version) return `the draft of “${now.name}” has been changed since.`;
  if (i.before) {
    await tx
      .update(item)
      .set({ name: i.before.name, draft: i.before, draftVersion: i.version + 1, draftBy: viewer.id, draftAt: new Date() })
      .where(eq(item.id, i.id));
    return undefined;
  }
  if ((await tx.$count(revision, eq(revision.itemId, i.id))) > 0) return `“${now.name}” has been published since.`;
  await tx.delete(consent).where(eq(consent.itemId, i.id));
  await tx.delete(item).where(eq(item.id, i.id));
  return undefined;
}

async function takeTableBack(tx: Tx, t: TakenIn['tables'][number]): Promise<string | undefined> {
  const [now] = await tx
    .select({ name: referenceTable.name, version: referenceTable.version, offered: referenceTable.offered })
    .from(referenceTable)
    .where(eq(referenceTable.id, t.id))
    .for('update');
  if (!now) return undefined;
  if (now.version !== 1 || (await stampOf(tx, t.id)) !== t.stamp) return `the table “${now.name}” has been changed since.`;
  const [by] = await usesOf(tx, t.id);
  if (now.offered || by) return `the table “${now.name}” is used${by ? ` by “${by.name}”` : ''}.`;
  await tx.delete(referenceRow).where(eq(referenceRow.tableId, t.id));
  await tx.delete(referenceTable).where(eq(referenceTable.id, t.id));
  return undefined;
}
