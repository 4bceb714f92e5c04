import { and, asc, eq, isNotNull, sql, type SQL } from 'drizzle-orm';
import type { RichText } from '../../core/values/index.ts';
import { db } from '../db/database.ts';
import { caseWord, person, question, run } from '../db/schema/index.ts';
import { namesFor, readIn } from '../people/names.ts';
import { valueWords } from '../words.ts';

/** A word as it is read. */
export interface Said {
  id: string;
  /** The number of the case it was said of. */
  of: number;
  at: Date;
  by: string | null;
  from: (typeof caseWord.$inferSelect)['from'];
  inside: boolean;
  via: (typeof caseWord.$inferSelect)['via'];
  text: string;
  content: RichText | null;
  files: { id: string; name: string; size: number }[];
  /** The systems that it is said in as well, and whether it has come there. */
  there: SaidIn[];
  /** Of a question: that nobody has answered it yet, or that nobody needs to any more. */
  stands?: 'asked' | 'not needed' | undefined;
}

/** How it stands with a word in a system that it is mirrored to: it is on its way, is there, or was not taken, with why. */
export interface SaidIn {
  system: string;
  is: 'on its way' | 'there' | 'not taken';
  why: string | null;
}

/** Words about cases in their order. */
export const wordsWhere = (which: SQL | undefined): Promise<Said[]> =>
  db()
    .select({
      id: caseWord.id,
      of: sql<number>`(select c.number::int from service_case c where c.id = ${caseWord.caseId})`,
      at: caseWord.at,
      by: sql<string | null>`coalesce(${person.name}, ${caseWord.byOutside})`,
      from: caseWord.from,
      inside: caseWord.inside,
      via: caseWord.via,
      text: caseWord.text,
      content: caseWord.content,
      files: sql<Said['files']>`coalesce((select json_agg(json_build_object('id', f.id, 'name', f.name, 'size', f.size) order by f.at, f.id)
        from stored_file f where f.word_id = ${caseWord.id}), '[]')`,
      there: sql<SaidIn[]>`coalesce((select json_agg(json_build_object('system', s.name, 'why', m.refused,
          'is', case when m.settled_at is null then 'on its way' when m.refused is not null then 'not taken' else 'there' end) order by s.name)
        from mirrored_word m join call c on c.id = m.call_id join web_system s on s.id::text = split_part(c.action, '.', 2)
        where m.word_id = ${caseWord.id} and m.goes = 'there'), '[]')`,
    })
    .from(caseWord)
    .leftJoin(person, eq(person.id, caseWord.by))
    .where(which)
    .orderBy(asc(caseWord.at), asc(caseWord.id));

/** What was said about a request: words, and what its requester was asked and answered, in their order. `inside`: with what is said within the desk. */
export async function requestConversation(of: { caseId: string; number: number }, inside: boolean, zone: string): Promise<Said[]> {
  const [words, questions] = await Promise.all([
    wordsWhere(and(eq(caseWord.caseId, of.caseId), inside ? undefined : eq(caseWord.inside, false))),
    db()
      .select({
        id: question.id,
        words: question.words,
        fields: question.fields,
        openedAt: question.openedAt,
        closedAt: question.closedAt,
        values: question.values,
        cameAs: question.cameAs,
        to: person.name,
      })
      .from(question)
      .innerJoin(run, eq(run.id, question.runId))
      .innerJoin(person, eq(person.id, question.toId))
      .where(and(eq(run.caseId, of.caseId), isNotNull(question.fields)))
      .orderBy(question.openedAt),
  ]);
  if (questions.length === 0) return words;
  const names = readIn(
    zone,
    await namesFor(
      db(),
      questions.flatMap((q) => Object.values(q.values ?? {})),
    ),
  );
  const common = { of: of.number, inside: false, content: null, files: [], there: [] };
  const asked = questions.flatMap(({ values, fields, ...q }): Said[] => {
    const stands = q.closedAt === null ? 'asked' : values === null ? 'not needed' : undefined;
    const one: Said = { ...common, id: q.id, at: q.openedAt, by: null, from: 'desk', via: 'screen', text: q.words, stands };
    if (q.closedAt === null || values === null) return [one];
    const answers = (fields ?? []).map((f) => valueWords(values[f.id], names, { options: f.options, columns: f.columns }));
    const text = answers.filter(Boolean).join('\n') || 'Nothing was filled in.';
    return [one, { ...common, id: `${q.id} answer`, at: q.closedAt, by: q.to, from: 'requester', via: q.cameAs === null ? 'screen' : 'mail', text }];
  });
  return [...words, ...asked].sort((a, b) => a.at.getTime() - b.at.getTime());
}
