import { z } from 'zod';
import { Pointer, Segments } from './pointer.ts';

/** Where a system lists what it has of what an action gives. Each row says what the action's own answer says, in the same places. */
export const Listing = z.object({
  /** Asked with GET. */
  path: Segments.refine((p) => !/[{}]/.test(p), 'The list stands at one path: it has no { or }.'),
  /** Where the rows stand in the answer. */
  rows: Pointer,
  /** Where a row says whose it is, as the system was told when it gave it. */
  who: Pointer.optional(),
  /** Where a row says what it is, where the action is told that and does not answer it. */
  what: Pointer.optional(),
  /** Where the answer says by which path the list goes on; nothing there where it does not. */
  next: Pointer.optional(),
});
export type Listing = z.infer<typeof Listing>;
