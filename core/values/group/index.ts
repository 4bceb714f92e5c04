import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. */
export const group = keptRoom('group', 'group', 'a group that is not known any more');
