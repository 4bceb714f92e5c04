import { DateTime } from 'luxon';
import { createContext, useContext } from 'react';
import { useRouteLoaderData } from 'react-router';
import type { loader } from '~/root';

/** The zone of whoever reads a page without being signed in, where it is known. */
export const ReaderZone = createContext<string | undefined>(undefined);

/** The instant this page was made and the reader's zone, so that server and browser say the same words. */
export function useNow(): { now: Date; zone: string } {
  const root = useRouteLoaderData<typeof loader>('root');
  const reader = useContext(ReaderZone);
  return { now: new Date(root?.now ?? 0), zone: reader ?? root?.viewer?.zone ?? 'UTC' };
}

/** The day it is for the reader, YYYY-MM-DD. */
export function useToday(): string {
  const { now, zone } = useNow();
  return DateTime.fromJSDate(now).setZone(zone).toISODate() ?? '';
}
