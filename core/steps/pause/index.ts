import { addAlways, isInstant, leastSeconds, spanWords, workingMinutes } from '../../calendar/index.ts';
import { typeFindings } from '../check.ts';
import { unset } from '../finding.ts';
import { readOne } from '../place.ts';
import type { Room } from '../room.ts';
import { afterNow, ended, fail, hoursOf, read, setTimer, wantInstant, type RunContext, type Scope } from '../run/context.ts';
import type { Activity } from '../run/state.ts';
import { Pause } from './settings.ts';

/** Waits for this instant; not at all where it has passed. Null: there is none. */
function over(context: RunContext, step: Pause, activity: Activity, scope: Scope, at: string | null): void {
  if (at === null) fail(context, scope, activity, `“${step.name}” waits for a date that has no value.`);
  else if (at <= context.now) ended(context, activity, 'done', {}, { note: 'The time had passed already.' });
  else setTimer(context, activity, 'over', at);
}

/** The room of this kind; `room.ts` says what each member means. */
export const pause: Room<Pause> = {
  verb: 'Pause',
  does: 'Wait for a time or until a date',
  toRequester: 'It waits for its time',
  alsoCalled: ['wait', 'delay', 'timer', 'until', 'date'],
  schema: () => Pause,
  fresh: () => ({}),
  flow: ({ until }) => ({ is: 'on', ...(until && 'span' in until && { waits: leastSeconds(until.span) }) }),
  reads: (step) => (step.until && 'date' in step.until ? readOne(step.until.date.ref, 'Until') : []),
  lacks: (step, anywhere) => {
    if (!step.until) return [unset(step, 'a length or a date')];
    return 'date' in step.until ? typeFindings(step, 'Until', step.until.date.ref, ['date', 'instant'], anywhere) : [];
  },
  party: () => 'The run itself',
  brief: ({ until }, naming) => until && ('span' in until ? `for ${spanWords(until.span)}` : `until ${naming.place(until.date.ref)}`),
  sentence: (step, naming) => {
    if (!step.until) return 'Wait, not set how long.';
    return 'span' in step.until ? `Wait for ${spanWords(step.until.span)}.` : `Wait until ${naming.place(step.until.date.ref)}.`;
  },
  minutes: ({ until }) => (until && 'span' in until && until.span.counted === 'working' ? workingMinutes(until.span.length) : undefined),
  start: (context, step, activity, scope) => {
    const { until } = step;
    if (!until) return void fail(context, scope, activity, `“${step.name}” does not say how long it lasts.`);
    activity.phase = 'pausing';
    if ('span' in until) {
      const { length, counted } = until.span;
      if (counted === 'always') return over(context, step, activity, scope, addAlways(context.now, length));
      return wantInstant(context, activity, 'over', { hours: hoursOf(context), ...afterNow(context, length) });
    }
    const date = read(context, scope, until.date.ref);
    if (typeof date !== 'string') return over(context, step, activity, scope, null);
    if (isInstant(date)) return over(context, step, activity, scope, new Date(date).toISOString());
    wantInstant(context, activity, 'over', { hours: hoursOf(context), day: date, edge: 'opens' });
  },
  reckoned: (context, { step, activity, scope }, _, at) => over(context, step, activity, scope, at),
  on: (context, { activity }, event) => {
    if (event.type !== 'timer' || activity.phase !== 'pausing') return 'not-open';
    ended(context, activity, 'done');
    return undefined;
  },
  isTimed: () => true,
  bpmn: (step, from, write) => {
    const { until } = step;
    const definition =
      until && 'date' in until
        ? write.make('bpmn:TimerEventDefinition', { id: write.idOf(step, '_at'), timeDate: write.expression(until.date.ref) })
        : write.spent(write.idOf(step, '_for'), until && 'span' in until ? until.span : { length: 'PT0S', counted: 'always' });
    return write.simple('bpmn:IntermediateCatchEvent', step, from, { eventDefinitions: [definition] });
  },
};
