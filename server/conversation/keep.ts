import type { Tx } from '../db/database.ts';
import { caseWord } from '../db/schema/index.ts';
import { bindFiles } from '../files/whose.ts';
import { isFormatted, isFormattedText, plainText, sentence, typedAs, type RichText } from '../../core/values/index.ts';

/** What somebody wrote in CommonMark as it is kept; plain where nothing of it is formatted. */
export function formattedWords(words: string): RichText {
  const read = typedAs(words, 'formatted');
  return isFormattedText(read) ? read.formatted : sentence(words);
}

/** A key of a sending, behind its case. */
export const onceFor = (caseId: string, once: string): string => `${caseId} ${once.slice(0, 100)}`;

/** A word about a case as it is to be kept. */
export interface Word {
  caseId: string;
  at: Date;
  by: string;
  from: 'requester' | 'desk';
  inside: boolean;
  via: 'screen' | 'mail' | 'chat' | 'phone';
  content: RichText;
  /** Made by the screen that sends it; nothing where it is not sent twice. */
  once?: string | undefined;
  /** The message it came in as. */
  cameAs?: string | undefined;
  /** Files of who brought it (`broughtBy`, else who wrote it), which go with it. */
  files?: string[] | undefined;
  broughtBy?: string;
}

/** Keeps a word with its files; undefined where it is kept already, by this sending or another way. */
export async function insertWord(tx: Tx, w: Word): Promise<{ id: string } | undefined> {
  const [word] = await tx
    .insert(caseWord)
    .values({
      caseId: w.caseId,
      at: w.at,
      by: w.by,
      from: w.from,
      inside: w.inside,
      via: w.via,
      text: plainText(w.content),
      content: isFormatted(w.content) ? w.content : null,
      once: w.once ? onceFor(w.caseId, w.once) : null,
      cameAs: w.cameAs ?? null,
    })
    .onConflictDoNothing()
    .returning({ id: caseWord.id });
  if (word && w.files?.length)
    await bindFiles(
      tx,
      w.files.map((id) => ({ id, caseId: w.caseId, wordId: word.id })),
      w.broughtBy ?? w.by,
    );
  return word;
}

/** What is said of files that stand with a word. */
export const attachedWords = (n: number): string => (n === 1 ? 'A file stands with it on its page.' : `${n} files stand with it on its page.`);
