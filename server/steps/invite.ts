import { randomUUID } from 'node:crypto';
import { and, eq, gt, inArray, or, sql } from 'drizzle-orm';
import type { Value } from '../../core/values/index.ts';
import { plainText } from '../../core/values/index.ts';
import { hashToken, invitedToken } from '../auth/token.ts';
import type { Tx } from '../db/database.ts';
import { insertAll } from '../db/insert-all.ts';
import { invited, meeting } from '../db/schema/index.ts';
import { guestsOf, offs } from '../meetings/told.ts';
import { namesFor, readIn } from '../people/names.ts';
import { only, type About, type Batch, type Of, type Writer } from '../runtime/batch.ts';
import { addJobs } from '../runtime/jobs.ts';
import { sayNow } from '../words.ts';

/** The meetings that plans arrange: a time is looked for after the commit. What is not needed any more is off, and those invited are told. */
export const meetings: Writer = async (tx, batches, at) => {
  await seek(tx, only(batches, 'invite'), at);
  return callOff(tx, batches, at);
};

async function seek(tx: Tx, asked: Of<'invite'>[], at: Date): Promise<void> {
  // Of one step the last word counts.
  const wanted = [...new Map(asked.map((e) => [`${e.run.id} ${e.key}`, e])).values()];
  if (wanted.length === 0) return;
  const names = await namesFor(
    tx,
    wanted.flatMap((e): Value[] => [...Object.values(e.title.values), ...Object.values(e.place?.values ?? {})]),
    [...new Set(wanted.map((e) => e.run.requesterId))],
  );
  const rows = wanted.map((e): typeof meeting.$inferInsert => {
    const zone = names.people.get(e.run.requesterId)?.zone;
    const say = (text: typeof e.title) =>
      plainText(sayNow(text, e.run, zone === undefined ? names : readIn(zone, names)))
        .replace(/\s+/g, ' ')
        .trim();
    return {
      id: randomUUID(),
      runId: e.run.id,
      key: e.key,
      round: e.round,
      words: { title: e.title, body: e.body, ...(e.place && { place: e.place }) },
      title: say(e.title),
      place: e.place ? say(e.place) : '',
      minutes: e.minutes,
      window: e.window,
      waits: e.waits,
      tryAt: at,
      createdAt: at,
    };
  });
  const again = (column: string) => sql.raw(`excluded.${column}`);
  const kept = await tx
    .insert(meeting)
    .values(rows)
    .onConflictDoUpdate({
      target: [meeting.runId, meeting.key],
      set: {
        status: 'seeking',
        round: again('round'),
        words: again('words'),
        title: again('title'),
        place: again('place'),
        minutes: again('minutes'),
        window: again('"window"'),
        waits: again('waits'),
        tryAt: again('try_at'),
        attempts: 0,
        lastError: null,
        closedAt: null,
      },
    })
    .returning({ id: meeting.id, runId: meeting.runId, key: meeting.key });
  const idOf = new Map(kept.map((m) => [`${m.runId} ${m.key}`, m.id]));
  const people = wanted.map((e) => ({ meeting: idOf.get(`${e.run.id} ${e.key}`)!, people: e.people }));
  await invite(tx, people);
  await addJobs(
    tx,
    'meeting',
    kept.map(({ id }) => ({ payload: { meetingId: id }, key: `meeting:${id}` })),
  );
}

/** Who is invited now; that somebody was before and is not any more stays, for they are told. */
async function invite(tx: Tx, wanted: { meeting: string; people: string[] }[]): Promise<void> {
  const known = await tx
    .select({ meetingId: invited.meetingId, personId: invited.personId })
    .from(invited)
    .where(
      inArray(
        invited.meetingId,
        wanted.map((w) => w.meeting),
      ),
    );
  const there = new Set(known.map((k) => `${k.meetingId} ${k.personId}`));
  const added = wanted.flatMap((w) =>
    w.people.flatMap((personId) => {
      const id = randomUUID();
      return there.has(`${w.meeting} ${personId}`) ? [] : [{ id, meetingId: w.meeting, personId, tokenHash: hashToken(invitedToken(id)) }];
    }),
  );
  await insertAll(tx, invited, added);
  const listed = wanted.flatMap((w) => w.people.map((person) => ({ meeting: w.meeting, person })));
  await tx.execute(sql`
    update invited i set gone = not exists (select from jsonb_to_recordset(${JSON.stringify(listed)}::jsonb) as l(meeting uuid, person uuid)
      where l.meeting = i.meeting_id and l.person = i.person_id)
    where i.meeting_id = any(${sql.param(wanted.map((w) => w.meeting))}::uuid[])`);
}

/** What is not needed any more, and what lies ahead of a run that did not end as it was meant to. */
async function callOff(tx: Tx, batches: Batch[], at: Date): Promise<About[]> {
  const steps = only(batches, 'callOff');
  const ended = only(batches, 'finished').filter((e) => e.outcome !== 'fulfilled');
  if (steps.length === 0 && ended.length === 0) return [];
  const runs = new Map([...steps, ...ended].map((e) => [e.run.id, e.run]));
  const open = or(eq(meeting.status, 'seeking'), and(eq(meeting.status, 'planned'), gt(meeting.beginsAt, at)));
  const which = sql`(${meeting.runId} = any(${sql.param(ended.map((e) => e.run.id))}::uuid[]) or (${meeting.runId}, ${meeting.key}) in (
    select u, k from unnest(${sql.param(steps.map((e) => e.run.id))}::uuid[], ${sql.param(steps.map((e) => e.key))}::text[]) as s(u, k)))`;
  const off = await tx
    .update(meeting)
    .set({ status: 'off', closedAt: at, sequence: sql`${meeting.sequence} + 1` })
    .where(and(open, which))
    .returning();
  const ids = off.map((m) => m.id);
  const guests = await guestsOf(tx, ids);
  if (ids.length > 0) await tx.update(invited).set({ told: false }).where(inArray(invited.meetingId, ids));
  return off.flatMap(({ sequence, beginsAt, endsAt, ...m }) => {
    const run = runs.get(m.runId);
    if (!run || sequence === null || !beginsAt || !endsAt || beginsAt <= at) return [];
    const told = (guests.get(m.id) ?? []).filter((g) => g.told);
    return offs({ ...m, sequence, beginsAt, endsAt }, told).map((draft) => ({ run, ...draft }));
  });
}
