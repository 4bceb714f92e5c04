import { useEffect } from 'react';

/** Seconds between two signs of life. */
const every = 25;

/** Says that this page has a ticket open, while somebody sees it, and whether they write; and who else has. */
export function Readers({ number, writes, others }: { number: number; writes: boolean; others: { name: string; writes: boolean }[] }) {
  useEffect(() => {
    const say = (now: 'reads' | 'writes' | 'gone') => {
      const form = new URLSearchParams({ now });
      // What is said while the page goes is sent all the same.
      void fetch(`/desk/here/${number}`, { method: 'POST', body: form, keepalive: true }).catch(() => undefined);
    };
    const look = () => say(document.visibilityState === 'hidden' ? 'gone' : writes ? 'writes' : 'reads');
    const gone = () => say('gone');
    look();
    const again = setInterval(() => document.visibilityState === 'visible' && look(), every * 1000);
    document.addEventListener('visibilitychange', look);
    window.addEventListener('pagehide', gone);
    return () => {
      clearInterval(again);
      document.removeEventListener('visibilitychange', look);
      window.removeEventListener('pagehide', gone);
    };
  }, [number, writes]);
  useEffect(
    () => () => {
      void fetch(`/desk/here/${number}`, { method: 'POST', body: new URLSearchParams({ now: 'gone' }), keepalive: true }).catch(() => undefined);
    },
    [number],
  );
  return (
    <p aria-live="polite" className="text-sm text-ochre empty:hidden">
      {others.length > 0 && `Also here: ${others.map((o) => `${o.name}, ${o.writes ? 'writing' : 'reading'}`).join('; ')}`}
    </p>
  );
}
