import { and, desc, eq, ilike, inArray, isNotNull, isNull, lt, ne, or, sql } from 'drizzle-orm';
import { agreements, ruleWords } from '../../core/plans/index.ts';
import type { Answers } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { isGroup, isPerson, type Value } from '../../core/values/index.ts';
import type { Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { approval, gate, groupPerson, item, message, person, request, revision, runStep } from '../db/schema/index.ts';
import { definitionOf } from '../runtime/definitions.ts';
import { namesFor, optionsOf, valueWords, type Names } from '../runtime/words.ts';

/** What can be asked for, with the words that find it. */
export async function browse(search: string) {
  const like = `%${search.trim().replace(/[\\%_]/g, '\\$&')}%`;
  const definition = revision.definition;
  return db()
    .select({
      id: item.id,
      name: sql<string>`${definition}->>'name'`,
      summary: sql<string>`${definition}->>'summary'`,
      category: sql<string>`${definition}->>'category'`,
    })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(
      search.trim()
        ? or(ilike(sql`${definition}->>'name'`, like), ilike(sql`${definition}->>'summary'`, like), ilike(sql`${definition}->>'category'`, like))
        : undefined,
    )
    .orderBy(sql`${definition}->>'category'`, sql`${definition}->>'name'`)
    .limit(500);
}

/** The published form of an item. */
export async function offeredItem(itemId: string): Promise<{ id: string; revision: number; definition: ItemDefinition } | undefined> {
  const [row] = await db()
    .select({ id: item.id, revision: revision.number, definition: revision.definition })
    .from(item)
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(eq(item.id, itemId));
  return row;
}

/** A sentence for each gate the present answers will raise, with the names of who will be asked. */
export async function agreementSentences(viewer: Viewer, definition: ItemDefinition, answers: Answers): Promise<string[]> {
  const read = (ref: string): Value | undefined =>
    ref === 'request.requester' ? { person: viewer.id } : ref.startsWith('form.') ? answers[ref.slice(5)] : undefined;
  const sentences: string[] = [];
  for (const { gate: g, certain } of agreements(definition.plan, answers)) {
    const a = g.approvers;
    if (!a) continue;
    const who = await approversNow(a, read, definition);
    const rule = who.many ? `: ${ruleWords(g.rule)}` : '';
    sentences.push(`${certain ? '' : 'It may be that '}${certain ? capital(who.words) : who.words} must agree${rule}.`);
  }
  return sentences;
}

async function approversNow(
  a: NonNullable<Extract<ItemDefinition['plan']['steps'][number], { kind: 'gate' }>['approvers']>,
  read: (ref: string) => Value | undefined,
  definition: ItemDefinition,
): Promise<{ words: string; many: boolean }> {
  const label = (ref: string) => definition.form.fields.find((f) => `form.${f.id}` === ref)?.label.toLowerCase() ?? 'the person';
  if (a.from === 'people') {
    const names = await namesFor(db(), a.people);
    return { words: list(a.people.map((p) => valueWords(p, names))), many: a.people.length > 1 };
  }
  const value = read(a.from === 'ownersOf' ? a.group.ref : a.person.ref);
  if (a.from === 'ownersOf') {
    if (!isGroup(value)) return { words: `the owners of the ${label(a.group.ref)} you pick`, many: true };
    const names = await namesFor(db(), [value]);
    const owners = await db()
      .select({ name: person.name })
      .from(groupPerson)
      .innerJoin(person, eq(person.id, groupPerson.personId))
      .where(and(eq(groupPerson.groupId, value.group), eq(groupPerson.as, 'owner'), eq(person.active, true)))
      .orderBy(person.name);
    const group = valueWords(value, names);
    if (owners.length === 0) return { words: `since ${group} has no owner, whoever stands in for one`, many: false };
    return { words: `the owners of ${group} (${list(owners.map((o) => o.name))})`, many: owners.length > 1 };
  }
  if (!isPerson(value)) return { words: `${a.from === 'managerOf' ? 'the manager of ' : ''}the ${label(a.person.ref)} you pick`, many: false };
  const names = await namesFor(db(), [value]);
  if (a.from === 'person') return { words: valueWords(value, names), many: false };
  const [row] = await db().select({ managerId: person.managerId }).from(person).where(eq(person.id, value.person));
  if (!row?.managerId) return { words: 'whoever stands in for a manager', many: false };
  const manager = await namesFor(db(), [{ person: row.managerId }]);
  return { words: `${valueWords({ person: row.managerId }, manager)} (manager)`, many: false };
}
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
const list = (names: string[]) => (names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)}` : (names[0] ?? ''));

const pageSize = 30;

/** The viewer's requests, newest first, a page at a time by number. */
export async function myRequests(viewer: Viewer, before?: number) {
  const rows = await db()
    .select({
      number: request.number,
      item: sql<string>`${revision.definition}->>'name'`,
      openedAt: request.openedAt,
      endedAt: request.endedAt,
      outcome: request.outcome,
      id: request.id,
    })
    .from(request)
    .innerJoin(revision, eq(revision.id, request.revisionId))
    .where(and(eq(request.requesterId, viewer.id), before ? lt(request.number, before) : undefined))
    .orderBy(desc(request.number))
    .limit(pageSize + 1);
  const page = rows.slice(0, pageSize);
  const standing = await whereItStands(page.filter((r) => !r.outcome).map((r) => r.id));
  return { rows: page.map((r) => ({ ...r, standing: standing.get(r.id) })), next: rows.length > pageSize ? page.at(-1)?.number : undefined };
}

/** Of open requests: the step under way, who has it, and since when. */
export interface Standing {
  step: string;
  who: string[];
  since: Date;
  stuck: boolean;
}
export async function whereItStands(requestIds: string[]): Promise<Map<string, Standing>> {
  if (requestIds.length === 0) return new Map();
  const [steps, asked] = await Promise.all([
    db()
      .select({
        requestId: runStep.requestId,
        key: runStep.key,
        step: runStep.name,
        since: runStep.beganAt,
        stuck: isNotNull(runStep.stuckCause),
        kind: runStep.kind,
      })
      .from(runStep)
      .where(and(inArray(runStep.requestId, requestIds), isNull(runStep.endedAt)))
      .orderBy(runStep.order),
    db()
      .select({ requestId: gate.requestId, key: gate.key, name: person.name })
      .from(gate)
      .innerJoin(approval, eq(approval.gateId, gate.id))
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(inArray(gate.requestId, requestIds), isNull(gate.closedAt), eq(approval.status, 'waiting')))
      .orderBy(person.name),
  ]);
  const who = new Map<string, string[]>();
  for (const a of asked) who.set(`${a.requestId} ${a.key}`, [...(who.get(`${a.requestId} ${a.key}`) ?? []), a.name]);
  return new Map(
    steps.map((s) => {
      const names = who.get(`${s.requestId} ${s.key}`) ?? [];
      return [
        s.requestId,
        { step: s.step, since: s.since, stuck: Boolean(s.stuck), who: names.length ? names : s.kind === 'provision' ? ['the directory'] : [] },
      ];
    }),
  );
}

/** One of the viewer's own requests. */
export async function myRequest(viewer: Viewer, number: number) {
  const [row] = await db()
    .select()
    .from(request)
    .where(and(eq(request.number, number), eq(request.requesterId, viewer.id)));
  if (!row) return undefined;
  const definition = await definitionOf(db(), row.revisionId);
  const names = await namesFor(db(), Object.values(row.answers));
  const [steps, decisions, told] = await Promise.all([
    db()
      .select({
        key: runStep.key,
        name: runStep.name,
        kind: runStep.kind,
        beganAt: runStep.beganAt,
        endedAt: runStep.endedAt,
        end: runStep.end,
        stuck: isNotNull(runStep.stuckCause),
      })
      .from(runStep)
      .where(and(eq(runStep.requestId, row.id), ne(runStep.kind, 'choose')))
      .orderBy(runStep.order),
    db()
      .select({ gate: gate.name, name: person.name, status: approval.status, comment: approval.comment, decidedAt: approval.decidedAt })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(eq(gate.requestId, row.id), isNotNull(approval.decidedAt))),
    db()
      .select({ id: message.id, subject: message.subject, text: message.text, createdAt: message.createdAt, sentAt: message.sentAt })
      .from(message)
      .where(and(eq(message.requestId, row.id), eq(message.toId, viewer.id), isNull(message.approvalId)))
      .orderBy(message.createdAt),
  ]);
  return {
    number: row.number,
    item: definition.name,
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    reason: row.reason,
    answers: answerWords(definition, row.answers, names),
    standing: (await whereItStands(row.outcome ? [] : [row.id])).get(row.id),
    steps,
    decisions,
    told,
  };
}

/** The answers in words, in the form's order, without what was left empty. */
export function answerWords(definition: ItemDefinition, answers: Answers, names: Names): { label: string; words: string }[] {
  return definition.form.fields.flatMap((f) => {
    const words = valueWords(answers[f.id], names, optionsOf(definition, `form.${f.id}`));
    return words ? [{ label: f.label, words }] : [];
  });
}
