import { deskCalendar, reckon, type Calendar, type Hours } from '../calendar/index.ts';
import { advance, newState, openActivities, type Activity, type Effect, type RunEvent, type RunState } from '../engine/index.ts';
import type { Plan } from '../plans/index.ts';
import { rowId, rowOfId, sameValue, type Row, type Value } from '../values/index.ts';
import { answers, machines } from './samples.ts';

/** Monday, nine o'clock in Torvay (Atlantic/Faroe keeps UTC in winter). */
export const monday = '2026-03-02T09:00:00.000Z';

/** Plays every party of a run on a clock of its own. */
export interface Player {
  state: () => RunState;
  effects: Effect[];
  events: { event: RunEvent; at: string }[];
  now: () => string;
  /** Gives an event and returns its effects. */
  feed: (event: RunEvent) => Effect[];
  /** Moves the clock on and fires every timer that is due on the way, in order. */
  until: (instant: string) => void;
  /** The timers that are set. */
  timers: () => { key: string; name: string; at: string }[];
  /** The next timer that is set. */
  nextTimer: () => { key: string; name: string; at: string } | undefined;
  /** The open activity of a step; the innermost first begun. */
  open: (step: string) => Activity | undefined;
  /** Names of steps in the order they ended as done. */
  done: () => string[];
}

export function play(
  plan: Plan,
  begin: Partial<Extract<RunEvent, { type: 'begin' }>> = {},
  /** The hours at the moment somebody asks; they may change from one asking to the next. */
  calendarFor: (hours: Hours) => Calendar = (hours) => deskCalendar(hours.zone),
  /** What stands in a row at the moment somebody reads it. */
  cellsOf: (row: Row) => Record<string, Value> | null = (row) => machines[rowId(row)] ?? null,
): Player {
  let state = newState();
  let now = monday;
  const effects: Effect[] = [];
  const events: Player['events'] = [];
  let timers: { key: string; name: string; at: string }[] = [];
  const feed = (event: RunEvent): Effect[] => {
    const next = advance(plan, state, event, now);
    state = next.state;
    effects.push(...next.effects);
    events.push({ event, at: now });
    for (const e of next.effects) {
      if (e.effect === 'timer') timers = [...timers.filter((t) => t.key !== e.key || t.name !== e.name), { key: e.key, name: e.name, at: e.at }];
      if (e.effect === 'cancelTimers') timers = timers.filter((t) => t.key !== e.key);
    }
    const asked = next.effects.filter((e) => e.effect === 'reckon');
    const wanted = next.effects.filter((e) => e.effect === 'readRows');
    const looked = next.effects.filter((e) => e.effect === 'findRows');
    return [
      ...next.effects,
      ...looked.flatMap((e) => feed({ type: 'rowsFound', key: e.key, rows: rowsWhere(e.table, e.where) })),
      ...wanted.flatMap((e) => feed({ type: 'rowsRead', key: e.key, rows: e.rows.map((row) => ({ ...row, cells: cellsOf(row) })) })),
      ...asked.flatMap((e) => feed({ type: 'reckoned', key: e.key, names: e.names, at: reckon(e.wanted, calendarFor(e.wanted.hours)) })),
    ];
  };
  const nextTimer = () => timers.toSorted((a, b) => (a.at < b.at ? -1 : 1))[0];
  feed({ type: 'begin', requester: { person: 'req' }, number: 'R-1', zone: 'Atlantic/Faroe', answers, ...begin });
  return {
    state: () => state,
    effects,
    events,
    now: () => now,
    feed,
    timers: () => timers,
    nextTimer,
    until: (instant) => {
      for (let t = nextTimer(); t && t.at <= instant; t = nextTimer()) {
        const fired = t;
        timers = timers.filter((x) => x !== fired);
        now = fired.at > now ? fired.at : now;
        feed({ type: 'timer', key: fired.key, name: fired.name });
      }
      now = instant;
    },
    open: (step) => openActivities(state).find((a) => a.step === step),
    done: () => effects.flatMap((e) => (e.effect === 'ended' && ['done', 'approved', 'passed'].includes(e.end) ? [e.key.replace(/#.*/, '')] : [])),
  };
}

/** The rows of the sample table in which these columns say this, by their keys. */
function rowsWhere(table: string, where: Record<string, Value>): Row[] {
  const rows = Object.entries(machines).flatMap(([id, cells]) => {
    const row = rowOfId(id)!;
    return row.table === table && Object.entries(where).every(([column, v]) => sameValue(cells[column], v)) ? [row] : [];
  });
  return rows.toSorted((a, b) => (a.key < b.key ? -1 : 1));
}

/** When meetings of samples are. */
export const meetingTime = { begins: '2026-03-12T09:00:00.000Z', ends: '2026-03-12T09:45:00.000Z' };

/** What an obliging world answers to an open activity: approvals, done tasks, systems that do as they are told. */
export function obliging(a: Activity, outputs: Record<string, Value> = { already: false }): RunEvent | undefined {
  const { key } = a;
  if (a.phase === 'finding')
    return {
      type: 'found',
      key,
      people: ['o1', 'o2'].map((person) => ({ person, sources: [0, 1, 2, 3, 4, 5] })),
      // Of a task that is routed, to a team or to a person; others do not look at it.
      ...(key.length % 2 === 0 && { team: 'desk' }),
    };
  if (a.phase === 'asking')
    return { type: 'decided', key, person: a.asks?.find((x) => !x.decision && !x.waits)?.person ?? '', decision: 'approve', comment: '' };
  const round = a.round === undefined ? {} : { round: a.round };
  if (a.phase === 'calling') return { type: 'answered', key, ...round, outputs: a.invited ? { ...outputs, ...meetingTime } : outputs };
  const silent = a.phase === 'coming' ? a.invited?.find((i) => i.says !== 'yes' && i.says !== 'no') : undefined;
  if (silent) return { type: 'coming', key, ...round, person: silent.person, says: key.length % 2 === 0 ? 'no' : 'yes' };
  if (a.phase === 'working') return { type: 'taskDone', key, person: 'tech', values: { note: 'x', entries: 'y', length: 'z' } };
  if (a.phase === 'answering') return { type: 'replied', key, person: 'req', values: { answer: 'yes' } };
  if (a.phase === 'returned') return { type: 'resubmitted', key, person: 'req', answers: {} };
  if (a.phase === 'stuck') return { type: 'skipped', key, person: 'tech', comment: 'Not needed' };
  return undefined;
}

/** Plays until the run has ended or only a person without an answer is waited for; at most `most` events, which repeats within repeats may need. */
export function playOut(player: Player, most = 20_000): RunState {
  for (let i = 0; i < most && player.state().status === 'open'; i++) {
    const event = openActivities(player.state())
      .map((a) => obliging(a))
      .find((e) => e !== undefined);
    const timer = player.nextTimer();
    if (event) player.feed(event);
    else if (timer) player.until(timer.at);
    else break;
  }
  return player.state();
}
