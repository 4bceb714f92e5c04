import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileHours, usualHours } from '../calendar/index.ts';
import { checkMap, statusOf, type StatusMap } from '../statuses/index.ts';
import { anyMap } from '../statuses/any.ts';
import {
  advanceTicket,
  datesOf,
  eventWords,
  movesFor,
  opened,
  replayTicket,
  shippedKinds,
  standingsOf,
  TicketKind,
  TicketState,
  whyNotMove,
  type TicketEvent,
} from './index.ts';

const incident = shippedKinds[0]!;
const desk = compileHours(usualHours('utc'));
const at = (minute: number) => new Date(Date.UTC(2026, 10, 25, 8) + minute * 60_000).toISOString();
const high = { type: 'opened', impact: 'many', urgency: 'now', priority: 'high', team: 'workplace' } as const;
const moved = (to: string, cause: 'person' | 'answer' | 'time' | 'gate' = 'person'): TicketEvent => ({ type: 'moved', to, cause });
const played = (kind: TicketKind, events: [minute: number, event: TicketEvent][]) =>
  replayTicket(
    kind,
    events.map(([minute, event]) => ({ at: at(minute), event })),
  )!;

describe('a ticket', () => {
  it('kind that ships is one that can be kept', () => {
    for (const kind of shippedKinds) {
      expect(TicketKind.parse(kind)).toEqual(kind);
      expect(checkMap(kind.map, new Set()).filter((f) => f.stops)).toEqual([]);
    }
    expect(shippedKinds.map((k) => k.name)).toEqual(['Incident', 'Request', 'Change', 'Problem']);
  });

  it('is answered by a word, held by a question, goes on with the answer and ends', () => {
    const state = played(incident, [
      [0, high],
      [12, { type: 'answered' }],
      [12, moved('waiting')],
      [28, moved('inWork', 'answer')],
      [100, moved('done')],
    ]);
    expect(state).toMatchObject({
      status: 'done',
      answeredAt: at(12),
      endedAt: at(100),
      held: [{ from: at(12), to: at(28), why: 'Waiting for you' }],
    });
    const s = standingsOf(incident, state, [], desk, at(400));
    expect([s.response?.used, s.fulfilment?.used, s.fulfilment?.held, s.fulfilment?.late]).toEqual([12, 84, 16, false]);
  });

  it('reopened counts on from where it ended, and what lay between counts for nothing', () => {
    const state = played(incident, [
      [0, high],
      [60, moved('done')],
      [200, moved('inWork')],
    ]);
    expect(state.endedAt).toBeUndefined();
    expect(standingsOf(incident, state, [], desk, at(260)).fulfilment).toMatchObject({ used: 120, held: 140, due: at(240 + 140) });
  });

  it('judged anew is due as if it had been so from the beginning', () => {
    const state = played(incident, [[0, high]]);
    expect(datesOf(incident, state, [], desk)).toMatchObject({ due: at(240), responseDue: at(60) });
    const low = advanceTicket(incident, state, { type: 'judged', impact: 'one', urgency: 'later', priority: 'low' }, at(30));
    // 24 h are three days of eight hours: the same time on the third working day, Friday.
    expect(datesOf(incident, low, [], desk).due).toBe('2026-11-27T16:00:00.000Z');
  });

  it('knows what comes next by itself: warned, late, passed on', () => {
    const state = played(incident, [[0, high]]);
    const next = (s: TicketState) => datesOf(incident, s, [], desk).next;
    expect(next(state)).toEqual({ at: at(45), what: { told: 'response', that: 'near' } });
    const told = advanceTicket(incident, state, { type: 'told', of: 'response', that: 'near' }, at(45));
    expect(next(told)).toEqual({ at: at(60), what: { told: 'response', that: 'late' } });
    const waiting = played(incident, [
      [0, high],
      [10, { type: 'answered' }],
      [10, moved('waiting')],
    ]);
    // Five working days after Wednesday 8:10.
    expect(next(waiting)).toEqual({ at: '2026-12-02T08:10:00.000Z', what: { passes: 'done' } });
    expect(datesOf(incident, waiting, [], desk).due).toBe(at(240));
    const closed = played(incident, [
      [0, high],
      [10, moved('done')],
      [20, moved('closed')],
    ]);
    expect(next(closed)).toBeUndefined();
  });

  it('goes only where its map lets whoever asks', () => {
    const [team, requester] = [
      { team: true, holder: false, requester: false },
      { team: false, holder: false, requester: true },
    ];
    expect(whyNotMove(incident, 'fresh', 'read', team)).toBeUndefined();
    expect(whyNotMove(incident, 'fresh', 'read', requester)).toBe('Only the team it is with may move it from “New” to “Read”.');
    expect(whyNotMove(incident, 'closed', 'inWork', team)).toBe('A ticket does not go from “Closed” to “In work”.');
    expect(whyNotMove(incident, 'fresh', 'gone', team)).toBe('This status is not there any more. Look at the ticket again.');
    expect(movesFor(incident, 'done', requester).map((m) => [m.to.id, m.reopens])).toEqual([
      ['inWork', true],
      ['closed', false],
    ]);
  });

  it('tells its history in sentences', () => {
    const names = (_: string, id: string) => id.toUpperCase();
    const say = (event: TicketEvent) => eventWords(incident, event, names, (iso) => iso.slice(11, 16));
    expect([
      say(high),
      say(moved('waiting')),
      say(moved('inWork', 'answer')),
      say(moved('inWork', 'gate')),
      say({ type: 'asked', to: 'inWork', run: 'r1' }),
      say({ type: 'unasked', to: 'inWork' }),
      say({ type: 'notAgreed', to: 'inWork', why: 'declined', words: 'not before the survey' }),
      say({ type: 'given', team: 'stores', why: 'they have the spare part' }),
      say({ type: 'given' }),
      say({ type: 'judged', impact: 'one', urgency: 'soon', priority: 'low', why: 'a second tablet is there' }),
      say({ type: 'recounted', why: 'hours', was: at(0), due: at(60) }),
      say({ type: 'told', of: 'response', that: 'late' }),
    ]).toEqual([
      'opened it, high priority, for WORKPLACE',
      'moved it to “Waiting for you”',
      'moved it to “In work” with the answer',
      'moved it to “In work”, as was agreed',
      'asked to move it to “In work”',
      'took back the asking to move it to “In work”',
      'did not agree to moving it to “In work”: not before the survey',
      'gave it to STORES: they have the spare part',
      'gave it to nobody',
      'set its priority to low (One person; Work is slowed down): a second tablet is there',
      'reckoned anew, as service hours were changed: was due 08:00, now 09:00',
      'told that the promise (first word) is broken',
    ]);
  });

  it('counts for any map and any moves just the open minutes that a walk from minute to minute finds', () => {
    const kindOf = (map: StatusMap): TicketKind => ({ ...incident, map });
    const happens = (map: StatusMap) =>
      fc.array(
        fc.tuple(
          fc.integer({ min: 0, max: 300 }),
          fc.constantFrom(...map.statuses.map((s) => s.id)),
          fc.constantFrom<TicketEvent['type'][]>([], ['asked'], ['asked', 'unasked'], ['asked', 'notAgreed']),
        ),
        { maxLength: 8 },
      );
    // A move that is asked for changes nothing about the clocks, nor does what becomes of the asking.
    const about = (type: TicketEvent['type'], to: string) => ({ type, to, run: 'r1', why: 'declined' }) as TicketEvent;
    fc.assert(
      fc.property(
        anyMap.chain((map) => fc.tuple(fc.constant(map), happens(map))),
        fc.integer({ min: 0, max: 900 }),
        ([map, gaps], later) => {
          const kind = kindOf(map);
          let minute = 0;
          let state = opened(kind, high, at(0));
          const stood: [from: number, status: string][] = [[0, map.begin]];
          for (const [gap, to, asking] of gaps) {
            for (const type of asking) state = advanceTicket(kind, state, about(type, to), at(minute));
            expect(state.asking?.to).toBe(asking.at(-1) === 'asked' ? to : undefined);
            minute += gap;
            state = advanceTicket(kind, state, moved(to), at(minute));
            stood.push([minute, to]);
            expect(state.asking).toBeUndefined();
          }
          expect(TicketState.parse(state)).toEqual(state);
          const now = minute + later;
          const clock = (n: number) => statusOf(map, stood.findLast(([from]) => from <= n)![1])!.clock;
          let used = 0;
          for (let n = 0; n < now; n++) {
            const day = new Date(at(n));
            const open = day.getUTCDay() >= 1 && day.getUTCDay() <= 5 && day.getUTCHours() >= 8 && day.getUTCHours() < 16;
            // What has ended counts on only once it is reopened, and never for the time between.
            if (open && clock(n) !== 'holds' && clock(n) !== 'ends') used++;
          }
          expect(standingsOf(kind, state, [], desk, at(now)).fulfilment?.used).toBe(used);
          const answers = stood.find(([, id]) => ['answers', 'ends'].includes(statusOf(map, id)!.clock));
          expect(state.answeredAt).toBe(answers && at(answers[0]));
        },
      ),
      { numRuns: 500 },
    );
  });
});
