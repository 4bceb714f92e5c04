import type { Calendar } from '../calendar/index.ts';

/** A stretch of time: milliseconds since 1970, the end not in it. */
export interface Stretch {
  from: number;
  to: number;
}

/** One of those invited: the hours in which they work, and when they are taken. */
export interface Diary {
  hours: Calendar;
  busy: readonly Stretch[];
}

/** Meetings begin on a quarter of an hour (common practice). */
const quarter = 15 * 60_000;
const onQuarter = (at: number): number => Math.ceil(at / quarter) * quarter;

/**
 * The first stretch of so many minutes within a window in which everybody works and nobody is taken; it begins on a quarter of an hour,
 * and what is open for each of them is open all the while. Undefined: there is none.
 */
export function firstFree(window: Stretch, minutes: number, diaries: readonly Diary[]): Stretch | undefined {
  const length = minutes * 60_000;
  const everyone = diaries.map(({ hours, busy }) => ({ hours, busy: inOrder(busy) }));
  for (let from = onQuarter(window.from); from + length <= window.to;) {
    const later = Math.max(...everyone.map((one) => notBefore(one, from, length, window.to)), from);
    if (later === from) return { from, to: from + length };
    from = onQuarter(later);
  }
  return undefined;
}

/** The first moment from `from` on at which one of them works for so long and is not taken; `end` where that is not looked for any more. */
function notBefore({ hours, busy }: { hours: Calendar; busy: Stretch[] }, from: number, length: number, end: number): number {
  for (let at = from; at + length <= end;) {
    const open = opensFor(hours, at, length, end);
    const taken = takenAt(busy, open, open + length);
    if (!taken) return open;
    at = taken.to;
  }
  return end;
}

/** The first moment from `at` on at which these hours are open for so long without a break. */
function opensFor(hours: Calendar, at: number, length: number, end: number): number {
  const lastYear = new Date(end).getUTCFullYear() + 1;
  // What closes and opens again at once, as at midnight, goes on.
  let open: Stretch | undefined;
  for (let year = new Date(at).getUTCFullYear() - 1; year <= lastYear; year++) {
    const { opens, closes } = hours.year(year);
    for (let i = firstClosingAfter(closes, at); i < opens.length; i++) {
      open = { from: open && open.to === opens[i] ? open.from : opens[i]!, to: closes[i]! };
      const from = Math.max(open.from, at);
      if (from >= end) return end;
      if (from + length <= open.to) return from;
    }
  }
  return end;
}

function firstClosingAfter(closes: Float64Array, at: number): number {
  let low = 0;
  for (let high = closes.length; low < high;) {
    const middle = (low + high) >> 1;
    if (closes[middle]! <= at) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The last of what takes somebody in a stretch. */
const takenAt = (busy: Stretch[], from: number, to: number): Stretch | undefined => busy.findLast((b) => b.from < to && b.to > from);

/** In order, and what touches or overlaps as one. */
function inOrder(busy: readonly Stretch[]): Stretch[] {
  const found: Stretch[] = [];
  for (const b of busy.filter((x) => x.from < x.to).toSorted((x, y) => x.from - y.from)) {
    const last = found.at(-1);
    if (last && b.from <= last.to) last.to = Math.max(last.to, b.to);
    else found.push({ ...b });
  }
  return found;
}
