import { and, asc, eq, isNotNull, isNull, lt, or, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { sameWords, type SaidThere } from '../../core/systems/index.ts';
import { plainText } from '../../core/values/index.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Reader, type Tx } from '../db/database.ts';
import { call, caseWord, mirroredWord, person, run, serviceCase } from '../db/schema/index.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { insertAll } from '../db/insert-all.ts';
import { definitionOf } from '../items/definitions.ts';
import { fixed } from '../mail/draft.ts';
import { wordNotTaken, wordsFromOutside } from '../mail/word-outside.ts';
import { writeAbout } from '../mail/write.ts';
import { addJobs } from '../runtime/jobs.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import type { ExchangesWords, Words } from '../systems/action.ts';
import { PermanentError, TransientError } from '../systems/errors.ts';
import { action } from '../systems/index.ts';
import { readsAlong, wordsJob } from './mirror.ts';
import { readersNow } from './readers.ts';

type Call = typeof call.$inferSelect;

/** A word that was sent is not sent again by anybody else for so long, in milliseconds: a system has two minutes to answer. */
const isSending = 180_000;
/** More words about one thing are not kept. */
const mostOfOne = 2000;
/** So often a word is sent that nothing is heard of. */
const mostTries = 8;
/** So long the words of something that is over are asked for where that fails, in milliseconds. */
const askedForAfter = 86_400_000;

/**
 * Exchanges what is said about a request and about what a system has under way for it: reads what was said there, and says there what was
 * said here. Each word comes once: what was read is known by what the system calls it; what was sent, by that, or by its words where its
 * answer was never heard. Nothing here moves the run.
 */
export async function exchangeWords(callId: string): Promise<void> {
  const [row] = await db().select().from(call).where(eq(call.id, callId));
  if (!row || row.wordsDue === null) return;
  const { job } = row;
  if (job === null) return row.closedAt === null ? undefined : settle(row, { none: 'It was never opened there.' });
  const act = await action(db(), row.action);
  const words = act?.later?.words;
  const system = act?.spec.system ?? 'The system';
  if (!words) return settle(row, { none: 'Nothing is mirrored with it any more, as it is registered now.' });
  try {
    // First what is there: a word of ours whose answer was never heard may be among it.
    const { rows, odd } = await words.read(job);
    await keepSaid(row, system, words, rows);
    const sent = await sayAll(row, system, words, job);
    await settle(row, { ...sent, trouble: odd[0] ?? '' });
  } catch (error) {
    if (isDatabaseTrouble(error)) throw error;
    const known = error instanceof PermanentError || error instanceof TransientError;
    await settle(row, { failed: heard(known ? error.message : `Unexpected: ${causeWords(error)}`, 1000) });
  }
}

/** What came of an exchange: it went well (`again`: when to go on, where something is still to be said), it failed, or there is none. */
type Came = { trouble: string; again?: Date | undefined } | { failed: string } | { none: string };

/** Keeps how it went, and when it goes on; what was asked for meanwhile is not lost. */
const settle = (row: Call, came: Came): Promise<void> =>
  db().transaction(async (tx) => {
    const [is] = await tx.select().from(call).where(eq(call.id, row.id)).for('no key update');
    if (!is) return;
    const at = now();
    const tries = 'failed' in came ? is.wordsTries + 1 : 0;
    const givenUp = 'none' in came || ('failed' in came && is.closedAt !== null && at.getTime() - is.closedAt.getTime() >= askedForAfter);
    const retried = 'failed' in came ? new Date(at.getTime() + pauseAfter(tries)) : 'again' in came ? came.again : undefined;
    // It was wanted again while this was going on.
    const due = givenUp ? null : is.wordsAsked > row.wordsAsked ? at : (retried ?? null);
    const left = givenUp
      ? await tx
          .select({ wordId: mirroredWord.wordId })
          .from(mirroredWord)
          .where(and(eq(mirroredWord.callId, row.id), isNull(mirroredWord.settledAt)))
      : [];
    const why = 'failed' in came ? came.failed : 'none' in came ? came.none : '';
    const trouble = 'trouble' in came ? came.trouble : row.job === null && left.length === 0 ? '' : why;
    await tx.update(call).set({ wordsDue: due, wordsTries: tries, wordsTrouble: trouble }).where(eq(call.id, row.id));
    if (due) await addJobs(tx, 'words', [wordsJob(row.id, due)]);
    for (const { wordId } of left) await notTaken(tx, row, { wordId, why, refused: false }, at);
  });

/** How long to wait after the nth failure in a row, in milliseconds: two seconds, twice as long each time, up to ten minutes. */
const pauseAfter = (nth: number): number => Math.min(2000 * 2 ** (nth - 1), 600_000);

/** Keeps what was said there and is not known yet, and tells whom it concerns. */
const keepSaid = (row: Call, system: string, words: ExchangesWords, said: SaidThere[]): Promise<void> =>
  db().transaction(async (tx) => {
    const [of] = await tx
      .select({ caseId: run.caseId, number: serviceCase.number, requesterId: serviceCase.requesterId, revisionId: run.revisionId })
      .from(call)
      .innerJoin(run, eq(run.id, call.runId))
      .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
      .where(eq(call.id, row.id))
      .for('no key update', { of: call });
    if (!of || said.length === 0) return;
    const at = now();
    const kept = await tx
      .select({ thereId: mirroredWord.thereId })
      .from(mirroredWord)
      .where(and(eq(mirroredWord.callId, row.id), isNotNull(mirroredWord.thereId)));
    const known = new Set(kept.map((k) => k.thereId));
    const inDoubt = await pending(tx, row.id, isNotNull(mirroredWord.sentAt));
    const fresh: SaidThere[] = [];
    for (const one of said) {
      if (known.has(one.id)) continue;
      known.add(one.id);
      const ours = inDoubt.findIndex((w) => sameWords(words.asRead(w.words), one.text));
      if (ours < 0) fresh.push(one);
      else await isThere(tx, row.id, inDoubt.splice(ours, 1)[0]!.wordId, one.id, at);
    }
    if (fresh.length === 0) return;
    // One that calls the same words otherwise each time would fill the request with them.
    if (kept.length + fresh.length > mostOfOne)
      throw new PermanentError(`${system}: more than ${mostOfOne.toLocaleString('en')} words about one thing.`);
    // One after another, so that they stand in their order.
    const rows = fresh.map((one, n) => ({ ...one, wordId: crypto.randomUUID(), at: new Date(at.getTime() + n), who: whoThere(one.by, system) }));
    await insertAll(
      tx,
      caseWord,
      rows.map((w) => ({
        id: w.wordId,
        caseId: of.caseId,
        at: w.at,
        byOutside: w.who,
        from: 'outside' as const,
        inside: false,
        via: 'system' as const,
        text: w.text,
      })),
    );
    await insertAll(
      tx,
      mirroredWord,
      rows.map((w) => ({ callId: row.id, wordId: w.wordId, goes: 'here' as const, thereId: w.id, settledAt: at })),
    );
    const along = (await readsAlong(tx, of.caseId)).some((r) => r.callId === row.id);
    const { name } = await definitionOf(tx, of.revisionId);
    const readers = (await readersNow(tx, of.caseId)).filter((p) => p.id !== of.requesterId);
    const told = { key: `word:${rows[0]!.wordId}`, item: name, system, said: rows.map((w) => ({ by: w.who, content: fixed(w.text).text })), along };
    await writeAbout(
      tx,
      row.runId,
      wordsFromOutside(told, { id: of.requesterId, page: 'request' }),
      ...readers.map((p) => wordsFromOutside(told, p)),
    );
    await record(tx, {
      actor: null,
      action: 'said-outside',
      object: 'request',
      objectId: of.caseId,
      detail: { number: of.number, system, words: rows.length },
    });
  });

const whoThere = (by: string, system: string): string => (by === '' || by === system ? system : `${by}, ${system}`);

/** What is said there of files that came with a word: they are kept here. */
const filesStay = (n: number): string => (n === 1 ? '(With a file, which is not sent.)' : `(With ${n} files, which are not sent.)`);

/** What is still to be said there, in its order. */
async function pending(tx: Tx, callId: string, which: ReturnType<typeof isNotNull>): Promise<{ wordId: string; words: Words; tries: number }[]> {
  const rows = await tx
    .select({
      wordId: caseWord.id,
      text: caseWord.text,
      content: caseWord.content,
      by: person.name,
      tries: mirroredWord.tries,
      files: sql<number>`(select count(*)::int from stored_file f where f.word_id = case_word.id)`,
    })
    .from(mirroredWord)
    .innerJoin(caseWord, eq(caseWord.id, mirroredWord.wordId))
    .leftJoin(person, eq(person.id, caseWord.by))
    .where(and(eq(mirroredWord.callId, callId), eq(mirroredWord.goes, 'there'), isNull(mirroredWord.thereId), which))
    .orderBy(asc(caseWord.at), asc(caseWord.id));
  return rows.map(({ wordId, tries, content, text, files, by }) => ({
    wordId,
    tries,
    words: {
      text: [content ? plainText(content) : text, ...(files > 0 ? [filesStay(files)] : [])].filter(Boolean).join('\n'),
      by: by ?? 'The desk',
    },
  }));
}

/** Says there what was said here, one after another; where nothing is heard of one, those after it wait for it. Gives when to go on. */
async function sayAll(row: Call, system: string, words: ExchangesWords, job: string): Promise<{ again?: Date }> {
  const left = await db().transaction((tx) => pending(tx, row.id, isNull(mirroredWord.settledAt)));
  for (const { wordId, words: say } of left) {
    const tries = await claim(row.id, wordId, now());
    // Somebody else is just sending it.
    if (tries === undefined) return { again: new Date(now().getTime() + isSending) };
    try {
      if (!words.say) throw new PermanentError(`${system} is only read, as it is registered now.`);
      const thereId = await words.say(job, say, `${row.idempotencyKey}/word/${wordId}`);
      await isThere(db(), row.id, wordId, thereId, now());
    } catch (error) {
      if (isDatabaseTrouble(error)) throw error;
      const refused = error instanceof PermanentError;
      const why = heard(error instanceof Error ? error.message : String(error), 1000);
      if (refused || tries >= mostTries) {
        await db().transaction((tx) => notTaken(tx, row, { wordId, why, refused }, now()));
        continue;
      }
      await db().update(mirroredWord).set({ heldUntil: null }).where(which(row.id, wordId));
      return { again: new Date(now().getTime() + pauseAfter(tries)) };
    }
  }
  return {};
}

const which = (callId: string, wordId: string) => and(eq(mirroredWord.callId, callId), eq(mirroredWord.wordId, wordId));

/** Takes it on to send a word; how often it was sent with this time. Undefined where somebody else is just sending it, or it has been settled. */
async function claim(callId: string, wordId: string, at: Date): Promise<number | undefined> {
  const [mine] = await db()
    .update(mirroredWord)
    .set({ sentAt: at, heldUntil: new Date(at.getTime() + isSending), tries: sql`${mirroredWord.tries} + 1` })
    .where(and(which(callId, wordId), isNull(mirroredWord.settledAt), or(isNull(mirroredWord.heldUntil), lt(mirroredWord.heldUntil, at))))
    .returning({ tries: mirroredWord.tries });
  return mine?.tries;
}

/** A word has come there. What was taken for another's while it was sent, since the system changed its words, keeps the name it has there. */
const isThere = async (tx: Reader, callId: string, wordId: string, called: string, at: Date): Promise<void> => {
  const thereId = sql<string>`(select ${called}::text where not exists (select from mirrored_word o
    where o.call_id = ${callId} and o.there_id = ${called} and o.word_id <> ${wordId}))`;
  await tx.update(mirroredWord).set({ thereId, settledAt: at, heldUntil: null, refused: null }).where(which(callId, wordId));
};

/** A word does not come there; whoever wrote it is told. `refused`: it is certain that it is not there. */
async function notTaken(tx: Tx, row: Call, w: { wordId: string; why: string; refused: boolean }, at: Date): Promise<void> {
  const [word] = await tx
    .update(mirroredWord)
    .set({ settledAt: at, heldUntil: null, refused: w.why, ...(w.refused && { sentAt: null }) })
    .where(and(which(row.id, w.wordId), isNull(mirroredWord.settledAt)))
    .returning({ wordId: mirroredWord.wordId });
  if (!word) return;
  const [said] = await tx
    .select({ by: caseWord.by, text: caseWord.text, requesterId: serviceCase.requesterId, caseId: caseWord.caseId })
    .from(caseWord)
    .innerJoin(serviceCase, eq(serviceCase.id, caseWord.caseId))
    .innerJoin(person, and(eq(person.id, caseWord.by), person.active))
    .where(eq(caseWord.id, w.wordId));
  if (!said?.by) return;
  const page = said.by === said.requesterId ? ('request' as const) : (await readersNow(tx, said.caseId)).find((r) => r.id === said.by)?.page;
  await writeAbout(tx, row.runId, wordNotTaken({ key: `not-there:${row.id}:${w.wordId}`, to: said.by, page, text: said.text, why: w.why }));
}
