let offset = 0;

/** The time as commands and runtime write it down. */
export const now = (): Date => new Date(Date.now() + offset);

/** Sets this process's clock back or forth by so many milliseconds; only the demo, which builds a past, does so. */
export const shiftClock = (ms: number): void => void (offset = ms);
