import { and, eq } from 'drizzle-orm';
import type { Value } from '../../../core/values/index.ts';
import { db } from '../../db/database.ts';
import { groupPerson } from '../../db/schema/index.ts';
import type { Action } from '../action.ts';
import { PermanentError } from '../errors.ts';
import { directoryClient, ownership } from './client.ts';
import { groupInputs, resolve } from './membership.ts';

/** Who owns a group, by the directory, with what is needed to change that. */
async function owned(values: Record<string, Value>) {
  const { group, who } = await resolve(values);
  const read = await directoryClient.group(group.directoryId);
  const owners = (read[ownership]?.owners ?? []).map((o) => o.value);
  /** The whole list is stated, as it was read: who changed it meanwhile is not passed over (If-Match). */
  const state = (next: string[], key: string) =>
    directoryClient.patchGroup(
      group.directoryId,
      [{ op: 'replace', path: `${ownership}:owners`, value: next.map((value) => ({ value })) }],
      read.meta?.version,
      key,
    );
  return { group, who, owners, isOwner: owners.includes(who.directoryId), state };
}

/** Makes a person an owner of a group: they decide from then on who is in it. */
export const addOwner: Action = {
  spec: {
    id: 'directory.addOwner',
    system: 'Directory',
    label: 'Make a person an owner of a group',
    inputs: groupInputs,
    outputs: [{ name: 'already', label: 'Was already an owner', type: 'boolean', always: true }],
    undoneBy: 'directory.removeOwner',
    unchangedWhen: 'already',
    grants: true,
  },
  run: async (values, key, _, changing) => {
    const { group, who, owners, isOwner, state } = await owned(values);
    if (!isOwner) {
      await changing.begin();
      await state([...owners, who.directoryId], key);
    }
    await db().insert(groupPerson).values({ groupId: group.id, personId: who.id, as: 'owner' }).onConflictDoNothing();
    return { is: 'done', outputs: { already: isOwner && !(await changing.begun()) } };
  },
};

/** A person is no owner of a group any more. The last one stays: nobody could be asked then. */
export const removeOwner: Action = {
  spec: {
    id: 'directory.removeOwner',
    system: 'Directory',
    label: 'Take a person off the owners of a group',
    inputs: groupInputs,
    outputs: [{ name: 'was', label: 'Was an owner', type: 'boolean', always: true }],
    undoneBy: 'directory.addOwner',
  },
  run: async (values, key, _, changing) => {
    const { group, who, owners, isOwner, state } = await owned(values);
    if (isOwner && owners.length === 1)
      throw new PermanentError('They are the last owner of this group, and nobody could be asked about it then: make somebody else an owner first.');
    if (isOwner) {
      await changing.begin();
      await state(
        owners.filter((o) => o !== who.directoryId),
        key,
      );
    }
    await db()
      .delete(groupPerson)
      .where(and(eq(groupPerson.groupId, group.id), eq(groupPerson.personId, who.id), eq(groupPerson.as, 'owner')));
    return { is: 'done', outputs: { was: isOwner || (await changing.begun()) } };
  },
};
