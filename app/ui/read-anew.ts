import { useCallback, useEffect, useRef } from 'react';
import { useLocation, useRevalidator } from 'react-router';
import { useLatest } from './latest';

/**
 * Reads the page anew, once whatever came before is drawn. The router forgets what came of sending as soon as the page is read
 * anew, and drawing may skip what was there only in between: on a machine that draws more slowly than it reads, the answer to what
 * was sent would never be seen. What is asked for meanwhile is read once, after it.
 */
export function useReadAnew(): () => void {
  const { revalidate, state } = useRevalidator();
  const { key } = useLocation();
  const wanted = useRef(false);
  const look = useLatest(() => {
    // Where the router is stands in the history before it is drawn; the first page has no key there.
    const drawn = ((history.state as { key?: string } | null)?.key ?? 'default') === key;
    if (!wanted.current || state !== 'idle' || !drawn) return;
    wanted.current = false;
    // A reading that something else cuts off, going elsewhere or sending, is none that is missed.
    void revalidate().catch(() => undefined);
  });
  useEffect(() => look.current());
  return useCallback(() => {
    wanted.current = true;
    look.current();
  }, [look]);
}

/** While something goes on behind it the page is read anew every other second. */
export function useReadOn(going: boolean): void {
  const read = useReadAnew();
  useEffect(() => {
    if (!going) return;
    const wait = setInterval(() => document.visibilityState === 'visible' && read(), 2000);
    return () => clearInterval(wait);
  }, [going, read]);
}
