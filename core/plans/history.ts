/** Undo and redo over a whole session: every state is kept with the words for what led to it. */
export interface History<T> {
  past: { value: T; did: string }[];
  present: T;
  future: { value: T; did: string }[];
}

/** A history of one state. */
export const begin = <T>(present: T): History<T> => ({ past: [], present, future: [] });

/** Remembers a change. Edits with the same words in a row (typing into one setting) become one. */
export function record<T>(h: History<T>, value: T, did: string): History<T> {
  if (value === h.present) return h;
  const last = h.past.at(-1);
  const past = last && last.did === did && did.startsWith('Edit ') ? h.past : [...h.past, { value: h.present, did }];
  return { past, present: value, future: [] };
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
