import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. What is in a file, and what it is called, is kept beside it. */
export const file = keptRoom('file', 'file', 'a file that is not kept any more');
