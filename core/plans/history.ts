/** Undo and redo over a whole session: every state is kept with the words for what led to it. */
export interface History<T> {
  past: { value: T; did: string }[];
  /** When the last change was recorded, in milliseconds; undoing forgets it. */
  at?: number | undefined;
  present: T;
  future: { value: T; did: string }[];
}

/** A history of one state. */
export const begin = <T>(present: T): History<T> => ({ past: [], present, future: [] });

/** How soon an edit follows another to be one with it, in milliseconds: typing goes on, separate acts do not. */
const pause = 1000;

/** Remembers a change made at a moment. Edits with the same words that follow each other at once (typing into one setting) become one. */
export function record<T>(h: History<T>, value: T, did: string, at: number): History<T> {
  if (value === h.present) return h;
  const last = h.past.at(-1);
  const goesOn = last?.did === did && did.startsWith('Edit ') && h.at !== undefined && at - h.at < pause;
  return { past: goesOn ? h.past : [...h.past, { value: h.present, did }], present: value, future: [], at };
}

/** The state before; the same history where there is none. */
export function undo<T>(h: History<T>): History<T> {
  const last = h.past.at(-1);
  return last ? { past: h.past.slice(0, -1), present: last.value, future: [{ value: h.present, did: last.did }, ...h.future] } : h;
}

/** The state that was undone; the same history where there is none. */
export function redo<T>(h: History<T>): History<T> {
  const [next, ...future] = h.future;
  return next ? { past: [...h.past, { value: h.present, did: next.did }], present: next.value, future } : h;
}
