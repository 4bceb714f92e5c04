import { DateTime } from 'luxon';
import { useNow } from './now';

/** A moment: the exact one in the reader's zone, or how long ago with the exact one on hover. */
export function Time({ at, relative = false, seconds = false }: { at: Date | string; relative?: boolean; seconds?: boolean }) {
  const { now, zone } = useNow();
  const moment = DateTime.fromJSDate(new Date(at)).setZone(zone).setLocale('en-GB');
  const exact = moment.toFormat(seconds ? 'd LLL yyyy, HH:mm:ss' : 'd LLL yyyy, HH:mm');
  const words = relative ? ago(now.getTime() - new Date(at).getTime()) : exact;
  return (
    <time
      dateTime={new Date(at).toISOString()}
      data-tip={`${exact} (${zone})`}
      aria-label={relative ? `${words}, ${exact}` : undefined}
      className="numbers whitespace-nowrap text-sm"
    >
      {words}
    </time>
  );
}

/** How long ago, or in how long, to one unit. */
function ago(ms: number): string {
  const minutes = Math.floor(Math.abs(ms) / 60_000);
  if (minutes < 1) return ms < 0 ? 'in a moment' : 'just now';
  const length = minutes < 60 ? `${minutes} min` : minutes < 1440 ? `${Math.floor(minutes / 60)} h` : `${Math.floor(minutes / 1440)} d`;
  return ms < 0 ? `in ${length}` : `${length} ago`;
}

/** How long something took, in wall time. */
export function elapsed(from: Date | string, to: Date | string): string {
  const seconds = Math.max(0, Math.round((new Date(to).getTime() - new Date(from).getTime()) / 1000));
  if (seconds < 60) return `${seconds} s`;
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min`;
  if (seconds < 86_400) return `${Math.floor(seconds / 3600)} h ${Math.floor((seconds % 3600) / 60)} min`;
  return `${Math.floor(seconds / 86_400)} d ${Math.floor((seconds % 86_400) / 3600)} h`;
}
