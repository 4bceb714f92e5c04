import { and, eq, getTableColumns, inArray, isNotNull } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import {
  actionOf,
  branchWords,
  findStep,
  namingOf,
  outputPlaces,
  rooms,
  startPlaces,
  analyseAssignment,
  type StepKind,
} from '../../core/plans/index.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { requestConversation } from '../conversation/read.ts';
import { db } from '../db/database.ts';
import {
  approval,
  call,
  callTry,
  changeLog,
  gate,
  message,
  ofRequest,
  person,
  revision,
  run,
  runEvent,
  runStep,
  serviceCase,
  task,
} from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { anewOf } from '../notes/anew.ts';
import { notesOfRun } from '../notes/queries.ts';
import { namesFor, readIn, type Names } from '../people/names.ts';
import type { Value } from '../../core/values/index.ts';
import { maySeeInside } from '../requests/confidential.ts';
import { catalogueFor } from '../items/catalogue.ts';
import { said } from '../words.ts';
import { promisedOf } from '../requests/promised.ts';
import { answerWords } from '../requests/answers.ts';

/** Who may read the Ledger. */
export const mayReadLedger = (viewer: Viewer): boolean => has(viewer, 'auditor', 'administrator', 'designer', 'teamMember');

/** What a run did, step by step, with values, branches, messages, calls and everything that was ignored. */
export async function trace(viewer: Viewer, number: number) {
  if (!mayReadLedger(viewer)) return undefined;
  const [row] = await db()
    .select({ ...getTableColumns(serviceCase), ...ofRequest, runId: run.id, seq: run.seq, open: maySeeInside(viewer) })
    .from(serviceCase)
    .innerJoin(run, eq(run.caseId, serviceCase.id))
    .where(and(eq(serviceCase.number, number), eq(serviceCase.kind, 'request')));
  if (!row) return undefined;
  if (!row.open) return sealedTrace(row);
  const decider = alias(person, 'decider');
  const insteadOf = alias(person, 'instead_of');
  const [definition, steps, gates, messages, calls, events, notes, revisionRow] = await Promise.all([
    definitionOf(db(), row.revisionId),
    db().select().from(runStep).where(eq(runStep.runId, row.runId)).orderBy(runStep.order),
    db()
      .select({
        id: approval.id,
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
    notesOfRun(row.runId),
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
  const tasks = await db().select().from(task).where(eq(task.runId, row.runId));
  const moves = await movesOf(
    gates.map((g) => g.id),
    tasks.map((t) => t.id),
  );
  const ignoredPeople = events.flatMap((e) => ('person' in e.event && typeof e.event.person === 'string' ? [e.event.person] : []));
  const values = [
    ...tasks.flatMap((t) => Object.values(t.draft.values)),
    ...Object.values(row.answers),
    ...steps.flatMap((s) => [...Object.values(s.inputs), ...Object.values(s.outputs ?? {})]),
  ];
  const names = readIn(
    viewer.zone,
    await namesFor(db(), values, [...ignoredPeople, row.requesterId, ...(row.forId ? [row.forId] : []), ...messages.map((m) => m.toId)]),
  );
  const catalogue = await catalogueFor(db(), definition);
  const places = analyseAssignment(definition.plan.steps, startPlaces(definition.form, catalogue), catalogue, () => undefined).anywhere;
  const naming = namingOf(places, catalogue);
  const wants = (stepId: string) => {
    const step = findStep(definition.plan, stepId);
    const places = step ? outputPlaces(step, catalogue).filter((p) => !p.secret) : [];
    return places.map((p) => ({ name: p.ref.split('.')[2]!, label: p.label, type: p.type }));
  };
  const labelled = (stepId: string, record: Record<string, Value> | null) =>
    Object.entries(record ?? {}).map(([name, value]) => {
      const place = places.get(`steps.${stepId}.${name}`);
      return { label: place?.label ?? capital(name), ...said(value, names, place) };
    });
  const actionWords = (id: string) => {
    const spec = actionOf(catalogue, id);
    return spec ? `${spec.system}: ${spec.label}` : id;
  };
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
    forWhom: row.forId ? names.people.get(row.forId)?.name : undefined,
    openedAt: row.openedAt,
    endedAt: row.endedAt,
    outcome: row.outcome,
    reason: row.reason,
    events: row.seq,
    // Notes within the desk are none of whoever asked, though they may read the Ledger.
    words: await requestConversation({ caseId: row.id, number: row.number }, row.requesterId !== viewer.id && row.forId !== viewer.id, viewer.zone),
    /** What is promised of it as a whole. */
    promised: (await promisedOf([{ ...row, id: row.runId, definition }])).get(row.runId)?.whole,
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
      approvals: gates
        .filter((g) => g.key === s.key)
        .map((g) => {
          const via = moves.find((m) => m.object === 'approval' && m.objectId === g.id)?.detail['via'];
          return { ...g, via: typeof via === 'string' ? (ways[via] ?? `by ${via}`) : undefined };
        }),
      work: workOf(
        tasks.find((t) => t.key === s.key),
        moves,
        names,
      ),
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
        .filter((c) => stepOf(c.key) === s.key)
        .map((c) => ({
          id: c.id,
          /** The system and what it was asked to do; its id where that is not registered any more. */
          action: actionWords(c.action),
          idempotencyKey: c.idempotencyKey,
          status: c.status,
          dueAt: c.dueAt,
          acceptedAt: c.acceptedAt,
          answerBy: c.answerBy,
          progress: c.progress,
          /** Why what is said cannot be exchanged with it at present; nothing where it is. */
          wordsTrouble: c.wordsTrouble,
          isOpen: c.closedAt === null,
          note: notes.find((n) => n.callId === c.id),
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
/** The step that a call belongs to; one that makes secrets anew to that which gave them. */
const stepOf = (key: string): string => anewOf(key)?.replace(/(#\d+)\/\w+$/, '$1') ?? key;

/** By which way a decision came, in words. */
const ways: Record<string, string> = {
  portal: 'at the Desk',
  'mail link': 'by the link in the mail',
  'mail reply': 'by a reply to the mail',
  chat: 'in chat',
};
const doings: Record<string, string> = {
  take: 'took it',
  'give-back': 'gave it back to the team',
  'take-over': 'took it over',
  finish: 'finished it',
  'hand-over': 'handed it over',
  note: 'wrote a note to the requester',
};

/** What people did about these approvals and tasks, as the log of changes has it. */
async function movesOf(approvals: string[], tasks: string[]) {
  const of = (object: string, ids: string[], actions: string[]) =>
    db()
      .select({
        object: changeLog.object,
        objectId: changeLog.objectId,
        action: changeLog.action,
        at: changeLog.at,
        who: person.name,
        detail: changeLog.detail,
      })
      .from(changeLog)
      .leftJoin(person, eq(person.id, changeLog.actorId))
      .where(and(eq(changeLog.object, object), inArray(changeLog.objectId, ids), inArray(changeLog.action, actions)))
      .orderBy(changeLog.id);
  const [decided, worked] = await Promise.all([
    approvals.length > 0 ? of('approval', approvals, ['approve', 'decline', 'sendBack']) : [],
    tasks.length > 0 ? of('task', tasks, Object.keys(doings)) : [],
  ]);
  return [...decided, ...worked];
}

function workOf(row: typeof task.$inferSelect | undefined, moves: Awaited<ReturnType<typeof movesOf>>, names: Names) {
  if (!row) return undefined;
  const done = row.result === 'done';
  return {
    moves: moves
      .filter((m) => m.object === 'task' && m.objectId === row.id)
      .map((m) => ({ who: m.who, at: m.at, words: doings[m.action] ?? m.action })),
    checklist: row.checklist.map((c) => ({ words: c.words, checked: done || row.draft.checked.includes(c.id) })),
    // What a finished task gave stands under what came out of it.
    filled: done
      ? []
      : row.fields.flatMap((f) => {
          const filled = said(row.draft.values[f.id], names, f);
          return filled.words ? [{ label: f.label, ...filled }] : [];
        }),
  };
}

/** What everybody with Ledger access sees of a confidential request: that it exists, and how it stands. */
async function sealedTrace(row: typeof serviceCase.$inferSelect & { revisionId: string; runId: string }) {
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
