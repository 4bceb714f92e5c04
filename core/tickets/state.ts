import { z } from 'zod';
import { line } from '../boundary/index.ts';
import { isInstant } from '../calendar/index.ts';
import { statusOf, type Status } from '../statuses/index.ts';
import { promisedThings } from '../targets/index.ts';
import { Id, Key } from '../values/index.ts';
import type { TicketKind } from './kind.ts';

const Instant = z.string().refine(isInstant, 'This is not a moment.');

/** How urgent a ticket is. */
const Urgent = { impact: Id, urgency: Id, priority: Id };

/** Where a ticket stands. */
export const TicketState = z.object({
  status: Id,
  /** Since when it is in its status. */
  since: Instant,
  ...Urgent,
  team: Key.optional(),
  holder: Key.optional(),
  openedAt: Instant,
  answeredAt: Instant.optional(),
  endedAt: Instant.optional(),
  /** The move that is asked for and waits at its gate, and the run that asks. */
  asking: z.object({ to: Id, run: Key, at: Instant }).optional(),
  /** The case of the ticket that this one went into, where it is dealt with. */
  joined: Key.optional(),
  /** Stretches that count for no promise, in order; one without an end goes on. */
  held: z.array(z.object({ from: Instant, to: Instant.optional(), why: line(80) })).max(10_000),
  /** Of which promises the desk was told that they are near, or late, since they were last reckoned. */
  told: z.array(z.enum(['response-near', 'response-late', 'fulfilment-near', 'fulfilment-late'])),
});
export type TicketState = z.infer<typeof TicketState>;

/** What happens to a ticket. */
export const TicketEvent = z.discriminatedUnion('type', [
  z.object({ type: z.literal('opened'), ...Urgent, team: Key.optional(), holder: Key.optional() }),
  z.object({ type: z.literal('moved'), to: Id, cause: z.enum(['person', 'answer', 'time', 'map', 'gate']) }),
  /** A move that has a gate was asked for; it was taken back; it was not agreed to. */
  z.object({ type: z.literal('asked'), to: Id, run: Key }),
  z.object({ type: z.literal('unasked'), to: Id }),
  z.object({ type: z.literal('notAgreed'), to: Id, why: z.enum(['declined', 'lapsed', 'failed']), words: line(500).optional() }),
  /** The first word from the desk. */
  z.object({ type: z.literal('answered') }),
  z.object({ type: z.literal('given'), team: Key.optional(), holder: Key.optional(), why: line(300).optional() }),
  z.object({ type: z.literal('judged'), ...Urgent, why: line(300).optional() }),
  /** What counts has changed: hours, or the promises of its kind. Its state stays; what falls due may not. */
  z.object({ type: z.literal('recounted'), why: z.enum(['hours', 'kind', 'place']), was: Instant.optional(), due: Instant.optional() }),
  /** It went into another ticket; and was taken out of it again. */
  z.object({ type: z.literal('joined'), into: Key, number: z.number().int().positive() }),
  z.object({ type: z.literal('parted') }),
  z.object({ type: z.literal('told'), of: z.enum(promisedThings), that: z.enum(['near', 'late']) }),
]);
export type TicketEvent = z.infer<typeof TicketEvent>;

/** Where a ticket stands that has just been opened. */
export const opened = (kind: TicketKind, event: Extract<TicketEvent, { type: 'opened' }>, at: string): TicketState => {
  const { type: _, ...facts } = event;
  const fresh: TicketState = { ...facts, status: kind.map.begin, since: at, openedAt: at, held: [], told: [] };
  return entered(fresh, statusOf(kind.map, kind.map.begin), at);
};

/**
 * What an event makes of a ticket. A ticket may be moved to any status there is: whether somebody may is `mayMove`. Times are ISO instants
 * in UTC. Throws a RangeError for a status that the kind does not have.
 */
export function advanceTicket(kind: TicketKind, state: TicketState, event: TicketEvent, at: string): TicketState {
  switch (event.type) {
    case 'opened':
      return opened(kind, event, at);
    case 'moved': {
      const to = statusOf(kind.map, event.to);
      if (!to) throw new RangeError(`There is no status “${event.to}”.`);
      return entered({ ...withoutAsking(state), status: to.id, since: at }, to, at);
    }
    case 'asked':
      return { ...state, asking: { to: event.to, run: event.run, at } };
    case 'unasked':
    case 'notAgreed':
      return withoutAsking(state);
    case 'answered':
      return state.answeredAt === undefined ? { ...state, answeredAt: at } : state;
    case 'given': {
      const { team: _, holder: __, ...rest } = state;
      return { ...rest, ...(event.team !== undefined && { team: event.team }), ...(event.holder !== undefined && { holder: event.holder }) };
    }
    case 'judged':
      return { ...state, impact: event.impact, urgency: event.urgency, priority: event.priority, told: [] };
    case 'recounted':
      return { ...state, told: [] };
    case 'joined':
      return { ...withoutAsking(state), joined: event.into, endedAt: state.endedAt ?? at };
    case 'parted': {
      // It is as if it had never been in the other: whether it has ended its status says.
      const { joined: _, endedAt, ...rest } = state;
      return statusOf(kind.map, state.status)?.clock === 'ends' && endedAt !== undefined ? { ...rest, endedAt } : rest;
    }
    case 'told':
      return { ...state, told: [...new Set([...state.told, `${event.of}-${event.that}` as const])] };
  }
}

function withoutAsking({ asking: _, ...state }: TicketState): TicketState {
  return state;
}

/** A ticket as it is once it stands in a status: what the status does to its clocks is done. */
function entered(state: TicketState, to: Status | undefined, at: string): TicketState {
  if (!to) return state;
  const { endedAt, ...rest } = state;
  const holding = to.clock === 'holds';
  const last = rest.held.at(-1);
  let held = rest.held;
  // A hold goes on in the next status that holds, under that one's name, and is over in any other.
  if (last && last.to === undefined) held = [...held.slice(0, -1), { ...last, to: at }];
  const ended = to.clock === 'ends' ? (endedAt ?? at) : undefined;
  // What was over and is reopened: the time between counts for nothing.
  if (endedAt !== undefined && ended === undefined) held = [...held, { from: endedAt, to: at, why: 'ended' }];
  if (holding) held = [...held, { from: at, why: to.name }];
  const answered = rest.answeredAt ?? (to.clock === 'answers' || to.clock === 'ends' ? at : undefined);
  return {
    ...rest,
    held: held.filter((h) => h.to === undefined || h.from < h.to),
    ...(answered && { answeredAt: answered }),
    ...(ended && { endedAt: ended }),
  };
}

/** Where a ticket stands after all that happened to it. */
export function replayTicket(kind: TicketKind, events: readonly { event: TicketEvent; at: string }[]): TicketState | undefined {
  let state: TicketState | undefined;
  for (const { event, at } of events) {
    if (event.type === 'opened') state = opened(kind, event, at);
    else if (state) state = advanceTicket(kind, state, event, at);
  }
  return state;
}
