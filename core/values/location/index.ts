import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. */
export const location = keptRoom('location', 'place', 'a place that is not known any more');
