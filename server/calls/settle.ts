import { and, count, desc, eq, sql } from 'drizzle-orm';
import type { RunEvent } from '../../core/engine/index.ts';
import type { Value } from '../../core/values/index.ts';
import { now } from '../clock.ts';
import { wantWords } from '../conversation/mirror.ts';
import { db, type Tx } from '../db/database.ts';
import { call, callTry, sealedNote } from '../db/schema/index.ts';
import { notMadeAnew } from '../mail/sealed-note.ts';
import { writeAbout } from '../mail/write.ts';
import { anewOf } from '../notes/anew.ts';
import { keepNote } from '../notes/keep.ts';
import { madeIn, type Secret } from '../notes/secrets.ts';
import { deliverTo, lockRun } from '../runtime/deliver.ts';
import { addJobs } from '../runtime/jobs.ts';
import { whoAnswersFor } from '../systems/whose.ts';
import type { AnswersLater, Reply } from '../systems/action.ts';

type Call = typeof call.$inferSelect;
type How = (typeof callTry.$inferSelect)['how'];

/** What came of having a system say something. Nothing to say: nobody was asked. */
export type Came = { ok: true; reply: Reply | undefined; secrets?: Secret[]; changed?: boolean } | { ok: false; said: string; final: boolean };

interface Heard {
  how: How;
  beganAt: Date;
  later: AnswersLater | undefined;
  /** How often it had been told that it stands otherwise when it was asked; of a call back it does not matter. */
  told?: number;
  /** Of a call back: what it was signed with. */
  signature?: string;
}

/** What a run is told of a call. */
type Told = { type: 'answered'; outputs: Record<string, Value>; changed: boolean } | { type: 'callFailed'; cause: string; mayCome?: true };

/** What became of what a system said: it settled the call, came too late, came again, or only told how it goes. */
export type Taken = 'answer' | 'late' | 'again' | 'progress';

/** That it was done, by what the run had been told before. */
const doneWords: Record<Call['status'], string> = {
  waiting: 'Done',
  accepted: 'Done',
  succeeded: 'Done',
  failed: 'Done, after it had failed',
  late: 'Done, after it had been given up',
  cancelled: 'Done, after it was not needed any more',
};

/** How long what was accepted is asked about once its answer is late, in milliseconds: whatever was made by then is to be known. */
const goesOnFor = 7 * 86_400_000;
/** More words about how it goes, and more wrong answers, are not kept for one call. */
const mostKept = 200;

/** Keeps what a system said to a call: tells the run what it has to know, and says when the call is looked at next. */
export const keepReply = (of: Pick<Call, 'id' | 'runId' | 'mirrors'>, came: Came, heard: Heard): Promise<Taken> =>
  db().transaction(async (tx) => {
    const taken = await take(tx, of, came, heard);
    // Whatever the system says, something may have been said there too.
    if (of.mirrors) await wantWords(tx, of.id, now());
    return taken;
  });

async function take(tx: Tx, of: Pick<Call, 'id' | 'runId'>, came: Came, heard: Heard): Promise<Taken> {
  const run = await lockRun(tx, of.runId);
  // As it is under the lock: somebody else may have heard of it, or it was cancelled meanwhile.
  const [row] = await tx.select().from(call).where(eq(call.id, of.id)).for('update');
  if (!row) return 'again';
  const at = now();
  if (heard.signature && (await tx.$count(callTry, and(eq(callTry.callId, row.id), eq(callTry.signature, heard.signature)))) > 0) return 'again';
  const deliver = async (event: Told) => {
    // What makes secrets anew is nothing that the run waits for.
    if (anewOf(row.key) !== undefined) return event.type === 'callFailed' ? tellNotAnew(tx, row, event.cause) : undefined;
    // What a system cannot take back somebody does.
    const hand = event.type === 'callFailed' && row.key.startsWith('undo:') ? await whoAnswersFor(tx, row.action) : undefined;
    return deliverTo(tx, run, { ...event, key: row.key, round: row.round, ...(hand !== undefined && { hand }) } as RunEvent);
  };
  const set = (change: Partial<Call>) => tx.update(call).set(change).where(eq(call.id, row.id));
  const isOpen = row.status === 'waiting' || row.status === 'accepted';

  if (row.outputs !== null || (row.closedAt && !['late', 'cancelled', 'failed'].includes(row.status))) {
    await keepTry(tx, row.id, heard, 'yes', 'It came again, and changed nothing.', at);
    return 'again';
  }
  if (came.ok && came.reply?.is === 'done') {
    const { outputs, job } = came.reply;
    await keepTry(tx, row.id, heard, 'yes', doneWords[row.status], at);
    await set({ outputs, closedAt: at, job: row.job ?? job ?? null, progress: '', sealedMade: null, ...(isOpen && { status: 'succeeded' }) });
    await deliver({ type: 'answered', outputs, changed: came.changed ?? true });
    // What is not needed any more is taken back again, and what was there already has secrets of its own: nobody is told these.
    if (row.status !== 'cancelled' && (came.changed ?? true))
      await keepNote(tx, row, [...Object.values(madeIn(row.sealedMade)), ...(came.secrets ?? [])], at);
    return isOpen ? 'answer' : 'late';
  }
  if (!came.ok && (came.final || (heard.how === 'sent' && (await tries(tx, row.id, 'sent')) >= row.retries.times))) {
    await keepTry(tx, row.id, heard, 'no', came.said, at);
    // Nobody knows whether it was done after all where it was only not heard of; who calls back may still say so.
    const mayCome = !came.final && heard.later?.callsBack !== undefined;
    await set({ closedAt: at, progress: '', ...(!mayCome && { sealedMade: null }), ...(isOpen && { status: mayCome ? 'late' : 'failed' }) });
    if (isOpen) await deliver({ type: 'callFailed', cause: came.said, ...(mayCome && { mayCome }) });
    return isOpen ? 'answer' : 'late';
  }
  if (heard.how === 'sent' && !row.acceptedAt && !(came.ok && came.reply)) {
    const said = came.ok ? '' : came.said;
    await keepTry(tx, row.id, heard, 'no', said, at);
    const n = await tries(tx, row.id, 'sent');
    await next(tx, row, { dueAt: new Date(at.getTime() + row.retries.firstPauseSeconds * 1000 * row.retries.factor ** (n - 1)) });
    return 'progress';
  }
  return underWay(tx, { row, isOpen, came, heard, at, deliver });
}

/** Whoever lost a secret is told that it could not be made anew. */
const tellNotAnew = async (tx: Tx, row: Call, cause: string): Promise<void> => {
  const [note] = await tx
    .select({ labels: sealedNote.labels })
    .from(sealedNote)
    .where(and(eq(sealedNote.runId, row.runId), eq(sealedNote.key, anewOf(row.key)!)))
    .orderBy(desc(sealedNote.madeAt))
    .limit(1);
  if (note && row.noteTo) await writeAbout(tx, row.runId, notMadeAnew({ key: row.key, to: row.noteTo, labels: note.labels, cause }));
};

/** It was accepted, or goes on: what it says of that is kept, what came too late is given up, and it is asked again in time. */
async function underWay(
  tx: Tx,
  {
    row,
    isOpen,
    came,
    heard,
    at,
    deliver,
  }: {
    row: Call;
    isOpen: boolean;
    came: Came;
    heard: Heard;
    at: Date;
    deliver: (event: Told) => Promise<unknown>;
  },
): Promise<Taken> {
  const { later } = heard;
  const reply = came.ok && came.reply?.is === 'accepted' ? came.reply : undefined;
  const acceptedAt = row.acceptedAt ?? at;
  const answerBy = row.answerBy ?? later?.by(acceptedAt) ?? at;
  const progress = reply ? reply.progress : row.progress;
  if (!row.acceptedAt) await keepTry(tx, row.id, heard, 'yes', progress ? `Accepted: ${progress}` : 'Accepted, to be answered later', at);
  else if (!came.ok || progress !== row.progress) {
    const said = came.ok ? progress || 'Under way' : came.said;
    if ((await tries(tx, row.id, heard.how)) < mostKept) await keepTry(tx, row.id, heard, came.ok ? 'yes' : 'no', said, at);
  }
  const asked = row.asked + (heard.how === 'asked' ? 1 : 0);
  const isLate = isOpen && at >= answerBy;
  const lastAt = new Date(answerBy.getTime() + goesOnFor);
  // What was cancelled before it was accepted is told so at once, and what stands otherwise since it was asked is asked again.
  const cancels = row.status === 'cancelled' && heard.how === 'sent' && later?.cancel !== undefined;
  // Of two call backs under way at once the older may come last: what it stands at is asked.
  const calledBack = heard.how === 'calledBack' && later?.ask !== undefined;
  const tellNow = cancels || calledBack || (heard.told !== undefined && heard.told !== row.told);
  const askAt = tellNow ? at : later?.ask ? new Date(at.getTime() + 1000 * later.pauseBefore(asked + 1, reply?.wait ?? 0)) : lastAt;
  const until = isOpen && !isLate ? answerBy : lastAt;
  await next(tx, row, {
    acceptedAt,
    answerBy,
    progress,
    asked,
    job: row.job ?? reply?.job ?? null,
    dueAt: askAt < until ? askAt : until,
    // Once nobody asks any more, only a call back can still bring it.
    ...(at >= lastAt && { closedAt: at }),
    ...(isLate ? { status: 'late' as const } : isOpen && { status: 'accepted' as const }),
  });
  if (isLate) {
    const cause = `It was accepted and not answered within ${lengthWords(acceptedAt, answerBy)}. Its answer is still taken when it comes.`;
    await deliver({ type: 'callFailed', cause, mayCome: true });
  }
  // Whoever watches the run sees how it goes, though nothing of the run itself has changed.
  else if (progress !== row.progress) await tx.execute(sql`select tell_moved(array(select case_id from run where id = ${row.runId}))`);
  return isLate ? 'late' : 'progress';
}

/** How long it is from one moment to another, by the largest unit that it fills. */
function lengthWords(from: Date, to: Date): string {
  const minutes = Math.max(1, Math.round((to.getTime() - from.getTime()) / 60_000));
  if (minutes < 120) return `${minutes} min`;
  if (minutes < 2880) return `${Math.round(minutes / 60)} h`;
  return `${Math.round(minutes / 1440)} days`;
}

const tries = async (tx: Tx, callId: string, how: How): Promise<number> => tx.$count(callTry, and(eq(callTry.callId, callId), eq(callTry.how, how)));

async function keepTry(
  tx: Tx,
  callId: string,
  heard: Pick<Heard, 'how' | 'beganAt' | 'signature'>,
  ok: 'yes' | 'no',
  said: string,
  at: Date,
): Promise<void> {
  const [before] = await tx.select({ n: count() }).from(callTry).where(eq(callTry.callId, callId));
  await tx
    .insert(callTry)
    .values({ callId, n: (before?.n ?? 0) + 1, beganAt: heard.beganAt, endedAt: at, ok, said, how: heard.how, signature: heard.signature ?? null });
}

async function next(tx: Tx, row: Call, change: Partial<Call> & { dueAt: Date }): Promise<void> {
  await tx.update(call).set(change).where(eq(call.id, row.id));
  if (!change.closedAt) await addJobs(tx, 'call', [{ payload: { callId: row.id }, key: `call:${row.id}`, runAt: change.dueAt }]);
}

/** Keeps that an answer was refused, as far as it is worth keeping. */
export const keepRefused = (of: Pick<Call, 'id' | 'runId'>, said: string, at: Date): Promise<void> =>
  db().transaction(async (tx) => {
    await lockRun(tx, of.runId);
    if ((await tries(tx, of.id, 'calledBack')) < mostKept) await keepTry(tx, of.id, { how: 'calledBack', beganAt: at }, 'no', said, now());
  });
