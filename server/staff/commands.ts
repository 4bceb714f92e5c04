import { and, eq, inArray, sql } from 'drizzle-orm';
import { z } from 'zod';
import { factsFor, staffFacts, staffHappenings, StaffRule, type Happening } from '../../core/staff/index.ts';
import type { Field, FieldProblem } from '../../core/forms/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { item, person, revision, staffFeed, staffHappening, staffRule } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { definitionOf } from '../items/definitions.ts';
import { holdTo, notAllowed, refuse, type Result } from '../refusal.ts';
import { addJobs } from '../runtime/jobs.ts';
import { hasFeed } from './feed.ts';

const Kind = z.enum(Object.keys(staffHappenings) as [Happening, ...Happening[]]);
const Kept = z.object({ kind: Kind, version: z.number().int().min(0), rule: StaffRule });
const changedMeanwhile = refuse(
  'changed-meanwhile',
  'Somebody else has changed this rule meanwhile. Nothing of theirs was overwritten; what you chose is still here.',
);

/** Says what is asked for when something happens to somebody of the feed; it counts for what is told from then on. */
export async function keepStaffRule(viewer: Viewer, input: unknown): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('say what follows the staff feed');
  const held = holdTo(Kept, input);
  if (!held.ok) return held;
  const { kind, version, rule } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const form = await formOf(tx, rule.item);
    if (!form) return at('item', 'Choose an item that is published.');
    const [asks] = isId(rule.asks)
      ? await tx
          .select({ id: person.id })
          .from(person)
          .where(and(eq(person.id, rule.asks), eq(person.active, true)))
      : [];
    if (!asks) return at('asks', 'Choose somebody who works here.');
    const answers = rule.answers.filter((a) => a.from !== null || a.words !== '');
    const problems = form.flatMap((field) =>
      wrongAnswer(
        field,
        answers.find((a) => a.field === field.id),
      ),
    );
    if (problems.length > 0) return refuse('invalid', problems[0]!.sentence, problems);
    const set = { itemId: rule.item, asksId: asks.id, answers, off: false, version: version + 1, changedBy: viewer.id, changedAt: now() };
    const kept =
      version === 0
        ? await tx
            .insert(staffRule)
            .values({ kind, ...set })
            .onConflictDoNothing()
            .returning({ kind: staffRule.kind })
        : await tx
            .update(staffRule)
            .set(set)
            .where(and(eq(staffRule.kind, kind), eq(staffRule.version, version)))
            .returning({ kind: staffRule.kind });
    if (kept.length === 0) return changedMeanwhile;
    await record(tx, { actor: viewer.id, action: version === 0 ? 'create' : 'change', object: 'staff', objectId: kind, detail: rule });
    return { ok: true };
  });
}

const at = (field: string, sentence: string) => refuse('invalid', sentence, [{ field, sentence }]);

/** The fields of an item's form as it is published. */
async function formOf(tx: Tx, itemId: string): Promise<Field[] | undefined> {
  const [published] = isId(itemId)
    ? await tx
        .select({ revisionId: revision.id })
        .from(item)
        .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
        .where(and(eq(item.id, itemId), eq(item.kind, 'item'), sql`${item.archivedAt} is null`))
    : [];
  return published && (await definitionOf(tx, published.revisionId)).form.fields;
}

/** A field that has to be filled in is given something, and something of its kind. */
function wrongAnswer(field: Field, answer: StaffRule['answers'][number] | undefined): FieldProblem[] {
  const problem = (sentence: string) => [{ field: `answers.${field.id}`, sentence }];
  if (!answer) {
    const must = field.required && !field.visibleWhen && field.default === undefined && !field.prefill;
    return must ? problem(`“${field.label}” has to be filled in: say from what.`) : [];
  }
  if (answer.from !== null)
    return factsFor(field).includes(answer.from) ? [] : problem(`${staffFacts[answer.from].label} cannot answer “${field.label}”.`);
  if (field.kind === 'choice' && !field.options?.some((o) => o.label === answer.words || o.value === answer.words))
    return problem(`“${field.label}” has no choice “${answer.words}”.`);
  return field.kind === 'text' || field.kind === 'longText' || field.kind === 'choice'
    ? []
    : problem(`“${field.label}” cannot be answered by words.`);
}

/** Nothing follows such a happening any more; what was asked for is kept, so that it can be again. */
export async function dropStaffRule(viewer: Viewer, input: { kind: string; version: number }): Promise<Result> {
  if (!has(viewer, 'designer')) return notAllowed('say what follows the staff feed');
  const held = holdTo(z.object({ kind: Kind, version: z.number().int() }), input);
  if (!held.ok) return held;
  const { kind, version } = held.value;
  return db().transaction(async (tx): Promise<Result> => {
    const gone = await tx
      .update(staffRule)
      .set({ off: true, version: version + 1, changedBy: viewer.id, changedAt: now() })
      .where(and(eq(staffRule.kind, kind), eq(staffRule.version, version), eq(staffRule.off, false)))
      .returning({ kind: staffRule.kind });
    if (gone.length === 0) return changedMeanwhile;
    await record(tx, { actor: viewer.id, action: 'close', object: 'staff', objectId: kind });
    return { ok: true };
  });
}

/** Has the feed read now. */
export async function readFeedNow(viewer: Viewer): Promise<Result> {
  if (!has(viewer, 'designer', 'administrator')) return notAllowed('have the staff feed read');
  if (!hasFeed()) return refuse('invalid', 'No staff feed is set up here: the host has not set STAFF_URL.');
  const asked = { askedAt: now() };
  return db().transaction(async (tx): Promise<Result> => {
    await tx.insert(staffFeed).values(asked).onConflictDoUpdate({ target: staffFeed.id, set: asked });
    await addJobs(tx, 'readStaff', [{ payload: {}, key: 'read-staff' }]);
    return { ok: true };
  });
}

const mayFollow = ['held', 'refused', 'noRule'] as const;

/**
 * Has what follows some happenings asked for after all: those that wait for a word, that could not be asked for, or that had no rule. One
 * that somebody else has let go on meanwhile is left as it is. Gives how many go on.
 */
export async function followHappenings(viewer: Viewer, input: { ids: string[] | 'held' }): Promise<Result<{ go: number }>> {
  if (!has(viewer, 'designer', 'administrator')) return notAllowed('say what follows the staff feed');
  const ids = input.ids === 'held' ? 'held' : input.ids.filter(isId);
  return db().transaction(async (tx): Promise<Result<{ go: number }>> => {
    const going = await tx
      .update(staffHappening)
      .set({ state: 'open', why: null })
      .where(ids === 'held' ? eq(staffHappening.state, 'held') : and(inArray(staffHappening.id, ids), inArray(staffHappening.state, [...mayFollow])))
      .returning({ id: staffHappening.id });
    if (going.length === 0) return refuse('ended', 'There is nothing to go on with: somebody else has seen to it, or it was asked for.');
    await addJobs(
      tx,
      'staffHappening',
      going.map(({ id }) => ({ payload: { id }, key: `staff:${id}` })),
    );
    await record(tx, {
      actor: viewer.id,
      action: 'try-again',
      object: 'staff',
      objectId: going.length === 1 ? going[0]!.id : 'many',
      detail: { happenings: going.length },
    });
    return { ok: true, go: going.length };
  });
}
