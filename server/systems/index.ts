import type { ActionSpec } from '../../core/plans/index.ts';
import type { Action } from './action.ts';
import { addMember, removeMember } from './directory/membership.ts';

const all: Action[] = [addMember, removeMember];
const byId = new Map(all.map((a) => [a.spec.id, a]));

/** Every action of every registered system. */
export const actionSpecs: ActionSpec[] = all.map((a) => a.spec);
export const action = (id: string): Action | undefined => byId.get(id);
