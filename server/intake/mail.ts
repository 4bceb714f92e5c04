import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { isVouchedFor } from '../../core/formats/index.ts';
import { answeredBy, automaticOf, goesRound, ownWords, subjectOf, type MailHeader } from '../../core/intake/index.ts';
import { sentence } from '../../core/values/index.ts';
import { limits } from '../auth/limits.ts';
import { viewerKnownBy, type Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { db } from '../db/database.ts';
import { caseLink, message, person, serviceCase, ticket, ticketWord } from '../db/schema/index.ts';
import { keepFile } from '../files/keep.ts';
import { kindOf } from '../kinds/queries.ts';
import { log } from '../log.ts';
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
 * Takes a mail that came to an address of ours: it is a word about the ticket whose thread it stands in, else it opens one. Everything that
 * is not taken is refused with a sentence, which its sender reads; nothing is answered to what nobody wrote by hand (RFC 3834).
 */
export async function takeMail(way: Way, number: number | undefined, mail: MailIn): Promise<void> {
  const { header } = mail;
  if (way.definition.via !== 'mail') throw new MailRefused(550, 'There is no such mailbox.');
  if (goesRound(header, config().MAIL_DOMAIN)) throw new MailRefused(554, 'This mail goes round in a circle, and was not taken.');
  const [from] = mail.from;
  const address = heard(from?.address.toLowerCase() ?? '', 200);
  if (mail.from.length !== 1 || !address) throw new MailRefused(550, 'It cannot be told who wrote this. Send it from one address.');
  const server = config().MAIL_VOUCHED_BY;
  const vouching = header.fields.flatMap(([name, value]) => (name === 'authentication-results' ? [value.replace(/\s+/g, ' ')] : []));
  if (server && !isVouchedFor(vouching, server, address))
    throw new MailRefused(550, 'Your mail server does not vouch that this came from you, so it was not taken. Report it at the Counter.');
  const automatic = automaticOf(header);
  const about = await caseAbout(number, answeredBy(header));
  const known = (await viewerKnownBy(db(), sql`lower(${person.email}) = ${address}`)) ?? (await outsiderKnown(address));
  if (automatic === 'answer' && (about === undefined || !known)) return log.info({ address }, 'an automatic answer was left alone');
  if (automatic === 'program' && about === undefined && way.definition.automatic === 'leave')
    throw new MailRefused(550, 'This address takes no mail that programs send on their own.');
  if (!known && way.definition.unknown === 'refuse')
    throw new MailRefused(550, 'Nobody here has this mail address. Send it from the address you have at work, or report it at the Counter.');
  const cameAs = messageKey(mail, address);
  if (known && ((await cameBefore(cameAs, known.id)) || (await answeredAs(cameAs, known.id)))) return;
  const wait = known ? await limits.report(known.id) : await limits.outsideMail(address);
  if (wait > 0) throw new MailRefused(450, `That is a lot at once. It is taken in ${Math.ceil(wait / 60)} minutes.`);
  // Another's message with the same id does not take the place of this one.
  const came = (await db().$count(ticketWord, eq(ticketWord.cameAs, cameAs))) === 0 ? cameAs : undefined;
  const viewer = known ?? (await db().transaction((tx) => personOutside(tx, { name: heard(from!.name || address, 100), email: address })));
  const text = heard(mail.text, 1_000_000).trim();
  // What a request asks of them is answered; nothing a program writes is an answer.
  const request = about === undefined ? await requestOf(number, answeredBy(header)) : undefined;
  if (request !== undefined && automatic === undefined && mail.isRead) {
    const answer = { answers: answeredBy(header), words: ownWords(text), cameAs, attached: mail.attachments.length };
    if (await answerByMail(viewer, request, answer)) return;
  }
  const own = about === undefined ? text : ownWords(text);
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
        silent: automatic !== undefined,
      },
      now(),
    );
    if (!made.ok) throw new MailRefused(554, made.sentence);
    const follows = taken?.ticket.caseId ?? request;
    if (follows !== undefined) {
      const [its] = await tx.select({ id: serviceCase.id }).from(serviceCase).where(eq(serviceCase.number, made.number));
      await tx.insert(caseLink).values({ fromId: its!.id, toId: follows, how: 'follows', by: viewer.id, at: now() }).onConflictDoNothing();
    }
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
  return (await db().$count(ticketWord, and(eq(ticketWord.cameAs, cameAs), eq(ticketWord.by, by)))) > 0;
}

/** The ticket that a mail is about: that of the sub-address it came to, else of the thread it stands in. */
async function caseAbout(number: number | undefined, answers: string[]): Promise<string | undefined> {
  if (number !== undefined) {
    const [row] = await db()
      .select({ id: ticket.caseId })
      .from(serviceCase)
      .innerJoin(ticket, eq(ticket.caseId, serviceCase.id))
      .where(eq(serviceCase.number, number));
    if (row) return row.id;
  }
  const cases = await inThreads(answers);
  return cases.find((c) => c.ticket)?.id;
}

/** The request that a mail is about: that of the sub-address it came to, else of the thread it stands in. */
async function requestOf(number: number | undefined, answers: string[]): Promise<string | undefined> {
  if (number === undefined) return (await inThreads(answers)).find((c) => !c.ticket)?.id;
  const [row] = await db()
    .select({ id: serviceCase.id })
    .from(serviceCase)
    .where(and(eq(serviceCase.number, number), eq(serviceCase.kind, 'request')));
  return row?.id;
}

/** The cases whose mails are answered, the nearest first. */
async function inThreads(answers: string[]): Promise<{ id: string; ticket: boolean }[]> {
  if (answers.length === 0) return [];
  const [ours, theirs] = await Promise.all([
    db()
      .select({ message: message.messageId, id: message.caseId, kind: serviceCase.kind })
      .from(message)
      .innerJoin(serviceCase, eq(serviceCase.id, message.caseId))
      .where(inArray(message.messageId, answers)),
    db().select({ message: ticketWord.cameAs, id: ticketWord.caseId }).from(ticketWord).where(inArray(ticketWord.cameAs, answers)),
  ]);
  const found = [...ours.map((m) => ({ ...m, ticket: m.kind === 'ticket' })), ...theirs.map((m) => ({ ...m, ticket: true }))];
  return found.toSorted((a, b) => answers.indexOf(a.message ?? '') - answers.indexOf(b.message ?? ''));
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
