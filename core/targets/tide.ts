import { minutesWords } from '../calendar/index.ts';
import type { Standing } from './promise.ts';

/** A tide line as shares of its width, 0 to 1. */
export interface TideLine {
  stretches: { is: 'used' | 'held'; from: number; to: number }[];
  /** Where the desk is warned, and where the promise ends: both move with what was held. */
  warn: number;
  end: number;
  tone: 'calm' | 'warned' | 'late';
}

/** The share of the line's width at which a promise ends: behind it there is room to be late. */
const endsAt = 0.8;

/**
 * The line of a promise: what was used and held since its clock began, against what was promised. Held time does not count, so it pushes
 * the promise's end and the warning along: all three are drawn on one measure, and the end always stands at the same place.
 */
export function tideLine(s: Standing): TideLine {
  const whole = (s.promised + s.held) / endsAt;
  const stretches: TideLine['stretches'] = [];
  let at = 0;
  let usedThen = 0;
  /** Where so much was used. */
  let warn: number | undefined;
  const wanted = s.promised * s.warnAt;
  for (const { is, minutes } of s.stretches) {
    const to = at + minutes;
    if (is === 'used') {
      if (warn === undefined && usedThen + minutes >= wanted) warn = at + wanted - usedThen;
      usedThen += minutes;
    }
    if (at < whole) stretches.push({ is, from: at / whole, to: Math.min(1, to / whole) });
    at = to;
  }
  return {
    stretches,
    warn: Math.min(1, (warn ?? at + wanted - usedThen) / whole),
    end: endsAt,
    tone: s.late ? 'late' : s.warned && s.phase !== 'stopped' ? 'warned' : 'calm',
  };
}

/** A standing in a sentence: “3 h 10 min of 4 h used, 16 min held, 50 min left”. */
export function standingWords(s: Standing): string {
  const parts = [`${minutesWords(s.used)} of ${minutesWords(s.promised)} used`];
  if (s.held > 0) parts.push(`${minutesWords(s.held)} held`);
  parts.push(
    s.phase === 'stopped'
      ? s.late
        ? `the promise was broken by ${minutesWords(-s.left)}`
        : 'the promise was kept'
      : s.late
        ? `${minutesWords(-s.left)} late`
        : s.phase === 'held'
          ? `held, ${minutesWords(s.left)} left`
          : `${minutesWords(s.left)} left`,
  );
  return parts.join(', ');
}
