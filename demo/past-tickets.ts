import { randomUUID } from 'node:crypto';
import { addWorking, compileHours, workingBetween, type Calendar } from '../core/calendar/index.ts';
import { keptDocument, ticketFormat } from '../core/documents/index.ts';
import { priorityFor } from '../core/targets/index.ts';
import { advanceTicket, opened, type TicketEvent, type TicketKind } from '../core/tickets/index.ts';
import { db, type Tx } from '../server/db/database.ts';
import { insertAll } from '../server/db/insert-all.ts';
import { serviceCase, ticket, ticketEvent, caseWord } from '../server/db/schema/index.ts';
import { routeTicket } from '../server/routing/route.ts';
import { columnsOf, datesFor } from '../server/tickets/happen.ts';
import { torvayHours } from './hours.ts';
import { pastCount } from './numbers.ts';
import { seeded } from './seeded.ts';

/** The days they lie in, up to two weeks ago: all of them have ended for good. */
const [firstDay, lastDay] = [182, 14];

/** What is reported again and again, by what it is about: a line, and what is said of it. */
const matters: Record<string, [subject: string, words: string, done: string][]> = {
  Access: [
    ['Cannot get into the tide archive', 'It says that I have no access, since this morning.', 'You were in the wrong group. It works now.'],
    ['Mail asks for a password each time', 'Also after starting anew.', 'The certificate had run out; it has a new one.'],
    ['Locked out after three tries', 'I mistyped it.', 'It is open again.'],
  ],
  Charts: [
    ['Chart sheet prints without its legend', 'All other sheets are right.', 'The template was an old one.'],
    ['Soundings of the inner fjord are doubled', 'Since the last import.', 'The import was taken back and done anew.'],
    ['Correction does not show on the web chart', 'It was signed off on Monday.', 'It shows since last night.'],
  ],
  'Field equipment': [
    ['Tablet does not charge', 'The number falls while it is plugged in.', 'It has another port now.'],
    ['Tide gauge sends no values', 'Nothing since the storm.', 'The cable was loose.'],
    ['Echo sounder shows the same depth all day', 'Also at the quay, where we know it.', 'It was set anew.'],
    ['Handheld radio is silent', 'It hears nobody; others hear each other.', 'It had another channel.'],
  ],
  Machines: [
    ['Processing machine does not start', 'It stands at “waiting” for an hour.', 'There was no room on its host. It runs.'],
    ['Disk is full on the gridding machine', 'It stopped in the middle of a run.', 'It has more room.'],
  ],
  Models: [
    ['Model run stops without a word', 'Each time in the same place.', 'One value of the boundary was missing.'],
    ['Tide model gives yesterday’s water', 'The forecast of today is missing.', 'The feed was late; it is there.'],
  ],
  Pay: [
    ['Overtime of the watch is missing', 'On the payslip of this month.', 'It comes with the next one.'],
    ['Travel days are counted twice', 'Of the trip to Lunnick.', 'It is put right.'],
  ],
  Rooms: [
    ['Heating is off in the Chart Hall', 'It is 14 degrees.', 'It is warm again.'],
    ['Door stays locked', 'My badge is green, the door is not.', 'The lock was changed.'],
  ],
};

interface Parties {
  kinds: { id: string; name: string; definition: TicketKind }[];
  /** Who reports, and where they work. */
  people: { id: string; place: string }[];
  /** Who works in each team. */
  members: Map<string, string[]>;
}

/**
 * Two thousand tickets of the last half year with lifelike durations, marked as generated. They are played through the core, event by event,
 * and kept as the commands keep them; nobody is told of them, and nothing of them is in the log of changes.
 */
export async function pastTickets({ kinds, people, members }: Parties): Promise<void> {
  const random = seeded(20_261);
  const hours = compileHours(torvayHours);
  const now = new Date().toISOString();
  const days = firstDay - lastDay;
  const moments = Array.from({ length: pastCount }, () => {
    const day = Date.parse(now) - (lastDay + random.int(days * 1440) / 1440) * 86_400_000;
    return addWorking(new Date(day).toISOString(), random.int(400), hours);
  }).toSorted();
  await db().transaction(async (tx) => {
    const rows: Played[] = [];
    for (const [n, at] of moments.entries()) rows.push(await play(tx, n, at, { kinds, people, members, random, hours }));
    await insertAll(
      tx,
      serviceCase,
      rows.map((r) => r.case),
    );
    await insertAll(
      tx,
      ticket,
      rows.map((r) => r.ticket),
    );
    await insertAll(
      tx,
      ticketEvent,
      rows.flatMap((r) => r.events),
    );
    await insertAll(
      tx,
      caseWord,
      rows.flatMap((r) => r.words),
    );
  });
}

interface Played {
  case: typeof serviceCase.$inferInsert;
  ticket: typeof ticket.$inferInsert;
  events: (typeof ticketEvent.$inferInsert)[];
  words: (typeof caseWord.$inferInsert)[];
}

async function play(tx: Tx, n: number, openedAt: string, p: Parties & { random: ReturnType<typeof seeded>; hours: Calendar }): Promise<Played> {
  const { random, hours } = p;
  const kind = random.int(5) === 0 ? p.kinds[1]! : p.kinds[0]!;
  const { definition } = kind;
  const category = random.pick(definition.categories);
  const [subject, said, done] = random.pick(matters[category] ?? matters['Rooms']!);
  const asker = random.pick(p.people);
  const [impact, urgency] = [random.pick(definition.priority.impacts).id, random.pick(definition.priority.urgencies).id];
  const priority = priorityFor(definition.priority, impact, urgency)!;
  const to = await routeTicket(tx, { kindId: kind.id, category, placeId: asker.place, priority, requesterId: asker.id, answers: {} });
  const team = to.team;
  const holder = to.holder ?? random.pick(p.members.get(team ?? '') ?? [asker.id]);
  const caseId = randomUUID();
  const events: { at: string; by: string | null; event: TicketEvent }[] = [];
  const words: { at: string; by: string | null; from: 'requester' | 'desk'; inside: boolean; text: string }[] = [];
  const opening = {
    type: 'opened',
    impact,
    urgency,
    priority,
    ...(team !== undefined && { team }),
    ...(to.holder !== undefined && { holder: to.holder }),
  } as const;
  let state = opened(definition, opening, openedAt);
  events.push({ at: openedAt, by: asker.id, event: opening });
  words.push({ at: openedAt, by: asker.id, from: 'requester', inside: false, text: said });
  words.push({ at: openedAt, by: null, from: 'desk', inside: true, text: 'Generated: a past ticket of the demo.' });
  let at = openedAt;
  /** Working minutes about so many: most are shorter, a few much longer. */
  const about = (minutes: number) => Math.round(minutes * Math.exp((random.int(1000) + random.int(1000) + random.int(1000) - 1500) / 700));
  const happens = (minutes: number, by: string | null, event: TicketEvent) => {
    at = addWorking(at, minutes, hours);
    state = advanceTicket(definition, state, event, at);
    events.push({ at, by, event });
  };
  const scale = { high: 0.5, medium: 1, low: 2.4 }[priority] ?? 1;
  happens(about(35 * scale), holder, { type: 'given', ...(team !== undefined && { team }), holder });
  happens(about(20 * scale), holder, { type: 'moved', to: 'inWork', cause: 'person' });
  if (random.int(4) === 0) {
    happens(about(30 * scale), holder, { type: 'moved', to: 'waiting', cause: 'person' });
    words.push({ at, by: holder, from: 'desk', inside: false, text: 'Since when, and does it happen each time?' });
    happens(about(180), asker.id, { type: 'moved', to: 'inWork', cause: 'answer' });
    words.push({ at, by: asker.id, from: 'requester', inside: false, text: 'Each time, since this week.' });
  }
  const end = () => {
    happens(about(110 * scale), holder, { type: 'moved', to: 'done', cause: 'person' });
    words.push({ at, by: holder, from: 'desk', inside: false, text: done });
  };
  end();
  if (random.int(25) === 0) {
    happens(about(300), asker.id, { type: 'moved', to: 'inWork', cause: 'answer' });
    words.push({ at, by: asker.id, from: 'requester', inside: false, text: 'It is the same again.' });
    end();
  }
  happens(5 * workingDay(hours), null, { type: 'moved', to: 'closed', cause: 'time' });
  const placed = { kind: definition, placeId: asker.place, requesterId: asker.id, zone: 'Atlantic/Faroe', state };
  const dates = await datesFor(tx, placed);
  const helped = random.int(3) === 0 ? true : null;
  return {
    case: {
      id: caseId,
      kind: 'ticket',
      requesterId: asker.id,
      answers: {},
      openedAt: new Date(openedAt),
      endedAt: new Date(state.endedAt!),
      outcome: 'fulfilled',
      words: [subject, category, said].join('\n'),
      idempotencyKey: `demo-past-${n}`,
    },
    ticket: {
      caseId,
      kindId: kind.id,
      subject,
      category,
      placeId: asker.place,
      helped,
      filled: {},
      seq: events.length,
      ...columnsOf(state, dates),
      state: keptDocument(ticketFormat, state) as never,
    },
    events: events.map((e, i) => ({ caseId, seq: i + 1, at: new Date(e.at), by: e.by, event: e.event })),
    words: words.map((w) => ({ id: randomUUID(), caseId, ...w, at: new Date(w.at), via: 'screen' as const, once: null })),
  };
}

/** Working minutes of a day. */
const workingDay = (hours: Calendar): number => workingBetween('2026-06-02T00:00:00Z', '2026-06-03T00:00:00Z', hours);
