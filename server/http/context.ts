import { createContext } from 'react-router';
import type { Viewer } from '../auth/viewer.ts';

/** What the web process knows about a request before any loader runs. */
export interface Visit {
  /** Names this request in the log, and to whoever asks about it. */
  id: string;
  viewer: Viewer | undefined;
  cookie: string | undefined;
  address: string;
  /** What the browser calls itself. */
  agent: string;
  nonce: string;
}
export const visitContext = createContext<Visit>();
