import { DateTime } from 'luxon';
import { useEffect, useState } from 'react';
import { Button } from './button';
import { useLatest } from './latest';
import { useNow } from './now';
import { useReadAnew } from './read-anew';

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
  const read = useReadAnew();
  const { zone } = useNow();
  const [changed, setChanged] = useState<number>();
  const [waits, setWaits] = useState(false);
  const hear = useLatest(() => {
    if (hold) setWaits(true);
    else read();
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
