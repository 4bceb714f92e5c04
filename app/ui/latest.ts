import { useLayoutEffect, useRef, type RefObject } from 'react';

/**
 * What was drawn last, for what happens later: an event, an answer, a timer. It is there with the drawing itself; an effect would
 * come a moment after it, and a key pressed in that moment would be meant for what is not shown any more.
 */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value);
  useLayoutEffect(() => {
    latest.current = value;
  });
  return latest;
}
