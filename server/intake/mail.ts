import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { answeredBy, automaticOf, goesRound, ownWords, subjectOf, type MailHeader } from '../../core/intake/index.ts';
import { sentence } from '../../core/values/index.ts';
import { limits, waitWords } from '../auth/limits.ts';
import { viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { takeRequestWord } from '../conversation/request.ts';
import { db } from '../db/database.ts';
import { message, person, serviceCase, caseWord } from '../db/schema/index.ts';
import { keepFile } from '../files/keep.ts';
import { kindOf } from '../kinds/queries.ts';
import { log } from '../log.ts';
import { isVouched } from '../mail/from-whom.ts';
import { outsider, personOutside } from '../outside/person.ts';
import { openTicket } from '../tickets/report.ts';
import { answerByMail, answeredAs } from './answer.ts';
import type { Way } from './ways.ts';
import { takeWord } from './word.ts';

/** A mail as it was read. */
export interface MailIn {
  header: MailHeader;
  from: { address: string; name: string }[];
  subject: string;
  text: string;
  /** Whether its words could be read; else they are attached as they came. */
  isRead: boolean;
  attachments: { name: string; content: Buffer }[];
}

/** What its sender's mail server is told, which tells them: a code of RFC 5321 and a sentence. */
export class MailRefused extends Error {
  constructor(
    readonly responseCode: number,
    words: string,
  ) {
    super(words);
  }
}

/** So much of a mail stands in the conversation; a longer one is attached whole. */
const mostWords = 20_000;
const mostFiles = 20;

/**
 * Takes a mail that came to an address of ours: it is a word about the ticket or the request whose thread it stands in, else it opens a ticket. Everything that
 * is not taken is refused with a sentence, which its sender reads; nothing is answered to what nobody wrote by hand (RFC 3834).
 */
export async function takeMail(way: Way, number: number | undefined, mail: MailIn): Promise<void> {
  const { header } = mail;
  if (way.definition.via !== 'mail') throw new MailRefused(550, 'There is no such mailbox.');
  if (goesRound(header, config().MAIL_DOMAIN)) throw new MailRefused(554, 'This mail goes round in a circle, and was not taken.');
  const [from] = mail.from;
  const address = heard(from?.address.toLowerCase() ?? '', 200);
  if (mail.from.length !== 1 || !address) throw new MailRefused(550, 'It cannot be told who wrote this. Send it from one address.');
  if (!isVouched(header, address))
    throw new MailRefused(550, 'Your mail server does not vouch that this came from you, so it was not taken. Report it at the Counter.');
  const automatic = automaticOf(header);
  const its = await caseAbout(number, answeredBy(header));
  const about = its?.kind === 'ticket' ? its.id : undefined;
  const request = its?.kind === 'request' ? its.id : undefined;
  const known = (await viewerKnownBy(db(), sql`lower(${person.email}) = ${address}`)) ?? (await outsiderKnown(address));
  if (automatic === 'answer' && (about === undefined || !known)) return log.info({ address }, 'an automatic answer was left alone');
  if (automatic === 'program' && about === undefined && way.definition.automatic === 'leave')
    throw new MailRefused(550, 'This address takes no mail that programs send on their own.');
  if (!known && way.definition.unknown === 'refuse')
    throw new MailRefused(550, 'Nobody here has this mail address. Send it from the address you have at work, or report it at the Counter.');
  const cameAs = messageKey(mail, address);
  if (known && (await cameBefore(cameAs, known.id))) return;
  // It was taken as an answer; what came with it may not have been kept, if we ended in between.
  const wasAnswer = known !== undefined && (await answeredAs(cameAs, known.id));
  if (wasAnswer && mail.attachments.length === 0) return;
  const wait = known ? await limits.report(known.id) : await limits.outsideMail(address);
  if (wait > 0) throw new MailRefused(450, `That is a lot at once. It is taken in ${waitWords(wait)}.`);
  // Another's message with the same id does not take the place of this one.
  const came = (await db().$count(caseWord, eq(caseWord.cameAs, cameAs))) === 0 ? cameAs : undefined;
  const viewer = known ?? (await db().transaction((tx) => personOutside(tx, { name: heard(from!.name || address, 100), email: address })));
  const text = heard(mail.text, 1_000_000).trim();
  // What a request asks of them is answered; nothing a program writes is an answer.
  const said = request !== undefined && automatic === undefined && mail.isRead;
  const answer = { answers: answeredBy(header), words: ownWords(text), cameAs };
  const answered = wasAnswer ? 'answered' : said ? await answerByMail(viewer, request, answer) : undefined;
  if (answered === 'told' || (answered && mail.attachments.length === 0)) return;
  const own = answered ? '(Attached to the answer.)' : about === undefined && request === undefined ? text : ownWords(text);
  const files = await keepAll(viewer, [
    ...mail.attachments,
    ...(own.length > mostWords ? [{ name: 'whole-mail.txt', content: Buffer.from(own) }] : []),
  ]);
  const short = own.length > mostWords ? `${heard(own, mostWords)}\n\n(The whole of it is attached.)` : own;
  const words = [short, ...(files.not.length > 0 ? [`(Not kept: ${files.not.join(' ')})`] : [])].filter(Boolean).join('\n\n');
  const isNote = automatic !== undefined && about !== undefined;
  const content = sentence(isNote ? `Sent automatically: ${words}` : words || '(no words)');
  await db().transaction(async (tx) => {
    const taken =
      about === undefined
        ? undefined
        : await takeWord(tx, viewer, about, { content, via: 'mail', cameAs: came, files: files.kept, automatic: isNote });
    if (taken && taken.is !== 'over') return;
    if (request !== undefined && automatic === undefined) {
      // What came with an answer stands there for whoever deals with the request next.
      const word = { content, cameAs: came, files: files.kept, anyway: answered !== undefined };
      if (await takeRequestWord(tx, viewer, request, word)) return;
    }
    const { definition } = way;
    const kind = await kindOf(tx, definition.kind);
    if (!kind) throw new MailRefused(550, 'There is no such mailbox.');
    const made = await openTicket(
      tx,
      kind,
      {
        requesterId: viewer.id,
        by: viewer.id,
        via: 'mail',
        subject: subjectOf(heard(mail.subject, 1000), words) || kind.definition.name,
        words: content,
        category: definition.category !== null && kind.definition.categories.includes(definition.category) ? definition.category : undefined,
        answers: {},
        once: `mail ${cameAs}`.slice(0, 200),
        cameAs: came,
        files: files.kept,
        follows: taken?.ticket.caseId ?? request,
        silent: automatic !== undefined,
      },
      now(),
    );
    if (!made.ok) throw new MailRefused(554, made.sentence);
  });
}

/** By what a message is known when it comes again; of one without an id, by what it says. */
function messageKey(mail: MailIn, address: string): string {
  const field = (name: string) => mail.header.fields.find(([n]) => n === name)?.[1].trim() ?? '';
  const id = /<[^<>\s]{1,250}>/.exec(field('message-id'))?.[0];
  return (
    id ??
    `<${createHash('sha256')
      .update(JSON.stringify([address, field('date'), mail.subject, mail.text]))
      .digest('hex')}@none>`
  );
}

/** Whether somebody's message was taken before, by whatever way. */
async function cameBefore(cameAs: string, by: string): Promise<boolean> {
  return (await db().$count(caseWord, and(eq(caseWord.cameAs, cameAs), eq(caseWord.by, by)))) > 0;
}

/** The case that a mail is about: that of the sub-address it came to, else of the thread it stands in. */
async function caseAbout(number: number | undefined, answers: string[]): Promise<Case | undefined> {
  if (number !== undefined) {
    const [row] = await db().select({ id: serviceCase.id, kind: serviceCase.kind }).from(serviceCase).where(eq(serviceCase.number, number));
    if (row) return row;
  }
  return (await inThreads(answers))[0];
}

type Case = Pick<typeof serviceCase.$inferSelect, 'id' | 'kind'>;

/** The cases whose mails are answered, the nearest first. */
async function inThreads(answers: string[]): Promise<Case[]> {
  if (answers.length === 0) return [];
  const found = await Promise.all(
    [
      { of: message, as: message.messageId },
      { of: caseWord, as: caseWord.cameAs },
    ].map(({ of, as }) =>
      db()
        .select({ message: as, id: serviceCase.id, kind: serviceCase.kind })
        .from(of)
        .innerJoin(serviceCase, eq(serviceCase.id, of.caseId))
        .where(inArray(as, answers)),
    ),
  );
  return found.flat().toSorted((a, b) => answers.indexOf(a.message ?? '') - answers.indexOf(b.message ?? ''));
}

async function outsiderKnown(address: string): Promise<Viewer | undefined> {
  const [row] = await db()
    .select({ id: person.id, name: person.name, email: person.email })
    .from(person)
    .where(and(sql`lower(${person.email}) = ${address}`, eq(person.outside, true)));
  return row && { ...outsider(row), name: row.name };
}

/** Keeps what was attached, and says what was not kept, and why. */
async function keepAll(viewer: Viewer, attached: MailIn['attachments']): Promise<{ kept: string[]; not: string[] }> {
  const kept: string[] = [];
  const not: string[] = [];
  for (const a of attached.slice(0, mostFiles)) {
    const result = await keepFile(viewer, { name: a.name, stream: Readable.from([a.content]) });
    if (result.ok) kept.push(result.file.id);
    else not.push(result.sentence);
  }
  if (attached.length > mostFiles) not.push(`${attached.length - mostFiles} more files; at most ${mostFiles} are kept of one mail.`);
  return { kept, not };
}
