import { useRouteLoaderData } from 'react-router';
import type { loader } from '~/root';

/** The instant this page was made and the reader's zone, so that server and browser say the same words. */
export function useNow(): { now: Date; zone: string } {
  const root = useRouteLoaderData<typeof loader>('root');
  return { now: new Date(root?.now ?? 0), zone: root?.viewer?.zone ?? 'UTC' };
}
