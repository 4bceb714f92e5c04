import { hasFiles, type Answers } from '../../core/forms/index.ts';
import { and, eq, ne, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import type { ItemDefinition } from '../../core/items/index.ts';
import { ruleWords } from '../../core/plans/index.ts';
import { whoseTicket } from '../../core/tickets/index.ts';
import { isGroup } from '../../core/values/index.ts';
import { hashToken } from '../auth/token.ts';
import { zoneOf, type Viewer } from '../auth/viewer.ts';
import { goodLink } from '../auth/links.ts';
import { readsAlong } from '../conversation/mirror.ts';
import { requestConversation } from '../conversation/read.ts';
import { db } from '../db/database.ts';
import { accessGroup, approval, gate, groupPerson, location, person, revision, run, serviceCase } from '../db/schema/index.ts';
import { namesFor, readIn, shortNames } from '../people/names.ts';
import { meetingsOf } from '../meetings/read.ts';
import { lettersOf } from '../letters/read.ts';
import { answerWords } from '../requests/answers.ts';
import { costWords } from '../requests/price.ts';

/** Everything needed to decide, for the one who was asked. */
export const approvalFor = (viewer: Viewer, id: string) => approvalDetail(and(eq(approval.id, id), eq(approval.personId, viewer.id)));

/** The same through a one-time link that is still good. `known` tells an old link of ours from one that somebody makes up. */
export async function approvalByLink(token: string) {
  const found = await approvalDetail(goodLink(token));
  if (found) return { approval: found, known: true };
  const [row] = await db()
    .select({ id: approval.id })
    .from(approval)
    .where(eq(approval.tokenHash, hashToken(token)));
  return { approval: undefined, known: row !== undefined };
}

const withoutField = (d: ItemDefinition, id: string): ItemDefinition => ({
  ...d,
  form: { ...d.form, fields: d.form.fields.filter((f) => f.id !== id) },
});

async function approvalDetail(where: ReturnType<typeof and>) {
  const requester = alias(person, 'requester');
  const manager = alias(person, 'manager');
  const whom = alias(person, 'whom');
  const [row] = await db()
    .select({
      id: approval.id,
      status: approval.status,
      comment: approval.comment,
      decidedAt: approval.decidedAt,
      askedAt: approval.askedAt,
      insteadOfId: approval.insteadOfId,
      gateId: gate.id,
      gate: gate.name,
      rule: gate.rule,
      corrects: gate.corrects,
      sendBack: gate.sendBack,
      lapsesAt: gate.lapsesAt,
      result: gate.result,
      closedAt: gate.closedAt,
      kind: serviceCase.kind,
      caseId: serviceCase.id,
      number: serviceCase.number,
      openedAt: serviceCase.openedAt,
      // Of a ticket: what was known of it when it was asked.
      answers: sql<Answers>`case when ${serviceCase.kind} = 'ticket' then ${run.state} -> 'answers' else ${serviceCase.answers} end`,
      definition: revision.definition,
      requesterId: requester.id,
      requester: requester.name,
      forId: serviceCase.forId,
      forWhom: whom.name,
      email: requester.email,
      jobRole: requester.jobRole,
      department: requester.department,
      place: location.name,
      manager: manager.name,
      zone: zoneOf,
    })
    .from(approval)
    .innerJoin(gate, eq(gate.id, approval.gateId))
    .innerJoin(run, eq(run.id, gate.runId))
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(revision, eq(revision.id, run.revisionId))
    .innerJoin(requester, eq(requester.id, serviceCase.requesterId))
    .innerJoin(person, eq(person.id, approval.personId))
    .leftJoin(whom, eq(whom.id, serviceCase.forId))
    .leftJoin(manager, eq(manager.id, requester.managerId))
    .leftJoin(location, eq(location.id, requester.locationId))
    .where(where);
  if (!row) return undefined;
  const group = Object.values(row.answers).find(isGroup);
  const [names, others, holds, members, words, along, letters, meetings] = await Promise.all([
    namesFor(db(), Object.values(row.answers), row.insteadOfId ? [row.insteadOfId] : []).then((known) => readIn(row.zone, known)),
    db()
      .select({ name: person.name, status: approval.status, comment: approval.comment, decidedAt: approval.decidedAt })
      .from(approval)
      .innerJoin(person, eq(person.id, approval.personId))
      .where(and(eq(approval.gateId, row.gateId), ne(approval.id, row.id)))
      .orderBy(person.name),
    db()
      .select({ name: accessGroup.name, as: groupPerson.as })
      .from(groupPerson)
      .innerJoin(accessGroup, eq(accessGroup.id, groupPerson.groupId))
      .where(and(eq(groupPerson.personId, row.forId ?? row.requesterId), eq(accessGroup.gone, false)))
      .orderBy(accessGroup.name),
    group ? db().$count(groupPerson, and(eq(groupPerson.groupId, group.group), eq(groupPerson.as, 'member'))) : undefined,
    row.kind === 'request' ? requestConversation({ caseId: row.caseId, number: row.number }, false, row.zone) : [],
    row.kind === 'request' ? readsAlong(db(), row.caseId) : [],
    lettersOf(row.caseId),
    meetingsOf(row.caseId),
  ]);
  const [purpose] = group
    ? await db().select({ name: accessGroup.name, purpose: accessGroup.purpose }).from(accessGroup).where(eq(accessGroup.id, group.group))
    : [];
  return {
    id: row.id,
    status: row.status,
    comment: row.comment,
    decidedAt: row.decidedAt,
    askedAt: row.askedAt,
    /** Of whoever is asked, who may read this without signing in. */
    zone: row.zone,
    insteadOf: row.insteadOfId ? names.people.get(row.insteadOfId)?.name : undefined,
    gate: row.gate,
    rule: ruleWords(row.rule),
    result: row.result,
    closedAt: row.closedAt,
    kind: row.kind,
    number: row.number,
    openedAt: row.openedAt,
    item: row.definition.name,
    // Whose ticket it is stands beside, with all there is of them.
    answers: answerWords(row.kind === 'ticket' ? withoutField(row.definition, whoseTicket) : row.definition, row.answers, names),
    letters,
    meetings,
    /** What it costs as prices are now; undefined where the item states none. */
    price: await costWords(db(), row.definition, row.answers),
    requester: { name: row.requester, email: row.email, jobRole: row.jobRole, department: row.department, place: row.place, manager: row.manager },
    /** For whom it is asked, where that is somebody else: what they hold is told. */
    forWhom: row.forWhom ?? undefined,
    others,
    /** What was said about the request so far. */
    words,
    /** The systems in which what is said to whoever asked is read as well. */
    readAlong: along.map((s) => s.name),
    holds,
    group: purpose ? { ...purpose, members: members ?? 0 } : undefined,
    sendBack: row.sendBack,
    lapsesAt: row.lapsesAt,
    /** The fields the gate opens, as they are now. */
    correctable: {
      fields: row.definition.form.fields.filter((f) => row.corrects.includes(f.id) && !hasFiles(f.kind)),
      answers: row.answers,
      names: shortNames(names),
    },
  };
}
