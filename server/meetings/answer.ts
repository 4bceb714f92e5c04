import { and, eq } from 'drizzle-orm';
import type { ParsedMail } from 'mailparser';
import { typed } from '../../core/boundary/index.ts';
import { readComingWords, readInvitationReply } from '../../core/formats/index.ts';
import { automaticOf, type MailHeader } from '../../core/intake/index.ts';
import type { Coming } from '../../core/meetings/index.ts';
import { SayComing } from '../../core/posts/index.ts';
import { limits } from '../auth/limits.ts';
import { hashToken } from '../auth/token.ts';
import type { Viewer } from '../auth/viewer.ts';
import { record } from '../changes/record.ts';
import { now } from '../clock.ts';
import { config } from '../config.ts';
import { db, type Tx } from '../db/database.ts';
import { invited, meeting, person } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import { MailRefused } from '../intake/mail.ts';
import { answerUnclear, cannotCome } from '../mail/invitation.ts';
import { notFrom } from '../mail/from-whom.ts';
import { sayAbout, writeAbout } from '../mail/write.ts';
import { holdTo, notFound, refuse, type Result } from '../refusal.ts';
import { deliverTo, lockRun } from '../runtime/deliver.ts';
import { uidOf } from './told.ts';

/** Says whether one comes to a meeting that one is invited to; as long as it has not begun that can be changed. */
export async function sayComing(viewer: Viewer, input: { meetingId: string } & Record<string, unknown>): Promise<Result> {
  if (!isId(input.meetingId)) return notFound('This meeting');
  const held = holdTo(SayComing, input);
  if (!held.ok) return held;
  const { says, words, sequence } = held.value;
  return db().transaction(async (tx) => {
    const [row] = await tx
      .select({ id: invited.id })
      .from(invited)
      .where(and(eq(invited.meetingId, input.meetingId), eq(invited.personId, viewer.id), eq(invited.gone, false)));
    return row ? give(tx, row.id, { says, words, sequence, via: 'portal' }) : notFound('This meeting');
  });
}

/** The token in an address that answers to an invitation go to. */
export function invitedTokenIn(address: string): string | undefined {
  const [local, domain] = address.toLowerCase().split('@');
  return domain === config().MAIL_DOMAIN.toLowerCase() ? /^meeting\+([0-9a-f]{40})$/.exec(local ?? '')?.[1] : undefined;
}

/**
 * Takes what somebody answered to an invitation by mail: what their calendar program says (RFC 6047), else their own words. What cannot be
 * taken is answered with why; what nobody wrote by hand is left alone, unless a calendar says it.
 */
export async function takeInvitationReply(token: string, mail: ParsedMail, header: MailHeader, remote: string): Promise<void> {
  const [asked] = await db()
    .select({
      id: invited.id,
      meetingId: meeting.id,
      title: meeting.title,
      runId: meeting.runId,
      key: meeting.key,
      personId: person.id,
      email: person.email,
    })
    .from(invited)
    .innerJoin(meeting, eq(meeting.id, invited.meetingId))
    .innerJoin(person, and(eq(person.id, invited.personId), eq(person.active, true)))
    .where(and(eq(invited.tokenHash, hashToken(token)), eq(invited.gone, false)));
  if (!asked) {
    if ((await limits.link(remote)) > 0) throw new MailRefused(450, 'Too many wrong addresses');
    throw new MailRefused(550, 'This address takes no answers any more.');
  }
  const calendar = mail.attachments.find((a) => a.contentType === 'text/calendar');
  if (!calendar && automaticOf(header) !== undefined) return;
  const say = (words: string) => sayAbout(asked.runId, { key: asked.key, to: asked.personId, subject: `Re: ${asked.title}`, words });
  const another = notFrom(asked.email, mail, header);
  if (another !== undefined) return say(another);
  const answer = readAnswer(mail, calendar?.content.toString('utf8'), { uid: uidOf(asked.meetingId), address: asked.email.toLowerCase() });
  if (!answer.ok) return say(answerUnclear(answer.sentence));
  const result = await db().transaction((tx) => give(tx, asked.id, { ...answer, via: 'mail reply' }));
  if (!result.ok) return say(result.sentence);
}

async function absentWords(tx: Tx, personId: string, title: string, words: string) {
  const [who] = await tx.select({ name: person.name }).from(person).where(eq(person.id, personId));
  return cannotCome(who?.name ?? 'Somebody', title, words);
}

interface Said {
  says: Coming;
  words: string;
  /** To which telling of it; the newest, where that is not said. */
  sequence?: number | undefined;
}

function readAnswer(
  mail: ParsedMail,
  calendar: string | undefined,
  of: { uid: string; address: string },
): ({ ok: true } & Said) | { ok: false; sentence: string } {
  if (calendar === undefined) {
    const said = readComingWords(typed(mail.text ?? ''));
    return said ? { ok: true, ...said } : { ok: false, sentence: 'Your reply was not understood.' };
  }
  const read = readInvitationReply(calendar);
  if (!read.ok) return read;
  if (read.uid !== of.uid) return { ok: false, sentence: 'Your calendar answered to another meeting.' };
  if (read.from !== of.address)
    return { ok: false, sentence: `Your calendar answered for ${read.from || 'nobody'}, and only you can say whether you come.` };
  return read;
}

async function give(tx: Tx, invitedId: string, { says, words, sequence, via }: Said & { via: string }): Promise<Result> {
  const [its] = await tx
    .select({ meetingId: invited.meetingId, runId: meeting.runId })
    .from(invited)
    .innerJoin(meeting, eq(meeting.id, invited.meetingId))
    .where(eq(invited.id, invitedId));
  if (!its) return notFound('This meeting');
  const run = await lockRun(tx, its.runId);
  // Under the lock: what was read before may be of the time before.
  const [m] = await tx.select().from(meeting).where(eq(meeting.id, its.meetingId));
  const [one] = await tx.select().from(invited).where(eq(invited.id, invitedId));
  if (!m || !one) return notFound('This meeting');
  const at = now();
  if (m.status === 'seeking') return refuse('ended', 'Another time is being looked for. You are told when there is one; nothing was noted.');
  if (m.status !== 'planned' || !m.beginsAt) return refuse('ended', 'This meeting does not take place any more. Nothing was noted.');
  if (sequence !== undefined && sequence !== m.sequence)
    return refuse('changed-meanwhile', 'This meeting has another time by now. Answer to the newest invitation; nothing was noted.');
  if (m.beginsAt <= at) return refuse('ended', 'This meeting has begun already. Nothing was noted.');
  await tx.update(invited).set({ says, words, saidAt: at }).where(eq(invited.id, invitedId));
  await record(tx, { actor: one.personId, action: 'answer', object: 'meeting', objectId: m.id, detail: { says, via, sequence: m.sequence } });
  const answer = { type: 'coming', key: m.key, round: m.round, person: one.personId, says } as const;
  const waited = m.waits && (await deliverTo(tx, run, answer, at)).ignored === undefined;
  // Nothing waits for it any more: whoever asked is told of it, and sees to it.
  if (!waited && says === 'no' && one.says !== 'no' && one.personId !== run.requesterId)
    await writeAbout(tx, run.id, { key: m.key, to: run.requesterId, page: 'request', content: await absentWords(tx, one.personId, m.title, words) });
  return { ok: true };
}
