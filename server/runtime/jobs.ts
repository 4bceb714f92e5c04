import { sql } from 'drizzle-orm';
import type { Reader } from '../db/database.ts';

/** The work a worker does, by name, with what each needs. */
export interface Jobs {
  call: { callId: string };
  mail: { messageId: string };
  /** What is said about a request, and about what a system has under way for it, is exchanged. */
  words: { callId: string };
  /** A letter is made and filed. */
  letter: { letterId: string };
  /** A time for a meeting is found, and those invited are told. */
  meeting: { meetingId: string };
  timer: { runId: string; key: string; name: string };
  syncDirectory: Record<string, never>;
  /** The staff feed is read on. */
  readStaff: Record<string, never>;
  /** Something happened to somebody of the feed: what its rule names is asked for. */
  staffHappening: { id: string };
  /** Somebody left: gates that wait for them ask others. */
  replaceWhoLeft: Record<string, never>;
  /** A revision that is to be published at a time. */
  release: { releaseId: string };
  /** The mail by which something asked from outside is confirmed. */
  confirmOutside: { publicRequestId: string };
  /** Something happens to a ticket by itself at a time: the desk is told, it passes on. */
  ticketTime: { caseId: string };
  /** The promises of a run are looked at: somebody is told that one is near or broken, or when to look again is reckoned. */
  promises: { runId: string };
  /** What is due of open tickets is reckoned anew: of all of them, or of a kind; some at a time, those after a case. */
  recount: { why: 'hours' | 'kind'; kind?: string; goes?: Record<string, string>; after?: string };
  /** What a system has is read, and compared with what is held here. */
  readSystem: { system: string };
  /** The same of every system that says what it has. */
  readSystems: Record<string, never>;
  /** The list that a table is read from is read. */
  readTable: { table: string };
  /** The same of every table whose time it is. */
  readTables: Record<string, never>;
  /** What follows a row that was read is asked for. */
  askOfRow: { id: string };
  /** The conditions of groups are held against who works here. */
  reconcileGroups: Record<string, never>;
  /** The same of one group. */
  reconcileGroup: { group: string };
  /** Somebody comes into a group by its condition. */
  letIn: { id: string };
  sweep: Record<string, never>;
  readChat: Record<string, never>;
  /** A word in chat that stands in no request's messages: how a reply was taken, where a ticket stands; to a person, or in a room. */
  sayInChat: ({ user: string } | { room: string }) & { text: string; once: string; thread: string };
}

/** Which timer a job waits for. One added before runs and cases were two has the run's id as `requestId`. */
export const timerOf = (payload: unknown): Jobs['timer'] => {
  const { runId, requestId, key, name } = payload as Jobs['timer'] & { requestId?: string };
  return { runId: runId ?? requestId, key, name };
};

/** How often a job is begun before it is put aside: its own failures, and the deaths of the process that has it. */
const tries = 8;

/**
 * Adds jobs in the caller's transaction: they exist exactly when its data does. A key keeps one job a thing; adding
 * again moves the waiting one.
 */
export async function addJobs<K extends keyof Jobs>(tx: Reader, task: K, jobs: { payload: Jobs[K]; key: string; runAt?: Date }[]): Promise<void> {
  if (jobs.length === 0) return;
  const rows = jobs.map((j) => ({ payload: j.payload, key: j.key, runAt: j.runAt ?? null }));
  await tx.execute(sql`
    select from graphile_worker.add_jobs((
      select array_agg((${task}, j.payload, null, coalesce(j."runAt", now()), ${tries}, j.key, null, null)::graphile_worker.job_spec)
      from json_to_recordset(${JSON.stringify(rows)}::json) as j(payload json, key text, "runAt" timestamptz)))`);
}
