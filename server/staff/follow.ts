import { and, eq, sql } from 'drizzle-orm';
import type { Field } from '../../core/forms/index.ts';
import { answersFrom, type FactValues, type StaffRule } from '../../core/staff/index.ts';
import { viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { db } from '../db/database.ts';
import { item, location, person, revision, staffHappening, staffRule } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import type { Refusal } from '../refusal.ts';
import { submitRequest } from '../requests/submit.ts';

type Row = typeof staffHappening.$inferSelect;

/**
 * What follows a happening: the item that its rule names is asked for, once, by the manager that the feed names, else by whom the rule
 * names. Where it cannot be asked for, the happening says why and somebody looks after it.
 */
export async function follow(id: string): Promise<void> {
  const [row] = await db().select().from(staffHappening).where(eq(staffHappening.id, id));
  if (row?.state !== 'open') return;
  const [rule] = await db()
    .select({
      itemId: staffRule.itemId,
      asksId: staffRule.asksId,
      answers: staffRule.answers,
      number: item.publishedRevision,
      revisionId: revision.id,
    })
    .from(staffRule)
    .innerJoin(item, eq(item.id, staffRule.itemId))
    .leftJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(staffRule.kind, row.kind), eq(staffRule.off, false)));
  if (!rule) return settle(row, { state: 'noRule' });
  const { number, revisionId } = rule;
  if (number === null || revisionId === null) return settle(row, { state: 'refused', why: 'What the rule asks for is not published.' });
  const manager = row.standing.manager === null ? undefined : await viewerKnownBy(db(), numbered(row.standing.manager));
  const asks = await asksFor(row, manager ?? (await viewerKnownBy(db(), sql`${person.id} = ${rule.asksId}`)));
  if (!asks)
    return settle(row, { state: 'refused', why: 'The feed names no manager who works here, and whom the rule names instead does not either.' });
  const { form } = await definitionOf(db(), revisionId);
  const facts = await factsOf(row, manager);
  const answers = answersFrom(form.fields, rule, facts);
  const asked = await submitRequest(asks, { itemId: rule.itemId, revision: number, answers, idempotencyKey: `staff ${row.id}` });
  if (asked.ok) return settleAsked(row, asked.number);
  // A revision that was published this very moment is the one to ask by: the job comes again.
  if (asked.code === 'changed-meanwhile') throw new Error(asked.sentence);
  return settle(row, { state: 'refused', why: why(asked, form.fields, rule.answers, facts), asksId: null });
}

/** Whom a staff number names, also one that they have no more, or not yet in the directory. */
const numbered = (number: string) =>
  sql`(${person.staffNumber} = ${number} or ${person.staffNumber} = any(array(select unnest(numbers) from staff_person where numbers @> array[${number}])))`;

/** It was asked for, as somebody who did not press a button: the log says what did. */
const settleAsked = (row: Row, number: number): Promise<void> =>
  db().transaction(async (tx) => {
    const [settled] = await tx
      .update(staffHappening)
      .set({ state: 'asked', request: number, why: null })
      .where(and(eq(staffHappening.id, row.id), eq(staffHappening.state, 'open')))
      .returning({ id: staffHappening.id });
    if (settled) await record(tx, { actor: null, action: 'ask', object: 'staff', objectId: row.id, detail: { request: number, line: row.number } });
  });

/** Who asks: stated before it is asked, and then always the same. */
async function asksFor(row: Row, first: Viewer | undefined): Promise<Viewer | undefined> {
  const [stated] = await db()
    .update(staffHappening)
    .set({ asksId: sql`coalesce(${staffHappening.asksId}, ${first?.id ?? null}::uuid)` })
    .where(eq(staffHappening.id, row.id))
    .returning({ asksId: staffHappening.asksId });
  const asksId = stated?.asksId ?? null;
  return asksId === null || asksId === first?.id ? first : viewerKnownBy(db(), sql`${person.id} = ${asksId}`);
}

const settle = async (row: Row, change: Partial<Row> & Pick<Row, 'state'>): Promise<void> =>
  void (await db()
    .update(staffHappening)
    .set({ why: null, ...change })
    .where(and(eq(staffHappening.id, row.id), eq(staffHappening.state, 'open'))));

/** Why it could not be asked for, field by field, with what the feed says there. */
function why(refused: Refusal, fields: Field[], answers: StaffRule['answers'], facts: FactValues): string {
  if (!refused.problems?.length) return refused.sentence;
  const says = (field: string) => {
    const from = answers.find((a) => a.field === field)?.from;
    const value = from ? facts[from] : undefined;
    return typeof value === 'string' ? ` The feed says “${value}”.` : '';
  };
  return refused.problems.map((p) => `${fields.find((f) => f.id === p.field)?.label ?? 'It'}: ${p.sentence}${says(p.field)}`).join(' ');
}

async function factsOf(row: Row, manager: Viewer | undefined): Promise<FactValues> {
  const { standing: s, staffNumber, from, name } = row;
  const [colleague] = await db()
    .select({ id: person.id })
    .from(person)
    .where(sql`${person.active} and ${numbered(row.staffNumber)}`)
    .limit(1);
  const [at] =
    s.place === null
      ? []
      : await db()
          .select({ id: location.id })
          .from(location)
          .where(sql`lower(${location.name}) = lower(${s.place})`);
  const said = (words: string | null) => words ?? undefined;
  return {
    colleague: colleague && { person: colleague.id },
    name,
    given: s.given,
    family: s.family,
    staffNumber,
    department: said(s.department),
    jobRole: said(s.jobRole),
    place: said(s.place),
    manager: manager && { person: manager.id },
    contract: said(s.contract),
    from,
    firstDay: s.firstDay,
    lastDay: said(s.lastDay),
    placeId: at?.id,
  };
}
