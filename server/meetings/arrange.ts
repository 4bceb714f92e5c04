import { and, eq, gt, inArray, lt, ne, or, isNull, sql } from 'drizzle-orm';
import { heard } from '../../core/boundary/index.ts';
import { firstFree, meetingWindow, type Stretch } from '../../core/meetings/index.ts';
import { zoneOf } from '../auth/viewer.ts';
import { now } from '../clock.ts';
import { db, type Tx } from '../db/database.ts';
import { isDatabaseTrouble } from '../db/trouble.ts';
import { invited, meeting, person, run, serviceCase } from '../db/schema/index.ts';
import { calendarsOf } from '../hours/nearest.ts';
import { log } from '../log.ts';
import { writeAbout } from '../mail/write.ts';
import { deliverTo, lockRun } from '../runtime/deliver.ts';
import { addJobs } from '../runtime/jobs.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { busyTimes } from '../systems/calendar/client.ts';
import { PermanentError } from '../systems/errors.ts';
import { momentWords } from '../words.ts';
import { guestsOf, invitations, offs } from './told.ts';

/** How often the calendars are asked; the pauses grow from 10 s, about 20 minutes in all. */
const tries = 8;
/** More people than this no meeting has. */
const mostPeople = 100;

type Row = typeof meeting.$inferSelect;
interface Found {
  window: Stretch;
  /** What each of those invited is taken by, but for what we arranged ourselves. */
  diaries: { personId: string; hours: Awaited<ReturnType<ReturnType<typeof calendarsOf>['of']>>; busy: Stretch[]; unseen: boolean }[];
}

/**
 * Finds the next time at which all who are invited are free, and tells them. Looking touches nothing: a crash before the end looks again.
 * A time is taken by one meeting after another, so that two that are arranged at once do not take the same.
 */
export async function arrangeMeeting(id: string): Promise<void> {
  const [row] = await db().select().from(meeting).where(eq(meeting.id, id));
  if (row?.status !== 'seeking') return;
  const at = now();
  let looked: Found | { no: string };
  try {
    looked = await look(row, at);
  } catch (error) {
    if (isDatabaseTrouble(error)) throw error;
    const said = heard(causeWords(error), 1000);
    const attempts = row.attempts + 1;
    log.warn({ meetingId: id, attempts, said }, 'no time for a meeting yet');
    if (!(error instanceof PermanentError) && attempts < tries) return tryLater(row, attempts, said);
    looked = { no: `Nobody could say who is free. ${said}` };
  }
  const found = looked;
  await db().transaction((tx) => ('no' in found ? failed(tx, row, found.no) : settle(tx, row, found)));
}

async function tryLater(row: Row, attempts: number, said: string): Promise<void> {
  const tryAt = new Date(now().getTime() + Math.min(900, 10 * 2 ** (attempts - 1)) * 1000);
  await db().transaction(async (tx) => {
    const still = and(eq(meeting.id, row.id), eq(meeting.status, 'seeking'), eq(meeting.round, row.round));
    const kept = await tx.update(meeting).set({ attempts, lastError: said, tryAt }).where(still).returning({ id: meeting.id });
    if (kept.length > 0) await addJobs(tx, 'meeting', [{ payload: { meetingId: row.id }, key: `meeting:${row.id}`, runAt: tryAt }]);
  });
}

/** Who is invited to it now, and when they work and are taken. */
async function look(row: Row, at: Date): Promise<Found | { no: string }> {
  const [asked] = await db()
    .select({ requesterId: serviceCase.requesterId, zone: zoneOf })
    .from(run)
    .innerJoin(serviceCase, eq(serviceCase.id, run.caseId))
    .innerJoin(person, eq(person.id, serviceCase.requesterId))
    .where(eq(run.id, row.runId));
  const calendars = calendarsOf(db());
  const hours = await calendars.of({ person: asked?.requesterId, zone: asked?.zone ?? 'utc' });
  const window = meetingWindow(row.window, at.toISOString(), hours);
  if (!window) return { no: 'The date from which a time is looked for does not exist, or nobody works after it.' };
  const people = await db()
    .select({ personId: person.id, email: sql<string>`lower(${person.email})`, zone: zoneOf, place: person.locationId })
    .from(invited)
    .innerJoin(person, eq(person.id, invited.personId))
    .where(and(eq(invited.meetingId, row.id), eq(invited.gone, false)));
  if (people.length > mostPeople) return { no: `${people.length} people are invited, and a meeting has at most ${mostPeople}.` };
  const busy = await busyTimes(
    people.flatMap((p) => p.email || []),
    window,
  );
  const diaries = await Promise.all(
    people.map(async ({ personId, email, zone, place }) => ({
      personId,
      hours: await calendars.of({ place, zone }),
      busy: busy.get(email) ?? [],
      unseen: !busy.has(email),
    })),
  );
  return { window, diaries };
}

async function settle(tx: Tx, row: Row, { window, diaries }: Found): Promise<void> {
  const locked = await stillSought(tx, row);
  if (!locked) return;
  await tx.execute(sql`select pg_advisory_xact_lock(hashtext('meetings'))`);
  const taken = await takenByUs(tx, row.id, window, diaries);
  const free = firstFree(
    window,
    row.minutes,
    diaries.map((d) => ({ hours: d.hours, busy: [...d.busy, ...(taken.get(d.personId) ?? [])] })),
  );
  if (!free) {
    const [from, to] = [window.from, window.to - 1].map((t) => momentWords(new Date(t), locked.zone));
    return failed(
      tx,
      row,
      `There is no time from ${from} to ${to} at which all ${diaries.length} who are invited work and are free for ${row.minutes} minutes.`,
    );
  }
  const at = now();
  const sequence = (row.sequence ?? -1) + 1;
  const [beginsAt, endsAt] = [new Date(free.from), new Date(free.to)];
  await tx.update(meeting).set({ status: 'planned', beginsAt, endsAt, sequence, lastError: null }).where(eq(meeting.id, row.id));
  await tx
    .update(invited)
    .set({
      says: null,
      words: '',
      saidAt: null,
      unseen: sql`${invited.personId} = any(${sql.param(diaries.filter((d) => d.unseen).map((d) => d.personId))}::uuid[])`,
    })
    .where(eq(invited.meetingId, row.id));
  const everybody = (await guestsOf(tx, [row.id])).get(row.id) ?? [];
  const guests = everybody.filter((g) => !g.gone);
  if (row.beginsAt && row.endsAt) {
    const before = { ...row, sequence, beginsAt: row.beginsAt, endsAt: row.endsAt };
    await writeAbout(
      tx,
      row.runId,
      ...offs(
        before,
        everybody.filter((g) => g.gone && g.told),
        guests,
      ),
    );
  }
  await writeAbout(tx, row.runId, ...invitations({ ...row, sequence, beginsAt, endsAt }, guests));
  await tx
    .update(invited)
    .set({ told: sql`not ${invited.gone}` })
    .where(eq(invited.meetingId, row.id));
  const outputs = { begins: beginsAt.toISOString(), ends: endsAt.toISOString() };
  await deliverTo(tx, locked.run, { type: 'answered', key: row.key, round: row.round, outputs }, at);
}

/** There is no time for it: whoever was told of an earlier one is told that it is off. */
async function failed(tx: Tx, row: Row, cause: string): Promise<void> {
  const locked = await stillSought(tx, row);
  if (!locked) return;
  const at = now();
  const { sequence, beginsAt, endsAt } = row;
  await tx
    .update(meeting)
    .set({ status: 'failed', lastError: cause, closedAt: at, ...(sequence !== null && { sequence: sequence + 1 }) })
    .where(eq(meeting.id, row.id));
  if (sequence !== null && beginsAt && endsAt) {
    const told = ((await guestsOf(tx, [row.id])).get(row.id) ?? []).filter((g) => g.told);
    await writeAbout(tx, row.runId, ...offs({ ...row, sequence: sequence + 1, beginsAt, endsAt }, told));
    await tx.update(invited).set({ told: false }).where(eq(invited.meetingId, row.id));
  }
  await deliverTo(tx, locked.run, { type: 'callFailed', key: row.key, round: row.round, cause }, at);
}

/** The lock of its run, where a time for it is still looked for as it was when looking began. */
async function stillSought(tx: Tx, row: Row) {
  const locked = await lockRun(tx, row.runId);
  const [still] = await tx.select({ status: meeting.status, round: meeting.round }).from(meeting).where(eq(meeting.id, row.id));
  if (still?.status !== 'seeking' || still.round !== row.round) return undefined;
  const [asks] = await tx.select({ zone: zoneOf }).from(person).where(eq(person.id, locked.requesterId));
  return { run: locked, zone: asks?.zone ?? 'utc' };
}

/** What we arranged with these people within a window, but for what they said no to. */
async function takenByUs(tx: Tx, but: string, window: Stretch, of: Found['diaries']): Promise<Map<string, Stretch[]>> {
  const rows = await tx
    .select({ personId: invited.personId, from: meeting.beginsAt, to: meeting.endsAt })
    .from(invited)
    .innerJoin(meeting, eq(meeting.id, invited.meetingId))
    .where(
      and(
        inArray(
          invited.personId,
          of.map((d) => d.personId),
        ),
        ne(meeting.id, but),
        eq(invited.gone, false),
        eq(meeting.status, 'planned'),
        or(isNull(invited.says), ne(invited.says, 'no')),
        lt(meeting.beginsAt, new Date(window.to)),
        gt(meeting.endsAt, new Date(window.from)),
      ),
    );
  const taken = new Map<string, Stretch[]>();
  for (const { personId, from, to } of rows)
    if (from && to) taken.set(personId, [...(taken.get(personId) ?? []), { from: from.getTime(), to: to.getTime() }]);
  return taken;
}
