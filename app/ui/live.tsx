import { DateTime } from 'luxon';
import { useEffect, useRef, useState } from 'react';
import { useRevalidator } from 'react-router';
import { Button } from './button';
import { useLatest } from './latest';
import { useNow } from './now';

/**
 * Keeps a page that waits as it is now: told that something of it moved, the page is read anew, and says so calmly. A window
 * that nobody sees hears nothing; when it is seen again it is read anew.
 */
export function Live({
  number,
  hold = false,
}: {
  /** Of the request that is shown; nothing for one's own lists. */
  number?: number;
  /** Reading anew would take away what is being looked at: it is offered instead. */
  hold?: boolean;
}) {
  const { revalidate, state } = useRevalidator();
  const { zone } = useNow();
  const [changed, setChanged] = useState<number>();
  const [waits, setWaits] = useState(false);
  // A reading that something else cuts off, going elsewhere or sending, is none that is missed.
  const read = () => void revalidate().catch(() => undefined);
  /** Moves that were heard while the page was being read. */
  const again = useRef(false);
  const hear = useLatest(() => {
    if (hold) setWaits(true);
    else if (state === 'idle') read();
    else again.current = true;
  });
  useEffect(() => {
    if (state !== 'idle' || !again.current) return;
    again.current = false;
    read();
  });
  useEffect(() => {
    let source: EventSource | undefined;
    let wait: ReturnType<typeof setTimeout> | undefined;
    const moved = (says: boolean) => {
      // What moves several times in a moment is read once.
      wait ??= setTimeout(() => {
        wait = undefined;
        hear.current();
        if (says) setChanged(Date.now());
      }, 200);
    };
    const look = () => {
      if (document.visibilityState === 'hidden') {
        source?.close();
        source = undefined;
      } else if (!source) {
        source = new EventSource(`/live${number === undefined ? '' : `?case=${number}`}`);
        source.addEventListener('moved', () => moved(true));
        // What moved before anybody listened is in this reading.
        source.addEventListener('open', () => moved(false));
      }
    };
    look();
    document.addEventListener('visibilitychange', look);
    return () => {
      document.removeEventListener('visibilitychange', look);
      source?.close();
      clearTimeout(wait);
    };
  }, [number, hear]);
  return (
    <span role="status" className="text-sm text-faint">
      {waits && hold ? (
        <Button
          weight="quiet"
          onClick={() => {
            setWaits(false);
            read();
          }}
        >
          Changed meanwhile: show it
        </Button>
      ) : (
        changed !== undefined && (
          <>
            changed <span className="numbers">{DateTime.fromMillis(changed).setZone(zone).toFormat('HH:mm:ss')}</span>
          </>
        )
      )}
    </span>
  );
}
