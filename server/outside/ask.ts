import { and, eq, isNull } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { nothingKnown, validateAnswers, withHeld, type Answers, type Form } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { limits } from '../auth/limits.ts';
import { hashToken, outsideToken } from '../auth/token.ts';
import type { Viewer } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Reader } from '../db/database.ts';
import { askedOn } from '../hours/asked-on.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { item, publicLink, publicRequest, revision, serviceCase } from '../db/schema/index.ts';
import { definitionOf } from '../items/definitions.ts';
import { answersRefused, refuse, type Result } from '../refusal.ts';
import { takenOutside } from '../requests/taken-outside.ts';
import { openAll } from '../requests/submit.ts';
import { outsider, personOutside } from './person.ts';
import { addJobs } from '../runtime/jobs.ts';

/** How long something that was asked from outside waits to be confirmed. */
export const hoursToConfirm = 24;

/** What everybody from outside is asked first. No field of a designer's has a dot in its id. */
export const aboutYou: Form = {
  fields: [
    { id: 'you.name', kind: 'text', label: 'Your name', required: true, max: 100 },
    { id: 'you.mail', kind: 'address', label: 'Your e-mail address', required: true, help: 'You get a mail there, to confirm that it is yours.' },
  ],
};

/** An item as it is offered by its public link. */
export interface OfferedOutside {
  itemId: string;
  revision: number;
  definition: ItemDefinition;
}

/** What a public link leads to; undefined: nowhere (any more). */
export async function offeredBy(token: string): Promise<OfferedOutside | undefined> {
  const [row] = await db()
    .select({ itemId: item.id, revisionId: revision.id, revision: revision.number })
    .from(publicLink)
    .innerJoin(item, eq(item.id, publicLink.itemId))
    .innerJoin(revision, and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision)))
    .where(and(eq(publicLink.token, token.slice(0, 100)), isNull(item.archivedAt), eq(revision.outsiders, true)));
  return row && { itemId: row.itemId, revision: row.revision, definition: await definitionOf(db(), row.revisionId) };
}

/**
 * Keeps what somebody asks for by a public link until they have confirmed it, and has them written to. `trap` is a field that people
 * do not see: whoever fills it in is answered as everybody is, and nothing is kept.
 */
export async function askFromOutside(input: {
  token: string;
  /** From where it comes. */
  address: string;
  you: Answers;
  answers: Answers;
  trap: string;
}): Promise<Result<{ mail: string }>> {
  const offered = await offeredBy(input.token);
  if (!offered) return linkOver();
  const at = now();
  const { form } = offered.definition;
  const nobody = () => false;
  const you = validateAnswers(aboutYou, input.you, nobody);
  const held = validateAnswers(
    form,
    withHeld(form, input.answers, nothingKnown),
    nobody,
    undefined,
    await askedOn(calendarsOf(db()), form, { zone: 'UTC' }, at),
  );
  if (!you.ok || !held.ok) return answersRefused([...(you.ok ? [] : you.problems), ...(held.ok ? [] : held.problems)]);
  const mail = String(you.answers['you.mail']);
  if (input.trap !== '') return { ok: true, mail };
  const tooMuch = (wait: number) =>
    refuse('too-many-tries', `Too much was asked from here within an hour. Try again in ${Math.ceil(wait / 60)} minutes.`);
  const wait = await limits.outside(input.address, input.token);
  if (wait > 0) return tooMuch(wait);
  // A system is asked for nobody who has asked too much; and a name that is taken costs none of the mails.
  const taken = await takenOutside(form, held.answers);
  if (taken.length > 0) return answersRefused(taken);
  const waitForMail = await limits.outsideMail(mail.toLowerCase());
  if (waitForMail > 0) return tooMuch(waitForMail);
  const id = crypto.randomUUID();
  await db().transaction(async (tx) => {
    await tx.insert(publicRequest).values({
      id,
      itemId: offered.itemId,
      name: heard(String(you.answers['you.name']), 100),
      email: mail,
      answers: held.answers,
      tokenHash: hashToken(outsideToken(id)),
      askedAt: at,
      expiresAt: new Date(at.getTime() + hoursToConfirm * 3_600_000),
    });
    await addJobs(tx, 'confirmOutside', [{ payload: { publicRequestId: id }, key: `confirm:${id}` }]);
  });
  return { ok: true, mail };
}

const linkOver = () => refuse('ended', 'This link is not in use. Ask whoever gave it to you for another.');

/** Something asked from outside, by the link that was mailed; while it waits, or with who follows it. */
export type FromOutside = { waits: { item: string; form: Form; answers: Answers; name: string; mail: string } } | { follows: Viewer; number: number };

/** What a mailed link leads to; undefined: nowhere (any more). */
export async function fromOutside(token: string): Promise<FromOutside | undefined> {
  const row = await waiting(db(), token);
  if (!row) return undefined;
  if (row.number !== null && row.requesterId !== null) return { follows: outsider({ ...row, id: row.requesterId }), number: row.number };
  if (row.expiresAt <= now()) return undefined;
  const definition = row.revisionId === null ? undefined : await definitionOf(db(), row.revisionId);
  return definition && { waits: { item: definition.name, form: definition.form, answers: row.answers ?? {}, name: row.name, mail: row.email } };
}

async function waiting(tx: Reader, token: string) {
  const [row] = await tx
    .select({
      id: publicRequest.id,
      itemId: publicRequest.itemId,
      name: publicRequest.name,
      email: publicRequest.email,
      answers: publicRequest.answers,
      expiresAt: publicRequest.expiresAt,
      number: serviceCase.number,
      requesterId: serviceCase.requesterId,
      revision: revision.number,
      revisionId: revision.id,
    })
    .from(publicRequest)
    .innerJoin(item, eq(item.id, publicRequest.itemId))
    .leftJoin(
      revision,
      and(eq(revision.itemId, item.id), eq(revision.number, item.publishedRevision), eq(revision.outsiders, true), isNull(item.archivedAt)),
    )
    .leftJoin(serviceCase, eq(serviceCase.id, publicRequest.caseId))
    .where(eq(publicRequest.tokenHash, hashToken(token)));
  return row;
}

/** Opens what was asked from outside, now that the mailed link was followed; once, however often it is confirmed. */
export async function confirmOutside(token: string): Promise<Result> {
  return db().transaction(async (tx) => {
    await tx
      .select({ id: publicRequest.id })
      .from(publicRequest)
      .where(eq(publicRequest.tokenHash, hashToken(token)))
      .for('no key update');
    const row = await waiting(tx, token);
    if (row && row.number !== null) return { ok: true };
    if (!row || row.expiresAt <= now()) return refuse('ended', 'It was not confirmed in time, so nothing was asked. Ask for it again.');
    if (row.revision === null) return refuse('ended', 'It cannot be asked for from outside any more. Nothing was asked.');
    const viewer = await personOutside(tx, row);
    const [opened] = await openAll(tx, [
      { viewer, input: { itemId: row.itemId, revision: row.revision, answers: row.answers ?? {}, idempotencyKey: row.id } },
    ]);
    if (!opened?.ok)
      return refuse(
        'changed-meanwhile',
        'The form was changed since you filled it in, or an answer is taken by now. Nothing was asked; fill it in again.',
      );
    const [made] = await tx.select({ id: serviceCase.id }).from(serviceCase).where(eq(serviceCase.number, opened.number));
    await tx.update(publicRequest).set({ caseId: made!.id, answers: null }).where(eq(publicRequest.id, row.id));
    return { ok: true };
  });
}
