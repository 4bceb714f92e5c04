import { and, eq, sql } from 'drizzle-orm';
import { CaseWords } from '../../core/posts/index.ts';
import { plainText, type RichText } from '../../core/values/index.ts';
import { limits, waitWords } from '../auth/limits.ts';
import { has, type Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { caseWord, person, run, serviceCase } from '../db/schema/index.ts';
import { answersByMail } from '../intake/ways.ts';
import { wordFromDesk, wordFromRequester } from '../mail/word-said.ts';
import { writeAbout } from '../mail/write.ts';
import { holdTo, notAllowed, notFound, refuse, tooMuch, type Refusal, type Result } from '../refusal.ts';
import { definitionOf } from '../items/definitions.ts';
import { looseFiles } from './files.ts';
import { attachedWords, formattedWords, insertWord, onceFor, type Word } from './keep.ts';
import { mirror, readsAlong } from './mirror.ts';
import { readersNow } from './readers.ts';

/** A request of which somebody says something. */
export interface About {
  caseId: string;
  number: number;
  runId: string;
  revisionId: string;
  requesterId: string;
  /** Whoever asked is from outside, and opens no files here. */
  outside: boolean;
  ended: boolean;
}

/** What somebody is to a request that they write about. */
interface Parts {
  requester: boolean;
  /** Has an open task of it, or is asked to approve it. */
  desk: boolean;
}

async function requestWhere(tx: Tx, viewer: Viewer, which: { number: number } | { caseId: string }): Promise<(About & Parts) | undefined> {
  const [row] = await tx
    .select({
      caseId: serviceCase.id,
      number: serviceCase.number,
      runId: run.id,
      revisionId: run.revisionId,
      requesterId: serviceCase.requesterId,
      outside: person.outside,
      ended: sql<boolean>`${serviceCase.outcome} is not null`,
      desk: sql<boolean>`(exists (select from task t where t.run_id = ${run.id} and t.closed_at is null and (${has(viewer, 'administrator')}
          or t.person_id = ${viewer.id} or t.taken_by = ${viewer.id} or t.team_id in (select m.team_id from team_member m where m.person_id = ${viewer.id})))
        or exists (select from gate g join approval a on a.gate_id = g.id where g.run_id = ${run.id} and g.closed_at is null
          and a.status = 'waiting' and a.person_id = ${viewer.id}))`,
    })
    .from(serviceCase)
    .innerJoin(run, eq(run.caseId, serviceCase.id))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(and(eq(serviceCase.kind, 'request'), 'number' in which ? eq(serviceCase.number, which.number) : eq(serviceCase.id, which.caseId)));
  return row && { ...row, requester: row.requesterId === viewer.id };
}

/** What somebody writes about a request. */
export interface WrittenOnRequest {
  number: number;
  /** In CommonMark. */
  words: string;
  /** Within the desk: the requester does not read it. */
  inside?: boolean;
  /** Files that were brought for it. */
  files?: string[] | undefined;
  /** Made by the screen that sends it: sent twice it is one. */
  once: string;
  /** From the page of whoever asked: who is also of the desk writes there as who asked. */
  asRequester?: boolean;
}

/** Writes about a request: whoever asked to those who deal with it now, and these to whoever asked, or a note among themselves. */
export async function writeOnRequest(viewer: Viewer, input: WrittenOnRequest): Promise<Result> {
  const wait = input.asRequester ? await limits.word(viewer.id) : 0;
  if (wait > 0) return tooMuch(waitWords(wait));
  return db().transaction(async (tx): Promise<Result> => {
    const r = await requestWhere(tx, viewer, { number: input.number });
    const fromDesk = input.asRequester !== true;
    if (!r || !(r.requester || r.desk)) return notFound('This request');
    if (fromDesk && !r.desk) return notAllowed('write about this request: nobody asks you to do anything for it now');
    if (!fromDesk && !r.requester) return notFound('This request');
    return sendWord(tx, viewer, r, { ...input, from: fromDesk ? 'desk' : 'requester' });
  });
}

/** Keeps what somebody sends from a page, once however often it is sent. */
export async function sendWord(
  tx: Tx,
  viewer: Viewer,
  about: About,
  sent: Omit<WrittenOnRequest, 'number' | 'asRequester'> & { from: 'desk' | 'requester' },
): Promise<Result> {
  const held = holdTo(CaseWords, { words: sent.words });
  if (!held.ok) return held;
  const { words } = held.value;
  const { files = [], from, inside = false } = sent;
  if (inside && from === 'requester') return notAllowed('write within the desk');
  if (words === '' && files.length === 0) return refuse('invalid', 'Write something.', [{ field: 'words', sentence: 'Write something.' }]);
  if (about.outside && from === 'desk' && !inside && files.length > 0)
    return refuse('invalid', 'Who asked is from outside and cannot open files here. What you wrote is still here; send it without.', [
      { field: 'file', sentence: 'Who asked is from outside and cannot open files here.' },
    ]);
  const content = formattedWords(words);
  const before =
    sent.once === ''
      ? []
      : await tx
          .select({ text: caseWord.text })
          .from(caseWord)
          .where(eq(caseWord.once, onceFor(about.caseId, sent.once)));
  if (before[0]?.text === plainText(content)) return { ok: true };
  const loose = await looseFiles(tx, viewer, files);
  if (!loose.ok) return loose;
  // Other words under the same key are no repetition: they are kept.
  const once = before.length > 0 ? '' : sent.once;
  return keepRequestWord(tx, viewer, about, { content, from, inside, via: 'screen', once, files: loose.files });
}

/**
 * A word about a request that came by mail, as what its writer is to it. Whether it was kept: not where they are nothing to it, nor, unless
 * it is kept `anyway`, where nobody would read it.
 */
export async function takeRequestWord(
  tx: Tx,
  viewer: Viewer,
  caseId: string,
  { anyway, ...w }: { content: RichText; cameAs: string | undefined; files: string[]; anyway: boolean },
): Promise<boolean> {
  const r = await requestWhere(tx, viewer, { caseId });
  if (!r || !(r.requester || r.desk)) return false;
  const word = { ...w, from: r.requester ? ('requester' as const) : ('desk' as const), inside: false, via: 'mail' as const };
  return (await keepRequestWord(tx, viewer, r, word, anyway)).ok;
}

/** Keeps a word about a request and tells it to those it is for. */
async function keepRequestWord(
  tx: Tx,
  viewer: Pick<Viewer, 'id' | 'name'>,
  r: About,
  w: Omit<Word, 'caseId' | 'at' | 'by' | 'broughtBy'>,
  anyway = false,
): Promise<{ ok: true } | Refusal> {
  const readers = w.from === 'requester' ? await readersNow(tx, r.caseId) : [];
  const along = w.inside ? [] : await readsAlong(tx, r.caseId);
  if (w.from === 'requester' && readers.length + along.length === 0 && !anyway)
    return refuse(
      'ended',
      `${r.ended ? 'This request has ended' : 'Nobody of the desk has anything to do for it now'}. What you wrote is still here; report it, and it is read.`,
    );
  const word = await insertWord(tx, { ...w, caseId: r.caseId, at: now(), by: viewer.id });
  // The same by two ways is one word.
  if (!word) return { ok: true };
  await mirror(tx, word.id, along, now());
  const files = w.files?.length ?? 0;
  const said = { key: `word:${word.id}`, by: viewer.name, content: w.content, files: files > 0 ? attachedWords(files) : undefined };
  const byMail = await answersByMail(tx);
  if (w.from === 'requester') {
    const { name } = await definitionOf(tx, r.revisionId);
    await writeAbout(tx, r.runId, ...readers.filter((p) => p.id !== viewer.id).map((p) => wordFromRequester({ ...said, item: name, byMail }, p)));
  } else if (!w.inside) await writeAbout(tx, r.runId, wordFromDesk({ ...said, byMail }, r.requesterId));
  await record(tx, {
    actor: viewer.id,
    action: w.inside ? 'note' : 'write',
    object: 'request',
    objectId: r.caseId,
    detail: { number: r.number, ...(w.via !== 'screen' && { via: w.via }) },
  });
  return { ok: true };
}
