import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. */
export const person = keptRoom('person', 'person', 'someone who is not known any more');
