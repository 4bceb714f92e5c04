import { and, desc, eq, getTableColumns, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { branchWords, findStep, namingOf, outputPlaces, rooms, startPlaces, walkPlaces, type StepKind } from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { db } from '../db/database.ts';
import { approval, call, callTry, gate, message, person, revision, run, runEvent, runStep, serviceCase } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { namesFor } from '../people/names.ts';
import type { Value } from '../../core/values/index.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { catalogueFor } from '../items/catalogue.ts';
import { pageOf } from '../lists/page.ts';
import { valueWords } from '../words.ts';
import { answerWords } from '../requests/answers.ts';
import { whereItStands } from '../requests/standing.ts';

/** Who may read the Ledger. */
export const mayReadLedger = (viewer: Viewer): boolean => has(viewer, 'auditor', 'administrator', 'designer', 'teamMember');

const pageSize = 50;
export type LedgerFilter = 'all' | 'open' | 'stuck' | 'fulfilled' | 'declined' | 'withdrawn' | 'lapsed' | 'failed';

/** Requests, newest first, a page at a time by number. */
export async function runs(viewer: Viewer, filter: LedgerFilter, before?: number) {
  if (!mayReadLedger(viewer)) return undefined;
  const stuck = sql`exists (select from ${run} join ${runStep} on ${runStep.runId} = ${run.id} where ${run.caseId} = ${serviceCase.id} and ${runStep.stuckCause} is not null)`;
  const chosen =
    filter === 'all'
      ? undefined
      : filter === 'open'
        ? isNull(serviceCase.outcome)
        : filter === 'stuck'
          ? and(isNull(serviceCase.outcome), stuck)
          : eq(serviceCase.outcome, filter);
  const rows = await db()
    .select({
      id: serviceCase.id,
      number: serviceCase.number,
      item: revision.name,
      revision: revision.number,
      requester: person.name,
      openedAt: serviceCase.openedAt,
      endedAt: serviceCase.endedAt,
      outcome: serviceCase.outcome,
    })
    .from(serviceCase)
    .innerJoin(revision, eq(revision.id, serviceCase.revisionId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(and(chosen, before ? lt(serviceCase.number, before) : undefined))
    .orderBy(desc(serviceCase.number))
    .limit(pageSize + 1);
  const page = pageOf(rows, pageSize, (last) => last.number);
  const standing = await whereItStands(page.rows.filter((r) => !r.outcome).map((r) => r.id));
  return { ...page, rows: page.rows.map((r) => ({ ...r, standing: standing.get(r.id) })) };
}

/** What a run did, step by step, with values, branches, messages, calls and everything that was ignored. */
export async function trace(viewer: Viewer, number: number) {
  if (!mayReadLedger(viewer)) return undefined;
  const [row] = await db()
    .select({ ...getTableColumns(serviceCase), runId: run.id, seq: run.seq, open: maySeeInside(viewer) })
    .from(serviceCase)
    .innerJoin(run, eq(run.caseId, serviceCase.id))
    .where(eq(serviceCase.number, number));
  if (!row) return undefined;
  if (!row.open) return sealedTrace(row);
  const decider = alias(person, 'decider');
  const insteadOf = alias(person, 'instead_of');
  const [definition, steps, gates, messages, calls, events, revisionRow] = await Promise.all([
    definitionOf(db(), row.revisionId),
    db().select().from(runStep).where(eq(runStep.runId, row.runId)).orderBy(runStep.order),
    db()
      .select({
        key: gate.key,
        name: decider.name,
        insteadOf: insteadOf.name,
        status: approval.status,
        comment: approval.comment,
        askedAt: approval.askedAt,
        decidedAt: approval.decidedAt,
      })
      .from(approval)
      .innerJoin(gate, eq(gate.id, approval.gateId))
      .innerJoin(decider, eq(decider.id, approval.personId))
      .leftJoin(insteadOf, eq(insteadOf.id, approval.insteadOfId))
      .where(eq(gate.runId, row.runId))
      .orderBy(approval.askedAt, decider.name),
    db().select().from(message).where(eq(message.runId, row.runId)).orderBy(message.createdAt, message.id),
    db().select().from(call).where(eq(call.runId, row.runId)).orderBy(call.createdAt),
    db()
      .select({ seq: runEvent.seq, at: runEvent.at, event: runEvent.event, ignored: runEvent.ignored })
      .from(runEvent)
      .where(and(eq(runEvent.runId, row.runId), isNotNull(runEvent.ignored)))
      .orderBy(runEvent.id),
    db()
      .select({ number: revision.number, contentHash: revision.contentHash, itemId: revision.itemId })
      .from(revision)
      .where(eq(revision.id, row.revisionId)),
  ]);
  const tries = calls.length
    ? await db()
        .select()
        .from(callTry)
        .where(
          inArray(
            callTry.callId,
            calls.map((c) => c.id),
          ),
        )
        .orderBy(callTry.n)
    : [];
  const ignoredPeople = events.flatMap((e) => ('person' in e.event && typeof e.event.person === 'string' ? [e.event.person] : []));
  const values = [...Object.values(row.answers), ...steps.flatMap((s) => [...Object.values(s.inputs), ...Object.values(s.outputs ?? {})])];
  const names = await namesFor(db(), values, [...ignoredPeople, row.requesterId, ...messages.map((m) => m.toId)]);
  const catalogue = await catalogueFor(db(), definition);
  const places = walkPlaces(definition.plan.steps, startPlaces(definition.form), catalogue, () => undefined).anywhere;
  const naming = namingOf(places, catalogue);
  const wants = (stepId: string) => {
    const step = findStep(definition.plan, stepId);
    return step ? outputPlaces(step, catalogue).map((p) => ({ name: p.ref.split('.')[2]!, label: p.label, type: p.type })) : [];
  };
  const labelled = (stepId: string, record: Record<string, Value> | null) =>
    Object.entries(record ?? {}).map(([name, value]) => {
      const place = places.get(`steps.${stepId}.${name}`);
      return { label: place?.label ?? capital(name), words: valueWords(value, names, place?.options) };
    });
  const branch = (stepId: string, id: string) => {
    const step = findStep(definition.plan, id === '' ? '' : stepId);
    return step ? branchWords(step, id, naming) : id;
  };
  return {
    sealed: false as const,
    number: row.number,
    item: definition.name,
    itemId: revisionRow[0]?.itemId,
    revision: revisionRow[0]?.number,
    contentHash: revisionRow[0]?.contentHash,
    requester: names.people.get(row.requesterId)?.name ?? '',
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    reason: row.reason,
    events: row.seq,
    answers: answerWords(definition, row.answers, names),
    steps: steps.map((s) => ({
      key: s.key,
      name: s.name,
      verb: rooms[s.kind as StepKind].verb,
      /** Nobody skips it or takes it over. */
      isFirm: rooms[s.kind as StepKind].isFirm === true,
      beganAt: s.beganAt,
      endedAt: s.endedAt,
      end: s.end,
      note: s.note,
      stuckCause: s.stuckCause,
      /** What somebody who takes it over has to state. */
      wants: s.stuckCause ? wants(s.step) : [],
      inputs: labelled('', s.inputs),
      outputs: labelled(s.step, s.outputs),
      taken: s.taken ? branch(s.step, s.taken) : undefined,
      notTaken: (s.notTaken ?? []).map((b) => branch(s.step, b)),
      approvals: gates.filter((g) => g.key === s.key),
      messages: messages
        .filter((m) => m.key === s.key)
        .map((m) => ({
          id: m.id,
          to: names.people.get(m.toId)?.name ?? '',
          address: m.toAddress,
          subject: m.subject,
          text: m.text,
          content: m.content,
          via: m.via,
          createdAt: m.createdAt,
          sentAt: m.sentAt,
          failedAt: m.failedAt,
          attempts: m.attempts,
          lastError: m.lastError,
        })),
      calls: calls
        .filter((c) => c.key === s.key)
        .map((c) => ({
          id: c.id,
          action: c.action,
          idempotencyKey: c.idempotencyKey,
          status: c.status,
          dueAt: c.dueAt,
          tries: tries.filter((t) => t.callId === c.id),
        })),
    })),
    ignored: events.map((e) => ({
      at: e.at,
      what: e.event.type,
      who: 'person' in e.event && typeof e.event.person === 'string' ? (names.people.get(e.event.person)?.name ?? '') : '',
      reason: e.ignored ?? '',
    })),
  };
}
/** What everybody with Ledger access sees of a confidential request: that it exists, and how it stands. */
async function sealedTrace(row: typeof serviceCase.$inferSelect & { runId: string }) {
  const [definition, [by], steps] = await Promise.all([
    definitionOf(db(), row.revisionId),
    db().select({ name: person.name }).from(person).where(eq(person.id, row.requesterId)),
    db().$count(runStep, and(eq(runStep.runId, row.runId), isNotNull(runStep.stuckCause))),
  ]);
  return {
    sealed: true as const,
    number: row.number,
    item: definition.name,
    requester: by?.name ?? '',
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    stuck: steps > 0,
  };
}
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
