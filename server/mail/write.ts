import { randomUUID } from 'node:crypto';
import { inArray, and, eq, sql } from 'drizzle-orm';
import { isFormatted, plainText } from '../../core/values/index.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { message, run as runs, serviceCase } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import type { RunRow } from '../runtime/batch.ts';
import { approvalAsked } from './approval-asked.ts';
import { fixed, type Draft } from './draft.ts';
import { addJobs } from '../runtime/jobs.ts';
import { namesFor } from '../people/names.ts';
import { sayNow } from '../words.ts';

/** Writes messages with the values of now and adds their delivery, in the same transaction. */
export async function writeMessages(tx: Tx, run: RunRow, drafts: Draft[], at: Date): Promise<void> {
  if (drafts.length === 0) return;
  // Approvals are asked for wherever their people can answer.
  if (config().CHAT_URL) drafts = drafts.flatMap((d) => (d.approvalId ? [d, { ...d, via: 'chat' as const }] : [d]));
  const answers = drafts.some((d) => d.approvalId) ? run.answers : {};
  const values = [
    ...drafts.flatMap((d) => [...Object.values(d.content?.subject.values ?? {}), ...Object.values(d.content?.body.values ?? {})]),
    ...Object.values(answers),
  ];
  const names = await namesFor(tx, values, [...drafts.map((d) => d.to), run.requesterId]);
  const threads = run.isFirst
    ? new Map<string, string>()
    : await firstMessages(
        tx,
        run.caseId,
        drafts.map((d) => d.to),
      );
  const requester = names.people.get(run.requesterId)?.name ?? '';
  const rows = drafts.flatMap((d): (typeof message.$inferInsert)[] => {
    const to = names.people.get(d.to);
    if (!to) return [];
    const page = d.page === 'request' ? `counter/requests/${run.number}` : d.page ? `desk/tasks/${d.page.replace('task:', '')}` : undefined;
    const id = randomUUID();
    const body = d.content && sayNow(d.content.body, run, names);
    const url = page && `${config().PUBLIC_URL}/${page}`;
    const words = d.content
      ? { subject: plainText(sayNow(d.content.subject, run, names)), text: plainText(body ?? []) + (url ? `\n\n${url}\n` : '') }
      : approvalAsked({ definition: run.definition, number: run.number, requester, answers, names, reminder: d.reminder === true });
    const messageId = `<${id}@${config().MAIL_DOMAIN}>`;
    const mail = d.via !== 'chat' || !config().CHAT_URL;
    const inReplyTo = mail ? (threads.get(d.to) ?? null) : null;
    if (mail && !inReplyTo) threads.set(d.to, messageId);
    return [
      {
        id,
        caseId: run.caseId,
        runId: run.id,
        key: d.key,
        toId: d.to,
        toAddress: to.email,
        subject: words.subject.replace(/[\r\n]+/g, ' '),
        text: words.text,
        content: body && isFormatted(body) ? [...body, ...(url ? [[{ text: url, link: url }]] : [])] : null,
        messageId,
        inReplyTo,
        approvalId: d.approvalId ?? null,
        via: config().CHAT_URL ? (d.via ?? 'mail') : 'mail',
        createdAt: at,
      },
    ];
  });
  if (rows.length === 0) return;
  await tx.insert(message).values(rows);
  await addJobs(
    tx,
    'mail',
    rows.map((r) => ({ payload: { messageId: r.id! }, key: `mail:${r.id}` })),
  );
}

/** The first message each person got about this case; later ones answer it, so that mail programs thread them. */
async function firstMessages(tx: Tx, caseId: string, people: string[]): Promise<Map<string, string>> {
  const rows = await tx
    .select({ toId: message.toId, first: sql<string>`(array_agg(${message.messageId} order by ${message.createdAt}, ${message.id}))[1]` })
    .from(message)
    .where(and(eq(message.caseId, caseId), inArray(message.toId, people), eq(message.via, 'mail')))
    .groupBy(message.toId);
  return new Map(rows.map((r) => [r.toId, r.first]));
}

/** A word to somebody about a request, outside its plan: in a transaction of its own, and in the thread they know. */
export async function sayAbout(runId: string, m: { key: string; to: string; subject: string; words: string }): Promise<void> {
  await db().transaction(async (tx) => {
    const [row] = await tx
      .select({
        id: runs.id,
        caseId: runs.caseId,
        number: serviceCase.number,
        requesterId: serviceCase.requesterId,
        seq: runs.seq,
        revisionId: runs.revisionId,
      })
      .from(runs)
      .innerJoin(serviceCase, eq(serviceCase.id, runs.caseId))
      .where(eq(runs.id, runId));
    if (!row) return;
    const draft = { key: m.key, to: m.to, content: { subject: fixed(m.subject), body: fixed(m.words) } };
    await writeMessages(tx, { ...row, definition: await definitionOf(tx, row.revisionId), answers: {} }, [draft], new Date());
  });
}
