import { and, asc, eq } from 'drizzle-orm';
import { textLimit, type Answers } from '../../core/forms/index.ts';
import { isTold, statusOf } from '../../core/statuses/index.ts';
import { gatesDefinition, moveAnswers, promisedBy } from '../../core/tickets/index.ts';
import { isReference, piecesOf, sayText, type RichText, type Value } from '../../core/values/index.ts';
import type { Tx } from '../db/database.ts';
import { serviceCase, caseWord } from '../db/schema/index.ts';
import { namesFor, readIn } from '../people/names.ts';
import { offeringOf, ticketNumber, valueWords } from '../words.ts';
import { datesFor, type Ticket } from './happen.ts';
import { tellRequester } from './tell.ts';

/** What is known of a ticket: for those who have to agree to a move, and for what its statuses tell. */
export async function knownOf(tx: Tx, t: Ticket) {
  const [row] = await tx.select({ answers: serviceCase.answers }).from(serviceCase).where(eq(serviceCase.id, t.caseId));
  const [first] = await tx
    .select({ text: caseWord.text })
    .from(caseWord)
    .where(and(eq(caseWord.caseId, t.caseId), eq(caseWord.inside, false)))
    .orderBy(asc(caseWord.at), asc(caseWord.id))
    .limit(1);
  return {
    requesterId: t.requesterId,
    subject: t.subject,
    words: (first?.text ?? '').slice(0, textLimit.longText),
    category: t.category,
    placeId: t.placeId,
    priority: t.state.priority,
    team: t.state.team,
    holder: t.state.holder,
    answers: row!.answers,
    filled: t.filled as Answers,
  };
}

/** What a status tells whoever asked, with the values of now; nothing where it tells nothing. */
export async function toldOnEntering(tx: Tx, t: Ticket, statusId: string, at: Date): Promise<RichText> {
  const status = statusOf(t.kind.map, statusId);
  if (!status || !isTold(status)) return [];
  const refs = piecesOf(status.tells).flatMap((p) => (isReference(p) ? [p.ref] : []));
  if (refs.length === 0) return status.tells;
  const answers = moveAnswers(t.kind, { ...(await knownOf(tx, t)), moverId: t.requesterId, said: '' });
  const values = new Map<string, Value | undefined>([
    ['request.requester', { person: t.requesterId }],
    ['request.number', ticketNumber(t.number)],
    ['request.opened', t.state.openedAt],
    ['request.now', at.toISOString()],
    ...(refs.includes(promisedBy) ? [[promisedBy, (await datesFor(tx, t)).due] as const] : []),
    ...Object.entries(answers).map(([id, value]) => [`form.${id}`, value] as const),
  ]);
  const names = readIn(t.zone, await namesFor(tx, values.values()));
  const definition = gatesDefinition(t.kind);
  return sayText(status.tells, (ref) => valueWords(values.get(ref), names, offeringOf(definition, ref)));
}

/** Tells whoever asked what the statuses tell to which a ticket has come by itself, or by what others decided. */
export async function tellEntered(tx: Tx, t: Ticket, statuses: readonly string[], at: Date): Promise<void> {
  const words: RichText = [];
  for (const id of statuses) words.push(...(await toldOnEntering(tx, t, id, at)));
  if (words.length > 0) await tellRequester(tx, t, { key: `moved:${t.seq}`, words }, at);
}
