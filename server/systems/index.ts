import { eq } from 'drizzle-orm';
import type { ActionSpec } from '../../core/plans/index.ts';
import { webActionSpecs } from '../../core/systems/index.ts';
import type { Reader } from '../db/database.ts';
import { webSystem } from '../db/schema/index.ts';
import { isId } from '../ids.ts';
import type { Action } from './action.ts';
import { accountActions } from './directory/accounts.ts';
import { asItIs } from './directory/as-it-is.ts';
import { licenceActions } from './directory/licences.ts';
import { equipmentActions } from './equipment/lending.ts';
import { withKinds } from './equipment/kinds.ts';
import { addMember, keepMember, removeMember } from './directory/membership.ts';
import { addOwner, removeOwner } from './directory/ownership.ts';
import { webAction } from './web/call.ts';

/** Each reads what it changes: where somebody was quicker it does both again. */
const directoryActions = [addMember, removeMember, keepMember, addOwner, removeOwner, ...accountActions, ...licenceActions].map((a): Action => ({
  ...a,
  run: (...asked) => asItIs(() => a.run(...asked)),
}));
const own = new Map([...directoryActions, ...equipmentActions].map((a): [string, Action] => [a.spec.id, a]));

/** The actions of the systems that are built in. */
export const ownActionSpecs: ActionSpec[] = [...own.values()].map((a) => a.spec);
/** The actions that give what whoever has it does not let go of themselves. */
export const endedByOthers: string[] = ownActionSpecs.flatMap((a) => (a.gives?.byOthers ? [a.id] : []));

/** Every action of every registered system. */
export async function actionSpecs(tx: Reader): Promise<ActionSpec[]> {
  const systems = await tx.select({ id: webSystem.id, definition: webSystem.definition }).from(webSystem).orderBy(webSystem.name);
  return [...(await withKinds(tx, ownActionSpecs)), ...systems.flatMap((s) => webActionSpecs(s.id, s.definition))];
}

/** An action by its id, as its system is registered now. */
export async function action(tx: Reader, id: string): Promise<Action | undefined> {
  const known = own.get(id);
  if (known) return known;
  const [, systemId, name] = id.split('.');
  if (!id.startsWith('web.') || !systemId || !isId(systemId)) return undefined;
  const [row] = await tx.select().from(webSystem).where(eq(webSystem.id, systemId));
  const wanted = row?.definition.actions.find((a) => a.id === name);
  return row && wanted ? webAction(row, wanted) : undefined;
}

export const actionSpec = async (tx: Reader, id: string): Promise<ActionSpec | undefined> => (await action(tx, id))?.spec;
