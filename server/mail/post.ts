import { randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { Invitation } from '../../core/formats/index.ts';
import type { RichText } from '../../core/values/index.ts';
import { config } from '../config.ts';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { message } from '../db/schema/index.ts';
import { addJobs } from '../runtime/jobs.ts';

/** A message ready to go out about a case. */
export interface Post {
  caseId: string;
  /** Nothing was sent about the case before. */
  isFirst?: boolean;
  runId?: string | undefined;
  key: string;
  to: { id: string; email: string };
  subject: string;
  text: string;
  /** The same formatted, where plain words would lose something. */
  content?: RichText | undefined;
  approvalId?: string | undefined;
  via?: 'mail' | 'chat' | undefined;
  /** The files that go with it. */
  files?: string[] | undefined;
  /** Whose invitation it is, and what calendar programs read of it. */
  invitedId?: string | undefined;
  invitation?: Invitation | undefined;
}

/** Keeps messages with the jobs that deliver them, each in the thread that its reader has about the case. */
export async function postAll(tx: Tx, posts: Post[], at: Date): Promise<void> {
  if (posts.length === 0) return;
  const threads = await firstMessages(tx, posts);
  const rows = posts.map((l): typeof message.$inferInsert => {
    const id = randomUUID();
    const messageId = `<${id}@${config().MAIL_DOMAIN}>`;
    const via = config().CHAT_URL ? (l.via ?? 'mail') : 'mail';
    const inReplyTo = via === 'mail' ? (threads.get(threadOf(l)) ?? null) : null;
    if (via === 'mail' && !inReplyTo) threads.set(threadOf(l), messageId);
    return {
      id,
      caseId: l.caseId,
      runId: l.runId ?? null,
      key: l.key,
      toId: l.to.id,
      toAddress: l.to.email,
      subject: l.subject.replace(/[\r\n]+/g, ' '),
      text: l.text,
      content: l.content ?? null,
      messageId,
      inReplyTo,
      approvalId: l.approvalId ?? null,
      files: l.files ?? null,
      invitedId: l.invitedId ?? null,
      invitation: l.invitation ?? null,
      via,
      createdAt: at,
    };
  });
  await insertAll(tx, message, rows);
  await addJobs(
    tx,
    'mail',
    rows.map((r) => ({ payload: { messageId: r.id! }, key: `mail:${r.id}` })),
  );
}

/** Somebody's thread about a case. */
const threadOf = (l: Post): string => `${l.caseId} ${l.to.id}`;

/**
 * The message with which the thread of each person about a case began: what they wrote to us, where a ticket came by mail, else the
 * first that went to them. Later ones answer it, so that mail programs thread them.
 */
async function firstMessages(tx: Tx, posts: Post[]): Promise<Map<string, string>> {
  const earlier = posts.filter((l) => !l.isFirst).map((l) => ({ case: l.caseId, to: l.to.id }));
  if (earlier.length === 0) return new Map();
  const { rows } = await tx.execute<{ thread: string; first: string | null }>(sql`
    select d."case" || ' ' || d."to" as thread, coalesce(
      (select w.came_as from case_word w where w.case_id = d."case" and w.by = d."to" and w.via = 'mail' order by w.at limit 1),
      (select m.message_id from message m where m.case_id = d."case" and m.to_id = d."to" and m.via = 'mail' order by m.created_at, m.id limit 1)) as first
    from (select distinct "case", "to" from jsonb_to_recordset(${JSON.stringify(earlier)}::jsonb) as d("case" uuid, "to" uuid)) d`);
  return new Map(rows.flatMap((r) => (r.first === null ? [] : [[r.thread, r.first] as const])));
}
