let offset = 0;
let stopped: number | undefined;

/** The time as commands and runtime write it down. */
export const now = (): Date => new Date(stopped ?? Date.now() + offset);

/** Sets this process's clock back or forth by so many milliseconds, and lets it run; only the demo, which builds a past, and tests do so. */
export function shiftClock(ms: number): void {
  offset = ms;
  stopped = undefined;
}

/** Stops this process's clock at a moment; only tests do so, which reckon to the second. */
export const stopClock = (at: Date): void => void (stopped = at.getTime());
