import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. */
export const holding = keptRoom('holding', 'holding', 'something that is gone');
