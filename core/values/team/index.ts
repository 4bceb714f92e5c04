import { keptRoom } from '../kept.ts';

/** The room of this type; `room.ts` says what each member means. */
export const team = keptRoom('team', 'team', 'a team that does not exist any more');
